import { useInfiniteQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import type { Moment } from "../api/client";
import { useUndo } from "../api/deeds";
import { story } from "../api/queries";
import { Button, Quiet } from "../kit/Button";
import { Shape } from "../kit/drawings/Lantern";
import { span, useCalendar } from "../kit/time";

const kinds = {
  all: () => true,
  raids: (m: Moment) => m.kind.startsWith("raid"),
  names: (m: Moment) => m.kind === "name",
  said: (m: Moment) => m.kind === "said",
  changes: (m: Moment) => m.kind === "changed",
} as const;

/** Story tells what happened with somebody, newest first. */
export function Story({ person }: { person: number }) {
  const calendar = useCalendar();
  const undo = useUndo();
  const [only, setOnly] = useState<keyof typeof kinds>("all");
  const q = useInfiniteQuery(story(person));
  const all = q.data?.pages.flatMap((p) => p.moments) ?? [];
  const shown = all.filter(kinds[only]);
  return (
    <div className="border-t border-line pb-2">
      <div className="flex flex-none items-baseline gap-2 px-4 pt-3 pb-1">
        <h3 className="m-0 text-[15px] font-semibold">Story</h3>
        <span className="ml-auto flex gap-0.5" role="group" aria-label="Which part of the story">
          {(Object.keys(kinds) as (keyof typeof kinds)[]).map((k) => (
            <button key={k} className="letter w-auto px-1.5" aria-pressed={only === k} onClick={() => setOnly(k)}>
              {k}
            </button>
          ))}
        </span>
      </div>
      <ol className="tl">
        {shown.map((m, i) => (
          <li key={i}>
            <time dateTime={m.at}>{calendar.dated(m.at)}</time>
            <span aria-hidden>{sign(m)}</span>
            <span className={m.undone && m.kind === "changed" ? "line-through opacity-70" : ""}>
              <Told m={m} />
              {m.kind === "changed" && !m.undone && (
                <Quiet className="ml-2" onClick={() => void undo(m.seq!)}>
                  undo
                </Quiet>
              )}
            </span>
          </li>
        ))}
        {q.data && shown.length === 0 && <li className="sub">Nothing of this kind yet.</li>}
      </ol>
      {q.hasNextPage && (
        <Button size="s" className="mx-4 mt-1" onClick={() => void q.fetchNextPage()}>
          Earlier
        </Button>
      )}
    </div>
  );
}

function sign(m: Moment): ReactNode {
  switch (m.kind) {
    case "raid came":
      return <Shape name="wave" size={13} className="text-marigold" />;
    case "raid went":
      return <span className="text-lagoon">↗</span>;
    case "said":
      return <span className="text-marigold">❙</span>;
    case "name":
    case "changed":
      return <span className="muted">✎</span>;
    case "support":
      return <span className="text-fern">+</span>;
    case "follow":
      return <span className="text-rose-clay">♦</span>;
  }
  return <span className="text-lagoon">●</span>;
}

function Told({ m }: { m: Moment }) {
  const t = <bdi>{m.text}</bdi>;
  switch (m.kind) {
    case "visit":
      return (
        <>
          here for {span(Date.parse(m.until!) - Date.parse(m.at))}, {m.lines} {m.lines === 1 ? "line" : "lines"} <span className="sub">· stream {m.stream}</span>
        </>
      );
    case "raid came":
      return (
        <>
          brought {m.viewers} people{m.undone ? ", thanked" : ", not thanked yet"}
        </>
      );
    case "raid went":
      return <>we brought {m.viewers} people to them</>;
    case "said":
      return <>the house said: {t}</>;
    case "name":
      return <>goes by {t}</>;
    case "follow":
      return <>follows</>;
    case "changed":
      return (
        <>
          {t} {m.member && <span className="sub">by {m.member}</span>}
        </>
      );
  }
  return t;
}
