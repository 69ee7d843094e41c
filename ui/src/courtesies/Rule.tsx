import { useState } from "react";
import type { Courtesies, CourtesyView, Measure, Rule as TheRule } from "../api/client";
import { Fault, Field, Num, Tick } from "../kit/Field";
import { One } from "../kit/One";
import { AskedBy, HeardFrom, HowOften } from "./AskedBy";
import { narrowsPeople } from "../whom/conditions";
import { WhoForm } from "../whom/WhoForm";

const bands: [string, string][] = [
  ["any", "any number"],
  ["exactly", "exactly"],
  ["atLeast", "at least"],
  ["between", "between"],
  ["upTo", "at most"],
  ["tonight", "the largest tonight"],
  ["ever", "the largest ever"],
  ["otherwise", "otherwise"],
];

const bandOf = (m?: Measure) =>
  !m
    ? "any"
    : m.exactly !== undefined
      ? "exactly"
      : m.largest
        ? m.largest
        : m.atLeast !== undefined && m.upTo !== undefined
          ? "between"
          : m.atLeast !== undefined
            ? "atLeast"
            : m.upTo !== undefined
              ? "upTo"
              : "otherwise";

const slots: [string, string][] = [
  ["greeting", "one greeting"],
  ["shout-out", "one shout-out"],
  ["thanks", "one thanks"],
  ["answer", "one answer"],
  ["", "beside all others"],
];

/** Timing is when a courtesy of time itself comes up, as a sentence. */
function Timing({ t, lull, onChange }: { t: NonNullable<TheRule["timer"]>; lull: boolean; onChange: (t: NonNullable<TheRule["timer"]>) => void }) {
  const set = (part: Partial<typeof t>) => onChange({ ...t, ...part });
  return (
    <span className="flex flex-wrap items-center gap-1.5">
      {lull ? "for" : "every"} <Num label="Minutes" value={t.minutes} onChange={(n) => set({ minutes: n ?? 0 })} /> minutes
      {!lull && (
        <>
          , after <Num label="Lines said by people" value={t.lines} onChange={(n) => set({ lines: n ? Math.round(n) : undefined })} /> lines; while no stream is on every{" "}
          <Num label="Minutes while no stream is on" value={t.offMinutes} onChange={(n) => set({ offMinutes: n || undefined })} /> minutes
        </>
      )}
    </span>
  );
}

/** Rule is the when and the who of a courtesy. Every change comes into force by itself once it can, and can be undone. */
export function Rule({ c, all, rule, change, fault }: { c: CourtesyView; all: Courtesies; rule: TheRule; change: (part: Partial<TheRule>) => void; fault: string }) {
  const [names, setNames] = useState<Record<string, string>>({});
  const [more, setMore] = useState(false);
  const when = all.whens.find((w) => w.type === rule.when);
  const account = c.rule.who.account && c.sentence.find((p) => p.strong)?.text.replace(/ in their own words$/, "");
  return (
    <>
      <div className="row">
        <span>When</span>
        <div className="flex flex-wrap items-center gap-1.5">
          <One
            label="When"
            value={rule.when}
            list={all.whens.map((w) => [w.type, w.words])}
            onPick={(v) => {
              const next = all.whens.find((w) => w.type === v)!;
              const asks = v === "command" ? (rule.asks ?? ["ask"]) : undefined;
              change({
                when: v,
                asks,
                asked: v === "command" && rule.when === v ? rule.asked : undefined,
                slot: next.slots.includes(rule.slot) ? rule.slot : next.slots[0]!,
                measure: undefined,
                timer: v === "timer" ? (rule.timer ?? { minutes: 20, lines: 15 }) : v === "lull" ? { minutes: rule.timer?.minutes ?? 10 } : undefined,
                only: undefined,
                who: { ...rule.who, fields: undefined, nobody: undefined },
              });
            }}
          />
          {(when?.numbers.length ?? 0) > 0 && <Band m={rule.measure} numbers={when!.numbers} onChange={(measure) => change({ measure })} />}
          <One label="Fills" value={rule.slot} list={slots.filter(([v]) => when?.slots.includes(v))} onPick={(slot) => change({ slot })} />
          {rule.when === "hand" && (
            <Field
              size="s"
              className="w-52"
              aria-label="What its button says"
              placeholder="what its button says"
              maxLength={40}
              defaultValue={rule.title ?? ""}
              onChange={(e) => change({ title: e.target.value || undefined })}
            />
          )}
          {rule.timer && <Timing lull={rule.when === "lull"} t={rule.timer} onChange={(timer) => change({ timer })} />}
          {rule.when === "neighbour" && <HeardFrom rule={rule} change={change} />}
          {rule.when === "command" && <AskedBy c={c} all={all} rule={rule} change={change} />}
          <button className="manner" aria-expanded={more} aria-label="More about when" onClick={() => setMore(!more)}>
            {whenManner(rule)}
          </button>
          {more && (
            <div className="flex w-full flex-wrap items-center gap-x-3 gap-y-1.5" role="group" aria-label="More about when">
              {rule.when === "command" && narrowsPeople(rule.who) && (
                <Tick className="sub" on={!!rule.only} onChange={(only) => change({ only })}>
                  only those, not every moderator, co-host and the streamer
                </Tick>
              )}
              {rule.when === "command" && <HowOften c={c} all={all} rule={rule} change={change} />}
              {rule.slot && (
                <Tick className="sub" on={!!rule.also} onChange={(also) => change({ also })}>
                  also beside the winner
                </Tick>
              )}
              {rule.when !== "arrival" && !rule.when.startsWith("porch.stream.") && rule.when !== "hand" && rule.when !== "command" && rule.when !== "hello" && (
                <Tick className="sub" on={!!rule.burst} onChange={(on) => change({ burst: on ? { seconds: 6, at: 3 } : undefined })}>
                  several at once become one
                </Tick>
              )}
              {rule.burst && (
                <span className="sub flex items-center gap-1">
                  from <Num label="How many make one" value={rule.burst.at} onChange={(at) => change({ burst: { ...rule.burst!, at: at ?? 2 } })} /> within{" "}
                  <Num label="Seconds of the window" value={rule.burst.seconds} onChange={(s) => change({ burst: { ...rule.burst!, seconds: s ?? 6 } })} /> s
                </span>
              )}
              <span className="sub flex items-center gap-1">
                costs <Num label="Points that it costs" value={rule.cost} onChange={(cost) => change({ cost: cost || undefined })} /> points
              </span>
              <label className="sub flex items-center gap-1">
                all of it after <Num label="Seconds before all of it" value={rule.delaySeconds} onChange={(delaySeconds) => change({ delaySeconds: delaySeconds || undefined })} />{" "}
                s
              </label>
              <Tick className="sub" on={!!rule.offLine} onChange={(offLine) => change({ offLine })}>
                off-line too
              </Tick>
              {(rule.when === "command" || rule.measure) && (
                <label className="sub flex items-center gap-1">
                  viewers are told
                  <Field
                    size="s"
                    className="w-64"
                    aria-label="What viewers are told of it"
                    placeholder={rule.when === "command" ? "its answer" : "nothing"}
                    maxLength={200}
                    defaultValue={rule.tells ?? ""}
                    onChange={(e) => change({ tells: e.target.value || undefined })}
                  />
                </label>
              )}
              <label className="sub flex items-center gap-1">
                kept with
                <Field
                  size="xs"
                  className="w-32"
                  aria-label="Group"
                  placeholder="no group"
                  list="groups"
                  defaultValue={rule.group ?? ""}
                  onChange={(e) => change({ group: e.target.value || undefined })}
                />
              </label>
              <datalist id="groups">
                {[...new Set(all.courtesies.map((x) => x.rule.group).filter(Boolean))].map((g) => (
                  <option key={g} value={g} />
                ))}
              </datalist>
            </div>
          )}
        </div>
      </div>
      <div className="row">
        <span>Who</span>
        <WhoForm
          who={rule.who}
          command={rule.when === "command"}
          onChange={(who) => change({ who })}
          platforms={all.platforms}
          fields={when?.fields ?? []}
          nameOf={(a) => names[a] ?? (a === c.rule.who.account ? account : undefined) ?? a}
          learn={(a, n) => setNames((m) => ({ ...m, [a]: n }))}
        />
      </div>
      {fault && <Fault role="status">{fault}</Fault>}
    </>
  );
}

const whenManner = (r: TheRule) =>
  [
    r.offLine ? "off-line too" : "only while live",
    r.when === "command" && narrowsPeople(r.who) && (r.only ? "only those may ask" : "moderators and above always may"),
    r.asked?.restSeconds && `cooldown ${r.asked.restSeconds} s`,
    r.asked?.personSeconds && `${r.asked.personSeconds} s for whoever asked`,
    r.asked?.unlisted && "off the list",
    r.also && "also beside the winner",
    r.cost && `costs ${r.cost}`,
    r.delaySeconds && `all of it after ${r.delaySeconds} s`,
    r.burst && `${r.burst.at} within ${r.burst.seconds} s become one`,
    r.group && `kept with ${r.group}`,
  ]
    .filter(Boolean)
    .join(" · ");

export function Band({ m, numbers, onChange }: { m?: Measure; numbers: string[]; onChange: (m?: Measure) => void }) {
  const band = bandOf(m);
  const of = m?.of ?? numbers[0]!;
  const base: Measure = of === "amount" ? { of, currency: m?.currency ?? "EUR" } : { of };
  const a = m?.exactly ?? m?.atLeast ?? m?.upTo ?? 5;
  const make = (kind: string): Measure | undefined =>
    kind === "any"
      ? undefined
      : kind === "otherwise"
        ? base
        : kind === "tonight" || kind === "ever"
          ? { ...base, largest: kind }
          : kind === "between"
            ? { ...base, atLeast: m?.atLeast ?? a, upTo: m?.upTo ?? a + 10 }
            : { ...base, [kind]: a };
  return (
    <>
      of
      <One label="Band" value={band} list={bands} onPick={(k) => onChange(make(k))} />
      {(["exactly", "atLeast", "upTo"] as const).map(
        (k) =>
          m?.[k] !== undefined && (
            <Num key={k} label={k === "upTo" ? "At most" : k === "atLeast" ? "At least" : "Exactly"} value={m[k]} onChange={(n) => onChange({ ...m, [k]: n ?? 0 })} />
          ),
      )}
      {numbers.length > 1 ? (
        <One label="Of" value={of} list={numbers.map((n) => [n, n])} onPick={(n) => onChange({ ...(m ?? {}), of: n, currency: n === "amount" ? "EUR" : undefined })} />
      ) : (
        <span className="sub">{numbers[0]}</span>
      )}
      {m && of === "amount" && (
        <Field
          size="s"
          className="w-16"
          aria-label="Currency"
          maxLength={3}
          value={m.currency ?? ""}
          onChange={(e) => onChange({ ...m, currency: e.target.value.toUpperCase() })}
        />
      )}
    </>
  );
}
