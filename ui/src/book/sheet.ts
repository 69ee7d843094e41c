import { useSearchParams } from "react-router";

/** useSheet tells whose sheet is open and opens another one's; it stands in the address. */
export function useSheet() {
  const [params, set] = useSearchParams();
  const open = Number(params.get("person")) || undefined;
  return {
    open,
    show: (person?: number) =>
      set(
        (p) => {
          const next = new URLSearchParams(p);
          if (person) next.set("person", String(person));
          else next.delete("person");
          return next;
        },
        { replace: true },
      ),
  };
}
