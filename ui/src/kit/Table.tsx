import { createColumnHelper, FlexRender, tableFeatures, useTable, type ColumnDef, type RowData } from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useImperativeHandle, useRef, useState, type KeyboardEvent, type ReactNode, type Ref } from "react";
import "./table.css";

// Two tables of one kind: Table shows all its rows, Grid draws those that are seen and is walked through by keys. Both are
// lines of cells on one CSS grid, whose columns stand in the class they are given.

const features = tableFeatures({});

/** Column is one column of a table: its heading and how a cell of it is drawn; in `meta`, its class and how it is sorted. */
// eslint-disable-next-line @typescript-eslint/no-explicit-any -- cells of one table hold values of many kinds
export type Column<R extends RowData> = ColumnDef<typeof features, R, any>;

/** columns makes columns for rows of a kind. */
export const columns = <R extends RowData>() => createColumnHelper<typeof features, R>();

declare module "@tanstack/react-table" {
  // eslint-disable-next-line @typescript-eslint/no-unused-vars -- these names are the library's
  interface ColumnMeta<TFeatures, TData, TValue> {
    className?: string;
    /** The direction in which the rows stand by this column now. */
    sorted?: "ascending" | "descending";
  }
}

function useRows<R extends RowData>(list: Column<R>[], rows: R[], id: (r: R) => string) {
  return useTable({ features, columns: list, data: rows, getRowId: id });
}

type Built<R extends RowData> = ReturnType<typeof useRows<R>>;

function Heads<R extends RowData>({ table, className }: { table: Built<R>; className: string }) {
  return table.getHeaderGroups().map((g) => (
    <div role="row" key={g.id} className={`r head ${className}`}>
      {g.headers.map((h) => (
        <div role="columnheader" key={h.id} className={h.column.columnDef.meta?.className} aria-sort={h.column.columnDef.meta?.sorted}>
          <FlexRender header={h} />
        </div>
      ))}
    </div>
  ));
}

type Common<R extends RowData> = { label: string; columns: Column<R>[]; rows: R[]; id: (r: R) => string; row?: string; on?: (r: R) => boolean };

/** Table shows all its rows. */
export function Table<R extends RowData>({ label, columns: list, rows, id, row = "", on, headless }: Common<R> & { headless?: boolean }) {
  const table = useRows(list, rows, id);
  return (
    <div className="grid-rows" role="table" aria-label={label}>
      {!headless && <Heads table={table} className={row} />}
      {table.getRowModel().rows.map((r) => (
        <div role="row" key={r.id} className={`r static ${row}${on?.(r.original) ? " on" : ""}`} data-row={r.id}>
          {r.getAllCells().map((c) => (
            <div role="cell" key={c.id} className={c.column.columnDef.meta?.className}>
              <FlexRender cell={c} />
            </div>
          ))}
        </div>
      ))}
    </div>
  );
}

/** isOwn reports whether something was done to a part of a row that has its own use: a switch, a field, or what it opens. */
const isOwn = (e: { target: EventTarget; currentTarget: EventTarget }) => {
  const target = e.target as Element;
  return !(e.currentTarget as Element).contains(target) || !!target.closest("button, a, input, select, textarea, label, [role=switch], [contenteditable]");
};

const pageStep = 12; // rows that a page key goes on by
const ahead = 150; // rows before the end at which more are asked for

export type GridHandle = { focus: () => void };

/**
 * Grid draws the rows that are seen. Arrows go through them, Enter opens one, the space bar chooses one; Escape first chooses
 * nobody, then closes what is open. `walk` names a list: another one begins at its top.
 */
export function Grid<R extends RowData>({
  label,
  columns: list,
  rows,
  id,
  row = "",
  on,
  height,
  walk,
  count,
  chosen,
  onOpen,
  onChoose,
  onEscape,
  onEnd,
  empty,
  foot,
  ref,
  testId,
}: Common<R> & {
  height: number; // px of a row
  walk: string;
  count: number; // of rows in all; -1 for more than are known
  chosen: (r: R) => boolean;
  onOpen: (r: R) => void;
  onChoose: (r: R) => void;
  onEscape: () => boolean;
  onEnd?: () => void;
  empty?: ReactNode;
  foot?: ReactNode;
  ref?: Ref<GridHandle>;
  testId?: string;
}) {
  const table = useRows(list, rows, id);
  const model = table.getRowModel().rows;
  const box = useRef<HTMLDivElement>(null);
  useImperativeHandle(ref, () => ({ focus: () => box.current?.focus() }));
  const [place, setPlace] = useState({ walk, at: 0 });
  const active = Math.min(place.walk === walk ? place.at : 0, Math.max(0, rows.length - 1));
  const goTo = (at: number) => setPlace({ walk, at });
  const virtual = useVirtualizer({ count: model.length, getScrollElement: () => box.current, estimateSize: () => height, overscan: 16, getItemKey: (i) => model[i]!.id });
  const items = virtual.getVirtualItems();
  const last = items[items.length - 1]?.index ?? 0;
  useEffect(() => {
    if (last > rows.length - ahead) onEnd?.();
  }, [last, rows.length, onEnd]);
  const onKeyDown = (e: KeyboardEvent) => {
    if (e.target !== e.currentTarget && isOwn(e)) return;
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: pageStep, PageUp: -pageStep, Home: -rows.length, End: rows.length }[e.key];
    const here = rows[active];
    if (step) {
      const next = Math.max(0, Math.min(rows.length - 1, active + step));
      goTo(next);
      virtual.scrollToIndex(next);
    } else if (e.key === "Enter" && here) onOpen(here);
    else if (e.key === " " && here) onChoose(here);
    else if (e.key !== "Escape" || !onEscape()) return;
    e.preventDefault();
  };
  return (
    <div
      className="scroll grid-rows"
      role="grid"
      aria-label={label}
      aria-rowcount={count}
      aria-activedescendant={model[active] && `row-${model[active].id}`}
      tabIndex={0}
      ref={box}
      onKeyDown={onKeyDown}
      data-testid={testId}
    >
      <Heads table={table} className={row} />
      {rows.length === 0 && empty}
      <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: "relative" }}>
        {items.map((v) => {
          const r = model[v.index]!;
          const state = `${on?.(r.original) ? " on" : ""}${v.index === active ? " at" : ""}${chosen(r.original) ? " picked" : ""}`;
          return (
            // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/interactive-supports-focus -- the grid has the focus and the keys, as WAI-ARIA's grid with an active descendant does
            <div
              key={v.key}
              role="row"
              id={`row-${r.id}`}
              aria-rowindex={v.index + 2}
              aria-selected={chosen(r.original)}
              className={`r ${row}${state}`}
              style={{ transform: `translateY(${v.start}px)` }}
              onClick={(e) => {
                if (isOwn(e)) return;
                goTo(v.index);
                onOpen(r.original);
              }}
              data-person={r.id}
            >
              {r.getAllCells().map((c) => (
                <div role="gridcell" key={c.id} className={c.column.columnDef.meta?.className}>
                  <FlexRender cell={c} />
                </div>
              ))}
            </div>
          );
        })}
      </div>
      {foot}
    </div>
  );
}
