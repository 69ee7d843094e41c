import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { said } from "../api/client";
import { overStreams } from "../api/queries";
import { Columns } from "../kit/drawings/Columns";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { useCalendar } from "../kit/time";
import { Hours } from "./Hours";

const weekdays = ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"];

/** Over is what streams were like one after another: newcomers who came back, regulars who came, raids, and the days and hours that worked. */
export function Over() {
  const q = useQuery(overStreams);
  const go = useNavigate();
  const calendar = useCalendar();
  if (!q.data) return <div className="empty">{q.error ? said(q.error) : "…"}</div>;
  const { streams, returns, raids, hours } = q.data;
  if (streams.length === 0) return <div className="empty">After the first streams this shows what they had in common.</div>;
  const best = hours[0];
  return (
    <div className="looked">
      <h2 className="m-0 text-[20px]">Over the last {streams.length} streams</h2>
      <div className="over-boards">
        <Panel label="Newcomers who came back">
          <Head count="within five streams">Newcomers who came back</Head>
          <div className="px-4 pb-3">
            <Columns
              label="Newcomers of each stream, and how many came back"
              wide={390}
              high={200}
              list={returns.map((c) => ({
                key: String(c.stream),
                label: calendar.dated(c.opened),
                says: `${calendar.dated(c.opened)}: ${c.newcomers} new, ${c.returned} came back${c.of < 5 ? `, after ${c.of} of five streams` : ""}`,
                of: c.newcomers,
                filled: c.returned,
                open: c.of < 5,
              }))}
              onOpen={(key) => void go(`/lookback/${key}`)}
            />
          </div>
        </Panel>
        <Panel label="People, and regulars among them">
          <Head count="filled: regulars">People of each stream</Head>
          <div className="px-4 pb-3">
            <Columns
              label="People of each stream, and how many of them were regulars"
              wide={390}
              high={200}
              list={streams.map((s) => ({
                key: String(s.stream),
                label: calendar.dated(s.opened),
                says: `${calendar.dated(s.opened)}: ${s.people} people, ${s.regulars} of them regulars`,
                of: s.people,
                filled: s.regulars,
              }))}
              onOpen={(key) => void go(`/lookback/${key}`)}
            />
          </div>
        </Panel>
        <Panel label="Days and hours">
          <Head count={best && `${weekdays[best.weekday]} at ${best.hour}:00 drew most: ${Math.round(best.people)} people`}>Days and hours that worked</Head>
          <div className="px-4 pb-3">
            <Hours hours={hours} />
          </div>
        </Panel>
        <Panel label="Raids">
          <Head>What raids brought</Head>
          <Scroll label="Raids">
            {raids.length === 0 && <Empty>No raid came lately.</Empty>}
            {raids.map((r) => (
              <button key={r.raid} className="fact-row w-full px-4 text-left" onClick={() => void go(`/lookback/${r.stream}`)}>
                <span className="text-text-2">{calendar.dated(r.opened)}</span>
                <span className="min-w-0 flex-1">
                  <b>
                    <bdi>{r.name || "somebody"}</bdi>
                  </b>{" "}
                  brought {r.viewers}
                </span>
                <span className="sub">
                  {r.newcomers} new, {r.returned} came back
                </span>
              </button>
            ))}
          </Scroll>
        </Panel>
      </div>
    </div>
  );
}
