import { useVirtualizer } from "@tanstack/react-virtual";
import { type Dispatch, memo, type RefObject, type SetStateAction, useCallback, useMemo, useRef, useState } from "react";
import { Link } from "react-router";
import type { Guest } from "../api/client";
import { useByHand } from "../api/deeds";
import { useSlowly } from "../api/live";
import { Button, quietLook } from "../kit/Button";
import { initials, Lantern, shapeOf } from "../kit/drawings/Lantern";
import { Strip } from "../kit/drawings/Strip";
import { Field } from "../kit/Field";
import { OwnWords } from "../kit/OwnWords";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { ago, nth, span, useHouseNow, useZone } from "../kit/time";
import { useHeld } from "../kit/useHeld";
import { WhyNot } from "./Why";

const hereFor = 30 * 60_000;
const glowFor = 10_000;

/** hereNow lists who spoke in the last half hour and is not known to have left. */
export function hereNow(guests: ReadonlyMap<string, Guest>, now: number): Guest[] {
  const out: Guest[] = [];
  for (const g of guests.values()) if (!g.left && g.last && now - Date.parse(g.last) < hereFor) out.push(g);
  return out;
}

/** People under one heading, which says how many there are as people do. */
const groups: [string, (n: number) => string, (g: Guest) => boolean][] = [
  ["raid", (n) => `${many(n)} came with a raid`, (g) => !!g.raider],
  ["streamer", () => "at the microscope", (g) => !!g.roles?.includes("streamer")],
  ["new", (n) => `${many(n)} new tonight`, (g) => g.standing === "newcomer" && !g.fellow],
  ["fellow", (n) => (n === 1 ? "one fellow streamer" : `${many(n)} fellow streamers`), (g) => !!g.fellow],
  ["away", (n) => `${many(n)} back after long away`, (g) => g.standing === "long away"],
  ["regular", (n) => (n === 1 ? "one regular" : `${many(n)} regulars`), (g) => g.standing === "regular"],
  ["returning", (n) => `${many(n)} back again`, (g) => g.standing === "returning"],
  ["others", (n) => `${many(n)} left in peace`, () => true],
];

const words = ["none", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"];
const many = (n: number) => words[n] ?? String(n);

type Row = { key: string; head?: string; guest?: Guest };

const nobody: ReadonlyMap<string, Guest> = new Map();

export function People({
  selected,
  onSelect,
  findRef,
}: {
  selected?: string;
  onSelect: Dispatch<SetStateAction<string | undefined>>;
  findRef: RefObject<HTMLInputElement | null>;
}) {
  const guests = useSlowly(250, (s) => s.byAccount) ?? nobody; // who is here changes with every line
  const now = useHouseNow(1000);
  const [find, setFind] = useState("");
  const scroll = useRef<HTMLDivElement>(null);
  const minute = Math.floor(now / 60_000) * 60_000; // nobody leaves between two of them
  const here = useMemo(() => hereNow(guests, minute), [guests, minute]);
  const fresh = useMemo(() => {
    const wanted = here.filter((g) => !find || `${g.name} ${g.login}`.toLowerCase().includes(find.toLowerCase()));
    wanted.sort((a, b) => (b.arrived ?? "").localeCompare(a.arrived ?? "") || a.account.localeCompare(b.account));
    const rows: Row[] = [];
    const taken = new Set<string>();
    for (const [key, head, test] of groups) {
      const in_ = wanted.filter((g) => !taken.has(g.account) && test(g));
      in_.forEach((g) => taken.add(g.account));
      if (in_.length) rows.push({ key, head: head(in_.length) }, ...in_.map((g) => ({ key: g.account, guest: g })));
    }
    return rows;
  }, [here, find]);
  // While a hand is on the list, people keep their places; whoever comes goes to the end.
  const { list: rows, holds } = useHeld(fresh, (r) => r.key);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroll.current,
    estimateSize: (i) => (rows[i]!.head ? 30 : 54),
    getItemKey: (i) => rows[i]!.key,
    overscan: 8,
  });
  const choose = useCallback((account: string) => onSelect((was) => (was === account ? undefined : account)), [onSelect]);
  const chosen = selected ? guests.get(selected) : undefined;
  return (
    <Panel label="On the porch" {...holds}>
      <Head count={`${here.length} here`}>On the porch</Head>
      <div className="px-3 pb-2">
        <Field
          ref={findRef}
          size="s"
          placeholder="Find somebody"
          aria-label="Find somebody"
          value={find}
          onChange={(e) => setFind(e.target.value)}
          onKeyDown={(e) => e.key === "Escape" && (setFind(""), e.currentTarget.blur())}
        />
      </div>
      {rows.length === 0 && (
        <Empty>
          {find ? (
            "Nobody here by that name."
          ) : (
            <>
              <b>Nobody has spoken yet.</b> Whoever says something in chat hangs their lantern here.
            </>
          )}
        </Empty>
      )}
      <Scroll ref={scroll} label="People here">
        <div style={{ height: virtual.getTotalSize(), position: "relative" }}>
          {virtual.getVirtualItems().map((v) => {
            const r = rows[v.index]!;
            const g = r.guest && (guests.get(r.guest.account) ?? r.guest);
            return (
              <div key={v.key} data-index={v.index} ref={virtual.measureElement} style={{ position: "absolute", top: 0, left: 0, right: 0, transform: `translateY(${v.start}px)` }}>
                {g ? <PersonRow g={g} now={now} on={selected === g.account} onClick={choose} /> : <div className="grp">{r.head}</div>}
              </div>
            );
          })}
        </div>
      </Scroll>
      {chosen ? (
        <Chosen g={chosen} />
      ) : (
        <div className="sub px-4 py-2.5">
          <kbd>/</kbd> find &nbsp;<kbd>S</kbd> shout out &nbsp;<kbd>G</kbd> greet &nbsp;<kbd>?</kbd> keys
        </div>
      )}
    </Panel>
  );
}

/** reasonToSpeak is one line about somebody: what is nearest to say first. */
function reasonToSpeak(g: Guest, now: number, zone: string): string {
  const out: string[] = [];
  if (g.raider) out.push(`brought ${g.raider}`);
  if (g.owed) out.push(g.owed === 1 ? "you owe a raid" : `you owe ${g.owed} raids`);
  if (g.standing === "newcomer" && g.arrived) out.push(`first line ${span(now - Date.parse(g.arrived))} ago`);
  else if (g.standing === "long away" && g.lastSeen) out.push(`last here ${ago(g.lastSeen, now, zone)} ago`);
  else if (g.standing === "regular" && g.why) out.push(g.why.split(" streams")[0]!);
  else if (g.streams) out.push(`${nth(g.streams)} stream`);
  if (g.with) out.push(`with ${g.with}`);
  if (g.followed) out.push(`follows ${ago(g.followed, now, zone)}`);
  if (g.roles?.includes("streamer")) out.unshift("the streamer");
  else if (g.roles?.includes("moderator")) out.push("moderator");
  if (g.nick) out.push("by nick only");
  return out.join(" · ") || "has not spoken yet";
}

const PersonRow = memo(function PersonRow({ g, now, on, onClick }: { g: Guest; now: number; on: boolean; onClick: (account: string) => void }) {
  const zone = useZone();
  const glow = !!g.changed && now - Date.parse(g.changed) < glowFor;
  const shape = shapeOf(g.standing, g.raider, g.fellow);
  return (
    <button className="pers" aria-pressed={on} onClick={() => onClick(g.account)} title={g.name}>
      <Lantern initials={initials(g.name)} lit glow={glow} day={!!g.day} shape={shape} size={30} />
      <span>
        <b className="cut">
          <bdi>{g.name}</bdi>
        </b>
        <span className="sub cut">
          {g.date && <span className="text-rose-clay">{g.date} · </span>}
          {reasonToSpeak(g, now, zone)}
        </span>
      </span>
    </button>
  );
});

function Chosen({ g }: { g: Guest }) {
  const byHand = useByHand();
  return (
    <div className="border-t border-line px-4 py-3" aria-label={`About ${g.name}`}>
      <div className="flex flex-wrap items-center gap-2">
        <b className="cut min-w-0 flex-1">
          <bdi>{g.name}</bdi>
        </b>
        <Button size="s" onClick={() => byHand("shoutout", g.account)}>
          Shout out
        </Button>
        <Button size="s" onClick={() => byHand("greet", g.account)}>
          Greet
        </Button>
        <OwnWords account={g.account} />
      </div>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 py-1">
        <Strip bits={g.strip} />
        {g.person && (
          <Link className={quietLook()} to={`/book?person=${g.person}`}>
            in the guest book
          </Link>
        )}
      </div>
      {g.why && <div className="sub pb-1">{g.why}</div>}
      <WhyNot account={g.account} />
    </div>
  );
}
