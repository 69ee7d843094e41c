import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState, type ReactNode } from "react";
import {
  api,
  ask,
  based,
  said,
  type Courtesies,
  type CourtesyView,
  type Draft,
  type DraftOutput,
  type Fault,
  type RuleOutput,
  type SamplePerson,
  type TriedOne,
} from "../api/client";
import { initials, Lantern, shapeOf } from "../kit/Lantern";
import { nth } from "../kit/time";
import { Picker } from "../kit/Picker";
import { clashed } from "../kit/clash";
import { toast } from "../kit/toast";
import { Sentence } from "./Sentence";
import { Ladder } from "./Ladder";
import { Output } from "./Output";
import { starts } from "./outputs";
import { Rule } from "./Rule";
import { Stopped } from "./WorthALook";

const saveAfter = 250; // ms of quiet until a draft is kept
const enactAfter = 3000; // ms of quiet until it comes into force

type Status = "in force" | "typing" | "draft" | "fault";

const says: Record<Status, string> = {
  "in force": "In force",
  typing: "Saving the draft…",
  draft: "Draft saved · comes into force when you leave the field or after three quiet seconds",
  fault: "Draft saved · the last good wording stays in force until the fault is mended",
};

const wordsOf = (o: CourtesyView["outputs"][number]): DraftOutput => ({
  id: o.id,
  alternatives: o.alternatives,
  weights: o.weights,
  joined: o.joined,
  second: o.second,
  fields: o.fields,
});

/** draftOf is what was typed and is not in force yet, with the outputs that came since. */
const draftOf = (c: CourtesyView): Draft => ({ outputs: c.outputs.map((o) => c.draft?.outputs.find((d) => d.id === o.id) ?? wordsOf(o)) });

export function Editor({ c, all, acts }: { c: CourtesyView; all: Courtesies; acts: ReactNode }) {
  const people = all.people;
  const [rule, setRule] = useState(c.rule);
  const [side, setSide] = useState<"words" | "ladder">("words");
  const client = useQueryClient();
  const [draft, setDraft] = useState(() => draftOf(c));
  const [faults, setFaults] = useState<Fault[]>(c.faults ?? []);
  const [status, setStatus] = useState<Status>(c.faults?.length ? "fault" : c.draft ? "draft" : "in force");
  const [person, setPerson] = useState(people.find((p) => p.standing === (c.id.includes("newcomer") ? "newcomer" : "returning")) ?? people[0]!);
  const [raw, setRaw] = useState(false);
  const [open, setOpen] = useState<number>(); // the output whose settings are shown
  const timers = useRef<{ save?: number; enact?: number }>({});
  const latest = useRef(draft);
  const dirty = useRef(!!c.draft && !c.faults?.length);
  const path = { params: { path: { id: c.id } } };
  const base = useRef(all.version); // the words that are being typed were made of this version
  useEffect(() => {
    if (!dirty.current && timers.current.save === undefined) base.current = all.version;
  }, [all.version]);
  const back = () =>
    // what was typed is taken back; what is in force shows
    ask(api.DELETE("/api/courtesies/{id}/draft", path)).then(
      () => {
        latest.current = { outputs: c.outputs.map(wordsOf) };
        dirty.current = false;
        setDraft(latest.current);
        setFaults([]);
        setStatus("in force");
        void client.invalidateQueries({ queryKey: ["courtesies"] });
      },
      (p) => toast(said(p)),
    );

  const saving = useRef<Promise<boolean>>(undefined); // on its way: whoever leaves the field waits for it
  const save = useCallback(() => {
    const now = write();
    saving.current = now;
    return now.finally(() => {
      if (saving.current === now) saving.current = undefined;
    });
  }, [c.id]); // eslint-disable-line

  const write = async () => {
    clearTimeout(timers.current.save);
    timers.current.save = undefined;
    try {
      const d = await ask(api.PUT("/api/courtesies/{id}/draft", { ...path, body: latest.current, ...based(base.current) }));
      setFaults(d.faults);
      dirty.current = d.changed && d.valid;
      setStatus(!d.changed ? "in force" : d.valid ? "draft" : "fault");
      return d.valid;
    } catch (p) {
      toast(said(p));
      return false;
    }
  };

  const enact = useCallback(
    async (on?: number) => {
      clearTimeout(timers.current.enact);
      if (timers.current.save !== undefined ? !(await save()) : saving.current && !(await saving.current)) return;
      if (!dirty.current) return;
      try {
        await ask(api.POST("/api/courtesies/{id}/enact", { ...path, ...(on ? based(on) : {}) }));
        dirty.current = false;
        setStatus("in force");
        void client.invalidateQueries({ queryKey: ["courtesies"] });
      } catch (p) {
        if (
          !clashed(
            p,
            (v) => void enact(v),
            () => void back(),
          )
        )
          toast(said(p));
      }
    },
    [c.id],
  ); // eslint-disable-line

  useEffect(() => {
    if (dirty.current) timers.current.enact = window.setTimeout(() => void enact(), enactAfter);
    return () => void enact(); // leaving the view is leaving the field
  }, [enact]);

  useEffect(() => setRule(c.rule), [c.rule]);

  // What was undone or changed elsewhere shows, unless something is being typed here.
  const shown = JSON.stringify(c.outputs);
  const first = useRef(shown);
  useEffect(() => {
    if (first.current === shown) return;
    first.current = shown;
    const typing = dirty.current || timers.current.save !== undefined;
    latest.current = typing ? { outputs: c.outputs.map((o) => latest.current.outputs.find((d) => d.id === o.id) ?? wordsOf(o)) } : draftOf(c);
    setDraft(latest.current);
    if (!typing) setFaults(c.faults ?? []);
  }, [shown]); // eslint-disable-line

  const change = (output: string, f: (w: DraftOutput) => DraftOutput) => {
    latest.current = { outputs: latest.current.outputs.map((o) => (o.id === output ? f(o) : o)) };
    setDraft(latest.current);
    setStatus("typing");
    clearTimeout(timers.current.save);
    clearTimeout(timers.current.enact);
    timers.current.save = window.setTimeout(() => void save(), saveAfter);
    timers.current.enact = window.setTimeout(() => void enact(), enactAfter);
  };
  const longest = useLongest(c, draft, people);
  const choices = starts(all, rule.when);

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
                  void back();
                }}
              >
                Take the draft back
              </button>
            )}
            {!!c.others?.length && <span className="ml-2 text-(--persimmon)">{c.others.join(" and ")} has words typed here too</span>}
          </div>
          <p className="sent">
            <Sentence c={c} />.
          </p>
          <Stopped id={c.id} all={all} />
          <Rule c={c} all={all} onShown={setRule}>
            {(r, changeRule) => {
              const set = (outputs: RuleOutput[]) => changeRule({ outputs });
              return (
                <>
                  {r.outputs.map((o, i) => (
                    <Output
                      key={o.id ?? `new${i}`}
                      o={o}
                      n={i}
                      of={r.outputs.length}
                      c={c}
                      all={all}
                      raw={raw}
                      words={draft.outputs.find((d) => d.id === o.id)}
                      faults={faults}
                      longest={longest}
                      onRule={(next) => set(r.outputs.map((x, k) => (k === i ? next : x)))}
                      open={open === i}
                      onOpen={(on) => setOpen(on ? i : undefined)}
                      onOut={() => {
                        setOpen(undefined);
                        set(r.outputs.filter((_, k) => k !== i));
                      }}
                      onMove={(by) => {
                        if (open === i) setOpen(i + by);
                        else setOpen(undefined);
                        const list = [...r.outputs];
                        list.splice(i + by, 0, ...list.splice(i, 1));
                        set(list);
                      }}
                      onWords={(f) => change(o.id!, f)}
                      onLeave={() => void enact()}
                    />
                  ))}
                  <div className="row">
                    <span>{r.outputs.length ? "and" : "Do"}</span>
                    <div className="flex flex-wrap items-center gap-2">
                      <Picker
                        label="What else it does"
                        className="btn s"
                        choices={choices}
                        onPick={(v) => {
                          setOpen(r.outputs.length);
                          set([...r.outputs, choices.find((x) => x.value === v)!.make()]);
                        }}
                      >
                        {r.outputs.length ? "Do something more…" : "Do something…"}
                      </Picker>
                      {r.outputs.length === 0 && <span className="sub">Nothing so far: whoever this fits is passed over in silence.</span>}
                      <label className="sub ml-auto flex items-center gap-1">
                        <input type="checkbox" checked={raw} onChange={(e) => setRaw(e.target.checked)} /> show wordings as text
                      </label>
                    </div>
                  </div>
                </>
              );
            }}
          </Rule>
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

/** useLongest tells how many bytes each wording comes to with the longest of everything filled in. */
function useLongest(c: CourtesyView, draft: Draft, people: SamplePerson[]) {
  const [bytes, setBytes] = useState<Record<string, number>>({});
  useEffect(() => {
    const person = people.find((x) => x.id === "longest");
    if (!person) return;
    let old = false;
    const t = setTimeout(async () => {
      const out: Record<string, number> = {};
      for (const o of draft.outputs)
        if (c.outputs.find((x) => x.id === o.id)?.kind === "say")
          for (const kind of ["alternatives", "joined"] as const) {
            const wordings = o[kind] ?? [];
            if (!wordings.length) continue;
            const got = await ask(api.POST("/api/courtesies/{id}/try", { params: { path: { id: c.id } }, body: { wordings, person, joined: kind === "joined" } })).catch(
              () => undefined,
            );
            got?.items.forEach((x, i) => (out[`${o.id}.${kind}.${i}`] = x.bytes));
          }
      if (!old) setBytes(out);
    }, 400);
    return () => {
      old = true;
      clearTimeout(t);
    };
  }, [draft, c.id]); // eslint-disable-line
  return bytes;
}

const labels: Record<string, string> = { say: "The line", relay: "The post", card: "The card", speak: "Spoken", platform: "On the platform" };

function Results({ c, draft, person }: { c: CourtesyView; draft: Draft; person: SamplePerson }) {
  const [items, setItems] = useState<{ label: string; max?: number; tried: TriedOne[] }[]>([]);
  useEffect(() => {
    let old = false;
    const t = setTimeout(async () => {
      const worded = draft.outputs.filter((o) => c.outputs.find((x) => x.id === o.id)?.worded);
      const jobs = worded.flatMap((o) => [
        {
          label: labels[c.outputs.find((x) => x.id === o.id)!.kind] ?? "The words",
          wordings: o.alternatives,
          joined: false,
          max: c.outputs.find((x) => x.id === o.id)?.maxBytes,
        },
        ...(o.joined?.length ? [{ label: "For nine people at once", wordings: o.joined, joined: true, max: c.outputs.find((x) => x.id === o.id)?.maxBytes }] : []),
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
              {!t.faults.length && x.max && (
                <div className={t.bytes > x.max ? "flt" : "sub"}>
                  {t.bytes} of {x.max} bytes
                  {t.bytes > x.max ? " · too long for one line; it would be cut in two" : ""}
                </div>
              )}
            </div>
          ))}
        </div>
      ))}
    </div>
  );
}
