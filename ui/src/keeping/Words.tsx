import { Area } from "../kit/Field";

/** Words are texts, one a line, saved on leaving them. */
export function Words({ id, list, rows = 3, onSet, onSave }: { id: string; list: string[] | undefined; rows?: number; onSet: (list: string[]) => void; onSave: () => void }) {
  return (
    <Area
      id={id}
      rows={rows}
      value={(list ?? []).join("\n")}
      onChange={(e) => onSet(e.target.value.split("\n"))}
      onBlur={(e) => {
        onSet(
          e.target.value
            .split("\n")
            .map((x) => x.trim())
            .filter(Boolean),
        );
        onSave();
      }}
    />
  );
}
