import { tz, TZDate } from "@date-fns/tz";
import { addDays, differenceInCalendarDays, differenceInMonths, differenceInWeeks, differenceInYears, endOfDay, format, isSameYear, startOfDay } from "date-fns";
import { useEffect, useMemo, useState } from "react";
import { useLive } from "../api/live";

// A day is the channel's day, wherever this page is looked at.

const clocks = new Map<string, Intl.DateTimeFormat>();

/** clock writes a moment as hours and minutes in a zone. It is asked for every line of chat, so the formats are kept. */
export function clock(at: string | number, zone: string): string {
  let f = clocks.get(zone);
  if (!f) clocks.set(zone, (f = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", timeZone: zone })));
  return f.format(new Date(at));
}

/** clockSeconds writes a moment with its second, where zones are whole minutes apart: "20:41:38". */
export const clockSeconds = (at: string, zone: string) => `${clock(at, zone)}:${String(new Date(at).getUTCSeconds()).padStart(2, "0")}`;

/** span writes a length of time in ms: "2 h 16", "14 min", "9 s". */
export function span(ms: number): string {
  const s = Math.max(0, Math.round(ms / 1000));
  if (s < 60) return `${s} s`;
  const m = Math.floor(s / 60);
  return m < 60 ? `${m} min` : `${Math.floor(m / 60)} h ${m % 60}`;
}

/** ago writes a date's distance in the largest unit that fits; "today" is the same day in the zone. */
export function ago(iso: string, now: number, zone: string): string {
  const then = new TZDate(iso, zone);
  const here = new TZDate(now, zone);
  const days = differenceInCalendarDays(here, then, { in: tz(zone) });
  if (days < 1) return "today";
  const [n, unit] =
    days < 14
      ? [days, "day"]
      : days < 60
        ? [differenceInWeeks(here, then), "week"]
        : days < 730
          ? [differenceInMonths(here, then), "month"]
          : [differenceInYears(here, then), "year"];
  return `${n} ${unit}${n === 1 ? "" : "s"}`;
}

/** lastSeen says when somebody was here last: tonight, or so long ago. */
export function lastSeen(r: { here?: boolean; lastSeen?: string }, now: number, zone: string): string {
  if (r.here) return "tonight";
  if (!r.lastSeen || Date.parse(r.lastSeen) <= 0) return "never";
  const t = ago(r.lastSeen, now, zone);
  return t === "today" ? t : `${t} ago`;
}

/** dated writes a day: "14 May", with the year when it is not this one. */
export function dated(iso: string, now: number, zone: string): string {
  const d = new TZDate(iso, zone);
  return format(d, isSameYear(d, new TZDate(now, zone), { in: tz(zone) }) ? "d MMM" : "d MMM yyyy");
}

/** when writes a moment as whoever looks back over an evening reads it: the hour, and the day once that is long ago. */
export const when = (iso: string, now: number, zone: string): string => (now - Date.parse(iso) < 12 * 3_600_000 ? clock(iso, zone) : dated(iso, now, zone));

/** day is the civil day that a moment falls on, as RFC 3339 writes it: "2031-05-14". */
export const day = (at: number, zone: string): string => format(new TZDate(at, zone), "yyyy-MM-dd");

/** dayEnds is the last moment of a civil day in a zone, as RFC 3339 writes it in UTC. */
export const dayEnds = (civil: string, zone: string): string => {
  const [y = 0, m = 1, d = 1] = civil.split("-").map(Number);
  return new Date(+endOfDay(new TZDate(y, m - 1, d, zone))).toISOString();
};

/** dayBegins is the first moment of a day so many days from one, as RFC 3339 writes it in UTC. */
export const dayBegins = (at: number, days: number, zone: string): string => new Date(+startOfDay(addDays(new TZDate(at, zone), days))).toISOString();

/** dayOf writes the day of a moment in full: "14 September 2031". */
export const dayOf = (iso: string, zone: string): string => format(new TZDate(iso, zone), "d MMMM yyyy");

/** dayIn writes it with a short month: "14 Sep 2031". */
export const dayIn = (iso: string, zone: string): string => format(new TZDate(iso, zone), "d MMM yyyy");

/** fully writes a moment with its day: "14 May 2031, 19:30". */
export const fully = (iso: string, zone: string): string => format(new TZDate(iso, zone), "d MMM yyyy, HH:mm");

/** useNow ticks: the present in ms, every so many ms. */
export function useNow(every: number, skew = 0): number {
  const [now, set] = useState(() => Date.now());
  useEffect(() => {
    const t = setInterval(() => set(Date.now()), every);
    return () => clearInterval(t);
  }, [every]);
  return now + skew;
}

/** useHouseNow is the house's present in ms, every so many ms. */
export const useHouseNow = (every: number) =>
  useNow(
    every,
    useLive((s) => s.skew),
  );

/** useZone is the channel's zone. */
export const useZone = () => useLive((s) => s.zone) ?? "UTC";

/** useCalendar writes moments as days of the channel, as seen from the house's present. */
export function useCalendar() {
  const zone = useZone();
  const now = useHouseNow(60_000);
  return useMemo(
    () => ({
      now,
      zone,
      today: () => day(now, zone),
      ago: (iso: string) => ago(iso, now, zone),
      dated: (iso: string) => dated(iso, now, zone),
      lastSeen: (r: { here?: boolean; lastSeen?: string }) => lastSeen(r, now, zone),
      fully: (iso: string) => fully(iso, zone),
    }),
    [now, zone],
  );
}

export function nth(n: number): string {
  const rule = new Intl.PluralRules("en", { type: "ordinal" }).select(n);
  return n + (({ one: "st", two: "nd", few: "rd" } as Record<string, string>)[rule] ?? "th");
}
