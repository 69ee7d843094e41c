import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, type Delivery, type PlacesView } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, lookedThrough } from "../api/queries";
import { Button, Quiet } from "../kit/Button";
import { Field, Select, Tick } from "../kit/Field";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { useHouseNow, useZone, when } from "../kit/time";
import { became, named } from "./places";

/** Deliveries is what went to places, waits, or did not arrive, to be looked through. */
export function Deliveries({ v }: { v: PlacesView }) {
  const [params, setParams] = useSearchParams();
  const [text, setText] = useState("");
  const place = params.get("place") ?? "";
  const bad = params.get("bad") === "1";
  const q = useInfiniteQuery(lookedThrough({ place: place || undefined, q: text.trim() || undefined, bad: bad || undefined }));
  const list = q.data?.pages.flatMap((p) => p.deliveries) ?? [];
  const set = (name: string, value: string) =>
    setParams((was) => {
      const next = new URLSearchParams(was);
      if (value) next.set(name, value);
      else next.delete(name);
      return next;
    });
  return (
    <Panel label="Deliveries">
      <Head
        end={
          <span className="flex flex-wrap items-center gap-3">
            <Select size="s" aria-label="Place" value={place} onChange={(e) => set("place", e.target.value)}>
              <option value="">every place</option>
              {v.places.map((p) => (
                <option key={p.name} value={p.name}>
                  {p.title}
                </option>
              ))}
            </Select>
            <Tick on={bad} onChange={(on) => set("bad", on ? "1" : "")}>
              only what did not arrive
            </Tick>
          </span>
        }
      >
        Deliveries
      </Head>
      <div className="px-4 pb-2">
        <Field size="s" type="search" aria-label="Look through deliveries" placeholder="A name, a word of what was sent…" value={text} onChange={(e) => setText(e.target.value)} />
      </div>
      <Scroll label="Deliveries, the newest first" className="px-4 pb-3">
        {q.data && list.length === 0 && <Empty>{bad ? "Everything arrived." : text || place ? "Nothing like that went there." : "Nothing went to a place yet."}</Empty>}
        {list.map((d) => (
          <DeliveryRow key={d.id} d={d} v={v} where />
        ))}
        {q.hasNextPage && (
          <Button size="s" className="mt-2" onClick={() => void q.fetchNextPage()}>
            Older ones
          </Button>
        )}
      </Scroll>
    </Panel>
  );
}

/** DeliveryRow is one delivery: what became of it, why it went there, and what can be done about it. */
export function DeliveryRow({ d, v, where }: { d: Delivery; v: PlacesView; where?: boolean }) {
  const zone = useZone();
  const now = useHouseNow(30_000);
  const deed = useDeed();
  const [why, setWhy] = useState(false);
  const body = { place: d.place, line: d.line };
  const place = v.places.find((p) => p.name === d.place)?.title ?? d.place;
  const what = v.happenings.find((h) => h.when === d.when);
  const open = d.state === "waiting" || d.state === "failed" || d.state === "unclear";
  return (
    <article className="delivery" data-state={d.state}>
      <time className="sub tabular-nums" dateTime={d.at}>
        {when(d.at, now, zone)}
      </time>
      <svg className="lamp" viewBox="0 0 16 16" aria-hidden data-health={d.state === "delivered" ? "well" : d.state === "failed" || d.state === "unclear" ? "trouble" : "waits"}>
        {d.state === "failed" || d.state === "unclear" ? <path d="M8 2l6 6-6 6-6-6z" /> : <circle cx="8" cy="8" r="4.5" />}
      </svg>
      <div className="min-w-0">
        <p className="m-0 whitespace-pre-line [overflow-wrap:anywhere]">
          <bdi>{d.text || "what was sent is no longer kept"}</bdi>
        </p>
        <p className={d.state === "failed" || d.state === "unclear" ? "m-0 text-[12.5px] text-persimmon" : "sub m-0"}>
          {where && `${place} · `}
          {became(d)}
        </p>
        {why && (
          <p className="sub m-0 border-l-2 border-line pl-2">
            {what && `${named(what)}, by ${d.courtesy}. `}
            {d.why.join("; ") || "Whom it was about was forgotten."}
          </p>
        )}
        {open && d.text && (
          <span className="flex gap-2 pt-1">
            <Button size="s" onClick={() => void deed(api.POST("/api/deliveries/again", { body }), { stale: [about.places] })}>
              {d.state === "waiting" ? "Send now" : "Send again"}
            </Button>
            <Button size="s" look="ghost" onClick={() => void deed(api.POST("/api/deliveries/drop", { body }), { stale: [about.places] })}>
              Drop
            </Button>
          </span>
        )}
      </div>
      <Quiet aria-expanded={why} onClick={() => setWhy(!why)}>
        why here?
      </Quiet>
    </article>
  );
}
