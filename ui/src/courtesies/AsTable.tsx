import { createContext, useContext, useMemo, useRef, useState } from "react";
import { type Courtesies, type CourtesyView, type Rule } from "../api/client";
import { useLive } from "../api/live";
import { Button, buttonLook, Toggle } from "../kit/Button";
import { Field, Num } from "../kit/Field";
import { Head, Panel } from "../kit/Panel";
import { Pop } from "../kit/Pop";
import { Switch } from "../kit/Switch";
import { columns, Grid, type Column, type GridHandle } from "../kit/Table";
import { ago, span as length, useHouseNow, useZone } from "../kit/time";
import { BringIn } from "./BringIn";
import { AnswerText, Names, WhoMay, WhoOfAll } from "./InPlace";
import { MakeTimer, NowAndThen } from "./NowAndThen";
import { sentenceOf } from "./outputs";
import { Wording } from "../kit/Wording";
import { asks, nameOf } from "./table";
import { useChange } from "./useChange";

type Order = "name" | "tonight" | "last" | "times";

const answerOf = (c: CourtesyView) => c.outputs.find((o) => o.kind === "say")?.alternatives[0] ?? "";

const lately = (iso: string, now: number, zone: string) => (now - Date.parse(iso) < 86_400_000 ? `${length(now - Date.parse(iso))} ago` : `${ago(iso, now, zone)} ago`);

/** AsTable shows all commands at once: looked for, sorted, chosen and changed where they stand. */
export function AsTable({ all, onOpen, onBack, onFlip }: { all: Courtesies; onOpen: (id: string) => void; onBack: () => void; onFlip: (c: CourtesyView) => void }) {
  const grid = useRef<GridHandle>(null);
  const [text, setText] = useState("");
  const [order, setOrder] = useState<Order>("tonight");
  const [chosen, choose] = useState<ReadonlySet<string>>(new Set());
  const now = useHouseNow(30_000);
  const zone = useZone();
  const opened = useLive((s) => (s.live.on ? s.live.opened : undefined));
  const rows = useMemo(() => {
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    const found = all.courtesies
      .filter((c) => c.when === "command" && !c.rule.away)
      .filter((c) => {
        const in_ = [...(c.rule.asks ?? []), ...(c.rule.asked?.words ?? []), c.rule.group ?? "", ...c.outputs.flatMap((o) => o.alternatives)].join("\n").toLowerCase();
        return words.every((w) => in_.includes(w));
      });
    const by: Record<Order, (a: CourtesyView, b: CourtesyView) => number> = {
      name: () => 0,
      tonight: (a, b) => (b.asked?.tonight ?? 0) - (a.asked?.tonight ?? 0),
      last: (a, b) => (b.asked?.last ?? "").localeCompare(a.asked?.last ?? ""),
      times: (a, b) => (b.asked?.times ?? 0) - (a.asked?.times ?? 0),
    };
    return found.sort((a, b) => by[order](a, b) || nameOf(a).localeCompare(nameOf(b)));
  }, [all.courtesies, text, order]);
  const change = useChange(all.version);
  const those = rows.filter((c) => chosen.has(c.id));
  const each = async (f: (c: CourtesyView) => unknown) => {
    for (const c of those) await f(c);
    choose(new Set());
  };
  const toggle = (id: string) =>
    choose((was) => {
      const next = new Set(was);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const list = useMemo(() => listed(order), [order]);
  const told: Told = {
    all,
    order,
    setOrder,
    chosen,
    toggle,
    everything: rows.length > 0 && those.length === rows.length,
    chooseAll: (on) => choose(new Set(on ? rows.map((c) => c.id) : [])),
    onFlip,
    change,
    now,
    zone,
    from: opened ? Date.parse(opened) : undefined,
  };
  return (
    <Table.Provider value={told}>
      <main className="wrap table-of">
        <h1 className="sr-only">Courtesies</h1>
        <Panel label="Commands" className="min-h-0">
          <Head
            count={`${rows.length}`}
            end={
              <span className="flex flex-wrap items-center gap-1.5">
                <BringIn all={all} />
                <a className={buttonLook({ size: "s" })} href="/api/commands?format=csv" download>
                  As CSV
                </a>
                <a className={buttonLook({ size: "s" })} href="/api/commands?format=json" download>
                  As JSON
                </a>
                <span className="w-3" />
                <Toggle size="s" on={false} onClick={onBack}>
                  Along the evening
                </Toggle>
                <Toggle size="s" on onClick={() => undefined}>
                  As a table
                </Toggle>
              </span>
            }
          >
            {asks}
          </Head>
          <div className="flex flex-wrap items-center gap-2 px-4 pb-2">
            <Field
              className="w-72"
              aria-label="Find a command"
              placeholder="A word, an answer, a group…"
              value={text}
              onChange={(e) => setText(e.target.value)}
              onKeyDown={(e) => e.key === "ArrowDown" && grid.current?.focus()}
            />
            {those.length > 0 && (
              <>
                <span>{those.length} chosen</span>
                <Button size="s" onClick={() => void each((c) => !c.on && onFlip(c))}>
                  Switch on
                </Button>
                <Button size="s" onClick={() => void each((c) => c.on && onFlip(c))}>
                  Switch off
                </Button>
                <WhoOfAll all={all} onSet={(who) => void each((c) => change(c, { who }))} />
                <CooldownOfAll onSet={(restSeconds, personSeconds) => void each((c) => change(c, rested(restSeconds, personSeconds)))} />
                <Button size="s" onClick={() => void each((c) => change(c, { away: true }))}>
                  Put away
                </Button>
              </>
            )}
          </div>
          <Grid
            ref={grid}
            label="Commands"
            testId="commands"
            columns={list}
            rows={rows}
            id={(c) => c.id}
            row="commands"
            on={(c) => chosen.has(c.id)}
            height={40}
            walk={`${order} ${text}`}
            count={rows.length}
            chosen={(c) => chosen.has(c.id)}
            onOpen={(c) => onOpen(c.id)}
            onChoose={(c) => toggle(c.id)}
            onEscape={() => {
              if (chosen.size === 0) return false;
              choose(new Set());
              return true;
            }}
            empty={<p className="sub p-4">{text ? "No command has all of these words." : "There is no command yet: make one with New."}</p>}
          />
        </Panel>
        <NowAndThen all={all} onOpen={onOpen} onFlip={onFlip} />
      </main>
    </Table.Provider>
  );
}

/** Told is what the cells of the table know beside their row. */
type Told = {
  all: Courtesies;
  order: Order;
  setOrder: (by: Order) => void;
  chosen: ReadonlySet<string>;
  toggle: (id: string) => void;
  everything: boolean;
  chooseAll: (on: boolean) => void;
  onFlip: (c: CourtesyView) => void;
  change: ReturnType<typeof useChange>;
  now: number;
  zone: string;
  from?: number; // since when the stream is on
};

const Table = createContext<Told | undefined>(undefined);
const useTable = () => useContext(Table)!;

// Cells are the same parts at every drawing: what is opened in one stays open while the rest moves on.
const col = columns<CourtesyView>();
const listed = (order: Order): Column<CourtesyView>[] => {
  const sorted = (by: Order) => ({ sorted: order === by ? (by === "name" ? ("ascending" as const) : ("descending" as const)) : undefined });
  return [
    col.display({ id: "choose", header: ChooseAll, cell: cells.choose }),
    col.display({ id: "on", header: "On", cell: cells.on }),
    col.display({ id: "name", header: heads.name, meta: sorted("name"), cell: cells.name }),
    col.display({ id: "answer", header: "Answer", cell: cells.answer }),
    col.display({ id: "who", header: "Who may ask, when", cell: cells.who }),
    col.display({ id: "rest", header: "Cooldown", cell: cells.rest }),
    col.display({ id: "tonight", header: heads.tonight, meta: sorted("tonight"), cell: cells.tonight }),
    col.display({ id: "last", header: heads.last, meta: sorted("last"), cell: cells.last }),
    col.display({ id: "timer", header: "Now and then", cell: cells.timer }),
  ];
};

type Row = { c: CourtesyView };

function Sort({ words, by }: { words: string; by: Order }) {
  const { order, setOrder } = useTable();
  return (
    <button className={order === by ? "on" : ""} onClick={() => setOrder(by)}>
      {words}
      {order === by && (by === "name" ? " ↑" : " ↓")}
    </button>
  );
}

function ChooseAll() {
  const { everything, chooseAll } = useTable();
  return <input type="checkbox" aria-label="Choose all" checked={everything} onChange={(e) => chooseAll(e.target.checked)} />;
}

function Choose({ c }: Row) {
  const { chosen, toggle } = useTable();
  return <input type="checkbox" aria-label={`Choose ${nameOf(c)}`} checked={chosen.has(c.id)} onChange={() => toggle(c.id)} />;
}

function OnOff({ c }: Row) {
  const { onFlip } = useTable();
  return <Switch on={c.on} label={`${nameOf(c)}: ${c.on ? "on" : "off"}`} onChange={() => onFlip(c)} />;
}

function NameCell({ c }: Row) {
  const { all } = useTable();
  return (
    <Names c={c} all={all}>
      <AskedBy c={c} all={all} />
    </Names>
  );
}

function AnswerCell({ c }: Row) {
  const { all } = useTable();
  return (
    <AnswerText c={c} all={all}>
      <Answer c={c} />
    </AnswerText>
  );
}

function WhoCell({ c }: Row) {
  const { all } = useTable();
  return (
    <WhoMay c={c} all={all}>
      {whoOf(c)}
    </WhoMay>
  );
}

function CooldownCell({ c }: Row) {
  const { change } = useTable();
  return <Cooldown c={c} onSet={(rest, person) => void change(c, rested(rest, person))} />;
}

function LastCell({ c }: Row) {
  const { now, zone } = useTable();
  return c.asked?.last ? lately(c.asked.last, now, zone) : "never";
}

function TimerCell({ c }: Row) {
  const { all } = useTable();
  return <MakeTimer c={c} all={all} />;
}

const of = (Cell: (p: Row) => React.ReactNode) =>
  function Drawn({ row }: { row: { original: CourtesyView } }) {
    return <Cell c={row.original} />;
  };
const cells = {
  choose: of(Choose),
  on: of(OnOff),
  name: of(NameCell),
  answer: of(AnswerCell),
  who: of(WhoCell),
  rest: of(CooldownCell),
  tonight: of(Tonight),
  last: of(LastCell),
  timer: of(TimerCell),
};
const heads = {
  name: () => <Sort words="Asked by" by="name" />,
  tonight: () => <Sort words="Asked tonight" by="tonight" />,
  last: () => <Sort words="Last asked" by="last" />,
};

/** AskedBy is what a command is asked by; a word that others are asked by too is marked, and says by which. */
function AskedBy({ c, all }: { c: CourtesyView; all: Courtesies }) {
  const clash = (at: string) => c.clashes?.find((m) => m.at === at && !m.fine);
  const word = (w: string, at: string, first: boolean) => {
    const m = clash(at);
    const text = <bdi className={`${first ? "font-semibold text-text" : ""} ${m ? "text-persimmon underline decoration-wavy" : ""}`}>{w}</bdi>;
    return (
      <span key={at} title={m && `${m.with.map((id) => sentenceOf(all, id)).join(" and ")} ${m.what}`}>
        {!first && " · "}
        {text}
        {m && <span className="text-persimmon"> ◆ also {m.with.map((id) => all.courtesies.find((x) => x.id === id)?.rule.asks?.[0] ?? id).join(", ")}</span>}
      </span>
    );
  };
  const names = c.rule.asks ?? [];
  return (
    <span className={c.on ? "" : "opacity-70"}>
      {names.map((w, i) => word(w, `asks.${i}`, i === 0))}
      {(c.rule.asked?.words ?? []).map((w, i) => word(w, `asked.words.${i}`, names.length + i === 0))}
    </span>
  );
}

/** Answer is the first of a command's answers, with its fill-ins as chips. */
function Answer({ c }: { c: CourtesyView }) {
  const text = answerOf(c);
  if (!text) return <span className="text-text-3">{c.outputs.map((o) => o.does).join(", ") || "nothing"}</span>;
  return <Wording text={text} className={c.on ? "text-text" : ""} />;
}

/** whoOf is who may ask for a command, and when, as its sentence says it. */
const whoOf = (c: CourtesyView) =>
  c.sentence
    .slice(2)
    .map((p) => p.text)
    .join("")
    .replace(/^ asked by /, "") || "anyone";

/** rested is a command's cooldown changed, the rest of how it is asked for as it stands. */
const rested = (restSeconds?: number, personSeconds?: number) => (r: Rule) => ({ asked: { ...r.asked, restSeconds, personSeconds } });

const span = (s: number) => (s % 3600 === 0 ? `${s / 3600} h` : s % 60 === 0 ? `${s / 60} min` : `${s} s`);

/** Cooldown is that of a command, and is set where it stands. */
function Cooldown({ c, onSet }: { c: CourtesyView; onSet: (rest?: number, person?: number) => void }) {
  const a = c.rule.asked;
  const says = [a?.restSeconds && span(a.restSeconds), a?.personSeconds && `${span(a.personSeconds)} each`].filter(Boolean).join(" · ") || "none";
  return (
    <CooldownPop label={`Cooldown of ${nameOf(c)}`} rest={a?.restSeconds} person={a?.personSeconds} onSet={onSet}>
      <button className="manner">{says}</button>
    </CooldownPop>
  );
}

function CooldownOfAll({ onSet }: { onSet: (rest?: number, person?: number) => void }) {
  return (
    <CooldownPop label="Their cooldown" onSet={onSet}>
      <Button size="s">Cooldown…</Button>
    </CooldownPop>
  );
}

function CooldownPop({
  label,
  rest,
  person,
  onSet,
  children,
}: {
  label: string;
  rest?: number;
  person?: number;
  onSet: (rest?: number, person?: number) => void;
  children: React.ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState({ rest, person });
  return (
    <Pop
      label={label}
      width="s"
      open={open}
      onOpenChange={(on) => {
        if (on) setTyped({ rest, person });
        setOpen(on);
      }}
      trigger={children}
    >
      <form
        className="grid gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          setOpen(false);
          onSet(typed.rest || undefined, typed.person || undefined);
        }}
      >
        <label className="flex items-center gap-1.5">
          for all <Num label="Seconds for all" value={typed.rest} onChange={(rest) => setTyped((t) => ({ ...t, rest }))} /> s
        </label>
        <label className="flex items-center gap-1.5">
          for whoever asked <Num label="Seconds for whoever asked" value={typed.person} onChange={(person) => setTyped((t) => ({ ...t, person }))} /> s
        </label>
        <Button size="s" look="lit" type="submit">
          So be it
        </Button>
      </form>
    </Pop>
  );
}

/** Tonight is how often a command was asked for in this stream, and when. */
function Tonight({ c }: Row) {
  const { from, now: to } = useTable();
  const n = c.asked?.tonight ?? 0;
  const wide = 92;
  const marks = from && to > from ? (c.asked?.when ?? []).map((w) => Math.round(((Date.parse(w) - from) / (to - from)) * wide)).filter((x) => x >= 0 && x <= wide) : [];
  return (
    <span className="flex items-center gap-2">
      <span className="num w-6 text-right text-text">{n}</span>
      <svg width={wide} height="14" aria-hidden className="flex-none">
        <line x1="0" x2={wide} y1="13" y2="13" stroke="var(--color-line)" />
        {marks.map((x, i) => (
          <line key={i} x1={x} x2={x} y1="3" y2="12" stroke="var(--color-lagoon)" strokeWidth="2" />
        ))}
      </svg>
    </span>
  );
}
