import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Courtesies, CourtesyView, DraftOutput, Fault as TheFault, RuleOutput, TriedOutput } from "../api/client";
import { media } from "../api/queries";
import { Button, Out, Toggle } from "../kit/Button";
import { Chip } from "../kit/Chip";
import { Fault, Field, Num, Select, Tick, faultLook } from "../kit/Field";
import { One } from "../kit/One";
import { OnScreen } from "./OnScreen";
import { Lamp, Music } from "./Worked";
import { Tooltip } from "../kit/Tooltip";
import { titled } from "../kit/words";
import { Composer, insertion } from "./Composer";
import { commands, manner, playing } from "./outputs";
import { Band } from "./Rule";
import { Played } from "./Played";
import { WhoForm } from "../whom/WhoForm";

type Props = {
  o: RuleOutput;
  n: number;
  of: number;
  c: CourtesyView;
  all: Courtesies;
  words?: DraftOutput;
  faults: TheFault[];
  raw: boolean;
  tried?: TriedOutput; // what its wordings come to
  open: boolean; // its settings are shown
  onOpen: (open: boolean) => void;
  onRule: (o: RuleOutput) => void;
  onMove: (by: number) => void;
  onOut: () => void;
  /** Changes what was typed as it is by then: the page may not have drawn the last letters yet. */
  onWords: (f: (w: DraftOutput) => DraftOutput) => void;
  onLeave: () => void;
};

const heads: Record<string, string> = {
  say: "Say in chat",
  answer: "Do what a command does",
  keep: "Have a command answer what they write",
  along: "Note who streams along",
  birthday: "A birthday",
  celebrate: "Celebrate a day of theirs",
  "shout-out": "Shout them out",
  card: "Show a card",
  sound: "Play a sound",
  film: "Show a film",
  speak: "Speak",
  lamp: "Light a lamp",
  music: "The music",
  scene: "Go to a scene",
  relay: "Post",
  platform: "Platform",
  permit: "Permit them for a while",
  raise: "Raise an event",
  ...Object.fromEntries(playing.map((p) => [p.kind, p.head])),
};

const birthdayActs: [string, string][] = [
  ["set", "keep what they write"],
  ["forget", "forget theirs"],
  ["hide", "tell nobody of theirs"],
  ["show", "tell of theirs again"],
  ["clear", "clear that of whoever is named"],
];

/** Output is one thing a courtesy does: its settings, its own condition, and its words. */
export function Output(p: Props) {
  const { o, n, c, all, words } = p;
  const set = (part: Partial<RuleOutput>) => p.onRule({ ...o, ...part });
  const view = c.outputs.find((x) => x.id === o.id);
  const [put, setPut] = useState<(text: string) => void>();
  const numbers = all.whens.find((w) => w.type === c.rule.when)?.numbers ?? [];
  const able = o.kind === "platform" ? all.platforms.filter((x) => !all.acts.find((a) => a.act === o.act)?.cannot[x]) : all.platforms;
  const cannot = all.platforms.filter((x) => !able.includes(x));
  const fittings = all.fittings.filter((f) => f.kind === { sound: "player", film: "player", speak: "player", lamp: "lamp", music: "player", scene: "scenes" }[o.kind]);
  const fit = fittings.find((f) => f.name === o.fitting);
  const onScreen = ["card", "film", "sound", "speak"].includes(o.kind) && all.screens.length > 0;
  const voices = o.fitting ? (fit?.voices ?? []) : ["", ...all.voices];
  const field = (id: string) => p.faults.filter((f) => f.at === `${o.id}.${id}`);
  const composer = (at: string, label: string, value: string, onChange: (s: string) => void, joined = false, hint?: string) => (
    <Composer
      label={label}
      value={value}
      hint={hint}
      raw={p.raw}
      at={`${o.id}.${at}`}
      describedBy={field(at).length ? `${o.id}.${at}-fault` : undefined}
      faults={field(at)}
      fillIns={joined ? c.joinedFillIns : c.fillIns}
      emotes={all.own.emotes}
      platforms={o.on?.length ? o.on : all.platforms}
      onChange={onChange}
      onLeave={p.onLeave}
      onFocus={(f) => setPut(() => f)}
    />
  );
  const list = (kind: "alternatives" | "joined") => {
    const texts = words?.[kind] ?? [];
    const change = (f: (l: string[]) => string[]) => p.onWords((w) => ({ ...w, [kind]: f(w[kind] ?? []) }));
    return (
      <>
        {texts.map((s, i) => {
          const mine = field(`${kind}.${i}`);
          const long = p.tried?.[kind][i]?.longest ?? 0;
          const label = kind === "alternatives" ? `Wording ${i + 1}` : `Wording ${i + 1} for several`;
          return (
            <div key={i} className={mine.length ? "wd bad" : "wd"}>
              <div className="flex items-start gap-1">
                {composer(`${kind}.${i}`, label, s, (v) => change((l) => l.map((x, k) => (k === i ? v : x))), kind === "joined")}
                {kind === "alternatives" && texts.length > 1 && (p.open || (words?.weights?.[i] ?? 1) > 1) && (
                  <Tooltip text="How often it is picked beside the others">
                    <Select
                      size="s"
                      className="px-1"
                      aria-label={`How often wording ${i + 1} is picked`}
                      value={words?.weights?.[i] ?? 1}
                      onChange={(e) => p.onWords((w) => ({ ...w, weights: w.alternatives.map((_, k) => (k === i ? Number(e.target.value) : (w.weights?.[k] ?? 1))) }))}
                    >
                      {[1, 2, 3, 4, 5].map((x) => (
                        <option key={x} value={x}>
                          {x}×
                        </option>
                      ))}
                    </Select>
                  </Tooltip>
                )}
                {texts.length > 1 && (
                  <Out
                    label={`Take ${label.toLowerCase()} out`}
                    onClick={() =>
                      p.onWords((w) => ({ ...w, [kind]: w[kind]?.filter((_, k) => k !== i), weights: kind === "alternatives" ? w.weights?.filter((_, k) => k !== i) : w.weights }))
                    }
                  />
                )}
              </div>
              <Faults at={`${o.id}.${kind}.${i}`} text={s} list={mine} />
              {!mine.length && view?.maxBytes && long > view.maxBytes && (
                <Fault>
                  With the longest name this comes to {long} of {view.maxBytes} bytes: the line would be cut in two.
                </Fault>
              )}
            </div>
          );
        })}
        <Button size="s" onClick={() => change((l) => [...l, l[l.length - 1] ?? "Hello"])}>
          Add an alternative
        </Button>
      </>
    );
  };
  return (
    <div className="row" data-output={o.id ?? "new"}>
      <span>{n === 0 ? "Do" : "and"}</span>
      <div className="min-w-0">
        <div className="flex items-baseline gap-1.5 pb-1.5">
          <b className="flex-none text-marigold">
            {o.kind === "platform"
              ? `${titled(o.act!)} on the platform`
              : o.kind === "relay"
                ? `Post to ${all.places.find((x) => x.name === o.place)?.title ?? o.place}`
                : heads[o.kind]}
          </b>
          {o.kind === "lamp" && (
            <span className="h-3.5 w-3.5 rounded-sm border border-line" style={{ background: o.colours?.length ? `linear-gradient(90deg, ${o.colours.join(", ")})` : o.colour }} />
          )}
          <button className="manner" aria-expanded={p.open} aria-label={`How output ${n + 1} is done`} onClick={() => p.onOpen(!p.open)}>
            {manner(o, all, words?.alternatives.length) || "at once"}
          </button>
          <span className="ml-auto flex">
            {n > 0 && (
              <Button size="s" look="ghost" aria-label={`Move output ${n + 1} up`} onClick={() => p.onMove(-1)}>
                ↑
              </Button>
            )}
            {n < p.of - 1 && (
              <Button size="s" look="ghost" aria-label={`Move output ${n + 1} down`} onClick={() => p.onMove(1)}>
                ↓
              </Button>
            )}
            <Out label={`Take output ${n + 1} out`} onClick={p.onOut} />
          </span>
        </div>
        {p.open && (
          <div role="group" aria-label={`Settings of output ${n + 1}`}>
            <div className="sub flex flex-wrap items-center gap-x-3 gap-y-1.5 pb-2">
              {o.kind === "say" && (
                <One
                  label={`Voice of output ${n + 1}`}
                  value={o.as ?? ""}
                  list={[["", "as the house"], ...(all.streamer.length ? [["streamer", `as the streamer, on ${all.streamer.map(titled).join(", ")}`] as [string, string]] : [])]}
                  onPick={(as) => set({ as: as || undefined, on: as ? all.streamer : undefined })}
                />
              )}
              {(o.kind === "say" || o.kind === "platform") && !o.as && all.platforms.length > 1 && (
                <span className="flex items-center gap-1">
                  {o.on?.length ? "on" : "where it happens"}
                  {all.platforms.map((x) => {
                    const off = cannot.includes(x) ? all.acts.find((a) => a.act === o.act)!.cannot[x] : undefined;
                    const on = !!o.on?.includes(x);
                    return (
                      <Toggle
                        key={x}
                        size="s"
                        on={on}
                        disabled={!!off}
                        title={off}
                        onClick={() => {
                          const next = on ? o.on!.filter((y) => y !== x) : [...(o.on ?? []), x];
                          set({ on: next.length ? next : undefined });
                        }}
                      >
                        {titled(x)}
                      </Toggle>
                    );
                  })}
                </span>
              )}
              {cannot.length > 0 && o.kind === "platform" && <span>{cannot.map((x) => all.acts.find((a) => a.act === o.act)!.cannot[x]).join("; ")}</span>}
              {o.kind === "birthday" && <One label="What is done to it" value={o.birthday ?? "set"} list={birthdayActs} onPick={(birthday) => set({ birthday })} />}
              {o.kind === "celebrate" && (
                <Tick on={!!o.missed} onChange={(missed) => set({ missed: missed || undefined })}>
                  of whoever is named, and what they missed too
                </Tick>
              )}
              {o.kind === "answer" && <One label="Which command" value={o.of ?? ""} list={commands(all)} onPick={(of) => set({ of })} />}
              {(fittings.length > 1 || (onScreen && fittings.length > 0)) && (
                <One
                  label="What works it"
                  value={o.fitting ?? ""}
                  list={[...(onScreen ? [["", "the overlays"] as [string, string]] : []), ...fittings.map((f): [string, string] => [f.name, f.title])]}
                  onPick={(fitting) => set({ fitting: fitting || undefined, voice: undefined, overlay: undefined, box: undefined })}
                />
              )}
              {onScreen && !o.fitting && <OnScreen o={o} all={all} set={set} />}
              {(o.kind === "sound" || o.kind === "film" || o.kind === "card") && (
                <Media kind={o.kind === "card" ? "picture" : o.kind} also={o.kind === "card" ? "film" : undefined} value={o.media ?? ""} onPick={(media) => set({ media })} />
              )}
              {o.kind === "scene" && <One label="Scene" value={o.scene ?? ""} list={(fit?.scenes ?? []).map((x) => [x, x])} onPick={(scene) => set({ scene })} />}
              {o.kind === "speak" && voices.length > 0 && (
                <One label="Voice" value={o.voice ?? ""} list={voices.map((x) => [x, x || "the usual voice"])} onPick={(voice) => set({ voice: voice || undefined })} />
              )}
              {o.kind === "speak" && (
                <Tick on={!!o.asks} onChange={(asks) => set({ asks: asks || undefined })}>
                  once a member allows it
                </Tick>
              )}
              <Played o={o} set={set} />
              {o.kind === "lamp" && <Lamp o={o} n={n} fit={fit} set={set} />}
              {o.kind === "music" && <Music o={o} n={n} fit={fit} set={set} />}
              {o.kind === "raise" && (
                <Field size="s" className="w-44" aria-label="Name of the event" placeholder="tide.turned" value={o.event ?? ""} onChange={(e) => set({ event: e.target.value })} />
              )}
              {(o.kind === "sound" || o.kind === "film" || o.kind === "speak") && (
                <label className="flex items-center gap-1">
                  loudness
                  <input type="range" min={1} max={100} aria-label="Loudness" value={o.loud ?? 60} onChange={(e) => set({ loud: Number(e.target.value) })} />
                </label>
              )}
              {(o.kind === "card" ||
                o.kind === "lamp" ||
                o.kind === "permit" ||
                (o.kind === "music" && o.act !== "go on") ||
                (o.kind === "platform" && o.seconds !== undefined)) && (
                <span className="flex items-center gap-1">
                  for <Num label={`Length of output ${n + 1}`} value={o.seconds} onChange={(seconds) => set({ seconds })} /> s
                </span>
              )}
              {o.kind !== "raise" && o.kind !== "shout-out" && (
                <span className="flex items-center gap-1">
                  costs <Num label={`Cost of output ${n + 1}`} value={o.cost} onChange={(cost) => set({ cost: cost || undefined })} /> points, after{" "}
                  <Num label={`Delay of output ${n + 1}`} value={o.delaySeconds ?? 0} onChange={(s) => set({ delaySeconds: s ?? 0 })} /> s
                </span>
              )}
              {!o.only && !o.measure && (
                <Button size="s" look="ghost" onClick={() => set({ only: {} })}>
                  Only when…
                </Button>
              )}
            </div>
            {(o.only || o.measure) && (
              <div className="mb-2 border-l-2 border-line pl-2.5" role="group" aria-label={`Output ${n + 1} only when`}>
                <div className="flex items-center gap-1.5">
                  <b className="flex-1">only when</b>
                  <Out label="Take the condition out" onClick={() => set({ only: undefined, measure: undefined })} />
                </div>
                {numbers.length > 0 && (
                  <div className="flex flex-wrap items-center gap-1.5 py-1">
                    <Band m={o.measure} numbers={numbers} onChange={(measure) => set({ measure })} />
                  </div>
                )}
                <WhoForm inner who={o.only ?? {}} onChange={(only) => set({ only })} platforms={all.platforms} fields={[]} nameOf={(a) => a} learn={() => undefined} />
              </div>
            )}
          </div>
        )}
        {view?.worded && words && list("alternatives")}
        {view && o.kind === "card" && words && (
          <div className="mt-2">
            <p className="sub pb-1">second line, or none</p>
            {composer("second.0", "Second line", words.second ?? "", (second) => p.onWords((w) => ({ ...w, second })), false, "none")}
            <Faults at={`${o.id}.second.0`} text={words.second ?? ""} list={field("second.0")} />
          </div>
        )}
        {view && o.kind === "raise" && words && (
          <Fields
            fields={words.fields ?? {}}
            onChange={(f) => p.onWords((w) => ({ ...w, fields: f(w.fields ?? {}) }))}
            render={(k, v, on) => (
              <>
                {composer(`fields.${k}.0`, `Field ${k}`, v, on)}
                <Faults at={`${o.id}.fields.${k}.0`} text={v} list={field(`fields.${k}.0`)} />
              </>
            )}
          />
        )}
        {view?.joins && words && (
          <>
            <p className="mt-3 mb-2 font-semibold">
              <span className="text-marigold">When several come at once</span> <span className="sub">one for all of them</span>
            </p>
            {list("joined")}
          </>
        )}
        {put && (view?.worded || o.kind === "raise") && (
          <div className="mt-2 flex flex-wrap gap-1.5" role="group" aria-label={`Fill-ins of output ${n + 1}`}>
            {c.fillIns.map((f) => (
              <Chip key={f.name} look="fill" title={`${f.tells}, for example ${f.example}`} onMouseDown={(e) => e.preventDefault()} onClick={() => put(insertion(f))}>
                {f.name}
                {f.optional ? ", or nothing" : ""}
              </Chip>
            ))}
          </div>
        )}
      </div>
    </div>
  );
}

function Faults({ at, text, list }: { at: string; text: string; list: TheFault[] }) {
  return (
    <>
      {list.map((f, k) => (
        <Fault key={k} id={`${at}-fault`}>
          <Spot text={text} from={f.from ?? 0} to={f.to ?? 0} /> {f.what}; {f.remedy}
        </Fault>
      ))}
    </>
  );
}

/** Spot shows where in a wording a fault is. */
function Spot({ text, from, to }: { text: string; from: number; to: number }) {
  const a = Math.max(0, from - 12);
  return (
    <code className="rounded bg-persimmon-soft px-[5px] py-px font-text text-[12.5px] font-semibold">
      {a > 0 && "…"}
      {text.slice(a, from)}
      <mark className="bg-transparent text-inherit underline decoration-wavy">{text.slice(from, Math.max(to, from + 1)) || "▲"}</mark>
      {text.slice(Math.max(to, from + 1), to + 8)}
    </code>
  );
}

/** Media chooses from the shelf: a card shows pictures and films. */
function Media({ kind, also, value, onPick }: { kind: string; also?: string; value: string; onPick: (name: string) => void }) {
  const q = useQuery(media);
  const names = (q.data?.items ?? []).filter((m) => m.kind === kind || m.kind === also).map((m) => m.name);
  if (kind !== "picture" && names.length === 0 && !value) return <span className={faultLook()}>There is no {kind} on the shelf yet.</span>;
  return (
    <One
      label={kind === "picture" ? "Picture" : kind === "sound" ? "Sound" : "Film"}
      value={value}
      list={[...(kind === "picture" ? [["", "no picture"] as [string, string]] : []), ...names.map((x) => [x, x] as [string, string])]}
      onPick={onPick}
    />
  );
}

function Fields({
  fields,
  onChange,
  render,
}: {
  fields: Record<string, string>;
  onChange: (f: (was: Record<string, string>) => Record<string, string>) => void;
  render: (k: string, v: string, on: (s: string) => void) => React.ReactNode;
}) {
  const [name, setName] = useState("");
  return (
    <div>
      {Object.entries(fields).map(([k, v]) => (
        <div key={k} className="flex items-start gap-1.5 pb-1.5">
          <span className="sub w-24 flex-none pt-2">{k}</span>
          <div className="min-w-0 flex-1">{render(k, v, (s) => onChange((was) => ({ ...was, [k]: s })))}</div>
          <Out label={`Take field ${k} out`} onClick={() => onChange((was) => Object.fromEntries(Object.entries(was).filter(([other]) => other !== k)))} />
        </div>
      ))}
      <form
        className="flex gap-1.5"
        onSubmit={(e) => {
          e.preventDefault();
          if (/^\w+$/.test(name)) onChange((was) => ({ ...was, [name]: "{name}" }));
          setName("");
        }}
      >
        <Field size="s" className="w-40" aria-label="New field" placeholder="a field" value={name} onChange={(e) => setName(e.target.value)} />
        <Button size="s">Add the field</Button>
      </form>
    </div>
  );
}
