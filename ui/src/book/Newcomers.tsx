import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { said as problem, type Cohort } from "../api/client";
import { newcomers } from "../api/queries";
import { Button } from "../kit/Button";
import { Columns } from "../kit/drawings/Columns";
import { Empty, Scroll } from "../kit/Panel";
import { columns, Table } from "../kit/Table";
import { useCalendar } from "../kit/time";

const cells = columns<Cohort>();

/** Newcomers shows, for each stream and raid, how many came for the first time and how many were seen again within five streams. */
export function Newcomers() {
  const calendar = useCalendar();
  const q = useQuery(newcomers);
  const go = useNavigate();
  if (!q.data) return <Empty>{q.error ? problem(q.error) : "…"}</Empty>;
  const byRaid = cells.columns([
    cells.accessor((r) => calendar.dated(r.opened), { id: "day", header: "Day", cell: (c) => c.getValue() }),
    cells.accessor((r) => r.name || "somebody", {
      id: "name",
      header: "Who",
      cell: (c) => (
        <b className="cut">
          <bdi>{c.getValue()}</bdi>
        </b>
      ),
    }),
    cells.accessor("viewers", { header: "Brought", cell: (c) => `brought ${c.getValue()}` }),
    cells.display({
      id: "came",
      header: "Newcomers",
      cell: ({ row: { original: r } }) => (
        <>
          {r.newcomers} newcomers, {r.returned} came back {r.of < 5 && <span className="sub">· {r.of} of 5 streams so far</span>}
        </>
      ),
    }),
    cells.display({ id: "part", header: "Part", cell: ({ row }) => <Part c={row.original} /> }),
    cells.display({
      id: "show",
      header: "",
      cell: ({ row: { original: r } }) =>
        r.newcomers > 0 && (
          <Button size="s" onClick={() => void go(`/book?raid=${r.raid}`)}>
            Show them
          </Button>
        ),
    }),
  ]);
  const streams = [...q.data.streams].reverse();
  if (streams.length === 0)
    return (
      <Empty>
        <b>No stream yet.</b> After the first one, this shows who came for the first time and who came back.
      </Empty>
    );
  const full = streams.filter((s) => s.of === 5);
  const came = full.reduce((n, s) => n + s.newcomers, 0);
  const back = full.reduce((n, s) => n + s.returned, 0);
  return (
    <Scroll className="px-4 pb-4" label="Newcomers">
      <p className="pb-1">
        Of {came} newcomers of the last {full.length} streams that have five after them, <b className="text-fern">{back}</b> were seen again within five streams
        {came ? ` (${Math.round((100 * back) / came)}%)` : ""}.
      </p>
      <Columns
        label="Newcomers of each stream"
        onOpen={(k) => void go(`/book?stream=${k}`)}
        list={streams.map((c) => ({
          key: String(c.stream),
          label: String(c.stream),
          of: c.newcomers,
          filled: c.returned,
          open: c.of < 5,
          says: `Stream ${c.stream}, ${calendar.dated(c.opened)}: ${c.newcomers} newcomers, ${c.returned} seen again${c.of < 5 ? `, ${c.of} of 5 streams so far` : ""}`,
        }))}
      />
      <p className="sub">Outline: came for the first time. Filled: seen again within five streams. Hatched: there have not been five streams since.</p>
      <h2 className="mt-4 mb-1 font-semibold text-[15px]">By raid</h2>
      {q.data.raids.length === 0 && <p className="sub">No raid in these streams.</p>}
      <Table headless label="Newcomers by raid" row="raid" columns={byRaid} rows={q.data.raids} id={(r) => String(r.raid)} />
    </Scroll>
  );
}

function Part({ c }: { c: Cohort }) {
  const w = 110;
  const part = c.newcomers ? (w * c.returned) / c.newcomers : 0;
  return (
    <svg width={w} height="10" aria-hidden>
      <rect width={w} height="10" rx="5" fill="none" stroke="var(--color-line)" />
      <rect width={part} height="10" rx="5" fill="var(--color-fern)" />
    </svg>
  );
}
