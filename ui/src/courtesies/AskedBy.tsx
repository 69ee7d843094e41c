import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { Asking, Courtesies, CourtesyView, Rule as TheRule, WordClash } from "../api/client";
import { api } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, held } from "../api/queries";
import { Out } from "../kit/Button";
import { Fault, Field, Num, Tick } from "../kit/Field";
import { ago, useHouseNow, useZone } from "../kit/time";
import { sentenceOf } from "./outputs";

const lookAfter = 120; // ms of quiet until what is typed is held against the others

/** HeardFrom is what a neighbour must say for a courtesy to hear it. */
export function HeardFrom({ rule, change }: Pick<Props, "rule" | "change">) {
  const [typed, setTyped] = useState("");
  const words = rule.asked?.words ?? [];
  return (
    <span className="flex flex-wrap items-center gap-1.5">
      <span className="sub">in which stands</span>
      <Tokens
        label="Words of a neighbour"
        add={words.length ? "or these" : "anything"}
        list={words}
        marks={none}
        at="asked.words"
        typed={typed}
        onType={setTyped}
        onChange={(words) => change({ asked: words.length ? { words } : undefined })}
        parts={(s) =>
          s
            .split(",")
            .map((x) => x.trim())
            .filter(Boolean)
        }
      />
    </span>
  );
}

type Props = { c: CourtesyView; all: Courtesies; rule: TheRule; change: (part: Partial<TheRule>) => void };

/** AskedBy is what a command is asked by: its names, and words that are heard in a sentence. What clashes is marked at the word, while it is typed. */
export function AskedBy({ c, all, rule, change }: Props) {
  const [typed, setTyped] = useState({ asks: "", words: "" });
  const asks = rule.asks ?? [];
  const words = rule.asked?.words ?? [];
  const marks = useClashes(c.id, [...asks, ...(typed.asks ? [typed.asks] : [])], [...words, ...(typed.words ? [typed.words] : [])]);
  const says = (m: WordClash) => (m.with.length ? `${m.with.map((id) => `“${sentenceOf(all, id)}”`).join(" and ")} ${m.what}` : `“${m.word || "this"}” ${m.what}`);
  return (
    <div className="w-full" role="group" aria-label="What it is asked by">
      <div className="flex flex-wrap items-center gap-1.5">
        <Tokens
          label="Names"
          add="a name"
          list={asks}
          marks={marks}
          at="asks"
          typed={typed.asks}
          onType={(asks) => setTyped((t) => ({ ...t, asks }))}
          onChange={(asks) => change({ asks })}
          parts={(s) => s.split(/[\s,]+/).filter(Boolean)}
        />
        <span className="sub">or heard in a sentence</span>
        <Tokens
          label="Words in a sentence"
          add="some words"
          list={words}
          marks={marks}
          at="asked.words"
          typed={typed.words}
          onType={(words) => setTyped((t) => ({ ...t, words }))}
          onChange={(words) => change({ asked: { ...rule.asked, words: words.length ? words : undefined } })}
          parts={(s) =>
            s
              .split(",")
              .map((x) => x.trim())
              .filter(Boolean)
          }
        />
      </div>
      {marks.length > 0 && (
        <div role="status">
          {marks.map((m, i) =>
            m.fine ? (
              <p key={i} className="sub">
                {m.word}: {says(m)}
              </p>
            ) : (
              <Fault key={i}>
                {m.word && `${m.word}: `}
                {says(m)}
              </Fault>
            ),
          )}
        </div>
      )}
    </div>
  );
}

/** useClashes holds words against those of all other commands, once they are quiet. */
export function useClashes(id: string, asks: string[], words: string[]): WordClash[] {
  const now = JSON.stringify({ id, asks, words });
  const [settled, settle] = useState(now);
  useEffect(() => {
    const t = setTimeout(() => settle(now), lookAfter);
    return () => clearTimeout(t);
  }, [now]);
  return useQuery(held(JSON.parse(settled) as { id: string; asks: string[]; words: string[] })).data?.clashes ?? none;
}

const none: WordClash[] = [];

/** Tokens is a row of words, each of which can be taken out, and a field for one more. */
function Tokens({
  label,
  add,
  list,
  marks,
  at,
  typed,
  onType,
  onChange,
  parts,
}: {
  label: string;
  add: string;
  list: string[];
  marks: WordClash[];
  at: string;
  typed: string;
  onType: (s: string) => void;
  onChange: (list: string[]) => void;
  parts: (s: string) => string[];
}) {
  const mark = (i: number) => marks.find((m) => m.at === `${at}.${i}`);
  const take = () => {
    const more = parts(typed).filter((x) => !list.includes(x));
    onType("");
    if (more.length) onChange([...list, ...more]);
  };
  return (
    <span className="contents">
      {list.map((w, i) => (
        <span key={w} className="inline-flex items-center rounded-md border border-line bg-surface-2 pl-2" data-clash={mark(i) ? (mark(i)!.fine ? "apart" : "clash") : undefined}>
          <bdi className={mark(i) ? (mark(i)!.fine ? "underline decoration-lagoon decoration-dotted" : "text-persimmon underline decoration-wavy") : "font-semibold"}>{w}</bdi>
          <Out label={`Take ${w} out`} onClick={() => onChange(list.filter((x) => x !== w))} />
        </span>
      ))}
      <Field
        size="s"
        className={mark(list.length) && !mark(list.length)!.fine ? "w-32 underline decoration-persimmon decoration-wavy" : "w-32"}
        aria-label={label}
        aria-invalid={!!mark(list.length) && !mark(list.length)!.fine}
        placeholder={add}
        maxLength={80}
        value={typed}
        onChange={(e) => onType(e.target.value)}
        onBlur={take}
        onKeyDown={(e) => {
          if (e.key === "Enter") take();
          else if (e.key === "Escape")
            return onType(""); // what was only begun is no name
          else if (e.key === "Backspace" && !typed && list.length) onChange(list.slice(0, -1));
          else return;
          e.preventDefault();
        }}
      />
    </span>
  );
}

/** HowOften is how often a command answers, what is said in between, whether viewers are told of it, and how often it was asked for. */
export function HowOften({ c, rule, change }: Props) {
  const asked = rule.asked ?? {};
  const set = (part: Partial<Asking>) => {
    const next = { ...asked, ...part };
    change({ asked: Object.values(next).some((v) => v !== undefined && v !== false) ? next : undefined });
  };
  const rests = !!asked.restSeconds || !!asked.personSeconds;
  return (
    <div className="flex w-full flex-wrap items-center gap-x-3 gap-y-1.5">
      <label className="sub flex items-center gap-1">
        cooldown <Num label="Seconds until anybody is answered again" value={asked.restSeconds} onChange={(n) => set({ restSeconds: n || undefined })} /> s
      </label>
      <label className="sub flex items-center gap-1">
        and for whoever asked <Num label="Seconds until the same person is answered again" value={asked.personSeconds} onChange={(n) => set({ personSeconds: n || undefined })} /> s
      </label>
      {rests && (
        <label className="sub flex items-center gap-1">
          meanwhile
          <Field
            size="s"
            className="w-64"
            aria-label="What is said once to whoever asks too soon"
            placeholder="nothing is said"
            maxLength={400}
            value={asked.resting?.[0] ?? ""}
            onChange={(e) => set({ resting: e.target.value ? [e.target.value] : undefined })}
          />
        </label>
      )}
      <label className="sub flex items-center gap-1">
        answered by the neighbour
        <Field
          size="s"
          className="w-32"
          aria-label="A neighbour that answers it"
          placeholder="none"
          maxLength={60}
          value={asked.leaves ?? ""}
          onChange={(e) => set({ leaves: e.target.value.trim() || undefined })}
        />
        {asked.leaves && "and done here without a word"}
      </label>
      <Tick className="sub" on={!asked.unlisted} onChange={(on) => set({ unlisted: on ? undefined : true })}>
        on the list of what viewers can ask
      </Tick>
      <Counter c={c} />
    </div>
  );
}

/** Counter shows how often a command was asked for, and sets it. */
function Counter({ c }: { c: CourtesyView }) {
  const deed = useDeed();
  const [typed, setTyped] = useState<string>();
  const times = c.asked?.times ?? 0;
  const now = useHouseNow(60_000);
  const zone = useZone();
  const put = (n: number): Promise<unknown> =>
    deed(api.PUT("/api/courtesies/{id}/times", { params: { path: { id: c.id } }, body: { times: n } }), {
      stale: [about.courtesies],
      say: `Counted ${n} times`,
      undo: () => put(times),
    });
  const keep = () => {
    const n = Number(typed);
    if (typed !== undefined && typed.trim() && Number.isInteger(n) && n >= 0 && n !== times) void put(n);
    setTyped(undefined);
  };
  return (
    <label className="sub flex items-center gap-1">
      asked
      <Field
        size="s"
        className="num w-20"
        inputMode="numeric"
        aria-label="How often it was asked for"
        value={typed ?? String(times)}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      {times === 1 ? "time" : "times"}
      {!!c.asked?.tonight && `, ${c.asked.tonight} tonight`}
      {c.asked?.last && `, last ${ago(c.asked.last, now, zone)}`}
    </label>
  );
}
