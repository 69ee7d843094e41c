import type { Settings } from "../../api/client";
import { Area, Num } from "../../kit/Field";
import { Row } from "./Row";

export type Rule = NonNullable<NonNullable<Settings["guard"]>["rules"]>[number];

type Number = "percent" | "from" | "most" | "times" | "people" | "seconds";
type Measure = { of: Number; label: string; unit: string; least: number; most: number };

const m = (of: Number, label: string, unit: string, least: number, most: number): Measure => ({ of, label, unit, least, most });

/** measures are the numbers of each kind of rule: what is dragged. */
const measures: Partial<Record<Rule["kind"], Measure[]>> = {
  capitals: [m("percent", "At least", "% of the letters", 30, 100), m("from", "In lines from", "letters on", 1, 60)],
  symbols: [m("percent", "At least", "% of the characters", 20, 100), m("from", "In lines from", "characters on", 1, 60)],
  emoji: [m("most", "More than", "emoji", 0, 40)],
  emotes: [m("most", "More than", "emotes", 0, 40)],
  length: [m("most", "More than", "characters", 20, 500)],
  again: [m("times", "Said", "times", 2, 15), m("seconds", "Within", "seconds", 5, 600), m("from", "Lines from", "characters on", 0, 60)],
  several: [m("people", "By", "people", 2, 30), m("seconds", "Within", "seconds", 5, 600), m("from", "Lines from", "characters on", 0, 100)],
};

const lines = (text: string) =>
  text
    .split("\n")
    .map((x) => x.trim())
    .filter(Boolean);

/** Measures are what a rule looks for; a number is dragged, or typed. */
export function Measures({ r, change, keep }: { r: Rule; change: (part: Partial<Rule>) => void; keep: () => void }) {
  const list = (label: string, hint: string, value: string[], set: (list: string[]) => Partial<Rule>) => (
    <Row key={label} label={label} hint={hint}>
      <Area aria-label={label} className="w-full" rows={5} defaultValue={value.join("\n")} onBlur={(e) => (change(set(lines(e.target.value))), keep())} />
    </Row>
  );
  const words = (part: boolean) => (r.words ?? []).filter((w) => !!w.part === part).map((w) => w.text);
  return (
    <>
      {measures[r.kind]?.map((x) => (
        <Row key={x.of} label={x.label}>
          <span className="flex items-center gap-2">
            <input
              aria-label={x.label}
              type="range"
              className="min-w-0 flex-1"
              min={x.least}
              max={x.most}
              value={r[x.of] ?? x.least}
              onChange={(e) => change({ [x.of]: e.target.valueAsNumber })}
              onPointerUp={keep}
              onKeyUp={keep}
            />
            <Num label={`${x.label}: the number`} value={r[x.of]} onChange={(n) => n !== undefined && change({ [x.of]: n })} onBlur={keep} />
            <span className="w-36">{x.unit}</span>
          </span>
        </Row>
      ))}
      {r.kind === "words" && [
        list("Whole words", "One a line. They are found with look-alike letters, accents, digits for letters and blanks between, too.", words(false), (whole) => ({
          words: [...whole.map((text) => ({ text })), ...words(true).map((text) => ({ text, part: true }))],
        })),
        list("Parts of words", "One a line. They are found within other words: choose them with care.", words(true), (parts) => ({
          words: [...words(false).map((text) => ({ text })), ...parts.map((text) => ({ text, part: true }))],
        })),
      ]}
      {r.kind === "links" && list("Anybody may link to", "One host a line, with all below it: quayside.example", r.allow ?? [], (allow) => ({ allow }))}
      {r.kind === "one emote" && list("The emotes", "One a line, as they stand in chat.", r.named ?? [], (named) => ({ named }))}
    </>
  );
}
