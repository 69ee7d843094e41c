import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, ask, said, type Courtesies, type CourtesyView, type Measure, type Rule as TheRule } from "../api/client";
import { filled } from "./conditions";
import { Num, One, WhoForm } from "./WhoForm";

const enactAfter = 600; // ms of quiet until a change of when and who comes into force

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

/** Rule is the when, the who and the shape of the do. Every change comes into force by itself once it can, and can be undone. */
export function Rule({ c, all, onShown }: { c: CourtesyView; all: Courtesies; onShown: (r: TheRule) => void }) {
  const client = useQueryClient();
  const [rule, setRule] = useState(c.rule);
  const [names, setNames] = useState<Record<string, string>>({});
  const [fault, setFault] = useState("");
  const timer = useRef<number>(undefined);
  const latest = useRef(rule);
  const shown = JSON.stringify(c.rule);
  useEffect(() => {
    if (timer.current !== undefined || JSON.stringify(latest.current) === shown) return;
    latest.current = c.rule; // undone or changed elsewhere
    setRule(c.rule);
  }, [shown]); // eslint-disable-line
  const enact = async () => {
    timer.current = undefined;
    const r = latest.current;
    if (!filled(r.who) || r.outputs.some((o) => o.kind === "relay" && !o.place)) {
      setFault("Not in force yet: a condition still wants its value.");
      return;
    }
    try {
      await ask(api.PUT("/api/courtesies/{id}", { params: { path: { id: c.id } }, body: r }));
      setFault("");
      await client.invalidateQueries({ queryKey: ["courtesies"] });
    } catch (p) {
      setFault(`Not in force: ${said(p)}`);
    }
  };
  const late = useRef(enact);
  late.current = enact;
  useEffect(
    () => () => {
      if (timer.current === undefined) return;
      clearTimeout(timer.current);
      void late.current(); // leaving the view is leaving the field
    },
    [],
  );
  const change = (part: Partial<TheRule>) => {
    latest.current = { ...latest.current, ...part };
    setRule(latest.current);
    onShown(latest.current);
    clearTimeout(timer.current);
    timer.current = window.setTimeout(() => void late.current(), enactAfter);
  };
  const when = all.whens.find((w) => w.type === rule.when);
  const account = c.sentence.find((p) => p.strong && p.text.endsWith(" in their own words"))?.text.replace(/ in their own words$/, "");
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
              change({ when: v, slot: next.slots.includes(rule.slot) ? rule.slot : next.slots[0]!, measure: undefined, who: { ...rule.who, fields: undefined } });
            }}
          />
          {(when?.numbers.length ?? 0) > 0 && <Band m={rule.measure} numbers={when!.numbers} onChange={(measure) => change({ measure })} />}
          <One label="Fills" value={rule.slot} list={slots.filter(([v]) => when?.slots.includes(v))} onPick={(slot) => change({ slot })} />
          {rule.slot && <Tick label="also beside the winner" on={!!rule.also} onChange={(also) => change({ also })} />}
          <Tick label="off-line too" on={!!rule.offLine} onChange={(offLine) => change({ offLine })} />
        </div>
      </div>
      <div className="row">
        <span>Who</span>
        <WhoForm
          who={rule.who}
          onChange={(who) => change({ who })}
          platforms={all.platforms}
          fields={when?.fields ?? []}
          nameOf={(a) => names[a] ?? (a === c.rule.who.account ? account : undefined) ?? a}
          learn={(a, n) => setNames((m) => ({ ...m, [a]: n }))}
        />
      </div>
      {fault && (
        <p className="flt" role="status">
          {fault}
        </p>
      )}
      <div className="row">
        <span>Do</span>
        <div className="flex flex-wrap items-center gap-1.5">
          {rule.outputs.map((o, i) => (
            <span key={o.id ?? i} className="pill !m-0 flex items-center gap-1.5 !py-0.5">
              <span>{o.kind === "say" ? "say in chat" : `post to ${all.places.find((x) => x.name === o.place)?.title ?? o.place}`}</span>
              {o.kind === "say" && (
                <>
                  after{" "}
                  <Num
                    label={`Delay of output ${i + 1}`}
                    value={o.delaySeconds ?? 0}
                    onChange={(n) => change({ outputs: rule.outputs.map((x, k) => (k === i ? { ...x, delaySeconds: n ?? 0 } : x)) })}
                  />{" "}
                  s
                </>
              )}
              <button className="btn s ghost" aria-label={`Take output ${i + 1} out`} onClick={() => change({ outputs: rule.outputs.filter((_, k) => k !== i) })}>
                ×
              </button>
            </span>
          ))}
          <button className="btn s" onClick={() => change({ outputs: [...rule.outputs, { kind: "say" }] })}>
            Say something
          </button>
          {all.places.map((p) => (
            <button key={p.name} className="btn s" onClick={() => change({ outputs: [...rule.outputs, { kind: "relay", place: p.name }] })}>
              Post to {p.title}
            </button>
          ))}
          {rule.outputs.length === 0 && <span className="sub">Nothing: whoever this fits is passed over in silence.</span>}
        </div>
      </div>
    </>
  );
}

function Tick({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="sub flex items-center gap-1">
      <input type="checkbox" checked={on} onChange={(e) => onChange(e.target.checked)} /> {label}
    </label>
  );
}

function Band({ m, numbers, onChange }: { m?: Measure; numbers: string[]; onChange: (m?: Measure) => void }) {
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
        <input
          className="field !w-16 !py-1"
          aria-label="Currency"
          maxLength={3}
          value={m.currency ?? ""}
          onChange={(e) => onChange({ ...m, currency: e.target.value.toUpperCase() })}
        />
      )}
    </>
  );
}
