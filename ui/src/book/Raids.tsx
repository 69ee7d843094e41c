import { useQuery } from "@tanstack/react-query";
import { said as problem, type RaidLine } from "../api/client";
import { raids } from "../api/queries";
import { Empty, Scroll } from "../kit/Panel";
import { columns, Table } from "../kit/Table";
import { useCalendar } from "../kit/time";
import { useSheet } from "./sheet";

const cells = columns<RaidLine>();

/** Raids is the ledger: who brought how many, whom we went to, and what is owed. */
export function Raids() {
  const calendar = useCalendar();
  const { open, show } = useSheet();
  const q = useQuery(raids);
  if (!q.data) return <Empty>{q.error ? problem(q.error) : "…"}</Empty>;
  const { lines } = q.data;
  if (lines.length === 0)
    return (
      <Empty>
        <b>No raids yet.</b> Who came over with people, and whom you went to see, is counted here by itself.
      </Empty>
    );
  const most = Math.max(1, ...lines.flatMap((l) => l.sizes));
  const owed = lines.filter((l) => l.came > l.went).length;
  const dash = (n: number) => n || <span className="muted">–</span>;
  const ledger = cells.columns([
    cells.accessor("name", {
      header: "Fellow streamer",
      cell: ({ row: { original: l } }) => (
        <button className="plain" onClick={() => show(l.person)}>
          <b className="cut">
            <bdi>{l.name}</bdi>
          </b>
        </button>
      ),
    }),
    cells.accessor("came", { header: "They came", cell: (c) => dash(c.getValue()) }),
    cells.accessor("went", { header: "We went", cell: (c) => dash(c.getValue()) }),
    cells.accessor("sizes", { header: () => <span className="sr-only">Sizes</span>, cell: (c) => <Sizes list={c.getValue()} most={most} /> }),
    cells.accessor("says", {
      header: "Balance",
      meta: { className: "whole" },
      cell: ({ row: { original: l } }) => (
        <>
          {l.says}
          {l.unthanked > 0 && <span className="text-persimmon"> · {l.unthanked} not thanked</span>}
          {l.lastWent && <span className="sub"> · we were there {calendar.dated(l.lastWent)}</span>}
        </>
      ),
    }),
  ]);
  return (
    <>
      <p className="sub px-4 pb-2">
        {owed} {owed === 1 ? "fellow streamer came" : "fellow streamers came"} more often than we went to them.
      </p>
      <Scroll label="The ledger of raids">
        <Table label="Raid ledger" row="ledger" columns={ledger} rows={lines} id={(l) => String(l.person)} on={(l) => open === l.person} />
      </Scroll>
    </>
  );
}

const waves = 6; // of the last raids

/** Sizes draws the last raids as waves, as high as the heads they brought. */
function Sizes({ list, most }: { list: number[]; most: number }) {
  return (
    <svg width="120" height="34" viewBox="0 0 120 34" role="img" aria-label={`sizes ${list.join(", ")}`}>
      {list.slice(-waves).map((v, i) => {
        const r = 3 + 13 * Math.sqrt(v / most);
        const w = Math.min(r, 9);
        return <path key={i} d={`M${i * 20 + 2} 30A${w} ${r} 0 0 1 ${i * 20 + 2 + 2 * w} 30Z`} fill="none" stroke="var(--color-marigold)" strokeWidth="1.8" />;
      })}
    </svg>
  );
}
