import type { Rows } from "./RowsField";

/** rowsOf takes a body apart, and says nothing where it holds more than texts and lists of them. A list's name ends with []. */
export function rowsOf(body: unknown, at = ""): Rows | undefined {
  if (typeof body === "string") return at ? [[at, body]] : undefined;
  if (Array.isArray(body) && at && body.every((x) => typeof x === "string" && x === x.trim() && x && !x.includes(","))) return [[`${at}[]`, body.join(", ")]];
  if (!body || typeof body !== "object" || Array.isArray(body)) return undefined;
  const out: Rows = [];
  for (const [k, v] of Object.entries(body)) {
    if (k.includes(".") || k.endsWith("[]")) return undefined;
    const rows = rowsOf(v, at ? `${at}.${k}` : k);
    if (!rows) return undefined;
    out.push(...rows);
  }
  return out;
}

/** bodyOf puts rows together again. */
export function bodyOf(rows: Rows): unknown {
  const out: Record<string, unknown> = {};
  for (const [name, words] of rows) {
    const way = name.trim().split(".").filter(Boolean);
    if (!way.length) continue;
    let in_ = out;
    for (const k of way.slice(0, -1)) {
      if (typeof in_[k] !== "object") in_[k] = {};
      in_ = in_[k] as Record<string, unknown>;
    }
    const last = way[way.length - 1]!;
    if (!last.endsWith("[]")) in_[last] = words;
    else
      in_[last.slice(0, -2)] = words
        .split(",")
        .map((w) => w.trim())
        .filter(Boolean);
  }
  return out;
}

/** shapes are the forms of a body that most places take. */
export const shapes: [string, string, Rows][] = [
  ["text", "a text alone", [["text", "{text}"]]],
  [
    "titled",
    "a text with a title",
    [
      ["title", "{title}"],
      ["text", "{text}"],
    ],
  ],
  ["message", "a message alone", [["message", "{text}"]]],
  [
    "board",
    "a message with a board under it",
    [
      ["message", "{text}"],
      ["board.heading", "{title}"],
      ["board.line", "{category}"],
      ["board.link", "{link}"],
    ],
  ],
];
