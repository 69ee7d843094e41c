import type { RuleOutput } from "../api/client";
import { Out, Quiet } from "../kit/Button";
import { Area, Field, Num, Tick } from "../kit/Field";
import { One } from "../kit/One";

type Props = { o: RuleOutput; set: (part: Partial<RuleOutput>) => void };

/** Played is how an output of draws, points or games is set; nothing of another. */
export function Played({ o, set }: Props) {
  const n = (label: string, of: "usual" | "most" | "edge" | "seconds" | "people" | "prize" | "opens" | "letters", usual: number) => (
    <Num label={label} value={o[of] ?? usual} onChange={(v) => set({ [of]: v || undefined })} />
  );
  switch (o.kind) {
    case "draw":
      return (
        <>
          <One
            label="What is asked of a draw"
            value={o.act ?? "draw"}
            list={[
              ["open", "open it"],
              ["close", "close entries"],
              ["draw", "draw"],
              ["cancel", "call it off"],
            ]}
            onPick={(act) => set({ act, ready: act === "open" ? o.ready : undefined })}
          />
          {o.act === "open" && (
            <Field
              size="s"
              className="w-40"
              aria-label="The draw that is kept ready"
              placeholder="its name"
              value={o.ready ?? ""}
              onChange={(e) => set({ ready: e.target.value })}
            />
          )}
        </>
      );
    case "give":
      return <span>{n("The most at once", "most", 0)} at once at most; 0 is no bound</span>;
    case "unlisted":
      return (
        <Tick on={!!o.off} onChange={(off) => set({ off: off || undefined })}>
          put on it again
        </Tick>
      );
    case "race":
      return (
        <span className="flex flex-wrap items-center gap-1.5">
          stakes {n("Usual stake", "usual", 10)} up to {n("Highest stake", "most", 1000)}, taken up within {n("Seconds to take it up", "seconds", 60)} s
        </span>
      );
    case "tide":
      return (
        <span className="flex flex-wrap items-center gap-1.5">
          {n("People who have to speak", "people", 8)} people within {n("Seconds to bring it in", "seconds", 90)} s, {n("Prize for each", "prize", 20)} for each
        </span>
      );
    case "stone":
      return (
        <Stone
          o={o}
          set={set}
          stakes={
            <>
              stakes {n("Usual stake", "usual", 10)} up to {n("Highest stake", "most", 1000)}, the house keeps {n("The house's edge", "edge", 0)} of a hundred
            </>
          }
        />
      );
    case "anemone":
      return (
        <span className="flex w-full flex-col gap-1.5">
          <span className="flex items-center gap-1.5">opens {n("How often it opens", "opens", 50)} of a hundred times</span>
          <Lines label="Answers when it opens, one a line" value={o.answers} onChange={(answers) => set({ answers })} />
          <Lines label="Answers when it stays shut, one a line" value={o.shut} onChange={(shut) => set({ shut })} />
        </span>
      );
    case "speak":
      return <span className="flex items-center gap-1.5">up to {n("Letters that are read", "letters", 0)} letters; 0 is all</span>;
  }
  return null;
}

function Lines({ label, value, onChange }: { label: string; value?: string[]; onChange: (v?: string[]) => void }) {
  return (
    <label className="block">
      {label}
      <Area size="s" rows={3} placeholder="the usual ones" value={(value ?? []).join("\n")} onChange={(e) => onChange(e.target.value ? e.target.value.split("\n") : undefined)} />
    </label>
  );
}

function Stone({ o, set, stakes }: Props & { stakes: React.ReactNode }) {
  const finds = o.finds ?? [];
  const change = (i: number, part: Partial<(typeof finds)[number]>) => set({ finds: finds.map((f, k) => (k === i ? { ...f, ...part } : f)) });
  return (
    <span className="flex w-full flex-col gap-1.5">
      <span className="flex flex-wrap items-center gap-1.5">{stakes}</span>
      {finds.map((f, i) => (
        <span key={i} className="flex flex-wrap items-center gap-1.5">
          <Field size="xs" className="w-48" aria-label={`Find ${i + 1}`} value={f.name} onChange={(e) => change(i, { name: e.target.value })} />
          <Num label={`How often find ${i + 1} lies there`} value={f.weight} onChange={(weight) => change(i, { weight: weight ?? 1 })} /> times, worth{" "}
          <Num label={`Worth of find ${i + 1}`} value={f.pays ?? 0} onChange={(pays) => change(i, { pays })} /> × the stake
          <Out label={`Take find ${i + 1} out`} onClick={() => set({ finds: finds.length > 1 ? finds.filter((_, k) => k !== i) : undefined })} />
        </span>
      ))}
      <Quiet onClick={() => set({ finds: [...finds, { name: "a brittle star", weight: 1, pays: 5 }] })}>{finds.length ? "one more find" : "finds of our own…"}</Quiet>
    </span>
  );
}
