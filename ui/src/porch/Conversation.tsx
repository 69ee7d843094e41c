import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, type Ref, useCallback, useEffect, useImperativeHandle, useLayoutEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { api, type Entry } from "../api/client";
import { useDeed } from "../api/deeds";
import { current, useLive, useSlowly } from "../api/live";
import { thread } from "../api/queries";
import { toast } from "../api/toast";
import { Button, Quiet } from "../kit/Button";
import { DateShape } from "../kit/drawings/DateShape";
import { LanternShape, Shape, shapeOf } from "../kit/drawings/Lantern";
import { Field, Select } from "../kit/Field";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { clock, nth, useCalendar, useHouseNow, useZone } from "../kit/time";
import { Tooltip } from "../kit/Tooltip";
import { titled } from "../kit/words";
import { Cards } from "./Cards";
import { WhyLine } from "./Why";

export type ConversationHandle = { go: (id: string) => void };

const nothing: Entry[] = [];

export function Conversation({ ref }: { ref: Ref<ConversationHandle> }) {
  const scroll = useRef<HTMLDivElement>(null);
  const [follow, setFollow] = useState<{ on: boolean; seen?: string }>({ on: true }); // and the newest line that was read when it stopped
  const following = follow.on;
  const [openWhy, setOpenWhy] = useState<string>();
  const entries = useLive((s) => s.entries) ?? nothing;
  const zone = useZone();
  const cannotDelete = useLive((s) => s.acts.find((a) => a.act === "delete line")?.cannot);
  const virtual = useVirtualizer({
    count: entries.length,
    getScrollElement: () => scroll.current,
    overscan: 12,
    getItemKey: (i) => entries[i]!.id + entries[i]!.kind,
    anchorTo: following ? "start" : "end", // what is read stays where it is when the page lets its oldest lines go
    estimateSize: (i) => (({ line: 29, house: 62 }) as Record<string, number>)[entries[i]!.kind] ?? 30,
  });
  const last = entries[entries.length - 1]?.id;
  const total = virtual.getTotalSize();
  const goOn = () => setFollow({ on: true });
  const stop = useCallback(() => setFollow((f) => (f.on ? { on: false, seen: current()?.entries.at(-1)?.id } : f)), []);
  useLayoutEffect(() => {
    if (following && scroll.current) scroll.current.scrollTop = total; // as far as it goes; asking how far costs a layout each time
  }, [following, last, total]);
  useImperativeHandle(ref, () => ({
    go: (id) => {
      const i = entries.findIndex((e) => e.id === id || e.line === id);
      if (i >= 0) {
        stop();
        virtual.scrollToIndex(i, { align: "center" });
      } else toast("That is further back than this page goes.");
    },
  }));
  const askWhy = useCallback(
    (id: string) => {
      stop();
      setOpenWhy((open) => (open === id ? undefined : id));
      setTimeout(() => document.querySelector(".reasons")?.scrollIntoView({ block: "nearest" }), 250); // whatever was opened is to be read
    },
    [stop],
  );
  const behind = following ? 0 : entries.length - 1 - entries.findIndex((e) => e.id === follow.seen);
  return (
    <Panel label="Conversation">
      <Head count={<Pace />} end={<HouseShare />}>
        Conversation
      </Head>
      {entries.length === 0 && (
        <Empty>
          <b>It is quiet.</b> Open the stream on your platform, or say hello in chat from the street: every line, arrival and house line will stand here.
        </Empty>
      )}
      <Scroll
        ref={scroll}
        label="What was said"
        data-testid="conversation"
        onWheel={(e) => {
          if (e.deltaY < 0) stop();
        }}
        onKeyDown={(e) => {
          if (["PageUp", "ArrowUp", "Home"].includes(e.key)) stop();
          if (e.key === "End") goOn();
        }}
        onTouchMove={() => stop()}
        onScroll={(e) => {
          const el = e.currentTarget;
          if (el.scrollHeight - el.scrollTop - el.clientHeight < 4 && !following) goOn();
        }}
      >
        <div style={{ height: total, position: "relative" }}>
          {virtual.getVirtualItems().map((v) => {
            const e = entries[v.index]!;
            return (
              <div key={v.key} data-index={v.index} ref={virtual.measureElement} style={{ position: "absolute", top: 0, left: 0, right: 0, transform: `translateY(${v.start}px)` }}>
                <EntryRow e={e} zone={zone} why={openWhy === e.id} able={e.kind === "line" && !cannotDelete?.[e.platform ?? ""]} onWhy={askWhy} />
              </div>
            );
          })}
        </div>
      </Scroll>
      {!following && behind > 0 && (
        <Button look="lit" className="fresh-lines" onClick={() => goOn()}>
          {behind} new
        </Button>
      )}
      <Cards />
      <SayBox />
      <Arrivals entries={entries} />
    </Panel>
  );
}

/** linesSince counts what people said since a moment, the newest first. */
function linesSince(entries: Entry[], from: number): number {
  let n = 0;
  for (let i = entries.length - 1; i >= 0 && Date.parse(entries[i]!.at) > from; i--) if (entries[i]!.kind === "line") n++;
  return n;
}

/** Pace is how fast chat goes: lines in the last minute. */
function Pace() {
  const ago = useHouseNow(5000) - 60_000;
  return <>{useSlowly(1000, (s) => linesSince(s.entries, ago)) ?? 0} lines a minute</>;
}

function HouseShare() {
  const people = useSlowly(1000, (s) => s.live.people) ?? 0;
  const house = useSlowly(1000, (s) => s.live.house) ?? 0;
  const all = people + house;
  return (
    <Tooltip text={`${house} of ${all} lines in this stream are the house's`}>
      <button className="sub cursor-help">
        house share <b className="text-fern">{all ? Math.round((100 * house) / all) : 0}%</b>
      </button>
    </Tooltip>
  );
}

/** Arrivals are told politely to a screen reader, a few at a time. */
function Arrivals({ entries }: { entries: Entry[] }) {
  const [text, setText] = useState("");
  const told = useRef<string>(undefined);
  useEffect(() => {
    const t = setTimeout(() => {
      const news: string[] = [];
      for (let i = entries.length - 1; i >= 0 && entries[i]!.id !== told.current && news.length < 6; i--)
        if (entries[i]!.kind === "arrival") news.unshift(`${entries[i]!.name}, ${entries[i]!.standing}`);
      told.current = entries[entries.length - 1]?.id;
      if (news.length) setText(`Arrived: ${news.join("; ")}`);
    }, 4000);
    return () => clearTimeout(t);
  }, [entries]);
  return (
    <div className="sr-only" role="status" aria-live="polite">
      {text}
    </div>
  );
}

/** LeftOff is what somebody who comes back last said to the streamer, or asked: where their talk can go on. */
function LeftOff({ account, at }: { account: string; at: string }) {
  const opened = useLive((s) => s.live.opened);
  const earlier = !!opened && Date.parse(at) < Date.parse(opened); // that stream is over: what they said since is no matter of it
  const left = useQuery({ ...thread(account, opened), enabled: !earlier }).data;
  const calendar = useCalendar();
  if (!left || earlier) return null;
  return (
    <div className="left-off" title={left.text}>
      <span className="sub">left off on {calendar.dated(left.at)}:</span> <bdi>“{left.text}”</bdi>
    </div>
  );
}

const states: Record<string, string> = { sending: "on its way", refused: "not said", uncertain: "perhaps said" };

/** EntryRow is one line of the conversation; it is drawn anew only when it changes. */
const EntryRow = memo(function EntryRow({ e, zone, why, able, onWhy }: { e: Entry; zone: string; why: boolean; able: boolean; onWhy: (id: string) => void }) {
  const deed = useDeed();
  switch (e.kind) {
    case "line":
      return (
        <div className="ln group">
          <time>{clock(e.at, zone)}</time>
          <div>
            <Badge p={e.platform} />
            <Link to={`/book/of/${encodeURIComponent(e.account ?? "")}`} className="who" title={e.name}>
              <bdi>{e.name}</bdi>
            </Link>{" "}
            <bdi>{e.text}</bdi>
            {e.guard && <span className="sub"> · {e.guard}</span>}
            {e.late && <span className="sub"> · came late</span>}
            {e.message && able && (
              <Quiet
                className="ml-2 opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
                aria-label={`Delete this line of ${e.name}`}
                onClick={() => void deed(api.POST("/api/desk/act", { body: { act: "delete line", platform: e.platform!, message: e.message, login: e.login } }))}
              >
                delete
              </Quiet>
            )}
          </div>
        </div>
      );
    case "house":
      return (
        <div className="hs" data-line={e.line}>
          <svg className="hang" width="64" height="30" viewBox="0 0 64 30" aria-hidden>
            <g transform="translate(25,0) scale(.42)">
              <LanternShape lit />
            </g>
            <path d="M32 18 12 30M32 18 52 30" stroke="var(--color-text-3)" strokeWidth="1" />
          </svg>
          <div className="board">
            <div>
              <span>
                <Badge p={e.platform} />
                {e.streamer && <span className="sub">as the streamer · </span>}
                <Named text={e.text ?? ""} names={e.names ?? []} />
                {e.state && states[e.state] && <span className="sub"> · {states[e.state]}</span>}
              </span>
              <Quiet className="ml-auto" aria-expanded={why} onClick={() => onWhy(e.id)}>
                why?
              </Quiet>
            </div>
            {why && e.line && <WhyLine line={e.line} />}
          </div>
        </div>
      );
    case "arrival": {
      const shape = shapeOf(e.standing);
      return (
        <>
          <div className={e.day ? "av with-day" : "av"}>
            {shape && <Shape name={shape} size={13} />}
            <span>
              <b>
                <bdi>{e.name}</bdi>
              </b>{" "}
              {e.standing === "newcomer"
                ? "arrives for the first time"
                : e.standing === "long away"
                  ? `is back after long away · ${nth(e.streams ?? 1)} stream`
                  : `arrives · ${nth(e.streams ?? 1)} stream`}
              {e.day && (
                <span className="day-of">
                  <DateShape kind="birthday" size={12} /> {e.day}
                </span>
              )}
            </span>
          </div>
          {e.standing !== "newcomer" && e.account && <LeftOff account={e.account} at={e.at} />}
        </>
      );
    }
    case "raid":
      return (
        <div className="av">
          <Shape name="wave" size={14} className="text-marigold" />
          <span>
            <b>
              <bdi>{e.name}</bdi>
            </b>{" "}
            came by with {e.viewers} people{e.late ? " · told late" : ""}
          </span>
        </div>
      );
    case "follow":
      return (
        <div className="av">
          <span>
            <b>
              <bdi>{e.name}</bdi>
            </b>{" "}
            follows from now on
          </span>
        </div>
      );
    case "happening":
      return (
        <div className="av">
          <span>
            <b>
              <bdi>{e.name}</bdi>
            </b>{" "}
            <bdi>{e.text}</bdi>
          </span>
        </div>
      );
    case "act":
      return (
        <div className="av flex-wrap" data-act={e.line}>
          <span>
            <b>{titled(e.platform).replaceAll("-", " ")}</b>
            {e.state === "refused" ? " refused: " : ": "}
            <bdi>{e.text}</bdi>
            {e.undo && e.line && (
              <Quiet className="ml-2" onClick={() => void deed(api.POST("/api/desk/undo", { body: { line: e.line! } }))}>
                take back
              </Quiet>
            )}
            {e.line && (
              <Quiet className="ml-2" aria-expanded={why} onClick={() => onWhy(e.id)}>
                why?
              </Quiet>
            )}
          </span>
          {why && e.line && (
            <div className="basis-full">
              <WhyLine line={e.line} />
            </div>
          )}
        </div>
      );
    case "post":
      return (
        <div className="av">
          <span>
            Posted to <b>{e.name}</b>
          </span>
        </div>
      );
    default:
      return (
        <div className="av">
          <span>
            {e.platform ? `${titled(e.platform)}: ` : ""}
            {e.text}
          </span>
        </div>
      );
  }
});

function Badge({ p }: { p?: string }) {
  return p ? (
    <span className="pl" title={titled(p)}>
      <span className="sr-only">{titled(p)}: </span>
      <span aria-hidden>{p[0]!.toUpperCase()}</span>
    </span>
  ) : null;
}

/** Named sets the people in a house line in bold; the rest is plain text. */
function Named({ text, names }: { text: string; names: string[] }) {
  const parts: (string | { name: string })[] = [text];
  for (const n of names.filter(Boolean)) {
    const i = parts.findIndex((p) => typeof p === "string" && p.includes(n));
    if (i < 0) continue;
    const s = parts[i] as string;
    const at = s.indexOf(n);
    parts.splice(i, 1, s.slice(0, at), { name: n }, s.slice(at + n.length));
  }
  return (
    <bdi>
      {parts.map((p, i) =>
        typeof p === "string" ? (
          p
        ) : (
          <b key={i} className="font-semibold">
            {p.name}
          </b>
        ),
      )}
    </bdi>
  );
}

const nowhere: string[] = [];

function SayBox() {
  const platforms = useLive((s) => s.chat) ?? nowhere;
  const deed = useDeed();
  const [text, setText] = useState("");
  const [to, setTo] = useState("");
  return (
    <form
      className="say"
      onSubmit={(ev) => {
        ev.preventDefault();
        if (text.trim()) void deed(api.POST("/api/desk/say", { body: { text, to: to ? [to] : [] } }), { then: () => setText("") });
      }}
    >
      <Field placeholder="Say something as the house…" aria-label="Say something as the house" value={text} onChange={(ev) => setText(ev.target.value)} maxLength={400} />
      <Select size="s" aria-label="Where" value={to} onChange={(ev) => setTo(ev.target.value)}>
        <option value="">{platforms.map(titled).join(" + ") || "nowhere"}</option>
        {platforms.map((p) => (
          <option key={p} value={p}>
            {titled(p)}
          </option>
        ))}
      </Select>
    </form>
  );
}
