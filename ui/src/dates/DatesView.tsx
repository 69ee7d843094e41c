import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { said, type DateEntry, type Dates } from "../api/client";
import { useByHand } from "../api/deeds";
import { dates } from "../api/queries";
import { Button } from "../kit/Button";
import { Pebbles } from "../kit/drawings/Pebbles";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { clock, span, useHouseNow, useZone } from "../kit/time";
import { Coming } from "./Coming";
import { full, weekday, why } from "./dates";
import { Sentences } from "./Sentences";
import { Who } from "./Who";
import { YearBoard } from "./YearBoard";
import "./dates.css";

export default function DatesView() {
  const [all, setAll] = useState(false);
  const q = useQuery(dates(all));
  if (!q.data) return <main className="empty">{q.error ? said(q.error) : "…"}</main>;
  const d = q.data;
  return (
    <main className="dates">
      <h1 className="sr-only">Dates</h1>
      <Today d={d} />
      <Missed d={d} />
      <YearBoard d={d} all={all} onAll={setAll} />
      <Coming d={d} />
      <Sentences d={d} />
    </main>
  );
}

const tellsSince = (e: DateEntry, zone: string) => (e.since ? `here since ${clock(e.since, zone)}` : "not here yet");

function Today({ d }: { d: Dates }) {
  const zone = useZone();
  const now = useHouseNow(1000);
  const came = (e: DateEntry) => [...e.strip].filter((b) => b !== "0").length;
  return (
    <Panel label="Today">
      <Head count={full(d.today)}>Today</Head>
      <Scroll label="Days of today">
        {d.entries.length === 0 && <Empty>Nobody’s day is today, as far as the guest book knows.</Empty>}
        {d.entries.map((e) => (
          <div key={`${e.person} ${e.kind}`} className="day-row">
            <Who e={e} />
            <div className="sub grid gap-1 text-right leading-tight">
              <span>{tellsSince(e, zone)}</span>
              <span>
                {e.kept ? "celebrated" : e.due ? `in Coming up, ${span(Date.parse(e.due) - now)}` : e.since ? "not celebrated yet" : `came to ${came(e)} of ${e.strip.length}`}
              </span>
            </div>
          </div>
        ))}
      </Scroll>
    </Panel>
  );
}

function Missed({ d }: { d: Dates }) {
  const zone = useZone();
  const byHand = useByHand();
  return (
    <Panel label="Belated">
      <Head count={d.missed.length === 1 ? "1 missed day" : `${d.missed.length} missed days`}>Belated</Head>
      <Scroll label="Missed days">
        {d.missed.length === 0 && <Empty>No day was missed lately.</Empty>}
        {d.missed.map((e) => (
          <div key={`${e.person} ${e.kind}`} className="day-row">
            <Who e={e}>
              <span className="sub whitespace-nowrap phone:hidden">
                {weekday(e.on)} {Number(e.on.slice(8))} · {why(e)}
              </span>
            </Who>
            <div className="grid justify-items-end gap-1">
              <span className="sub flex items-center gap-1.5 whitespace-nowrap">
                <Pebbles left={Math.min(7, e.left)} />
                {e.left === 1 ? "1 day left" : `${e.left} days left`}
              </span>
              <span className="flex items-center gap-2">
                {e.since && <span className="sub">here since {clock(e.since, zone)}</span>}
                {e.due ? (
                  <span className="sub">in Coming up</span>
                ) : (
                  <Button size="s" look={e.since ? "lit" : "plain"} onClick={() => byHand("celebrate", e.account)} aria-label={`Celebrate ${e.name} now`}>
                    Celebrate now
                  </Button>
                )}
              </span>
            </div>
          </div>
        ))}
      </Scroll>
    </Panel>
  );
}
