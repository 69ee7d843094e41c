/** kinds are the happenings that the list can show; all others are written in the script file. */
export const kinds = {
  "porch.stream.opened": { words: "the stream opens", who: false, number: "", text: "title" },
  "porch.chat.said": { words: "somebody says", who: true, number: "", text: "what they say" },
  "porch.raid.came": { words: "a raid comes", who: true, number: "people", text: "" },
  "porch.person.followed": { words: "somebody follows", who: true, number: "", text: "" },
  "porch.support.subscribed": { words: "somebody subscribes", who: true, number: "months", text: "" },
  "porch.support.gifted": { words: "somebody gives subscriptions", who: true, number: "gifts", text: "" },
  "porch.support.tipped": { words: "somebody tips", who: true, number: "EUR", text: "their message" },
  "porch.raid.went": { words: "we raid somebody", who: true, number: "people", text: "" },
  "porch.stream.closed": { words: "the stream closes", who: false, number: "", text: "" },
} as const satisfies Record<string, { words: string; who: boolean; number: string; text: string }>;

export type Kind = keyof typeof kinds;

/** Row is a happening of the list. id and platform are of somebody of the book; without an id they are made up. */
export type Row = { minute: number; kind: Kind; who: string; platform: string; id?: string; text?: string; number?: number };

type Event = { type: string; time: string; data: Record<string, unknown> };
type Person = { platform: string; id: string; login: string; name?: string };

const usual = "quayside";

/** asScript writes the list as a script file: one event a line, in the order of time. */
export function asScript(rows: Row[], start: string): string {
  const platform = rows.find((r) => r.platform)?.platform || usual;
  const sorted = rows.map((r, i) => ({ r, i })).sort((a, b) => a.r.minute - b.r.minute || a.i - b.i);
  return sorted
    .map(({ r, i }) => {
      const on = r.platform || platform;
      const login = r.who.trim().replaceAll(" ", "_").toLowerCase() || "somebody";
      const person: Person = { platform: on, id: r.id ?? `made-up-${login}`, login: r.id ? r.who : login, name: r.who.trim() || "somebody" };
      const data: Record<string, unknown> =
        r.kind === "porch.stream.opened" || r.kind === "porch.stream.closed" ? { platform: on, ...(r.kind === "porch.stream.opened" ? { title: r.text ?? "" } : {}) } : { person };
      if (r.kind === "porch.chat.said") Object.assign(data, { text: r.text ?? "", messageId: `written-${i}` });
      if (r.kind === "porch.raid.came" || r.kind === "porch.raid.went") data.viewers = Math.round(r.number ?? 1);
      if (r.kind === "porch.support.subscribed") Object.assign(data, { months: Math.round(r.number ?? 1), tier: "usual" });
      if (r.kind === "porch.support.gifted") Object.assign(data, { count: Math.max(1, Math.round(r.number ?? 1)), tier: "usual" });
      if (r.kind === "porch.support.tipped") Object.assign(data, { amount: (r.number ?? 1).toFixed(2), currency: "EUR", message: r.text ?? "" });
      return JSON.stringify({
        specversion: "1.0",
        id: `written-${i}`,
        source: "written",
        type: r.kind,
        time: new Date(Date.parse(start) + r.minute * 60_000).toISOString(),
        data,
      });
    })
    .join("\n")
    .concat("\n");
}

/** asRows reads a script file back as the list; undefined when it has more than the list can show. */
export function asRows(script: string): Row[] | undefined {
  const out: Row[] = [];
  let begins: number | undefined;
  for (const line of script.split("\n")) {
    if (!line.trim()) continue;
    let ev: Event;
    try {
      ev = JSON.parse(line) as Event;
    } catch {
      return undefined;
    }
    if (!(ev.type in kinds) || !ev.time || !ev.data) return undefined;
    begins ??= Date.parse(ev.time);
    const d = ev.data;
    const p = d.person as Person | undefined;
    const madeUp = !p || p.id.startsWith("made-up-");
    out.push({
      minute: Math.round((Date.parse(ev.time) - begins) / 6000) / 10,
      kind: ev.type as Kind,
      who: p ? (p.name ?? p.login) : "",
      platform: p?.platform ?? ((d.platform as string) || ""),
      ...(madeUp ? {} : { id: p.id }),
      text: (d.text ?? d.title ?? d.message) as string | undefined,
      number: Number(d.viewers ?? d.months ?? d.count ?? d.amount ?? NaN) || undefined,
    });
  }
  return out.length && out.length <= 400 ? out : undefined;
}
