import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { api, type Dates } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, courtesies } from "../api/queries";
import { Copyable, Kept } from "../keeping/Line";
import { useSection } from "../keeping/useSection";
import { Button, Toggle } from "../kit/Button";
import { Fault, Field, Num } from "../kit/Field";
import { One } from "../kit/One";
import { Pop } from "../kit/Pop";
import { useCalendar } from "../kit/time";
import { full } from "./dates";

const week = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/** The settings of the days, as they stand in the house file. */
type Days = { monthFirst?: boolean; belatedDays?: number; round?: number[]; correctMinutes?: number; since?: string; evenings?: string[]; week?: { day: string; at: string } };

/** Dotted is a value within a sentence that opens to be changed. */
function Dotted({ label, says, children }: { label: string; says: ReactNode; children: ReactNode }) {
  return (
    <Pop
      label={label}
      width="s"
      trigger={
        <button className="dotted-value" aria-label={label}>
          {says}
        </button>
      }
    >
      {children}
    </Pop>
  );
}

/** Sentences are how the channel reads and keeps days, as sentences whose values are changed in place. */
export function Sentences({ d }: { d: Dates }) {
  const rooms = useSection("rooms");
  const leap = useSection("leapDay");
  const all = (rooms.value ?? {}) as Record<string, unknown>;
  const s = (all["day"] ?? {}) as Days;
  const put = (part: Partial<Days>) => void rooms.put({ ...all, day: { ...s, ...part } } as never);
  return (
    <div className="sentences">
      <div>
        <Feed d={d} />
        <span className="ml-auto">
          <WeekTold week={s.week} onPut={(week) => put({ week })} />
        </span>
        <span>
          streams are expected on{" "}
          <Dotted label="Expected evenings" says={d.evenings.length ? d.evenings.map((x) => x.slice(0, 3)).join(" ") : "no day yet"}>
            <p className="sub m-0 pb-1.5">{s.evenings?.length ? "As they are set here." : "As the last streams were."}</p>
            <div className="flex flex-wrap gap-1">
              {week.map((w) => (
                <Toggle
                  key={w}
                  size="s"
                  on={d.evenings.includes(w)}
                  aria-label={w}
                  onClick={() => put({ evenings: week.filter((x) => (x === w ? !d.evenings.includes(w) : d.evenings.includes(x))) })}
                >
                  {w.slice(0, 2)}
                </Toggle>
              ))}
              {!!s.evenings?.length && (
                <Button size="s" look="ghost" onClick={() => put({ evenings: undefined })}>
                  as the last streams were
                </Button>
              )}
            </div>
          </Dotted>
        </span>
      </div>
      <div>
        <span>
          In chat 3/9 is{" "}
          <Dotted label="The order of day and month" says={s.monthFirst ? "9 March" : "3 September"}>
            <One
              label="3/9 is"
              value={s.monthFirst ? "month" : "day"}
              list={[
                ["day", "3 September: the day first"],
                ["month", "9 March: the month first"],
              ]}
              onPick={(v) => put({ monthFirst: v === "month" || undefined })}
            />
          </Dotted>
        </span>
        <span>
          29 February is kept on{" "}
          <Dotted label="29 February" says={leap.value ?? "28 February"}>
            <One
              label="29 February is kept on"
              value={leap.value ?? "28 February"}
              list={[
                ["28 February", "28 February"],
                ["1 March", "1 March"],
              ]}
              onPick={(v) => void leap.put(v as "1 March")}
            />
          </Dotted>
        </span>
        <span>
          belated for{" "}
          <Dotted label="Belated for" says={`${s.belatedDays || 7} days`}>
            <Num label="Days" value={s.belatedDays || 7} onChange={(n) => put({ belatedDays: n ? Math.round(n) : undefined })} /> days after it passed
          </Dotted>
        </span>
        <span>
          corrected within{" "}
          <Dotted label="Corrected within" says={`${s.correctMinutes || 5} minutes`}>
            <Num label="Minutes" value={s.correctMinutes || 5} onChange={(n) => put({ correctMinutes: n ? Math.round(n) : undefined })} /> minutes; after that a moderator clears it
          </Dotted>
        </span>
        <span>
          the channel began on{" "}
          <Dotted label="The channel began on" says={s.since ? full(s.since) + s.since.slice(0, 4).padStart(5) : "a day not told yet"}>
            <Field size="s" type="date" aria-label="The channel's first day" value={s.since ?? ""} onChange={(e) => put({ since: e.target.value || undefined })} />
            <p className="sub m-0 pt-1">A courtesy of the opening can ask for that day each year.</p>
          </Dotted>
        </span>
        <span>
          round numbers <Round list={s.round} onPut={(round) => put({ round })} />
        </span>
        <span className="ml-auto">
          {rooms.fault && <Fault role="alert">{rooms.fault.words}</Fault>}
          <Kept on={rooms.saved || leap.saved} />
        </span>
      </div>
    </div>
  );
}

const weekTold = "porch.dates.week";

/** WeekTold says when the week's dates are told, and by which courtesy. */
function WeekTold({ week: at, onPut }: { week?: { day: string; at: string }; onPut: (week?: { day: string; at: string }) => void }) {
  const deed = useDeed();
  const go = useNavigate();
  const all = useQuery(courtesies).data?.courtesies ?? [];
  const by = all.find((c) => c.when === weekTold && !c.rule.away);
  const make = async () => {
    const made = await deed(api.POST("/api/courtesies", { body: { when: weekTold, slot: "" } }), { stale: [about.courtesies] });
    if (made) void go(`/courtesies/${made.id}`);
  };
  return (
    <>
      {at ? "Each " : ""}
      <Dotted label="When the week’s dates are told" says={at ? `${at.day} at ${at.at}` : "Never"}>
        <One
          label="Weekday"
          value={at?.day ?? ""}
          list={[["", "never"], ...week.map((w): [string, string] => [w, w])]}
          onPick={(day) => onPut(day ? { day, at: at?.at ?? "10:00" } : undefined)}
        />
        {at && <Field size="s" className="mt-1.5" type="time" aria-label="At" value={at.at} onChange={(e) => e.target.value && onPut({ ...at, at: e.target.value })} />}
      </Dotted>{" "}
      the week’s dates are told{" "}
      {by ? (
        <Link className="dotted-value" to={`/courtesies/${by.id}`}>
          {by.on ? by.outputs.map((o) => (o.place ? `at ${o.place}` : o.does)).join(" and ") || "nowhere yet" : "nowhere: it is switched off"}
        </Link>
      ) : (
        <button className="dotted-value" onClick={() => void make()}>
          nowhere yet: say where
        </button>
      )}
    </>
  );
}

function Round({ list, onPut }: { list?: number[]; onPut: (list?: number[]) => void }) {
  const now = (list?.length ? list : [10, 25, 50, 100]).join(", ");
  const [text, setText] = useState(now);
  return (
    <Dotted label="Round numbers" says={`${now}, then each 100`}>
      <Field
        size="s"
        aria-label="Numbers of streams"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => {
          const numbers = text
            .split(/[^0-9]+/)
            .filter(Boolean)
            .map(Number);
          onPut(numbers.length ? numbers : undefined);
        }}
      />
      <p className="sub m-0 pt-1">Streams somebody was at. Beyond the last, each further hundred.</p>
    </Dotted>
  );
}

/** Feed is the address at which the days can be subscribed to: it is shown once. */
function Feed({ d }: { d: Dates }) {
  const deed = useDeed();
  const cal = useCalendar();
  const [address, setAddress] = useState("");
  const make = () => deed(api.POST("/api/dates/feed"), { stale: [about.dates], then: (made) => setAddress(made.address) });
  const take = () => deed(api.DELETE("/api/dates/feed"), { stale: [about.dates], then: () => setAddress(""), say: "The address answers nobody any more." });
  return (
    <span className="flex flex-wrap items-center gap-2">
      Calendar feed
      {address ? (
        <Copyable text={address.startsWith("/") ? location.origin + address : address} label="the address" />
      ) : d.feed ? (
        <span className="sub">
          an address was made {cal.dated(d.feed.made)} by {d.feed.member}; it was shown then
        </span>
      ) : (
        <span className="sub">none yet</span>
      )}
      <Button size="s" onClick={() => void make()}>
        {d.feed ? "New address" : "Make an address"}
      </Button>
      {d.feed && (
        <Button size="s" look="ghost" onClick={() => void take()}>
          Take it away
        </Button>
      )}
    </span>
  );
}
