import { addDays, parseISO } from "date-fns";
import { useMemo, useRef, useState, type KeyboardEvent } from "react";
import { Link } from "react-router";
import type { Dates, YearEntry } from "../api/client";
import { DateMark, DateShape } from "../kit/drawings/DateShape";
import { Head, Panel } from "../kit/Panel";
import { evening, full, kinds, says, stretch, tide, yearOf, type Cell } from "./dates";

// The drawing, in units that are about a pixel.
const W = 768;
const left = 36;
const right = 30;
const top = 20;
const rowHigh = 27;
const wide = (W - left - right) / 31; // of a day
const mark = 10.5;
const X = (day: number) => left + (day - 1) * wide;

/** YearBoard is the year as a tide table: a row a month, a mark a date, a soft tide where dates crowd. */
export function YearBoard({ d, all, onAll }: { d: Dates; all: boolean; onAll: (all: boolean) => void }) {
  const [off, setOff] = useState<ReadonlySet<YearEntry["kind"]>>(new Set());
  const [at, setAt] = useState<string>(); // the day that is told of
  const year = useMemo(() => yearOf(d, (k) => !off.has(k)), [d, off]);
  const everything = useMemo(() => [...d.missed, ...d.entries, ...d.year], [d]);
  const shown = year.cells.find((c) => c.key === at);
  return (
    <Panel label="The year" className="year" onMouseLeave={() => setAt(undefined)}>
      <Head
        count={`${everything.length} dates`}
        end={
          <span className="sub flex gap-4 phone:hidden">
            <span className="flex items-center gap-1.5">
              <i className="swatch" aria-hidden /> stream expected
            </span>
            <span className="flex items-center gap-1.5">
              <i className="stroke" aria-hidden /> next 30 days
            </span>
            <span className="flex items-center gap-1.5">
              <i className="stroke dotted" aria-hidden /> belated
            </span>
          </span>
        }
      >
        The year
      </Head>
      <div className="flex flex-wrap items-center gap-1.5 px-4 pb-1.5" role="group" aria-label="Kinds of dates">
        {(Object.keys(kinds) as YearEntry["kind"][]).map((k) => (
          <button
            key={k}
            className="kind"
            aria-pressed={!off.has(k)}
            onClick={() =>
              setOff((was) => {
                const next = new Set(was);
                if (!next.delete(k)) next.add(k);
                return next;
              })
            }
          >
            <span className="flex items-center gap-1.5">
              <DateShape kind={kinds[k].shape} />
              {kinds[k].name} {everything.filter((e) => e.kind === k).length}
            </span>
          </button>
        ))}
        <button className="dotted-value sub ml-auto" onClick={() => onAll(!all)}>
          {all ? (d.more ? `the first ${d.people} people` : "everybody in the guest book") : "people seen in the last 20 streams"}
        </button>
      </div>
      <div className="year-scroll">
        <div className="relative min-w-[640px]">
          <Table d={d} year={year} at={at} onAt={setAt} />
          {shown && <Told d={d} c={shown} />}
        </div>
      </div>
    </Panel>
  );
}

function Table({ d, year, at, onAt }: { d: Dates; year: ReturnType<typeof yearOf>; at?: string; onAt: (key?: string) => void }) {
  const marks = useRef(new Map<string, SVGGElement | null>());
  const today = parseISO(d.today);
  const base = (row: number) => top + row * rowHigh + rowHigh - 4;
  const reach = at ?? year.cells.find((c) => !c.past)?.key ?? year.cells[0]?.key; // the one that Tab comes to
  const walk = (e: KeyboardEvent, c: Cell) => {
    const i = year.cells.indexOf(c);
    const by = {
      ArrowRight: i + 1,
      ArrowLeft: i - 1,
      ArrowDown: year.cells.findIndex((x) => x.row > c.row && x.day >= c.day),
      ArrowUp: year.cells.findLastIndex((x) => x.row < c.row && x.day <= c.day),
    }[e.key];
    if (e.key === "Escape") onAt(undefined);
    const next = by === undefined ? undefined : year.cells[by];
    if (!next) return;
    e.preventDefault();
    marks.current.get(next.key)?.focus();
  };
  const foot = (from: Date, to: Date, dash?: string) =>
    stretch(year, from, to).map(([row, a, z]) => (
      <path key={`${row} ${a}`} d={`M${X(a) + 1} ${base(row)}H${X(z + 1) - 1}`} stroke="var(--color-rose-clay)" strokeWidth="2" strokeDasharray={dash} />
    ));
  const oldest = d.missed.reduce((m, e) => (e.on < m ? e.on : m), d.today);
  return (
    <svg
      viewBox={`0 0 ${W} ${top + 12 * rowHigh + 4}`}
      className="block w-full overflow-visible"
      fontSize="12"
      role="group"
      aria-label="Tide table of the year: a row a month, a mark a date; arrows go from date to date"
    >
      {Array.from({ length: 31 }, (_, i) => (
        <text
          key={i}
          x={X(i + 1) + wide / 2}
          y="11"
          textAnchor="middle"
          fill={today.getDate() === i + 1 ? "var(--color-text)" : "var(--color-text-3)"}
          fontWeight={today.getDate() === i + 1 ? 650 : 400}
        >
          {i + 1}
        </text>
      ))}
      {year.months.map((m, row) => {
        const y = top + row * rowHigh;
        const b = base(row);
        return (
          <g key={m.name}>
            {Array.from(
              { length: m.days },
              (_, i) =>
                evening(d, addDays(m.first, i)) && (
                  <rect key={i} x={X(i + 1) + 0.7} y={y + 1} width={wide - 1.4} height={b - y - 1} rx="2" fill="var(--color-lagoon)" opacity=".12" />
                ),
            )}
            <path
              d={`M${left} ${b}${tide(year, row)
                .map((v, i) => `L${(left + (i / 4) * wide).toFixed(1)} ${(b - (rowHigh - 5) * v).toFixed(1)}`)
                .join("")}L${X(m.days + 1)} ${b}Z`}
              fill="var(--color-rose-clay)"
              opacity=".24"
            />
            <path d={`M${left} ${b}H${X(m.days + 1)}`} stroke="var(--color-line)" />
            <text x="0" y={b - 5} fill={row === 0 ? "var(--color-text)" : "var(--color-text-2)"} fontWeight={row === 0 ? 650 : 400}>
              {m.name}
            </text>
            <text x={W} y={b - 5} textAnchor="end" fill="var(--color-text-3)">
              {m.count || ""}
            </text>
          </g>
        );
      })}
      {oldest < d.today && foot(parseISO(oldest), addDays(today, -1), "2 3")}
      {foot(addDays(today, 1), addDays(today, 30))}
      {year.cells.map((c) => (
        <g
          key={c.key}
          ref={(el) => void marks.current.set(c.key, el)}
          role="button"
          tabIndex={c.key === reach ? 0 : -1}
          aria-label={`${full(c.on)}: ${c.list.map((e) => `${e.name} ${says(e)}`).join(", ")}`}
          className="date-mark"
          opacity={c.past && c.row === 0 ? 0.6 : 1}
          onMouseEnter={() => onAt(c.key)}
          onFocus={() => onAt(c.key)}
          onClick={() => onAt(c.key)}
          onKeyDown={(e) => walk(e, c)}
        >
          <rect x={X(c.day)} y={top + c.row * rowHigh - 1} width={wide} height={rowHigh - 2} rx="4" fill="transparent" className="cell" />
          <Marks c={c} x={X(c.day) + wide / 2} b={base(c.row)} />
        </g>
      ))}
      <rect x={X(today.getDate())} y={top - 1} width={wide} height={rowHigh - 2} rx="4" fill="none" stroke="var(--color-lamp)" strokeWidth="1.8" pointerEvents="none" />
    </svg>
  );
}

/** Marks are what falls on one day: one shape, two, or one with how many there are. */
function Marks({ c, x, b }: { c: Cell; x: number; b: number }) {
  const n = c.list.length;
  const one = (i: number, px: number) => (
    <g key={i} transform={`translate(${px - mark / 2},${b - 3 - mark}) scale(${mark / 12})`}>
      <DateMark kind={kinds[c.list[i]!.kind].shape} />
    </g>
  );
  if (n === 1) return one(0, x);
  if (n === 2) return [one(0, x - 5.7), one(1, x + 5.7)];
  return (
    <>
      {one(0, x - (n > 9 ? 7 : 5.5))}
      <text x={x + (n > 9 ? -0.5 : 1.5)} y={b - 4} fontWeight="650" fill="var(--color-text)">
        {n}
      </text>
    </>
  );
}

const mostTold = 8;

/** Told says what falls on a day, beside it. */
function Told({ d, c }: { d: Dates; c: Cell }) {
  const days = Math.round((+parseISO(c.on) - +parseISO(d.today)) / 86_400_000);
  const when = days === 0 ? "today" : days < 0 ? `${-days} days ago` : days === 1 ? "tomorrow" : `in ${days} days`;
  const low = c.row > 7;
  return (
    <div
      className="told"
      style={{
        left: `${Math.min(64, (X(c.day) / W) * 100)}%`,
        [low ? "bottom" : "top"]: `${((low ? 12 - c.row : c.row + 1) * rowHigh + (low ? 6 : top)) / ((top + 12 * rowHigh + 4) / 100)}%`,
      }}
    >
      <div className="sub">
        {full(c.on)}, {when}
        {evening(d, parseISO(c.on)) ? ", stream expected" : ""}
      </div>
      <ul className="m-0 flex list-none flex-wrap gap-x-4 gap-y-0.5 p-0">
        {c.list.slice(0, mostTold).map((e) => (
          <li key={`${e.person} ${e.kind}`} className="flex items-center gap-1.5 whitespace-nowrap">
            <DateShape kind={kinds[e.kind].shape} />
            <Link to={`/book?person=${e.person}`} className="font-semibold text-text" tabIndex={-1}>
              <bdi>{e.name}</bdi>
            </Link>
            {says(e)}
          </li>
        ))}
        {c.list.length > mostTold && <li className="sub">and {c.list.length - mostTold} more</li>}
      </ul>
    </div>
  );
}
