import { useEffect, useState } from "react";

const formats = new Map<string, Intl.DateTimeFormat>();

/** clock writes a moment as hours and minutes in a zone. */
export function clock(iso: string, zone: string): string {
  let f = formats.get(zone);
  if (!f) formats.set(zone, (f = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", timeZone: zone })));
  return f.format(new Date(iso));
}

/** span writes a length of time in ms: "2 h 16", "14 min", "9 s". */
export function span(ms: number): string {
  const s = Math.max(0, Math.round(ms / 1000));
  if (s < 60) return `${s} s`;
  const m = Math.floor(s / 60);
  return m < 60 ? `${m} min` : `${Math.floor(m / 60)} h ${m % 60}`;
}

/** ago writes a date's distance in the largest unit that fits. */
export function ago(iso: string, now: number): string {
  const days = Math.floor((now - Date.parse(iso)) / 86_400_000);
  if (days < 1) return "today";
  const [n, unit] = days < 14 ? [days, "day"] : days < 60 ? [Math.floor(days / 7), "week"] : days < 730 ? [Math.floor(days / 30.4), "month"] : [Math.floor(days / 365.25), "year"];
  return `${n} ${unit}${n === 1 ? "" : "s"}`;
}

/** lastSeen says when somebody was here last: tonight, or so long ago. */
export function lastSeen(r: { here?: boolean; lastSeen?: string }, now: number): string {
  if (r.here) return "tonight";
  if (!r.lastSeen || Date.parse(r.lastSeen) <= 0) return "never";
  const t = ago(r.lastSeen, now);
  return t === "today" ? t : `${t} ago`;
}

/** dated writes a day: "14 May", with the year when it is not this one. */
export function dated(iso: string, now: number): string {
  const d = new Date(iso);
  return d.toLocaleDateString("en-GB", { day: "numeric", month: "short", year: d.getFullYear() === new Date(now).getFullYear() ? undefined : "numeric" });
}

/** useNow ticks: the present in ms, every so many ms. */
export function useNow(every: number, skew = 0): number {
  const [now, set] = useState(Date.now());
  useEffect(() => {
    const t = setInterval(() => set(Date.now()), every);
    return () => clearInterval(t);
  }, [every]);
  return now + skew;
}

export function nth(n: number): string {
  const rule = new Intl.PluralRules("en", { type: "ordinal" }).select(n);
  return n + (({ one: "st", two: "nd", few: "rd" } as Record<string, string>)[rule] ?? "th");
}
