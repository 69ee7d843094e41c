import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState, type ReactNode } from "react";
import { api, ask, said, type Courtesies, type CourtesyView, type Draft, type Fault, type SamplePerson, type TriedOne } from "../api/client";
import { initials, Lantern, shapeOf } from "../kit/Lantern";
import { nth } from "../kit/time";
import { toast } from "../kit/toast";
import { Sentence } from "./CourtesiesView";
import { Ladder } from "./Ladder";
import { Rule } from "./Rule";

const saveAfter = 250; // ms of quiet until a draft is kept
const enactAfter = 3000; // ms of quiet until it comes into force

type Status = "in force" | "typing" | "draft" | "fault";

const says: Record<Status, string> = {
  "in force": "In force",
  typing: "Saving the draft…",
  draft: "Draft saved · comes into force when you leave the field or after three quiet seconds",
  fault: "Draft saved · the last good wording stays in force until the fault is mended",
};

const draftOf = (c: CourtesyView): Draft =>
  c.draft ?? { outputs: c.outputs.map((o) => ({ id: o.id, alternatives: o.alternatives, joined: o.joined, delaySeconds: o.delaySeconds })) };

export function Editor({ c, all, acts }: { c: CourtesyView; all: Courtesies; acts: ReactNode }) {
  const people = all.people;
  const [rule, setRule] = useState(c.rule);
  const [side, setSide] = useState<"words" | "ladder">("words");
  const client = useQueryClient();
  const [draft, setDraft] = useState(() => draftOf(c));
  const [faults, setFaults] = useState<Fault[]>(c.faults ?? []);
  const [status, setStatus] = useState<Status>(c.faults?.length ? "fault" : c.draft ? "draft" : "in force");
  const [person, setPerson] = useState(people.find((p) => p.standing === (c.id.includes("newcomer") ? "newcomer" : "returning")) ?? people[0]!);
  const [focus, setFocus] = useState({ output: c.outputs[0]?.id ?? "", joined: false, i: 0 });
  const timers = useRef<{ save?: number; enact?: number }>({});
  const latest = useRef(draft);
  const dirty = useRef(!!c.draft && !c.faults?.length);
  const path = { params: { path: { id: c.id } } };

  const save = useCallback(async () => {
    clearTimeout(timers.current.save);
    timers.current.save = undefined;
    try {
      const d = await ask(api.PUT("/api/courtesies/{id}/draft", { ...path, body: latest.current }));
      setFaults(d.faults);
      dirty.current = d.changed && d.valid;
      setStatus(!d.changed ? "in force" : d.valid ? "draft" : "fault");
      return d.valid;
    } catch (p) {
      toast(said(p));
      return false;
    }
  }, [c.id]); // eslint-disable-line

  const enact = useCallback(async () => {
    clearTimeout(timers.current.enact);
    if (timers.current.save !== undefined && !(await save())) return;
    if (!dirty.current) return;
    try {
      await ask(api.POST("/api/courtesies/{id}/enact", path));
      dirty.current = false;
      setStatus("in force");
      void client.invalidateQueries({ queryKey: ["courtesies"] });
    } catch (p) {
      toast(said(p));
    }
  }, [c.id]); // eslint-disable-line

  useEffect(() => {
    if (dirty.current) timers.current.enact = window.setTimeout(() => void enact(), enactAfter);
    return () => void enact(); // leaving the view is leaving the field
  }, [enact]);

  useEffect(() => setRule(c.rule), [c.rule]);

  // What was undone or changed elsewhere shows, unless something is being typed here.
  const shown = JSON.stringify(c.outputs);
  const first = useRef(shown);
  useEffect(() => {
    if (first.current !== shown && !dirty.current && timers.current.save === undefined) {
      first.current = shown;
      latest.current = draftOf(c);
      setDraft(latest.current);
      setFaults(c.faults ?? []);
    }
  }, [shown]); // eslint-disable-line

  const change = (output: string, joined: boolean, f: (list: string[]) => string[]) => {
    const next: Draft = {
      outputs: latest.current.outputs.map((o) => (o.id !== output ? o : joined ? { ...o, joined: f(o.joined ?? []) } : { ...o, alternatives: f(o.alternatives) })),
    };
    latest.current = next;
    setDraft(next);
    setStatus("typing");
    clearTimeout(timers.current.save);
    clearTimeout(timers.current.enact);
    timers.current.save = window.setTimeout(() => void save(), saveAfter);
    timers.current.enact = window.setTimeout(() => void enact(), enactAfter);
  };

  const chips = focus.joined ? c.joinedFillIns : c.fillIns;
  const put = (name: string) => {
    const area = document.querySelector<HTMLTextAreaElement>(`textarea[data-at="${at(focus.output, focus.joined, focus.i)}"]`);
    const optional = chips.find((f) => f.name === name)?.optional;
    const has = "has" + name[0]!.toUpperCase() + name.slice(1);
    const moment = chips.find((f) => f.name === name)?.kind === "moment";
    const bare = moment ? (name === "now" ? "{now, time, short}" : `{${name}, date, long}`) : `{${name}}`;
    const text = optional ? `{${has}, select, yes {${bare}} other {}}` : bare;
    const pos = area?.selectionStart ?? 0;
    change(focus.output, focus.joined, (l) =>
      l.map((s, i) => (i === focus.i ? s.slice(0, area ? pos : s.length) + text + s.slice(area ? (area.selectionEnd ?? pos) : s.length) : s)),
    );
    area?.focus();
  };

  return (
    <>
      <section className="panel" aria-label="Editor">
        <div className="scroll ed" tabIndex={0} role="group" aria-label="The courtesy">
          {acts}
          <div className="sub" role="status">
            <span className={status === "in force" ? "text-(--fern)" : status === "fault" ? "text-(--persimmon)" : ""}>{says[status]}</span>
            {(status === "draft" || status === "fault") && (
              <button
                className="btn s ghost ml-2"
                onClick={() => {
                  clearTimeout(timers.current.save);
                  clearTimeout(timers.current.enact);
                  timers.current.save = undefined;
                  dirty.current = false;
                  ask(api.DELETE("/api/courtesies/{id}/draft", path)).then(
                    () => {
                      latest.current = { outputs: c.outputs.map((o) => ({ id: o.id, alternatives: o.alternatives, joined: o.joined, delaySeconds: o.delaySeconds })) };
                      setDraft(latest.current);
                      setFaults([]);
                      setStatus("in force");
                      void client.invalidateQueries({ queryKey: ["courtesies"] });
                    },
                    (p) => toast(said(p)),
                  );
                }}
              >
                Take the draft back
              </button>
            )}
          </div>
          <p className="sent">
            <Sentence c={c} />.
          </p>
          <Rule c={c} all={all} onShown={setRule} />
          {c.outputs.map((o) => {
            const d = draft.outputs.find((x) => x.id === o.id);
            return (
              <div key={o.id} className="row">
                <span>{o.kind === "relay" ? "Post" : "Say"}</span>
                <div>
                  <p className="mb-2 font-semibold">
                    <span className="text-(--marigold)">{o.kind === "relay" ? `Post to ${o.place}` : "Say in chat"}</span>{" "}
                    <span className="sub">
                      {o.delaySeconds ? `after ${o.delaySeconds} s · ` : ""}
                      {d?.alternatives.length ?? 0} alternatives, never the same twice running
                    </span>
                  </p>
                  <Words
                    at={(i) => at(o.id, false, i)}
                    list={d?.alternatives ?? []}
                    faults={faults}
                    max={o.maxBytes}
                    onFocus={(i) => setFocus({ output: o.id, joined: false, i })}
                    onChange={(f) => change(o.id, false, f)}
                    onLeave={() => void enact()}
                  />
                  {(d?.joined?.length ?? 0) > 0 && (
                    <>
                      <p className="mt-3 mb-2 font-semibold">
                        <span className="text-(--marigold)">When three or more wait</span> <span className="sub">one line for all of them</span>
                      </p>
                      <Words
                        at={(i) => at(o.id, true, i)}
                        list={d!.joined!}
                        faults={faults}
                        max={o.maxBytes}
                        onFocus={(i) => setFocus({ output: o.id, joined: true, i })}
                        onChange={(f) => change(o.id, true, f)}
                        onLeave={() => void enact()}
                      />
                    </>
                  )}
                </div>
              </div>
            );
          })}
          {!c.silent && (
            <div className="row">
              <span>Fill-ins</span>
              <div className="flex flex-wrap gap-1.5">
                {chips.map((f) => (
                  <button key={f.name} className="chip" title={`${f.tells}, for example ${f.example}`} onMouseDown={(e) => e.preventDefault()} onClick={() => put(f.name)}>
                    {f.name}
                    {f.optional ? ", or nothing" : ""}
                  </button>
                ))}
              </div>
            </div>
          )}
        </div>
      </section>
      <section className="panel" aria-label="Try it">
        <div className="ph">
          <h2>Try it</h2>
          <span className="m sub">nothing is sent</span>
        </div>
        <div className="flex gap-1 px-4 pb-2" role="tablist" aria-label="What to try">
          {(
            [
              ["words", "The words"],
              ["ladder", "Who gets it"],
            ] as const
          ).map(([k, text]) => (
            <button key={k} role="tab" className="btn s" aria-selected={side === k} data-on={side === k} onClick={() => setSide(k)}>
              {text}
            </button>
          ))}
        </div>
        {side === "ladder" && (
          <div className="scroll px-4" tabIndex={0} role="group" aria-label="Ladder">
            <Ladder id={c.id} rule={rule} all={all} />
          </div>
        )}
        <div className="px-4 pb-3" hidden={side !== "words"}>
          <div className="flex items-center gap-3 rounded-lg bg-(--surface-2) px-3 py-2">
            <Lantern lit initials={initials(person.name)} shape={shapeOf(person.standing)} size={30} />
            <div className="min-w-0 flex-1">
              <b className="cut">{person.name}</b>
              <div className="sub">
                {person.standing} · {nth(person.streams)} stream
              </div>
            </div>
            <select className="btn s max-w-24" aria-label="Try with" value={person.id} onChange={(e) => setPerson(people.find((p) => p.id === e.target.value)!)}>
              {people.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.id === "longest" ? "the longest name" : p.name}
                </option>
              ))}
            </select>
          </div>
        </div>
        <div className="scroll px-4" tabIndex={0} role="group" aria-label="Results" hidden={side !== "words"}>
          <Results c={c} draft={draft} person={person} />
        </div>
      </section>
    </>
  );
}

const at = (output: string, joined: boolean, i: number) => `${output}.${joined ? "joined" : "alternatives"}.${i}`;

function Words({
  at,
  list,
  faults,
  max,
  onFocus,
  onChange,
  onLeave,
}: {
  at: (i: number) => string;
  list: string[];
  faults: Fault[];
  max?: number;
  onFocus: (i: number) => void;
  onChange: (f: (l: string[]) => string[]) => void;
  onLeave: () => void;
}) {
  return (
    <>
      {list.map((s, i) => {
        const mine = faults.filter((f) => f.at === at(i));
        return (
          <div key={i} className={mine.length ? "wd bad" : "wd"}>
            <div className="flex items-start gap-1">
              <textarea
                className="field"
                data-at={at(i)}
                aria-label={`Wording ${i + 1}`}
                aria-invalid={mine.length > 0}
                aria-describedby={mine.length ? `${at(i)}-fault` : undefined}
                value={s}
                maxLength={2000}
                onFocus={() => onFocus(i)}
                onBlur={onLeave}
                onChange={(e) => onChange((l) => l.map((x, k) => (k === i ? e.target.value : x)))}
              />
              {list.length > 1 && (
                <button className="btn s ghost" aria-label={`Take wording ${i + 1} out`} onClick={() => onChange((l) => l.filter((_, k) => k !== i))}>
                  ×
                </button>
              )}
            </div>
            {mine.map((f, k) => (
              <p key={k} className="flt" id={`${at(i)}-fault`}>
                <Spot text={s} from={f.from ?? 0} to={f.to ?? 0} /> {f.what}; {f.remedy}
              </p>
            ))}
          </div>
        );
      })}
      <button className="btn s" onClick={() => onChange((l) => [...l, "Hello {name}"].map((x, i, all) => (i === all.length - 1 && max === undefined ? "Hello" : x)))}>
        Add an alternative
      </button>
    </>
  );
}

/** Spot shows where in a wording a fault is. */
function Spot({ text, from, to }: { text: string; from: number; to: number }) {
  const a = Math.max(0, from - 12);
  return (
    <code>
      {a > 0 && "…"}
      {text.slice(a, from)}
      <mark className="bg-transparent text-inherit underline decoration-wavy">{text.slice(from, Math.max(to, from + 1)) || "▲"}</mark>
      {text.slice(Math.max(to, from + 1), to + 8)}
    </code>
  );
}

function Results({ c, draft, person }: { c: CourtesyView; draft: Draft; person: SamplePerson }) {
  const [items, setItems] = useState<{ label: string; max?: number; tried: TriedOne[] }[]>([]);
  useEffect(() => {
    let old = false;
    const t = setTimeout(async () => {
      const jobs = draft.outputs.flatMap((o) => [
        {
          label: c.outputs.find((x) => x.id === o.id)?.kind === "relay" ? "The post" : "The line",
          wordings: o.alternatives,
          joined: false,
          max: c.outputs.find((x) => x.id === o.id)?.maxBytes,
        },
        ...(o.joined?.length ? [{ label: "The line for nine people", wordings: o.joined, joined: true, max: c.outputs.find((x) => x.id === o.id)?.maxBytes }] : []),
      ]);
      const got = await Promise.all(
        jobs.map((j) => ask(api.POST("/api/courtesies/{id}/try", { params: { path: { id: c.id } }, body: { wordings: j.wordings, person, joined: j.joined } }))),
      );
      if (!old) setItems(jobs.map((j, i) => ({ label: j.label, max: j.max, tried: got[i]!.items })));
    }, 120);
    return () => {
      old = true;
      clearTimeout(t);
    };
  }, [draft, person, c.id]); // eslint-disable-line
  return (
    <div aria-live="polite" data-testid="preview">
      {items.map((x, k) => (
        <div key={k} className="mb-3">
          <p className="sub mb-1">{x.label}</p>
          {x.tried.map((t, i) => (
            <div key={i} className="bub">
              {t.faults.length ? <span className="flt">{t.faults[0]!.what}</span> : <bdi>{t.text}</bdi>}
              {!t.faults.length && (
                <div className={x.max && t.bytes > x.max ? "flt" : "sub"}>
                  {t.bytes}
                  {x.max ? ` of ${x.max} bytes` : " bytes"}
                  {x.max && t.bytes > x.max ? " · too long for one line; it would be cut in two" : ""}
                </div>
              )}
            </div>
          ))}
        </div>
      ))}
    </div>
  );
}
