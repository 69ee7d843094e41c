import type { Settings } from "../api/client";
import { Kept, Line } from "../keeping/Line";
import { useSection } from "../keeping/useSection";
import { Fault, Field, Num } from "../kit/Field";
import { One } from "../kit/One";
import { Part } from "./Part";
import { Words } from "../keeping/Words";

type Of = NonNullable<Settings["pace"]>;

const dials: [keyof Of, string, string, string][] = [
  ["gapSeconds", "At least", "s between two lines of the house on a platform", "so that people come before the house"],
  ["waitSeconds", "At most", "s that a line waits before it is given up", "a greeting that comes too late is none"],
  ["personSeconds", "At least", "s between two greetings or thanks to one person", "0 is none"],
  ["timersApartMinutes", "At least", "min between any two of what comes now and then", "none is 5"],
  ["sharePercent", "From", "% of the last 50 lines the house’s on, what comes now and then is held; all else goes on", "none is 20; 100 never holds it"],
  ["joinAt", "From", "greetings that wait on, they become one line", "0 never joins them"],
  ["joinNames", "At most", "names in such a line", "the rest is counted"],
  ["joinEverySeconds", "At least", "s between two such lines", ""],
  ["askSeconds", "At most", "s that a line waits for a platform to tell about somebody", ""],
];

/** Pace bounds how much the house says, and how several are spoken to at once. */
export function Pace() {
  const pace = useSection("pace");
  const grace = useSection("graceSeconds");
  const joined = useSection("joined");
  const also = useSection("alsoOn");
  const announcing = useSection("announcing");
  const unclear = useSection("unclear");
  const p = pace.value;
  if (!p) return null;
  return (
    <Part
      label="Pace"
      title={
        <>
          How <u>much</u> the house says, and when.
        </>
      }
    >
      {dials.map(([k, before, after, hint]) => (
        <div key={k} className="flex flex-wrap items-center gap-2 py-1.5">
          {before}{" "}
          <Num
            onBlur={() => void pace.save()}
            label={`${before} … ${after}`}
            value={p[k] ?? (k === "timersApartMinutes" ? 5 : k === "sharePercent" ? 20 : 0)}
            onChange={(n) => pace.set({ ...p, [k]: n ?? 0 })}
          />{" "}
          {after}
          {hint && <span className="sub">{hint}</span>}
        </div>
      ))}
      <div className="flex flex-wrap items-center gap-2 py-1.5">
        A stream goes on if it is back within <Num onBlur={() => void grace.save()} label="Seconds of grace" value={grace.value ?? 600} onChange={(n) => grace.set(n ?? 0)} /> s
      </div>
      {(pace.fault || grace.fault) && <Fault role="alert">{pace.fault?.words ?? grace.fault?.words}</Fault>}
      <Kept on={pace.saved || grace.saved} />
      <h2 className="mt-5 mb-1 text-lg">Several at once</h2>
      <Line label="Words for several" hint="One a line. Where greetings differ that become one line; fill-ins: names, more, count." fault={joined.fault?.words}>
        {(id) => <Words id={id} list={joined.value} onSet={joined.set} onSave={() => void joined.save()} />}
      </Line>
      <Line label="When a further platform goes live" fault={also.fault?.words}>
        {() => (
          <One
            label="When a further platform goes live"
            value={also.value?.how ?? "follow up"}
            list={[
              ["follow up", "the places get a word with its link"],
              ["each", "it is announced once more, in words for it"],
              ["nothing", "nothing is said"],
            ]}
            onPick={(how) => void also.put({ ...also.value, how: how as "each" })}
          />
        )}
      </Line>
      <Line label="Its words" hint="One a line; none are the house's own. Fill-ins: channel, platform, title, category, link." fault={also.fault?.words}>
        {(id) => <Words id={id} list={also.value?.words} onSet={(words) => also.set({ ...also.value, words })} onSave={() => void also.save()} />}
      </Line>
      <h2 className="mt-5 mb-1 text-lg">Announcing</h2>
      <div className="flex flex-wrap items-center gap-2 py-1.5">
        A stream that is over within{" "}
        <Num
          onBlur={() => void announcing.save()}
          label="Seconds that an announcement is held"
          value={announcing.value?.holdSeconds ?? 0}
          onChange={(n) => announcing.set({ ...announcing.value, holdSeconds: n || undefined })}
        />{" "}
        s is not announced. <span className="sub">so long the places wait; 0 announces at once</span>
      </div>
      <Line label="What a place takes only after the stream" fault={announcing.fault?.words}>
        {() => (
          <One
            label="What a place takes only after the stream"
            value={announcing.value?.late ?? "drop"}
            list={[
              ["drop", "is not announced any more"],
              ["follow up", "says that the stream was"],
            ]}
            onPick={(late) => void announcing.put({ ...announcing.value, late: late as "drop" })}
          />
        )}
      </Line>
      {announcing.value?.late === "follow up" && (
        <Line label="Its words then" hint="None are the house's own. Fill-ins: channel, platform, title, category, link." fault={announcing.fault?.words}>
          {(id) => (
            <Field
              id={id}
              value={announcing.value?.lateWords ?? ""}
              maxLength={400}
              onChange={(e) => announcing.set({ ...announcing.value, lateWords: e.target.value || undefined })}
              onBlur={() => void announcing.save()}
            />
          )}
        </Line>
      )}
      <h2 className="mt-5 mb-1 text-lg">Asking</h2>
      <Line label="Asking back" hint="Said when it is unclear whom a command means; none are the house's own words. Fill-ins: name, typed, near." fault={unclear.fault?.words}>
        {(id) => <Words id={id} list={unclear.value} onSet={unclear.set} onSave={() => void unclear.save()} />}
      </Line>
    </Part>
  );
}
