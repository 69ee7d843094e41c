import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useEffect, useEffectEvent, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { said as problem, type BookRow, type Crew } from "../api/client";
import { useEdit } from "../api/deeds";
import { count, crews as allCrews, mostRows, people } from "../api/queries";
import { Button, buttonLook, Quiet } from "../kit/Button";
import { Emblem } from "../kit/drawings/Emblem";
import { initials, Lantern, shapeOf, standingOf } from "../kit/drawings/Lantern";
import { Strip } from "../kit/drawings/Strip";
import { Field, Select } from "../kit/Field";
import { singleKey } from "../kit/keys";
import { Empty } from "../kit/Panel";
import { Picker } from "../kit/Picker";
import { columns, Grid, type GridHandle } from "../kit/Table";
import { dayOf, useCalendar, useZone } from "../kit/time";
import { titled } from "../kit/words";
import { readFilter, type Sort } from "./filter";
import { Filters } from "./Filters";
import { useSheet } from "./sheet";

/** Orders, and what the column that goes with one tells; searching, the closest come first unless an order is asked for. */
const orders: { sort: Sort; words: string; column?: string; value?: (r: BookRow) => string }[] = [
  { sort: "seen", words: "last seen" },
  { sort: "name", words: "name" },
  { sort: "attended", words: "streams attended", column: "Streams", value: (r) => r.attended.toLocaleString("en") },
  { sort: "follow", words: "follow date" },
  { sort: "lines", words: "lines said", column: "Lines", value: (r) => (r.lines ?? 0).toLocaleString("en") },
  { sort: "support", words: "support given", column: "Support", value: (r) => (r.support === 1 ? "once" : `${(r.support ?? 0).toLocaleString("en")} times`) },
];

const nobody: ReadonlySet<number> = new Set();

/** Everyone is the table of all people the house knows. */
export function Everyone() {
  const [params, setParams] = useSearchParams();
  const { open, show } = useSheet();
  const filter = readFilter(params);
  const searched = !!filter.text;
  const sort = (params.get("sort") as Sort | null) ?? (searched ? undefined : "seen");
  const order = orders.find((o) => o.sort === sort);
  const at = params.get("at") ?? "";
  const query = { ...filter, sort, at: at || undefined };
  const walk = JSON.stringify(query);
  const list = useInfiniteQuery(people(query));
  const n = useQuery(count(filter)).data;
  const rows = useMemo(() => list.data?.pages.flatMap((p) => p.rows) ?? [], [list.data]);
  const [choice, setChoice] = useState({ walk, who: nobody }); // another list is chosen from anew
  const chosen = choice.walk === walk ? choice.who : nobody;
  const choose = (who: ReadonlySet<number>) => setChoice({ walk, who });
  const find = useRef<HTMLInputElement>(null);
  const grid = useRef<GridHandle>(null);
  const set = (changes: Record<string, string | undefined>) =>
    setParams(
      (p) => {
        const next = new URLSearchParams(p);
        for (const [k, v] of Object.entries(changes))
          if (v) next.set(k, v);
          else next.delete(k);
        return next;
      },
      { replace: true },
    );
  const by = (s: Sort) => set({ sort: s === "seen" ? undefined : s, at: undefined });
  const toggle = (p: number) => {
    const next = new Set(chosen);
    if (!next.delete(p)) next.add(p);
    choose(next);
  };

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (singleKey(e) !== "/") return;
      find.current?.focus();
      e.preventDefault();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);

  const calendar = useCalendar();
  const crews = useQuery(allCrews).data?.crews;
  const many = n && (n.more ? "10,000+" : n.count.toLocaleString("en"));
  const heads = { sort, searched, by, people: many };
  const shown = cells.columns([
    cells.display({
      id: "name",
      meta: { className: "w-name loose", sorted: sort === "name" ? "ascending" : undefined },
      header: () => <SortHead {...heads} of="name" words={`${many ?? ""} people`} />,
      cell: ({ row: { original: r } }) => <Name r={r} chosen={chosen.has(r.person)} onChoose={() => toggle(r.person)} />,
    }),
    cells.accessor((r) => (r.fellow ? "Fellow streamer" : titled(r.standing)), { id: "standing", meta: { className: "w-stand" }, header: "Standing", cell: (c) => c.getValue() }),
    cells.accessor("strip", {
      meta: { className: "w-strip" },
      header: () => (order?.sort === "attended" ? "Last 20 streams" : <SortHead {...heads} of="attended" words="Last 20 streams" />),
      cell: (c) => <Strip bits={c.getValue()} />,
    }),
    cells.accessor(calendar.lastSeen, {
      id: "seen",
      meta: { className: "w-seen", sorted: sort === "seen" ? "descending" : undefined },
      header: () => <SortHead {...heads} of="seen" words="Last seen" />,
      cell: (c) => c.getValue(),
    }),
    // What the list is sorted by stands in it: in the place of the follow date, where no column tells it.
    cells.display({
      id: "follow",
      meta: { className: "w-foll", sorted: order?.column ? "descending" : sort === "follow" ? "ascending" : undefined },
      header: () => <SortHead {...heads} of={order?.column ? order.sort : "follow"} words={order?.column ?? "Follows"} />,
      cell: ({ row: { original: r } }) => (order?.value ? order.value(r) : (r.followAge ?? <span className="muted">not yet</span>)),
    }),
    cells.accessor("crews", { meta: { className: "w-crew" }, header: "Crews", cell: (c) => <CrewSigns ids={c.getValue()} crews={crews} /> }),
    cells.accessor("worth", { meta: { className: "w-worth" }, header: "Worth knowing", cell: (c) => <Worth list={c.getValue()} /> }),
  ]);
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = list;
  return (
    <>
      <div className="flex flex-wrap items-center gap-1.5 px-4 pb-2">
        <SearchField ref={find} value={filter.text ?? ""} onChange={(text) => set({ text, at: undefined })} onDown={() => grid.current?.focus()} />
        <Filters filter={filter} set={set} />
        <label className="sub flex items-center gap-1.5">
          sorted by
          <Select aria-label="Sorted by" value={sort ?? ""} onChange={(e) => set({ sort: e.target.value === "seen" && !searched ? undefined : e.target.value, at: undefined })}>
            {searched && <option value="">closeness</option>}
            {orders.map((o) => (
              <option key={o.sort} value={o.sort}>
                {o.words}
              </option>
            ))}
          </Select>
        </label>
      </div>
      {chosen.size > 0 && <Chosen people={[...chosen]} rows={rows} clear={() => choose(nobody)} />}
      {!filter.text && sort === "name" && <Letters at={at} onJump={(l) => set({ at: l })} />}
      {!filter.text && sort === "seen" && <JumpToDay at={at} onJump={(d) => set({ at: d })} />}
      <Grid
        label="Everyone"
        testId="everyone"
        ref={grid}
        walk={walk}
        columns={shown}
        rows={rows}
        id={(r) => String(r.person)}
        height={47}
        row="everyone"
        count={n?.more ? -1 : (n?.count ?? rows.length)}
        on={(r) => open === r.person}
        chosen={(r) => chosen.has(r.person)}
        onOpen={(r) => show(open === r.person ? undefined : r.person)}
        onChoose={(r) => toggle(r.person)}
        onEscape={() => {
          if (chosen.size) choose(nobody);
          else if (open) show();
          else return false;
          return true;
        }}
        onEnd={hasNextPage && !isFetchingNextPage ? () => void fetchNextPage() : undefined}
        empty={!list.isPending && <Nobody filtered={Object.keys(filter).length > 0} fault={list.error ? problem(list.error) : ""} onClear={() => setParams({})} />}
        foot={rows.length >= mostRows && <p className="sub px-4 py-3">These are the first {mostRows.toLocaleString("en")}. Narrow the list, or jump to a letter or a day.</p>}
      />
    </>
  );
}

const cells = columns<BookRow>();

/** SortHead is a heading by which the list can be sorted; what is searched for stands by closeness. */
function SortHead({ of, words, sort, searched, by }: { of: Sort; words: string; sort?: Sort; searched: boolean; by: (s: Sort) => void }) {
  if (searched) return <>{words}</>;
  return (
    <button className={of === sort ? "on" : ""} onClick={() => by(of)}>
      {words}
      {of === sort && <span aria-hidden> ↓</span>}
    </button>
  );
}

const findAfter = 90; // ms of quiet until what is typed is looked for

function SearchField({ ref, value, onChange, onDown }: { ref: React.Ref<HTMLInputElement>; value: string; onChange: (v: string) => void; onDown: () => void }) {
  const [text, setText] = useState(value);
  const sent = useRef(value);
  useEffect(() => {
    if (value !== sent.current) {
      sent.current = value;
      setText(value);
    }
  }, [value]);
  const send = useEffectEvent(() => {
    if (text === sent.current) return;
    sent.current = text;
    onChange(text);
  });
  useEffect(() => {
    const t = setTimeout(() => send(), findAfter);
    return () => clearTimeout(t);
  }, [text]);
  return (
    <div className="relative min-w-56 flex-1">
      <Field
        ref={ref}
        className="pr-8"
        placeholder="Find a name, an old name, a tag, a note…"
        aria-label="Find somebody in the guest book"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown" || e.key === "Enter") {
            e.preventDefault();
            onDown();
          } else if (e.key === "Escape") setText("");
        }}
      />
      <kbd className="absolute top-2 right-2.5">/</kbd>
    </div>
  );
}

function Name({ r, chosen, onChoose }: { r: BookRow; chosen: boolean; onChoose: () => void }) {
  return (
    <>
      <button
        className="pickone"
        tabIndex={-1}
        aria-label={`${chosen ? "Do not choose" : "Choose"} ${r.name}`}
        aria-pressed={chosen}
        onClick={(e) => {
          e.stopPropagation();
          onChoose();
        }}
      >
        <Lantern initials={chosen ? "✓" : initials(r.name)} lit={!!r.here} shape={shapeOf(standingOf(r), 0, r.fellow)} size={27} />
      </button>
      <b className="cut" title={r.name}>
        <bdi>{r.name}</bdi>
      </b>
    </>
  );
}

function CrewSigns({ ids, crews }: { ids: string[]; crews?: Crew[] }) {
  if (ids.length === 0) return <span className="muted">–</span>;
  return ids.map((id) => {
    const c = crews?.find((x) => x.id === id);
    return (
      <span key={id} className="inline-flex items-center gap-0.5 pr-1.5 align-middle" title={c?.name ?? id}>
        <Emblem shape={c?.emblem} size={13} />
        {c?.initials ?? id}
      </span>
    );
  });
}

function Worth({ list }: { list: BookRow["worth"] }) {
  return list.map((w, i) => (
    <span key={i} className={w.kind === "date" ? "text-rose-clay" : w.text.includes("not thanked") ? "text-persimmon" : ""}>
      {i > 0 && " · "}
      {w.text}
    </span>
  ));
}

function Nobody({ filtered, fault, onClear }: { filtered: boolean; fault: string; onClear: () => void }) {
  if (fault) return <Empty>{fault}</Empty>;
  return filtered ? (
    <Empty>
      <b>Nobody fits.</b> Take a condition away, or <Quiet onClick={onClear}>show everyone</Quiet>.
    </Empty>
  ) : (
    <Empty>
      <b>The book is empty.</b> Whoever speaks in chat is written down by itself. To begin with those you know already, go to Bring in: lists of regulars, follow dates, birthdays,
      old chat logs.
    </Empty>
  );
}

/** Letters jump within the list by name. */
function Letters({ at, onJump }: { at: string; onJump: (l: string) => void }) {
  return (
    <div className="flex flex-wrap gap-0.5 px-3 pb-1.5" role="group" aria-label="Jump to a letter">
      {[..."0abcdefghijklmnopqrstuvwxyz"].map((l) => (
        <button key={l} className="letter" aria-pressed={at === l} aria-label={l === "0" ? "Digits" : l.toUpperCase()} onClick={() => onJump(at === l ? "" : l)}>
          {l === "0" ? "#" : l.toUpperCase()}
        </button>
      ))}
    </div>
  );
}

/** JumpToDay begins the list by last seen at a day. */
function JumpToDay({ at, onJump }: { at: string; onJump: (d: string) => void }) {
  const zone = useZone();
  if (!at) return null;
  return (
    <div className="sub flex items-center gap-2 px-4 pb-1.5">
      Seen on {dayOf(at, zone)} and before
      <Button size="s" look="ghost" onClick={() => onJump("")}>
        From now
      </Button>
    </div>
  );
}

/** Chosen does something with several people at once. */
function Chosen({ people, rows, clear }: { people: number[]; rows: BookRow[]; clear: () => void }) {
  const edit = useEdit();
  const crews = useQuery(allCrews).data?.crews ?? [];
  const tags = [...new Set(rows.flatMap((r) => r.tags))].sort();
  const change = (e: Parameters<typeof edit>[1]) => void edit(people, e);
  return (
    <div className="flex flex-wrap items-center gap-1.5 bg-surface-2 px-4 py-2" role="region" aria-label="Those chosen">
      <b className="mr-1">{people.length} chosen</b>
      <Picker label="Tag them" size="s" choices={tags.map((t) => ({ value: t, label: t }))} onPick={(t) => change({ addTags: [t] })} onNew={(t) => change({ addTags: [t] })}>
        Tag…
      </Picker>
      <Picker label="Put them into a crew" size="s" choices={crews.map((c) => ({ value: c.id!, label: c.name }))} onPick={(c) => change({ addCrews: [c] })}>
        Crew…
      </Picker>
      {(["csv", "vcf", "jsonl"] as const).map((f) => (
        <a key={f} className={buttonLook({ size: "s" })} href={`/api/book/export?format=${f}&persons=${people.join(",")}`} download>
          {{ csv: "CSV", vcf: "vCard", jsonl: "JSON" }[f]}
        </a>
      ))}
      <Button size="s" look="ghost" className="ml-auto" onClick={clear}>
        Choose nobody
      </Button>
    </div>
  );
}
