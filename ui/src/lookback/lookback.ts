import { TZDate } from "@date-fns/tz";
import { format } from "date-fns";

/** daily writes a day in full: "Thursday 26 November 2026". */
export const daily = (iso: string, zone: string) => format(new TZDate(iso, zone), "EEEE d MMMM yyyy");

/** into writes how far into a stream something was: "1:14:02". */
export const into = (s: number) => `${Math.floor(s / 3600)}:${String(Math.floor(s / 60) % 60).padStart(2, "0")}:${String(Math.floor(s) % 60).padStart(2, "0")}`;

export const percent = (v: number) => `${Math.round(v * 100)}%`;

/** shares are the house's part of the lines over ten minutes, each minute, 0 to 1. */
export function shares(people: number[], house: number[]): number[] {
  return people.map((_, i) => {
    let p = 0;
    let h = 0;
    for (let k = Math.max(0, i - 5); k < Math.min(people.length, i + 5); k++) {
      p += people[k] ?? 0;
      h += house[k] ?? 0;
    }
    return p + h ? h / (p + h) : 0;
  });
}
