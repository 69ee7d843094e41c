import { useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { api, ask, said as problem, type BookRow } from "../api/client";
import { initials, Lantern, shapeOf, standingOf } from "../kit/Lantern";
import { Emblem } from "../kit/Emblem";
import { Strip } from "../kit/Strip";
import { lastSeen, useNow } from "../kit/time";
import { toast } from "../kit/toast";
import { useCrews, useSheet } from "./shared";
import { edit } from "./edit";
import { Picker } from "../kit/Picker";
import { Filters } from "./Filters";
import { readFilter, type Sort } from "./filter";

const mostRows = 5000; // in the scroller; whoever wants more narrows or jumps
const page = 200;

const columns: { name: string; sort?: Sort; className: string }[] = [
  { name: "Name", sort: "name", className: "w-name" },
  { name: "Standing", className: "w-stand" },
  { name: "Last 20 streams", sort: "attended", className: "w-strip" },
  { name: "Last seen", sort: "seen", className: "w-seen" },
  { name: "Follows", sort: "follow", className: "w-foll" },
  { name: "Crews", className: "w-crew" },
  { name: "Worth knowing", className: "w-worth" },
];

/** Orders, and what the column that goes with one tells; searching, the closest come first unless an order is asked for. */
const orders: { sort: Sort; words: string; column?: string; value?: (r: BookRow) => string }[] = [
  { sort: "seen", words: "last seen" },
  { sort: "name", words: "name" },
  { sort: "attended", words: "streams attended", column: "Streams", value: (r) => r.attended.toLocaleString("en") },
  { sort: "follow", words: "follow date" },
  { sort: "lines", words: "lines said", column: "Lines", value: (r) => (r.lines ?? 0).toLocaleString("en") },
  { sort: "support", words: "support given", column: "Support", value: (r) => (r.support === 1 ? "once" : `${(r.support ?? 0).toLocaleString("en")} times`) },
];

/** Everyone is the table of all people the house knows. */
export function Everyone() {
  const [params, setParams] = useSearchParams();
  const { open, show } = useSheet();
  const filter = readFilter(params);
  const searched = !!filter.text;
  const sort = (params.get("sort") as Sort | null) ?? (searched ? undefined : "seen");
  const order = orders.find((o) => o.sort === sort);
  // What the list is sorted by stands in it: in the place of the follow date, where no column tells it.
  const shown = columns.map((c) => (!order?.column ? c : c.className === "w-foll" ? { ...c, name: order.column, sort } : c.sort === sort ? { ...c, sort: undefined } : c));
  const at = params.get("at") ?? "";
  const query = { ...filter, sort, at: at || undefined, limit: page };
  const key = JSON.stringify(query);
  const list = useInfiniteQuery({
    queryKey: ["book", "people", key],
    initialPageParam: "",
    queryFn: ({ pageParam }) => ask(api.GET("/api/book/people", { params: { query: { ...query, after: pageParam || undefined } } })),
    getNextPageParam: (last, all) => (last.next && all.length * page < mostRows ? last.next : undefined),
    placeholderData: (before) => before,
    staleTime: 15_000,
  });
  const count = useQuery({
    queryKey: ["book", "count", JSON.stringify(filter)],
    queryFn: () => ask(api.GET("/api/book/count", { params: { query: filter } })),
    placeholderData: (b) => b,
  });
  const rows = list.data?.pages.flatMap((p) => p.rows) ?? [];
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const [at_, setActive] = useState(0);
  const active = Math.min(at_, Math.max(0, rows.length - 1));
  useEffect(() => {
    setChosen(new Set());
    setActive(0);
  }, [key]);
  const find = useRef<HTMLInputElement>(null);
  const grid = useRef<HTMLDivElement>(null);
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

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const t = e.target as HTMLElement;
      if (e.key === "/" && !e.ctrlKey && !e.metaKey && !e.altKey && !t.closest("input, textarea, select, [contenteditable]") && localStorage.getItem("porch-keys") !== "off") {
        find.current?.focus();
        e.preventDefault();
      }
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);

  const toggle = (p: number) =>
    setChosen((s) => {
      const next = new Set(s);
      if (!next.delete(p)) next.add(p);
      return next;
    });
  const onGridKey = (e: React.KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12, Home: -rows.length, End: rows.length }[e.key];
    if (step) {
      const next = Math.max(0, Math.min(rows.length - 1, active + step));
      setActive(next);
      virtual.scrollToIndex(next);
    } else if (e.key === "Enter" && rows[active]) show(rows[active].person);
    else if (e.key === " " && rows[active]) toggle(rows[active].person);
    else if (e.key === "Escape" && chosen.size) setChosen(new Set());
    else if (e.key === "Escape" && open) show();
    else return;
    e.preventDefault();
  };
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => grid.current, estimateSize: () => 47, overscan: 16, getItemKey: (i) => rows[i]!.person });
  const items = virtual.getVirtualItems();
  const last = items[items.length - 1]?.index ?? 0;
  useEffect(() => {
    if (last > rows.length - 150 && list.hasNextPage && !list.isFetchingNextPage) void list.fetchNextPage();
  }, [last, rows.length, list.hasNextPage, list.isFetchingNextPage]); // eslint-disable-line
  const now = useNow(60_000);
  const n = count.data;
  return (
    <>
      <div className="flex flex-wrap items-center gap-1.5 px-4 pb-2">
        <SearchField ref={find} value={filter.text ?? ""} onChange={(text) => set({ text, at: undefined })} onDown={() => grid.current?.focus()} />
        <Filters filter={filter} set={set} />
        <label className="sub flex items-center gap-1.5">
          sorted by
          <select
            className="btn"
            aria-label="Sorted by"
            value={sort ?? ""}
            onChange={(e) => set({ sort: e.target.value === "seen" && !searched ? undefined : e.target.value, at: undefined })}
          >
            {searched && <option value="">closeness</option>}
            {orders.map((o) => (
              <option key={o.sort} value={o.sort}>
                {o.words}
              </option>
            ))}
          </select>
        </label>
      </div>
      {chosen.size > 0 && <Chosen people={[...chosen]} rows={rows} clear={() => setChosen(new Set())} />}
      {!filter.text && sort === "name" && <Letters at={at} onJump={(l) => set({ at: l })} />}
      {!filter.text && sort === "seen" && <JumpToDay at={at} onJump={(d) => set({ at: d })} />}
      <div
        className="scroll grid-rows"
        role="grid"
        aria-label="Everyone"
        aria-rowcount={n?.more ? -1 : (n?.count ?? rows.length)}
        aria-activedescendant={rows[active] ? `row-${rows[active].person}` : undefined}
        tabIndex={0}
        ref={grid}
        onKeyDown={onGridKey}
        data-testid="everyone"
      >
        <div role="row" className="r head">
          {shown.map((c) => (
            <div
              key={c.name}
              role="columnheader"
              className={c.className}
              aria-sort={c.sort && c.sort === sort ? (sort === "name" || sort === "follow" ? "ascending" : "descending") : undefined}
            >
              {c.sort && !searched ? (
                <button className={c.sort === sort ? "on" : ""} onClick={() => set({ sort: c.sort === "seen" ? undefined : c.sort, at: undefined })}>
                  {c.name === "Name" ? (n ? `${n.more ? "10,000+" : n.count.toLocaleString("en")} people` : "People") : c.name}
                  {c.sort && c.sort === sort && <span aria-hidden> ↓</span>}
                </button>
              ) : c.name === "Name" ? (
                `${n ? (n.more ? "10,000+" : n.count.toLocaleString("en")) : ""} people`
              ) : (
                c.name
              )}
            </div>
          ))}
        </div>
        {rows.length === 0 && !list.isPending && <Nobody filtered={Object.keys(filter).length > 0} fault={list.error ? problem(list.error) : ""} onClear={() => setParams({})} />}
        <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: "relative" }}>
          {items.map((v) => {
            const r = rows[v.index]!;
            return (
              <PersonRow
                key={v.key}
                r={r}
                index={v.index}
                y={v.start}
                on={open === r.person}
                active={v.index === active}
                chosen={chosen.has(r.person)}
                now={now}
                value={order?.value}
                onOpen={() => {
                  setActive(v.index);
                  show(open === r.person ? undefined : r.person);
                }}
                onChoose={() => toggle(r.person)}
              />
            );
          })}
        </div>
        {rows.length >= mostRows && <p className="sub px-4 py-3">These are the first {mostRows.toLocaleString("en")}. Narrow the list, or jump to a letter or a day.</p>}
      </div>
    </>
  );
}

function SearchField({ ref, value, onChange, onDown }: { ref: React.Ref<HTMLInputElement>; value: string; onChange: (v: string) => void; onDown: () => void }) {
  const [text, setText] = useState(value);
  const sent = useRef(value);
  useEffect(() => {
    if (value !== sent.current) {
      sent.current = value;
      setText(value);
    }
  }, [value]);
  useEffect(() => {
    const t = setTimeout(() => {
      if (text !== sent.current) {
        sent.current = text;
        onChange(text);
      }
    }, 90);
    return () => clearTimeout(t);
  }, [text]); // eslint-disable-line
  return (
    <div className="relative min-w-56 flex-1">
      <input
        ref={ref}
        className="field !pr-8"
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

const titled = (s: string) => s[0]!.toUpperCase() + s.slice(1);

function PersonRow({
  r,
  index,
  y,
  on,
  active,
  chosen,
  now,
  value,
  onOpen,
  onChoose,
}: {
  r: BookRow;
  index: number;
  y: number;
  on: boolean;
  active: boolean;
  chosen: boolean;
  now: number;
  value?: (r: BookRow) => string;
  onOpen: () => void;
  onChoose: () => void;
}) {
  const crews = useCrews().data?.crews;
  return (
    <div
      role="row"
      id={`row-${r.person}`}
      aria-rowindex={index + 2}
      aria-selected={chosen}
      className={`r${on ? " on" : ""}${active ? " at" : ""}${chosen ? " picked" : ""}`}
      style={{ transform: `translateY(${y}px)` }}
      onClick={onOpen}
      data-person={r.person}
    >
      <div role="gridcell" className="w-name">
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
      </div>
      <div role="gridcell" className="w-stand">
        {r.fellow ? "Fellow streamer" : titled(r.standing)}
      </div>
      <div role="gridcell" className="w-strip">
        <Strip bits={r.strip} />
      </div>
      <div role="gridcell" className="w-seen">
        {lastSeen(r, now)}
      </div>
      <div role="gridcell" className="w-foll">
        {value ? value(r) : (r.followAge ?? <span className="muted">not yet</span>)}
      </div>
      <div role="gridcell" className="w-crew">
        {r.crews.map((id) => {
          const c = crews?.find((x) => x.id === id);
          return (
            <span key={id} className="inline-flex items-center gap-0.5 pr-1.5 align-middle" title={c?.name ?? id}>
              <Emblem shape={c?.emblem} size={13} />
              {c?.initials ?? id}
            </span>
          );
        })}
        {r.crews.length === 0 && <span className="muted">–</span>}
      </div>
      <div role="gridcell" className="w-worth">
        {r.worth.map((w, i) => (
          <span key={i} className={w.kind === "date" ? "text-(--rose-clay)" : w.text.includes("not thanked") ? "text-(--persimmon)" : ""}>
            {i > 0 && " · "}
            {w.text}
          </span>
        ))}
      </div>
    </div>
  );
}

function Nobody({ filtered, fault, onClear }: { filtered: boolean; fault: string; onClear: () => void }) {
  if (fault) return <p className="empty">{fault}</p>;
  return filtered ? (
    <p className="empty">
      <b>Nobody fits.</b> Take a condition away, or{" "}
      <button className="why !ml-0" onClick={onClear}>
        show everyone
      </button>
      .
    </p>
  ) : (
    <p className="empty">
      <b>The book is empty.</b> Whoever speaks in chat is written down by itself. To begin with those you know already, go to Bring in: lists of regulars, follow dates, birthdays,
      old chat logs.
    </p>
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
  const day = at ? at.slice(0, 10) : "";
  if (!day) return null;
  return (
    <div className="sub flex items-center gap-2 px-4 pb-1.5">
      Seen on {new Date(day).toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" })} and before
      <button className="btn s ghost" onClick={() => onJump("")}>
        From now
      </button>
    </div>
  );
}

/** Chosen does something with several people at once. */
function Chosen({ people, rows, clear }: { people: number[]; rows: BookRow[]; clear: () => void }) {
  const client = useQueryClient();
  const crews = useCrews().data?.crews ?? [];
  const tags = [...new Set(rows.flatMap((r) => r.tags))].sort();
  const change = (e: Parameters<typeof edit>[2]) => void edit(client, people, e).catch((p) => toast(problem(p)));
  return (
    <div className="flex flex-wrap items-center gap-1.5 bg-(--surface-2) px-4 py-2" role="region" aria-label="Those chosen">
      <b className="mr-1">{people.length} chosen</b>
      <Picker
        label="Tag them"
        className="btn s"
        choices={tags.map((t) => ({ value: t, label: t }))}
        onPick={(t) => change({ addTags: [t] })}
        onNew={(t) => change({ addTags: [t] })}
      >
        Tag…
      </Picker>
      <Picker label="Put them into a crew" className="btn s" choices={crews.map((c) => ({ value: c.id!, label: c.name }))} onPick={(c) => change({ addCrews: [c] })}>
        Crew…
      </Picker>
      {(["csv", "vcf", "jsonl"] as const).map((f) => (
        <a key={f} className="btn s" href={`/api/book/export?format=${f}&persons=${people.join(",")}`} download>
          {{ csv: "CSV", vcf: "vCard", jsonl: "JSON" }[f]}
        </a>
      ))}
      <button className="btn s ghost ml-auto" onClick={clear}>
        Choose nobody
      </button>
    </div>
  );
}
