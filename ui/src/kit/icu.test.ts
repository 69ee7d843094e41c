import IntlMessageFormat from "intl-messageformat";
import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { about, armWords, shown, spots, told, write, type Piece } from "./icu";

// The wordings the house's own rendering is held against.
const corpus: { wording: string; args: Record<string, unknown>; want: string; zone?: string }[] = JSON.parse(
  readFileSync(new URL("../../../core/wording/testdata/corpus.json", import.meta.url), "utf8"),
);

/** rewritten is a wording whose choices were taken apart into chips and put back. */
const rewritten = (s: string): string => {
  let out = "";
  let at = 0;
  for (const p of spots(s)) {
    out += s.slice(at, p.from) + (p.kind === "plain" ? s.slice(p.from, p.to) : write(p));
    at = p.to;
  }
  return out + s.slice(at);
};

const render = (s: string, args: Record<string, unknown>) => {
  const values = Object.fromEntries(Object.entries(args).map(([k, v]) => [k, typeof v === "object" ? new Date((v as { moment: string }).moment) : v]));
  return String(new IntlMessageFormat(s, "en", undefined, { ignoreTag: true }).format(values as Record<string, string>));
};

test("taking every choice of a wording apart into chips and putting it back changes nothing of what is said", () => {
  let choices = 0;
  for (const { wording, args } of corpus) {
    if (!spots(wording).some((p) => p.kind !== "plain")) continue;
    choices++;
    expect(render(rewritten(wording), args), wording).toBe(render(wording, args));
  }
  expect(choices).toBeGreaterThan(100);
});

test("every brace of a whole wording belongs to a chip, or is quoted", () => {
  for (const { wording } of corpus) {
    let rest = "";
    let at = 0;
    for (const p of spots(wording)) {
      rest += wording.slice(at, p.from);
      at = p.to;
    }
    rest += wording.slice(at);
    expect(rest.replace(/''/g, "").replace(/'[{}][^']*('|$)/g, ""), wording).not.toMatch(/[{}]/);
  }
});

test("what is still being typed is left as text", () => {
  for (const s of ["Hello {", "Hello {name", "{streams, plural, one {#", "}", "{}", "{two words}", "{streams, plural, one # other}"]) expect(spots(s), s).toEqual([]);
  expect(spots("{name} and {").map((p) => p.name)).toEqual(["name"]);
});

test("an apostrophe quotes a brace, and is a letter elsewhere", () => {
  expect(spots("it's '{name}' and {name}").map((p) => p.from)).toEqual([18]);
  expect(spots("'' {name}").map((p) => p.name)).toEqual(["name"]);
  expect(spots("{who, select, yes {it'{'s} other {no}}")[0]!.arms[0]).toEqual({ key: "yes", text: "it'{'s" });
});

test("a plural keeps its offset, its order and its cases", () => {
  const s = "{more, plural, offset:1 =0 {nobody} one {one more} other {# more}}";
  const [p] = spots(s);
  expect([p!.offset, p!.arms.map((a) => a.key)]).toEqual(["1", ["=0", "one", "other"]]);
  expect(write(p!)).toBe(s);
});

/** seen is how the pieces of a choice stand in the field. */
const seen = (list: Piece[]): string => list.map((p) => ("text" in p ? p.text : "fill" in p ? `⟨${p.fill}⟩` : `[${seen(p.frame)}]`)).join("");
const only = (s: string) => spots(s)[0]!;

test("a part that is said only when something is known stands as its own words with its chip inside", () => {
  expect(seen(shown(only("{hasTitle, select, yes {: {title}} other {}}")))).toBe(": ⟨title⟩");
  expect(seen(shown(only("{hasMeant, select, yes {for {meant}} other {just now}}")))).toBe("for ⟨meant⟩");
  expect(seen(shown(only("{hasLink, select, yes {} other {no link yet}}")))).toBe("no link yet");
  expect(seen(shown(only("{hasLink, select, yes {} other {}}")))).toBe("⟨link⟩");
  expect(about(only("{hasLastFollowers, select, yes {a} other {}}"))).toBe("lastFollowers");
});

test("a plural shows its words, and a choice within one has a frame of its own", () => {
  expect(seen(shown(only("{streams, plural, one {# stream} other {# streams}}")))).toBe("⟨streams⟩ streams");
  expect(seen(shown(only("{streams, selectordinal, one {#st} other {#th}}")))).toBe("⟨streams⟩th");
  expect(seen(shown(only("{hasStreams, select, yes {That makes {streams, plural, one {#} other {# of '#'{name}}}.} other {}}")))).toBe("That makes [⟨streams⟩ of #⟨name⟩].");
  expect(seen(shown(only("{n, plural, other {it''s '{'#'}'}}")))).toBe("it's {⟨n⟩}");
});

test("a choice tells every case of its own, and when it is taken", () => {
  expect(told(only("{hasCategory, select, yes {seen with {category}} other {}}"))).toBe("when it is known: seen with {category}\nwhen it is not known: nothing");
  const [count] = spots("{streams, plural, =0 {a} one {b} other {c}}");
  expect(count!.arms.map((a) => armWords(count!, a.key))).toEqual(["exactly 0", "for one", "any other number"]);
  const [place] = spots("{streams, selectordinal, few {#rd} other {#th}}");
  expect(armWords(place!, "few")).toBe("3rd, 23rd…");
});

test("no choice of the corpus shows a brace or a formula", () => {
  for (const { wording } of corpus) for (const p of spots(wording)) if (p.kind !== "plain") expect(seen(shown(p)), wording).not.toMatch(/, (plural|select|selectordinal),/);
});
