import IntlMessageFormat from "intl-messageformat";
import { readFileSync } from "node:fs";
import { expect, test } from "vitest";
import { armWords, gist, spots, write } from "./icu";

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

test("a chip says in short what it chooses between", () => {
  expect(gist("{hasCategory, select, yes {last seen with {category}} other {}}!")).toBe("last seen with ⟨category⟩/!");
  const [known] = spots("{hasCategory, select, yes {a} other {b}}");
  expect([armWords(known!, "yes"), armWords(known!, "other")]).toEqual(["when it is known", "when it is not known"]);
  const [count] = spots("{streams, plural, =0 {a} one {b} other {c}}");
  expect(count!.arms.map((a) => armWords(count!, a.key))).toEqual(["exactly 0", "for one", "any other number"]);
  const [place] = spots("{streams, selectordinal, few {#rd} other {#th}}");
  expect(armWords(place!, "few")).toBe("3rd, 23rd…");
});
