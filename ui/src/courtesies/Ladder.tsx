import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Courtesies, type Rule } from "../api/client";
import { useDeed } from "../api/deeds";
import { ladder } from "../api/queries";
import { Button } from "../kit/Button";
import { Word } from "../kit/Chip";
import { Fault, Num } from "../kit/Field";
import { PersonPicker, type Somebody } from "../kit/PersonPicker";
import { sentenceOf } from "./outputs";

/** Ladder shows who would win this slot for a person and a number: what beat what, and why. */
export function Ladder({ id, rule, all }: { id: string; rule: Rule; all: Courtesies }) {
  const [who, setWho] = useState<Somebody>();
  const [number, setNumber] = useState<number>();
  const when = all.whens.find((w) => w.type === rule.when);
  const of = rule.measure?.of ?? when?.numbers[0];
  const currency = of === "amount" ? (rule.measure?.currency ?? "EUR") : undefined;
  const n = number ?? rule.measure?.exactly ?? rule.measure?.atLeast ?? 25;
  const deed = useDeed();
  const q = useQuery(
    ladder(all.version, { when: rule.when, slot: rule.slot, account: who?.account, of, currency, number: of ? n : undefined, courtesy: rule.slot ? undefined : id }),
  );
  const say = (x: string) => sentenceOf(all, x);
  const why = (s: string) => s.replace(/^gives way to (\S+):/, (_, x: string) => `gives way to “${say(x)}”:`);
  const rungs = [...(q.data?.rungs ?? [])].sort((a, b) => Number(b.won) - Number(a.won) || Number(b.why.startsWith("gives")) - Number(a.why.startsWith("gives")));
  return (
    <div data-testid="ladder">
      <div className="flex flex-wrap items-center gap-1.5 pb-2">
        <PersonPicker label="Who comes" onPick={setWho}>
          {who ? who.name : "somebody new"}
        </PersonPicker>
        {who && (
          <Button size="s" look="ghost" onClick={() => setWho(undefined)}>
            somebody new
          </Button>
        )}
        {of && (
          <span className="sub flex items-center gap-1">
            with <Num label="Number to try" value={n} onChange={setNumber} /> {currency ?? of}
          </span>
        )}
      </div>
      {q.data && (
        <p className="sub pb-1">
          {q.data.standing}: {q.data.why}
        </p>
      )}
      {of && (q.data?.line.length ?? 0) > 0 && <NumberLine line={q.data!.line} n={n} mine={id} say={say} />}
      <ol className="rail">
        {rungs.map((r) => (
          <li key={r.courtesy} data-won={r.won} data-mine={r.courtesy === id}>
            <span>{say(r.courtesy)}</span>
            <div>
              {r.won ? "wins: " : ""}
              {why(r.why)}
            </div>
          </li>
        ))}
      </ol>
      {rule.slot === "" && <p className="sub pb-1">This one runs beside all others; nothing can win over it.</p>}
      {q.data && rule.slot !== "" && rungs.every((r) => !r.won) && <Fault>Nothing wins: nothing would be done.</Fault>}
      {(q.data?.does.length ?? 0) > 0 && (
        <>
          <p className="mt-3 mb-1 font-semibold">What would be done</p>
          <ol className="m-0 list-none p-0" data-testid="does">
            {q.data!.does.map((d, i) => (
              <li key={i} className="py-1">
                <Word>{d.refused ? "not" : d.kind === "platform" ? "platform" : d.kind}</Word>
                <bdi>{d.text}</bdi>
                <div className="sub">{d.refused ? d.because.join("; ") : `${d.to ? `${d.to} · ` : ""}${d.after ? `after ${Math.round(d.after)} s` : "at once"}`}</div>
              </li>
            ))}
          </ol>
        </>
      )}
      <p className="mt-3">
        <Button
          size="s"
          onClick={() =>
            void deed(api.POST("/api/courtesies/{id}/street", { params: { path: { id } }, body: { account: who?.account, number: of ? Math.round(n) : undefined } }), {
              say: "Out it goes, marked as a try. Lines and lamps wait five seconds in Coming up.",
            })
          }
        >
          On the street: try this one for real
        </Button>
        <span className="sub block pt-1">It reaches chat, places and fittings, marked “(a try)”. It uses nothing up.</span>
      </p>
    </div>
  );
}

/** NumberLine draws which courtesy wins on which piece; a gap is open, a piece with others under it is doubled. */
function NumberLine({
  line,
  n,
  mine,
  say,
}: {
  line: { from: number; to: number; open: boolean; courtesy?: string; under: string[] }[];
  n: number;
  mine: string;
  say: (id: string) => string;
}) {
  return (
    <div className="pb-2" role="img" aria-label={line.map((s) => `${s.from} ${s.open ? "and more" : `to ${s.to}`}: ${s.courtesy ? say(s.courtesy) : "nothing"}`).join("; ")}>
      <div className="flex gap-0.5">
        {line.map((s) => (
          <div key={s.from} className="min-w-0 flex-1" title={s.courtesy ? say(s.courtesy) : "nothing"}>
            <div
              className={`h-3 rounded-sm ${!s.courtesy ? "border border-dashed border-text-3" : s.courtesy === mine ? "bg-lamp" : "bg-lagoon"} ${n >= s.from && (s.open || n <= s.to) ? "outline-2 outline-offset-1 outline-text" : ""}`}
            />
            {s.under.length > 0 && <div className="mt-0.5 h-1 rounded-sm bg-lagoon-soft" />}
            <div className="sub text-[12px]">
              {s.from}
              {s.open ? "…" : s.to > s.from ? `–${s.to}` : ""}
            </div>
          </div>
        ))}
      </div>
    </div>
  );
}
