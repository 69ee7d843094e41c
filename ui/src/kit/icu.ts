/** Where the fill-ins stand in a wording: just enough of ICU MessageFormat to show them as chips. The house itself reads and checks the text. */

export type Arm = { key: string; text: string };
export type Spot = { from: number; to: number; name: string; kind: "plain" | "plural" | "selectordinal" | "select"; style?: string; offset?: string; arms: Arm[] };

/** skipQuote passes over an apostrophe and what it quotes, from its place; one that quotes nothing is a letter like others. In a plural's case it quotes # too. */
function skipQuote(s: string, i: number, counted: boolean): number {
  const next = s[i + 1];
  if (next === "'") return i + 2;
  if (next !== "{" && next !== "}" && !(counted && next === "#")) return i + 1;
  const end = s.indexOf("'", i + 1);
  return end < 0 ? s.length : end + 1;
}

/** What a brace opens: a fill-in without or with cases, or one of those cases. */
type Opens = "fill" | "plural" | "select" | "counted case" | "case";

const opens = (s: string, i: number, within?: Opens): Opens => {
  if (within === "plural") return "counted case";
  if (within === "select") return "case";
  const kind = /^\{\s*\w+\s*,\s*(plural|selectordinal|select)\s*,/.exec(s.slice(i, i + 200))?.[1];
  return kind === "select" ? "select" : kind ? "plural" : "fill";
};

/** closing finds the brace that closes the one at i, or -1. */
function closing(s: string, i: number, first: Opens): number {
  const stack: Opens[] = [first];
  for (let k = i + 1; k < s.length;) {
    const c = s[k];
    const top = stack[stack.length - 1]!;
    if (c === "'") {
      k = skipQuote(s, k, top === "counted case");
      continue;
    }
    if (c === "{") stack.push(opens(s, k, top));
    if (c === "}" && stack.pop() && stack.length === 0) return k;
    k++;
  }
  return -1;
}

/** spots lists the fill-ins at the top of a wording, or of a plural's case, that are whole; what is still being typed is left as text. */
export function spots(s: string, counted = false): Spot[] {
  const out: Spot[] = [];
  for (let i = 0; i < s.length;) {
    if (s[i] === "'") {
      i = skipQuote(s, i, counted);
      continue;
    }
    if (s[i] !== "{") {
      i++;
      continue;
    }
    const end = closing(s, i, opens(s, i));
    if (end < 0) break;
    const spot = read(s, i, end + 1);
    if (spot) out.push(spot);
    i = end + 1;
  }
  return out;
}

function read(s: string, from: number, to: number): Spot | undefined {
  const inner = s.slice(from + 1, to - 1);
  const head = /^\s*(\w+)\s*(?:,\s*(\w+)\s*(?:,\s*([\s\S]*))?)?$/.exec(inner);
  if (!head) return undefined;
  const [, name = "", kind, rest = ""] = head;
  if (kind !== "plural" && kind !== "selectordinal" && kind !== "select") return { from, to, name, kind: "plain", style: [kind, rest.trim()].filter(Boolean).join(" "), arms: [] };
  const arms: Arm[] = [];
  const offset = /^offset:\s*(\d+)\s*/.exec(rest);
  for (let k = offset ? offset[0].length : 0; k < rest.length;) {
    const key = /^\s*(=?\w+)\s*\{/.exec(rest.slice(k));
    if (!key) return rest.slice(k).trim() ? undefined : { from, to, name, kind, offset: offset?.[1], arms };
    const open = k + key[0].length - 1;
    const end = closing(rest, open, kind === "select" ? "case" : "counted case");
    if (end < 0) return undefined;
    arms.push({ key: key[1]!, text: rest.slice(open + 1, end) });
    k = end + 1;
  }
  return { from, to, name, kind, offset: offset?.[1], arms };
}

/** write puts a choice back into ICU text. */
export const write = (p: Spot) => `{${p.name}, ${p.kind}, ${p.offset ? `offset:${p.offset} ` : ""}${p.arms.map((a) => `${a.key} {${a.text}}`).join(" ")}}`;

/** What a choice shows of itself: words, chips of fill-ins, and choices within it in frames of their own. */
export type Piece = { text: string } | { fill: string; style?: string } | { frame: Piece[] };

/** shownArm is the arm whose words stand in the wording: what is said when something is known, of a number what is said of many; the other where that one says nothing. */
export function shownArm(p: Spot): Arm | undefined {
  const first = p.kind === "select" ? ["yes", p.arms[0]?.key, "other"] : ["other", ...p.arms.map((a) => a.key)];
  const says = (a?: Arm) => !!a?.text.trim();
  return first.map((k) => p.arms.find((a) => a.key === k)).find(says);
}

/** about is what a choice is made by: of hasTitle, the title. */
export const about = (p: Spot): string => (p.kind === "select" && /^has[A-Z]/.test(p.name) ? p.name[3]!.toLowerCase() + p.name.slice(4) : p.name);

/** shown is a choice as its own words, with its chips inside. */
export function shown(p: Spot): Piece[] {
  const arm = shownArm(p);
  return arm ? pieces(arm.text, p.kind === "select" ? undefined : p.name) : [{ fill: about(p) }];
}

/** pieces takes a text apart; in a case of a number, # stands for that number. */
function pieces(s: string, number?: string): Piece[] {
  const out: Piece[] = [];
  const words = (text: string) => {
    let from = 0;
    const say = (to: number) => {
      const plain = text
        .slice(from, to)
        .replace(/''/g, "'")
        .replace(/'([{}#][^']*)'/g, "$1");
      if (plain) out.push({ text: plain });
    };
    for (let i = 0; number && i < text.length;) {
      if (text[i] === "'") i = skipQuote(text, i, true);
      else if (text[i++] === "#") {
        say(i - 1);
        out.push({ fill: number });
        from = i;
      }
    }
    say(text.length);
  };
  let at = 0;
  for (const p of spots(s, !!number)) {
    words(s.slice(at, p.from));
    out.push(p.kind === "plain" ? { fill: p.name, style: p.style } : { frame: shown(p) });
    at = p.to;
  }
  words(s.slice(at));
  return out;
}

/** told is every arm of a choice in words, one a line, for whoever rests on it. */
export const told = (p: Spot): string => p.arms.map((a) => `${armWords(p, a.key)}: ${a.text.trim() || "nothing"}`).join("\n");

/** armWords say when an arm is taken. */
export function armWords(p: Spot, key: string): string {
  if (p.kind === "select" && p.name.startsWith("has")) return key === "yes" ? "when it is known" : "when it is not known";
  if (key === "other") return p.kind === "select" ? "otherwise" : "any other number";
  if (key.startsWith("=")) return `exactly ${key.slice(1)}`;
  if (p.kind === "selectordinal") return { one: "1st, 21st…", two: "2nd, 22nd…", few: "3rd, 23rd…" }[key] ?? key;
  if (p.kind === "plural" && key === "one") return "for one";
  return key;
}
