import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Courtesies, type CourtesyView, type Forecast, type Rule } from "../api/client";
import { useOnce } from "../api/deeds";
import { about, ahead } from "../api/queries";
import { Button, Quiet } from "../kit/Button";
import { Num } from "../kit/Field";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { Switch } from "../kit/Switch";
import { Tooltip } from "../kit/Tooltip";
import { clock, useZone } from "../kit/time";
import { titled } from "../kit/words";
import { commands } from "./outputs";
import { nameOf } from "./table";
import { useChange, type Seen } from "./useChange";

const hour = 3_600_000;
const minute = 60_000;

/** x is where a moment stands, in percent of the picture: a few minutes that were, and the hour ahead. */
const x = (when: number, f: Forecast) => {
  const was = f.past.length * minute;
  return Math.min(100, Math.max(0, ((when - Date.parse(f.from) + was) / (hour + was)) * 100));
};
const at = (iso: string, f: Forecast) => `${x(Date.parse(iso), f)}%`;

/** saysOf is what a timer says, in a few words: the command whose answer it is, or its first words. */
function saysOf(c: CourtesyView, all: Courtesies): string {
  const of = c.rule.outputs.find((o) => o.kind === "answer")?.of;
  if (of) return `says ${commands(all).find(([id]) => id === of)?.[1] ?? of}`;
  return c.outputs.find((o) => o.kind === "say")?.alternatives[0] ?? c.outputs.map((o) => o.does).join(", ");
}

/** told is what becomes of what comes at one moment, and why: once for all platforms of which it is the same. */
function told(marks: Forecast["marks"], zone: string): string {
  const on = new Map<string, string[]>();
  for (const m of marks) {
    const when = m.how === "late" ? `waits from ${clock(m.due, zone)} to ${clock(m.at, zone)}` : `${m.how} ${clock(m.at, zone)}`;
    const words = [when, m.why].filter(Boolean).join("\n");
    on.set(words, [...(on.get(words) ?? []), titled(m.platform)]);
  }
  return [...on].map(([words, platforms]) => `${platforms.join(", ")}: ${words}`).join("\n");
}

/** together are marks of one moment, which stand on each other: what comes on several platforms at once. */
function together(marks: Forecast["marks"]): Forecast["marks"][] {
  const at = new Map<string, Forecast["marks"]>();
  for (const m of marks) at.set(`${m.at.slice(0, 16)} ${m.how}`, [...(at.get(`${m.at.slice(0, 16)} ${m.how}`) ?? []), m]);
  return [...at.values()];
}

/** NowAndThen are the timers, and what becomes of them in the hour ahead: at tonight's speed of chat, or another. */
export function NowAndThen({ all, onOpen, onFlip }: { all: Courtesies; onOpen: (id: string) => void; onFlip: (c: CourtesyView) => void }) {
  const once = useOnce();
  const zone = useZone();
  const [speed, setSpeed] = useState<number>();
  const change = useChange(all.version);
  const [draft, setDraft] = useState<{ c: CourtesyView; rule: Rule; seen: Seen }>(); // what is being changed, before it is in force
  const f = useQuery(ahead(speed, draft && { id: draft.c.id, rule: draft.rule })).data;
  const timers = all.courtesies.filter((c) => c.when === "timer" && !c.rule.away);
  const make = async () => {
    const made = await once(() => api.POST("/api/courtesies", { body: { when: "timer", slot: "" } }), { stale: [about.courtesies] });
    if (made) onOpen(made.id);
  };
  const keep = async () => {
    if (!draft) return;
    await change(draft.c, { timer: draft.rule.timer }, draft.seen);
    setDraft((d) => (d === draft ? undefined : d)); // not what is typed since
  };
  return (
    <Panel label="Now and then" className="now-and-then">
      <Head
        count={`${timers.length === 1 ? "1 timer" : `${timers.length} timers`}, the next hour`}
        end={
          <span className="flex items-center gap-2">
            {speed !== undefined && (
              <Button size="s" onClick={() => setSpeed(undefined)}>
                Back to tonight’s{f?.tonight ? ` ${Math.round(f.tonight)}` : ""}
              </Button>
            )}
            <Button size="s" onClick={() => void make()}>
              New timer
            </Button>
          </span>
        }
      >
        Now and then
      </Head>
      {timers.length === 0 ? (
        <Empty>
          <b>Nothing comes now and then.</b> A command’s row has “now and then”: one press makes a timer that says it.
        </Empty>
      ) : (
        <Scroll label="The hour ahead" className="px-4 pb-3">
          <p className="m-0 pb-1 text-[15px] font-[650]" role="status" data-testid="outcome">
            {f?.says ?? "…"}
            {f?.beside && <span className="sub font-normal"> {f.beside}</span>}
            {f?.opens && <span className="sub font-normal"> As if a stream opened now.</span>}
          </p>
          <div className="hour-row">
            <label className="sub" htmlFor="speed">
              <b className="text-text">Chat’s speed</b> · lines a minute by people
            </label>
            <div className="hour-track tall">
              {f && <Hill f={f} />}
              <input
                id="speed"
                type="range"
                min={0.5}
                max={30}
                step={0.5}
                className="absolute right-0 bottom-1"
                style={{ left: f ? at(f.from, f) : 0, width: f ? `${100 - x(Date.parse(f.from), f)}%` : "100%" }}
                value={speed ?? f?.speed ?? 4}
                onChange={(e) => setSpeed(Number(e.target.value))}
                aria-valuetext={`${speed ?? f?.speed ?? 4} lines a minute`}
              />
            </div>
            <span className="sub">
              {f && f.usual > 0 && (
                <>
                  {f.weekday}s {Math.round(f.usual * 10) / 10}
                  <br />
                </>
              )}
              {speed === undefined ? `tonight ${Math.round((f?.speed ?? 0) * 10) / 10}` : `dragged to ${speed}`}
            </span>
          </div>
          {timers.map((c) => (
            <TimerRow
              key={c.id}
              c={c}
              all={all}
              f={f}
              rule={draft?.c.id === c.id ? draft.rule : c.rule}
              onOpen={onOpen}
              onFlip={onFlip}
              onRule={(rule) => setDraft((d) => ({ c, rule, seen: d?.c.id === c.id ? d.seen : { rule: c.rule, version: all.version } }))}
              onLeave={() => void keep()}
              zone={zone}
            />
          ))}
          {f && f.shares.length > 1 && <HouseShareRow f={f} />}
          {f && (
            <div className="hour-row sub">
              <span />
              <div className="hour-clock">
                {[-f.past.length, 0, 15, 30, 45, 60]
                  .filter((m, i) => i !== 0 || m < 0)
                  .map((m) => (
                    <span key={m} className={m ? "" : "font-[650] text-text"} style={{ left: `${x(Date.parse(f.from) + m * minute, f)}%` }}>
                      {m === 0 && "now "}
                      {clock(Date.parse(f.from) + m * minute, zone)}
                    </span>
                  ))}
              </div>
              <span />
            </div>
          )}
        </Scroll>
      )}
    </Panel>
  );
}

function TimerRow({
  c,
  all,
  f,
  rule,
  onOpen,
  onFlip,
  onRule,
  onLeave,
  zone,
}: {
  c: CourtesyView;
  all: Courtesies;
  f?: Forecast;
  rule: Rule;
  onOpen: (id: string) => void;
  onFlip: (c: CourtesyView) => void;
  onRule: (r: Rule) => void;
  onLeave: () => void;
  zone: string;
}) {
  const t = rule.timer ?? { minutes: 20 };
  const marks = (f?.marks ?? []).filter((m) => m.courtesy === c.id);
  const set = (part: Partial<typeof t>) => onRule({ ...rule, timer: { ...t, ...part } });
  // On several platforms it comes at the same moment: that is one coming of it.
  const many = (of: (m: (typeof marks)[number]) => boolean) => new Set(marks.filter(of).map((m) => m.at.slice(0, 16))).size;
  const said = many((m) => m.how !== "held");
  const late = many((m) => m.how === "late");
  const held = many((m) => m.how === "held");
  const words = [said && `${said} said`, late && `${late} late`, held && `${held} held`].filter(Boolean).join(", ") || (c.on ? "not due" : "switched off");
  return (
    <div className="hour-row" data-timer={c.id}>
      <span className="flex min-w-0 items-center gap-2">
        <Switch on={c.on} label={`${nameOf(c)}: ${c.on ? "on" : "off"}`} onChange={() => onFlip(c)} />
        <button className="min-w-0 flex-1 truncate border-0 bg-transparent p-0 text-left text-text" onClick={() => onOpen(c.id)} title={saysOf(c, all)}>
          <bdi>{saysOf(c, all)}</bdi>
        </button>
        <span className="sub flex items-center gap-1 whitespace-nowrap">
          every <Num label={`Minutes of ${nameOf(c)}`} value={t.minutes} onChange={(n) => set({ minutes: n ?? 0 })} onBlur={onLeave} /> min
        </span>
        <span className="sub flex items-center gap-1 whitespace-nowrap">
          <Num label={`Lines of ${nameOf(c)}`} value={t.lines} onChange={(n) => set({ lines: n ? Math.round(n) : undefined })} onBlur={onLeave} /> lines
        </span>
      </span>
      <div className="hour-track" role="img" aria-label={`${words}: ${marks.map((m) => `${m.how} ${clock(m.at, zone)}${m.why ? `, ${m.why}` : ""}`).join("; ")}`}>
        {f && f.past.length > 0 && <i className="present" style={{ left: at(f.from, f) }} />}
        {f &&
          together(f.was.filter((m) => m.courtesy === c.id)).map(([m, ...others]) => (
            <Tooltip key={m!.at} text={told([m!, ...others], zone)}>
              <i className="come was" style={{ left: at(m!.at, f) }} />
            </Tooltip>
          ))}
        {f &&
          together(marks).map(([m, ...others]) => (
            <span key={`${m!.at} ${m!.how}`}>
              {m!.how === "late" && <i className="wait" style={{ left: at(m!.due, f), right: `calc(100% - ${at(m!.at, f)})` }} />}
              <Tooltip text={told([m!, ...others], zone)}>
                <i className={m!.how === "held" ? "come held" : "come"} style={{ left: at(m!.at, f) }} />
              </Tooltip>
            </span>
          ))}
      </div>
      <span className={said === 0 && held > 0 ? "text-[13px] text-persimmon" : "sub"}>{said === 0 && held > 0 ? "not said" : words}</span>
    </div>
  );
}

/** mostShown is how many lines a minute fill the hill. */
const mostShown = 30;

/** Hill is chat: as it was in the minutes before, and ahead as fast as it is asked for. */
function Hill({ f }: { f: Forecast }) {
  const y = (n: number) => 44 - Math.sqrt(Math.min(n, mostShown) / mostShown) * 40;
  const from = Date.parse(f.from);
  // Each minute stands at its middle; a little of its neighbours makes it a hill and not a comb.
  const soft = f.past.map((n, i) => ((f.past[i - 1] ?? n) + 2 * n + (f.past[i + 1] ?? n)) / 4);
  const was = soft.map((n, i) => `L${x(from + (i - soft.length + 0.5) * minute, f).toFixed(2)} ${y(n).toFixed(1)}`).join("");
  const level = y(f.speed).toFixed(1);
  const now = x(from, f).toFixed(2);
  return (
    <svg className="absolute inset-0 h-full w-full" viewBox="0 0 100 44" preserveAspectRatio="none" aria-hidden>
      <path d={`M0 44${soft.length ? `L0 ${y(soft[0]!).toFixed(1)}` : ""}${was}L${now} ${level}H100V44Z`} className="hill" />
      {soft.length > 0 && <path d={`M${now} 0V44`} stroke="var(--color-lamp)" strokeWidth="2" vectorEffect="non-scaling-stroke" />}
    </svg>
  );
}

/** HouseShareRow is how much of chat the house's would be, under its ceiling. */
function HouseShareRow({ f }: { f: Forecast }) {
  const top = Math.max(30, f.ceiling + 10, ...f.shares.map((s) => s.percent));
  const y = (n: number) => 40 - (n / top) * 40;
  const line = f.shares.map((s, i) => `${i ? "L" : "M"}${x(Date.parse(s.at), f).toFixed(2)} ${y(s.percent).toFixed(1)}`).join("");
  const peak = Math.max(...f.shares.map((s) => s.percent));
  return (
    <div className="hour-row">
      <span className="sub">
        <b className="text-text">House share</b> · of the last 50 lines
      </span>
      <svg
        className="h-10 w-full"
        viewBox="0 0 100 40"
        preserveAspectRatio="none"
        role="img"
        aria-label={`house share, at most ${peak} percent; timers are held from ${f.ceiling} percent on`}
      >
        <path d={`M0 ${y(f.ceiling)}H100`} stroke="var(--color-text-2)" strokeDasharray="4 3" vectorEffect="non-scaling-stroke" />
        <path d={line} fill="none" stroke="var(--color-lamp)" strokeWidth="2" vectorEffect="non-scaling-stroke" />
      </svg>
      <span className="sub">
        ceiling {f.ceiling}%<br />
        peak {peak}%
      </span>
    </div>
  );
}

/** MakeTimer makes a timer that says a command, in one press. */
export function MakeTimer({ c, all }: { c: CourtesyView; all: Courtesies }) {
  const once = useOnce();
  const by = all.courtesies.find((x) => x.when === "timer" && !x.rule.away && x.rule.outputs.some((o) => o.kind === "answer" && o.of === c.id));
  if (by) return <span className="sub">every {by.rule.timer?.minutes} min</span>;
  const make = () =>
    once(() => api.POST("/api/courtesies", { body: { when: "timer", slot: "", of: c.id } }), {
      stale: [about.courtesies],
      say: `${nameOf(c)} comes now and then: every 20 minutes after 15 lines.`,
    });
  return (
    <Quiet aria-label={`${nameOf(c)} now and then`} onClick={() => void make()}>
      now and then
    </Quiet>
  );
}
