import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { api, ask, said } from "../api/client";
import { Picker } from "./Picker";
import { toast } from "./toast";

export type Somebody = { account: string; name: string };

/** useFound looks for people in the guest book as somebody types. */
export function useFound(typed: string) {
  return useQuery({
    queryKey: ["book", "find", typed],
    enabled: typed.length > 0,
    queryFn: () => ask(api.GET("/api/book/people", { params: { query: { text: typed, limit: 12 } } })),
    placeholderData: (b) => b,
  });
}

/** PersonPicker finds somebody in the guest book by typing, and tells one account of theirs. With onTyped, who stands in no book can be meant by their login. */
export function PersonPicker({ label, onPick, onTyped, children }: { label: string; onPick: (who: Somebody) => void; onTyped?: (login: string) => void; children: ReactNode }) {
  const [typed, setTyped] = useState("");
  const found = useFound(typed);
  return (
    <Picker
      label={label}
      className="btn s"
      onSearch={setTyped}
      onNew={onTyped && ((t) => onTyped(t.replace(/^@/, "")))}
      choices={(found.data?.rows ?? []).map((x) => ({ value: String(x.person), label: x.name, hint: x.platforms.join(", ") }))}
      onPick={(v) =>
        ask(api.GET("/api/book/people/{person}", { params: { path: { person: Number(v) } } })).then(
          (s) => s.accounts[0] && onPick({ account: s.accounts[0].key, name: s.row.name }),
          (p) => toast(said(p)),
        )
      }
    >
      {children}
    </Picker>
  );
}
