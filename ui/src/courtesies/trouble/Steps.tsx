import { Button, Out } from "../../kit/Button";
import { Num, Select } from "../../kit/Field";
import type { Rule } from "./measures";

type Step = Rule["then"][number];

const acts: [Step["act"], string][] = [
  ["warn", "they are told"],
  ["hold", "it waits for a member"],
  ["remove", "it is taken out"],
  ["time-out", "and they are out for"],
  ["ban", "and they are banned"],
];
const times = ["The first time", "The second", "The third", "The fourth", "The fifth", "The sixth", "The seventh", "The eighth"];

/** Steps are what follows, one higher each time it happens again. */
export function Steps({ r, put }: { r: Rule; put: (then: Rule["then"]) => void }) {
  const set = (i: number, part: Partial<Step>) => put(r.then.map((s, k) => (k === i ? { ...s, ...part } : s)));
  return (
    <ol className="m-0 grid list-none gap-1.5 p-0 pt-1" aria-label="What follows">
      {r.then.map((s, i) => (
        <li key={i} className="flex flex-wrap items-center gap-2">
          <span className="w-36 text-text-2">
            {times[i]}
            {i === r.then.length - 1 && i > 0 ? " and later" : r.then.length === 1 ? " and always" : ""}
          </span>
          <Select
            size="s"
            aria-label={`What follows ${times[i]!.toLowerCase()}`}
            value={s.act}
            onChange={(e) => set(i, { act: e.target.value as Step["act"], seconds: undefined })}
          >
            {acts.map(([v, words]) => (
              <option key={v} value={v}>
                {words}
              </option>
            ))}
          </Select>
          {s.act === "time-out" && (
            <>
              <Num label={`Seconds out ${times[i]!.toLowerCase()}`} value={s.seconds ?? 600} onChange={(seconds) => set(i, { seconds })} /> s
            </>
          )}
          {r.then.length > 1 && <Out label={`Take step ${i + 1} out`} onClick={() => put(r.then.filter((_, k) => k !== i))} />}
        </li>
      ))}
      {r.then.length < times.length && (
        <li>
          <Button size="s" look="ghost" onClick={() => put([...r.then, { act: "time-out", seconds: 600 }])}>
            One step more
          </Button>
        </li>
      )}
    </ol>
  );
}
