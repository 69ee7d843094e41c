import { Button, Out } from "../kit/Button";
import { Field } from "../kit/Field";

/** Rows are names with their words. */
export type Rows = [string, string][];

/** RowsField sets rows; what they are is said by the two words. */
export function RowsField({
  label,
  name,
  words,
  rows,
  onChange,
  onSave,
}: {
  label: string;
  name: string;
  words: string;
  rows: Rows;
  onChange: (rows: Rows) => void;
  onSave: () => void;
}) {
  const set = (i: number, k: 0 | 1, v: string) => onChange(rows.map((r, n) => (n === i ? (k ? [r[0], v] : [v, r[1]]) : r)));
  return (
    <div className="grid gap-1.5" role="group" aria-label={label}>
      {rows.map(([is, says], i) => (
        <div key={i} className="grid grid-cols-[150px_1fr_auto] items-center gap-2 phone:grid-cols-[100px_1fr_auto]">
          <Field size="s" aria-label={`${name} ${i + 1}`} value={is} placeholder={name} onChange={(e) => set(i, 0, e.target.value)} onBlur={onSave} />
          <Field size="s" aria-label={`${words} ${i + 1}`} value={says} placeholder={words} onChange={(e) => set(i, 1, e.target.value)} onBlur={onSave} />
          <Out label={`Take ${name} ${i + 1} out`} type="button" onClick={() => onChange(rows.filter((_, n) => n !== i))} />
        </div>
      ))}
      <div>
        <Button size="s" type="button" onClick={() => onChange([...rows, ["", ""]])}>
          Another
        </Button>
      </div>
    </div>
  );
}
