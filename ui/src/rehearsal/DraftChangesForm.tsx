import { useQuery } from "@tanstack/react-query";
import type { DraftChanges, Rehearsals } from "../api/client";
import { house } from "../api/queries";
import { Field, Tick } from "../kit/Field";
import { useSentences } from "./sentences";

const paces: [string, string, number, number, string?][] = [
  ["joinAt", "greetings become one from … waiting", 0, 50],
  ["gapSeconds", "seconds between two lines", 0, 60],
  ["waitSeconds", "given up after … seconds", 5, 600],
  ["joinEverySeconds", "seconds of rest after a joined one", 0, 600],
  ["timersApartMinutes", "minutes between two timers", 0, 120, "5"],
  ["sharePercent", "house share that holds timers, %", 0, 100, "20"],
];

/** DraftChangesForm changes what is tried beside typed words: the pace, and which courtesies are on. Nothing of it is in force. */
export function DraftChangesForm({ all, changes, onChange }: { all: Rehearsals; changes: DraftChanges; onChange: (c: DraftChanges) => void }) {
  const list = useSentences();
  const pace = useQuery(house).data?.settings.pace as Record<string, number> | undefined;
  return (
    <div className="mx-2 grid gap-2 rounded-lg border border-line p-2.5">
      {all.draft.map((d) => (
        <span key={d.id} className="sub">
          {d.label}: words you typed{d.faults ? `, with ${d.faults} faults` : ""}
        </span>
      ))}
      <div className="grid gap-1">
        {paces.map(([name, words, least, most, usual]) => (
          <label key={name} className="flex items-center gap-2 text-[12.5px]">
            <Field
              type="number"
              size="s"
              className="w-16"
              min={least}
              max={most}
              placeholder={usual}
              value={changes.pace?.[name] ?? pace?.[name] ?? ""}
              onChange={(e) => {
                const n = e.target.valueAsNumber;
                const next = { ...changes.pace };
                if (Number.isNaN(n) || n === pace?.[name]) delete next[name];
                else next[name] = Math.min(most, Math.max(least, n));
                onChange({ ...changes, pace: next });
              }}
            />
            <span className={changes.pace?.[name] === undefined ? "text-text-2" : "font-semibold"}>{words}</span>
          </label>
        ))}
      </div>
      <div className="scroll grid max-h-44 gap-0.5">
        {list.map((c) => (
          <Tick
            key={c.id}
            on={changes.switches?.[c.id] ?? c.on}
            onChange={(on) => {
              const next = { ...changes.switches };
              if (on === c.on) delete next[c.id];
              else next[c.id] = on;
              onChange({ ...changes, switches: next });
            }}
          >
            <span className={changes.switches?.[c.id] === undefined ? "" : "font-semibold text-marigold"}>{c.text}</span>
          </Tick>
        ))}
      </div>
    </div>
  );
}
