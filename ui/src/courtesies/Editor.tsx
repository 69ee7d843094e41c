import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState, type ReactNode } from "react";
import type { Courtesies, CourtesyView, Draft, RuleOutput, Tried } from "../api/client";
import { tried } from "../api/queries";
import { Button } from "../kit/Button";
import { initials, Lantern, shapeOf } from "../kit/drawings/Lantern";
import { faultLook, Select, Tick } from "../kit/Field";
import { TryOnScreen } from "../onscreen/TryOnScreen";
import { Head, Panel, Scroll } from "../kit/Panel";
import { Picker } from "../kit/Picker";
import { TabPanel, Tabs } from "../kit/Tabs";
import { nth } from "../kit/time";
import { Ladder } from "./Ladder";
import { Output } from "./Output";
import { starts } from "./outputs";
import { Rule } from "./Rule";
import { Sentence } from "./Sentence";
import { useDraft, type Status } from "./useDraft";
import { useRule } from "./useRule";
import { Stopped } from "./WorthALook";

const tryAfter = 120; // ms of quiet until what is typed is tried

const says: Record<Status, string> = {
  "in force": "In force",
  typing: "Saving the draft…",
  draft: "Draft saved · comes into force when you leave the field or after three quiet seconds",
  fault: "Draft saved · the last good wording stays in force until the fault is mended",
};

export function Editor({ c, all, acts, above }: { c: CourtesyView; all: Courtesies; acts: ReactNode; above?: ReactNode }) {
  const people = all.people;
  const { rule, change: changeRule, fault: ruleFault } = useRule(c, all.version);
  const set = (outputs: RuleOutput[]) => changeRule({ outputs });
  const [side, setSide] = useState<"words" | "ladder">("words");
  const { draft, faults, status, change, enact, back } = useDraft(c, all.version);
  const [person, setPerson] = useState(people.find((p) => p.standing === (c.id.includes("newcomer") ? "newcomer" : "returning")) ?? people[0]!);
  const [raw, setRaw] = useState(false);
  const [open, setOpen] = useState<number>(); // the output whose settings are shown
  const [settled, settle] = useState({ draft, person });
  useEffect(() => {
    const t = setTimeout(() => settle({ draft, person }), tryAfter);
    return () => clearTimeout(t);
  }, [draft, person]);
  const results = useQuery(tried(c.id, settled.draft.outputs, settled.person)).data;
  const choices = starts(all, rule.when);

  return (
    <>
      <Panel label="Editor" data-courtesy={c.id}>
        {above}
        <Scroll className="ed" label="The courtesy">
          {acts}
          <div className="sub" role="status">
            <span className={status === "in force" ? "text-fern" : status === "fault" ? "text-persimmon" : ""}>
              {status === "draft" && !c.on ? "Draft saved · comes into force when you leave the field" : says[status]}
            </span>
            {(status === "draft" || status === "fault") && (
              <Button size="s" look="ghost" className="ml-2" onClick={() => void back()}>
                Take the draft back
              </Button>
            )}
            {!!c.others?.length && <span className="ml-2 text-persimmon">{c.others.join(" and ")} has words typed here too</span>}
          </div>
          <p className="sent">
            <Sentence c={c} />.
          </p>
          <Stopped id={c.id} all={all} />
          <Rule c={c} all={all} rule={rule} change={changeRule} fault={ruleFault} />
          {rule.outputs.map((o, i) => (
            <Output
              key={o.id ?? `new${i}`}
              o={o}
              n={i}
              of={rule.outputs.length}
              c={c}
              all={all}
              raw={raw}
              words={draft.outputs.find((d) => d.id === o.id)}
              faults={faults}
              tried={results?.outputs.find((t) => t.id === o.id)}
              onRule={(next) => set(rule.outputs.map((x, k) => (k === i ? next : x)))}
              open={open === i}
              onOpen={(on) => setOpen(on ? i : undefined)}
              onOut={() => {
                setOpen(undefined);
                set(rule.outputs.filter((_, k) => k !== i));
              }}
              onMove={(by) => {
                if (open === i) setOpen(i + by);
                else setOpen(undefined);
                const list = [...rule.outputs];
                list.splice(i + by, 0, ...list.splice(i, 1));
                set(list);
              }}
              onWords={(f) => change(o.id!, f)}
              onLeave={() => void enact()}
            />
          ))}
          <div className="row">
            <span>{rule.outputs.length ? "and" : "Do"}</span>
            <div className="flex flex-wrap items-center gap-2">
              <Picker
                label="What else it does"
                size="s"
                choices={choices}
                onPick={(v) => {
                  setOpen(rule.outputs.length);
                  set([...rule.outputs, choices.find((x) => x.value === v)!.make()]);
                }}
              >
                {rule.outputs.length ? "Do something more…" : "Do something…"}
              </Picker>
              {rule.outputs.length === 0 && <span className="sub">Nothing so far: whoever this fits is passed over in silence.</span>}
              <Tick className="sub ml-auto" on={raw} onChange={setRaw}>
                show wordings as text
              </Tick>
            </div>
          </div>
        </Scroll>
      </Panel>
      <Panel label="Try it">
        <Head end={<span className="sub">nothing is sent</span>}>Try it</Head>
        <Tabs label="What to try" className="flex gap-1 px-4 pb-2" tabs={sides} value={side} onChange={setSide}>
          <TabPanel value="ladder" className="scroll px-4">
            <Ladder id={c.id} rule={rule} all={all} />
          </TabPanel>
          <TabPanel value="words" className="flex min-h-0 flex-col">
            <div className="mx-4 mb-3 flex items-center gap-3 rounded-lg bg-surface-2 px-3 py-2">
              <Lantern lit initials={initials(person.name)} shape={shapeOf(person.standing)} size={30} />
              <div className="min-w-0 flex-1">
                <b className="cut">{person.name}</b>
                <div className="sub">
                  {person.standing} · {nth(person.streams)} stream
                </div>
              </div>
              <Select size="s" className="max-w-24" aria-label="Try with" value={person.id} onChange={(e) => setPerson(people.find((p) => p.id === e.target.value)!)}>
                {people.map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.id === "longest" ? "the longest name" : p.name}
                  </option>
                ))}
              </Select>
            </div>
            <Scroll className="px-4" label="Results">
              <Results c={c} draft={draft} results={results} />
              {all.screens.length > 0 && rule.outputs.some(seenOnScreen) && <OnScreenTry c={c} outputs={rule.outputs} results={results} name={person.name} />}
            </Scroll>
          </TabPanel>
        </Tabs>
      </Panel>
    </>
  );
}

const seenOnScreen = (o: RuleOutput) => o.kind === "card" || (o.kind === "film" && !o.fitting);

/** OnScreenTry tries what a courtesy shows, in its wordings one after the other. */
function OnScreenTry({ c, outputs, results, name }: { c: CourtesyView; outputs: RuleOutput[]; results?: Tried; name: string }) {
  const turn = useRef(0);
  const takes = outputs.filter(seenOnScreen).map((o) => o.kind);
  const words = () => {
    const n = turn.current++;
    return results!.outputs.flatMap((t) => {
      const text = t.alternatives[n % t.alternatives.length]?.text;
      return text ? [{ output: t.id, text, second: t.second }] : [];
    });
  };
  return (
    <section aria-label="On screen" className="mb-3">
      <p className="sub mb-1">On screen</p>
      <TryOnScreen
        wait={!results}
        what={() => ({ courtesy: c.id, words: words(), name })}
        fits={(o) => !!o.boxes?.some((b) => !b.off && takes.includes(b.kind === "cards" ? "card" : b.kind))}
      />
    </section>
  );
}

const sides = [
  { value: "words", label: "The words" },
  { value: "ladder", label: "Who gets it" },
] as const;

const labels: Record<string, string> = { say: "The line", relay: "The post", card: "The card", speak: "Spoken", platform: "On the platform" };

/** Results shows what all wordings come to. */
function Results({ c, draft, results }: { c: CourtesyView; draft: Draft; results?: Tried }) {
  const shown = draft.outputs.flatMap((o) => {
    const view = c.outputs.find((x) => x.id === o.id);
    const got = results?.outputs.find((x) => x.id === o.id);
    if (!view?.worded || !got) return [];
    const of = { max: view.maxBytes };
    return [
      { ...of, key: o.id, label: labels[view.kind] ?? "The words", tried: got.alternatives },
      ...(got.joined.length ? [{ ...of, key: `${o.id} joined`, label: "For nine people at once", tried: got.joined }] : []),
    ];
  });
  return (
    <div aria-live="polite" data-testid="preview">
      {shown.map((x) => (
        <div key={x.key} className="mb-3">
          <p className="sub mb-1">{x.label}</p>
          {x.tried.map((t, i) => (
            <div key={i} className="bub">
              {t.faults.length ? <span className={faultLook()}>{t.faults[0]!.what}</span> : <bdi>{t.text}</bdi>}
              {!t.faults.length && x.max && (
                <div className={t.bytes > x.max ? faultLook() : "sub"}>
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
