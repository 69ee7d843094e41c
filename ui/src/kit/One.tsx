import { Select } from "./Field";
import { Picker } from "./Picker";

/** A list longer than this is searched by typing. */
export const glance = 8;

/** One chooses one of a list. */
export function One({ label, value, list, onPick }: { label: string; value: string; list: [string, string][]; onPick: (v: string) => void }) {
  if (list.length > glance)
    return (
      <Picker label={label} size="s" value={value} choices={list.map(([v, text]) => ({ value: v, label: text }))} onPick={onPick}>
        <span className="sr-only">{label}: </span>
        {list.find(([v]) => v === value)?.[1] ?? (value || "choose…")} <span aria-hidden>▾</span>
      </Picker>
    );
  return (
    <Select size="s" aria-label={label} value={value} onChange={(e) => onPick(e.target.value)}>
      {!list.some(([v]) => v === value) && <option value={value}>{value || "choose…"}</option>}
      {list.map(([v, text]) => (
        <option key={v} value={v}>
          {text}
        </option>
      ))}
    </Select>
  );
}
