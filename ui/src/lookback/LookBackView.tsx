import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { said } from "../api/client";
import { lookBack, lookBacks } from "../api/queries";
import { Button } from "../kit/Button";
import { SmallEvening } from "../kit/drawings/SmallEvening";
import { Field } from "../kit/Field";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { fully, useZone } from "../kit/time";
import { Over } from "./Over";
import { Page } from "./Page";
import "./lookback.css";

export default function LookBackView() {
  const { stream } = useParams();
  const go = useNavigate();
  const zone = useZone();
  const [text, setText] = useState("");
  const list = useInfiniteQuery(lookBacks(text));
  const streams = list.data?.pages.flatMap((p) => p.streams) ?? [];
  const over = stream === "over";
  const number = over ? 0 : Number(stream) || streams[0]?.stream || 0;
  const q = useQuery(lookBack(number));
  const longest = Math.max(60, ...streams.map((s) => s.minutes.length));
  return (
    <main className="lookback">
      <h1 className="sr-only">Look back</h1>
      <Panel label="Streams">
        <Head
          count={list.data?.pages[0]?.total}
          end={
            <Button size="s" on={over} onClick={() => void go("/lookback/over")}>
              Over streams
            </Button>
          }
        >
          Streams
        </Head>
        <div className="px-3 pb-2">
          <Field type="search" className="w-full" placeholder="Find a title, a person, a day…" aria-label="Find a stream" value={text} onChange={(e) => setText(e.target.value)} />
        </div>
        <Scroll label="Streams, newest first">
          {list.data && streams.length === 0 && (
            <Empty>{text ? "No stream has such a title, such a day, or somebody of that name." : "No stream is over yet. Each gets its page here when it closes."}</Empty>
          )}
          {list.error && <Empty>{said(list.error)}</Empty>}
          {streams.map((s) => (
            <button key={s.stream} className="small-stream" aria-current={s.stream === number || undefined} onClick={() => void go(`/lookback/${s.stream}`)}>
              <span className="sub flex justify-between">
                <span>{fully(s.opened, zone).replace(/, .*/, "")}</span>
                <span>{s.people === 1 ? "1 person" : `${s.people} people`}</span>
              </span>
              <b className="cut">{s.title || `Stream ${s.stream}`}</b>
              {s.minutes.length > 0 && (
                <SmallEvening
                  evening={s}
                  longest={longest}
                  lit={s.stream === number}
                  label={`${s.minutes.length} minutes, ${s.raids.length === 1 ? "1 raid" : `${s.raids.length} raids`}`}
                />
              )}
            </button>
          ))}
          {list.hasNextPage && (
            <Button size="s" className="m-3" onClick={() => void list.fetchNextPage()}>
              Earlier ones
            </Button>
          )}
        </Scroll>
      </Panel>
      {over ? (
        <Over />
      ) : q.data ? (
        <Page of={q.data} />
      ) : (
        <div className="empty">
          {q.error ? said(q.error) : number === 0 && list.data ? <b>A stream’s page is made when it closes: who came, who was new, who was not greeted and why.</b> : "…"}
        </div>
      )}
    </main>
  );
}
