import { addDays, format, getDaysInMonth, parseISO } from "date-fns";
import type { DateEntry, Dates, YearEntry } from "../api/client";
import type { DateKind } from "../kit/drawings/DateShape";
import { nth } from "../kit/time";

/** Kinds are the kinds of days, in the order in which they are told: which shape they have, and what they are called. */
export const kinds: Record<YearEntry["kind"], { shape: DateKind; name: string }> = {
  birthday: { shape: "birthday", name: "birthday" },
  follow: { shape: "follows since", name: "follows since" },
  "first visit": { shape: "first came", name: "first came" },
  "round number": { shape: "round number", name: "round number" },
};

const years = (n: number) => (n === 1 ? "1 year" : `${n} years`);

/** says is what day it is, to stand after a name: "follows 3 years". */
export function says(e: { kind: YearEntry["kind"]; years: number }, ahead = false): string {
  switch (e.kind) {
    case "follow":
      return `follows ${years(e.years)}`;
    case "first visit":
      return `first came ${years(e.years)} ago`;
    case "round number":
      return `${nth(e.years)} stream${ahead ? ", if here" : ""}`;
  }
  return e.years ? `birthday, turns ${e.years}` : "birthday";
}

/** why is why a day was missed: there was no stream, or they did not come. */
export const why = (e: DateEntry) => (e.stream ? "did not come" : "no stream");

export const weekday = (on: string) => format(parseISO(on), "EEE");
export const monthOf = (on: string) => format(parseISO(on), "MMMM");
export const full = (on: string) => format(parseISO(on), "EEEE d MMMM");

/** Cell is one day of the year with what falls on it. */
export type Cell = { key: string; row: number; day: number; on: string; list: YearEntry[]; past: boolean };

/** Year is a year as a tide table: twelve rows of days, from the month of today on. */
export type Year = { months: { name: string; days: number; first: Date; count: number }[]; cells: Cell[] };

/**
 * yearOf lays the days of a year out. Those of this month that are over come round at its end: they stand where they are
 * this year.
 */
export function yearOf(d: Dates, shown: (k: YearEntry["kind"]) => boolean): Year {
  const today = parseISO(d.today);
  const first = new Date(today.getFullYear(), today.getMonth(), 1);
  const months = Array.from({ length: 12 }, (_, i) => {
    const at = new Date(first.getFullYear(), first.getMonth() + i, 1);
    return { name: format(at, "MMM"), days: getDaysInMonth(at), first: at, count: 0 };
  });
  const cells = new Map<string, Cell>();
  for (const e of [...d.missed, ...d.entries, ...d.year]) {
    if (!shown(e.kind)) continue;
    const on = parseISO(e.on);
    const row = (on.getMonth() - first.getMonth() + 12) % 12;
    const day = Math.min(on.getDate(), months[row]!.days);
    const key = `${row}.${day}`;
    const here = new Date(months[row]!.first.getFullYear(), months[row]!.first.getMonth(), day);
    const cell = cells.get(key) ?? { key, row, day, on: format(here, "yyyy-MM-dd"), list: [], past: here < today };
    cell.list.push(e);
    months[row]!.count++;
    cells.set(key, cell);
  }
  return { months, cells: [...cells.values()].sort((a, b) => a.row - b.row || a.day - b.day) };
}

/** evening tells whether a stream is expected on a day. */
export const evening = (d: Dates, at: Date) => d.evenings.includes(format(at, "EEEE"));

/** tide is how thick the dates stand along a month, 0 to 1, a number for each quarter of a day. */
export function tide(year: Year, row: number): number[] {
  const mine = year.cells.filter((c) => c.row === row);
  return Array.from({ length: year.months[row]!.days * 4 + 1 }, (_, i) => {
    const v = mine.reduce((sum, c) => sum + Math.min(4, c.list.length) * Math.exp(-((i / 4 - (c.day - 0.5)) ** 2) / 12), 0);
    return 1 - Math.exp(-Math.pow(v * 0.26, 1.4));
  });
}

/** stretch is the days from one to another, as they stand in the rows of a year: [row, first, last]. */
export function stretch(year: Year, from: Date, to: Date): [number, number, number][] {
  const out: [number, number, number][] = [];
  year.months.forEach((m, row) => {
    const last = addDays(m.first, m.days - 1);
    if (last < from || m.first > to) return;
    out.push([row, m.first > from ? 1 : from.getDate(), last < to ? m.days : to.getDate()]);
  });
  return out;
}
