import type { Courtesies, RuleOutput } from "../api/client";
import { Num } from "../kit/Field";
import { One } from "../kit/One";
import { token } from "../kit/token";
import { Button, Out } from "../kit/Button";

type Fitting = Courtesies["fittings"][number];
type Props = { o: RuleOutput; n: number; fit?: Fitting; set: (part: Partial<RuleOutput>) => void };

const usualColour = "#f2b53c";
const mostRun = 12;

/** can leaves out what a fitting cannot do, and says why in its place. */
const can = (list: [string, string][], fit?: Fitting) => list.filter(([v]) => !fit?.cannot[v]);

const ways: [string, string][] = [
  ["", "lit"],
  ["flash", "flashing"],
  ["pulse", "pulsing"],
  ["run", "through colours"],
];

function Colour({ label, value, onChange }: { label: string; value: string; onChange: (c: string) => void }) {
  return <input type="color" aria-label={label} className="h-7 w-10 rounded border border-line bg-transparent" value={value} onChange={(e) => onChange(e.target.value)} />;
}

/** Lamp is how a lamp is lit: it stays, flashes, pulses or runs through colours, and goes back to what it was. */
export function Lamp({ o, n, fit, set }: Props) {
  const run = o.colours?.length ? o.colours : [o.colour ?? usualColour, token("--color-lagoon")];
  const how = (v: string) =>
    set({
      how: (v || undefined) as RuleOutput["how"],
      colours: v === "run" ? run : undefined,
      colour: v === "run" ? undefined : (o.colour ?? o.colours?.[0] ?? usualColour),
      seconds: v && !o.seconds ? 8 : o.seconds,
      everySeconds: v ? o.everySeconds : undefined,
    });
  return (
    <>
      <One label={`How the lamp of output ${n + 1} is lit`} value={o.how ?? ""} list={can(ways, fit)} onPick={how} />
      {o.how !== "run" ? (
        <Colour label="Colour" value={o.colour ?? usualColour} onChange={(colour) => set({ colour })} />
      ) : (
        <span className="flex flex-wrap items-center gap-1" role="group" aria-label="Colours of the run">
          {run.map((c, i) => (
            <span key={i} className="flex items-center">
              <Colour label={`Colour ${i + 1}`} value={c} onChange={(v) => set({ colours: run.map((x, k) => (k === i ? v : x)) })} />
              {run.length > 2 && <Out label={`Take colour ${i + 1} out`} onClick={() => set({ colours: run.filter((_, k) => k !== i) })} />}
            </span>
          ))}
          {run.length < mostRun && (
            <Button size="s" look="ghost" onClick={() => set({ colours: [...run, usualColour] })}>
              One more
            </Button>
          )}
        </span>
      )}
      {o.how && (
        <span className="flex items-center gap-1">
          one every <Num label={`Seconds of each of output ${n + 1}`} value={o.everySeconds ?? 1} onChange={(everySeconds) => set({ everySeconds })} /> s
        </span>
      )}
    </>
  );
}

const acts: [string, string][] = [
  ["pause", "pause"],
  ["go on", "go on"],
  ["softer", "softer"],
];

/** Music is what the player on the streaming computer does with its music. */
export function Music({ o, n, fit, set }: Props) {
  return (
    <>
      <One
        label={`What the music does in output ${n + 1}`}
        value={o.act ?? "softer"}
        list={can(acts, fit)}
        onPick={(act) => set({ act: act as RuleOutput["act"], seconds: act === "go on" ? undefined : o.seconds, percent: act === "softer" ? o.percent : undefined })}
      />
      {o.act === "softer" && (
        <span className="flex items-center gap-1">
          to <Num label={`How loud the music of output ${n + 1} still is`} value={o.percent ?? 40} onChange={(percent) => set({ percent })} /> %
        </span>
      )}
    </>
  );
}
