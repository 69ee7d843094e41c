import { useMemo, useState } from "react";
import { api, type Coming } from "../api/client";
import { useDeed } from "../api/deeds";
import { useLive } from "../api/live";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";
import { Empty, Head, Scroll } from "../kit/Panel";
import { span, useHouseNow } from "../kit/time";
import { useHeld } from "../kit/useHeld";
import { titled } from "../kit/words";

/** useLine does something with a line that is coming up. */
function useLine() {
  const deed = useDeed();
  return (line: string, act: "hurry" | "drop" | "change", text?: string, then?: () => void) => void deed(api.POST("/api/desk/line", { body: { line, act, text } }), { then });
}

/** Row is a line that is coming up, with those that would leave as one with it. */
type Row = Coming & { others: Coming[] };

/** rows gathers what came in quick succession: it leaves as one, and stands as one. */
function rows(list: Coming[]): Row[] {
  const out: Row[] = [];
  for (const c of list) {
    const first = c.burst && c.joins && out.find((r) => r.burst === c.burst && r.joins && r.platforms.join() === c.platforms.join());
    if (first) first.others.push(c);
    else out.push({ ...c, others: [] });
  }
  return out;
}

const nothing: Coming[] = [];

export function ComingUp() {
  const coming = useLive((s) => s.coming) ?? nothing;
  const now = useHouseNow(1000);
  const all = useMemo(() => rows(coming), [coming]);
  const { list, isGone, holds } = useHeld(all, (c) => c.line);
  const joins = coming.filter((c) => c.joins).length;
  const first = coming.find((c) => !c.hushed);
  return (
    <section className="flex min-h-[45%] flex-col" aria-label="Coming up" {...holds}>
      <Head
        count={coming.length}
        end={
          first && (
            <span className="sub">
              {joins > 0 ? `${joins} as one in ` : "next in "}
              {span(Date.parse(first.due) - now)}
            </span>
          )
        }
      >
        Coming up
      </Head>
      <Scroll label="Lines coming up">
        {list.length === 0 && <Empty>Nothing waits. What the house is about to say stands here first, with time to stop it.</Empty>}
        {list.map((c) => (
          <ComingLine key={c.line} c={c} now={now} gone={isGone(c)} />
        ))}
      </Scroll>
    </section>
  );
}

/** Whoever asks to change a line goes on by typing. */
const focus = (el: HTMLInputElement | null) => el?.focus();

/** What stands between what a line is and whom it is for, as people say it. */
const toward: Record<string, string> = { Thanks: "to", "Raid thanks": "to", Answer: "to" };

function ComingLine({ c, now, gone }: { c: Row; now: number; gone: boolean }) {
  const [text, setText] = useState<string>();
  const act = useLine();
  const keep = () => act(c.line, "change", text, () => setText(undefined));
  const left = Math.max(0, Date.parse(c.due) - now);
  const whole = Math.max(1, Date.parse(c.due) - Date.parse(c.made));
  return (
    <div className={gone ? "cu gone" : "cu"} data-line={c.line}>
      <div className="t">
        <Countdown part={gone ? 0 : left / whole} text={gone ? "" : c.hushed ? "–" : left < 99_500 ? String(Math.ceil(left / 1000)) : `${Math.ceil(left / 60_000)}m`} />
        <span className="cut">
          {c.label}
          {c.name ? (
            <>
              {" "}
              {toward[c.label ?? ""] ?? "for"}{" "}
              <b>
                <bdi>{c.name}</bdi>
              </b>
              {c.others.length ? ` and ${c.others.length} more, as one` : ""}
            </>
          ) : null}{" "}
          · {c.effect ? `${c.effect} · ` : ""}
          {c.platforms.map((p) => titled(p)).join(", ")}
          {c.streamer ? " · as the streamer" : ""}
          {c.try ? " · a try" : ""}
          {c.hushed ? " · held by hush" : c.asking ? " · asking the platform" : c.byHand ? " · by hand" : ""}
        </span>
      </div>
      {text === undefined ? (
        <p>
          <bdi>{c.others.length ? [c, ...c.others].map((x) => x.name).join(", ") : c.text}</bdi>
        </p>
      ) : (
        <form
          className="py-1"
          onSubmit={(e) => {
            e.preventDefault();
            keep();
          }}
        >
          <Field aria-label="Change the line" ref={focus} value={text} onChange={(e) => setText(e.target.value)} onKeyDown={(e) => e.key === "Escape" && setText(undefined)} />
        </form>
      )}
      <div className="r">
        {gone ? (
          <span className="sub">no longer waiting</span>
        ) : (
          <>
            <Button size="s" look="lit" hidden={c.others.length > 0} onClick={() => act(c.line, "hurry")}>
              {c.effect ? "Do it now" : "Say now"}
            </Button>
            <Button size="s" hidden={!!c.effect || c.others.length > 0} onClick={() => (text === undefined ? setText(c.text) : keep())}>
              {text === undefined ? "Change" : "Keep"}
            </Button>
            <Button size="s" look="ghost" onClick={() => [c, ...c.others].forEach((x) => act(x.line, "drop"))}>
              {c.others.length ? "Drop them all" : "Drop"}
            </Button>
          </>
        )}
      </div>
    </div>
  );
}

function Countdown({ part, text }: { part: number; text: string }) {
  return (
    <svg width="26" height="26" viewBox="0 0 26 26" className="flex-none" aria-hidden>
      <circle cx="13" cy="13" r="10.5" fill="none" stroke="var(--color-line)" strokeWidth="3" />
      <circle
        cx="13"
        cy="13"
        r="10.5"
        fill="none"
        stroke="var(--color-marigold)"
        strokeWidth="3"
        strokeDasharray={`${66 * Math.min(1, part)} 66`}
        transform="rotate(-90 13 13)"
        strokeLinecap="round"
      />
      <text x="13" y="17" fontSize="12" fill="var(--color-text)" textAnchor="middle" fontWeight="600">
        {text}
      </text>
    </svg>
  );
}
