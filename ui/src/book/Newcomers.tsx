import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, ask, said as problem, type Cohort } from "../api/client";
import { dated, useNow } from "../kit/time";

/** Newcomers shows, for each stream and raid, how many came for the first time and how many were seen again within five streams. */
export function Newcomers() {
  const now = useNow(60_000);
  const q = useQuery({ queryKey: ["book", "newcomers"], queryFn: () => ask(api.GET("/api/book/newcomers")) });
  const go = useNavigate();
  if (!q.data) return <p className="empty">{q.error ? problem(q.error) : "…"}</p>;
  const streams = [...q.data.streams].reverse();
  if (streams.length === 0)
    return (
      <p className="empty">
        <b>No stream yet.</b> After the first one, this shows who came for the first time and who came back.
      </p>
    );
  const full = streams.filter((s) => s.of === 5);
  const came = full.reduce((n, s) => n + s.newcomers, 0);
  const back = full.reduce((n, s) => n + s.returned, 0);
  return (
    <div className="scroll px-4 pb-4" tabIndex={0} role="group" aria-label="Newcomers">
      <p className="pb-1">
        Of {came} newcomers of the last {full.length} streams that have five after them, <b className="text-(--fern)">{back}</b> were seen again within five streams
        {came ? ` (${Math.round((100 * back) / came)}%)` : ""}.
      </p>
      <Picture streams={streams} onOpen={(s) => void go(`/book?stream=${s}`)} />
      <h2 className="mt-4 mb-1 font-semibold text-[15px]">By raid</h2>
      {q.data.raids.length === 0 && <p className="sub">No raid in these streams.</p>}
      <div className="grid-rows">
        {q.data.raids.map((r) => (
          <div key={r.raid} className="r static raid">
            <div>{dated(r.opened, now)}</div>
            <div>
              <b className="cut">
                <bdi>{r.name || "somebody"}</bdi>
              </b>
            </div>
            <div>brought {r.viewers}</div>
            <div>
              {r.newcomers} newcomers, {r.returned} came back {r.of < 5 && <span className="sub">· {r.of} of 5 streams so far</span>}
            </div>
            <div>
              <Bar c={r} />
            </div>
            <div>
              {r.newcomers > 0 && (
                <button className="btn s" onClick={() => void go(`/book?raid=${r.raid}`)}>
                  Show them
                </button>
              )}
            </div>
          </div>
        ))}
      </div>
    </div>
  );
}

function Bar({ c }: { c: Cohort }) {
  const w = 110;
  const part = c.newcomers ? (w * c.returned) / c.newcomers : 0;
  return (
    <svg width={w} height="10" aria-hidden>
      <rect width={w} height="10" rx="5" fill="none" stroke="var(--line)" />
      <rect width={part} height="10" rx="5" fill="var(--fern)" />
    </svg>
  );
}

/** Picture: a column a stream, newcomers as outline, returned as fill; streams without five successors are hatched. */
function Picture({ streams, onOpen }: { streams: Cohort[]; onOpen: (stream: number) => void }) {
  const H = 150;
  const most = Math.max(4, ...streams.map((s) => s.newcomers));
  const y = (n: number) => (n / most) * (H - 24);
  const w = Math.max(14, Math.min(26, 820 / streams.length));
  const now = useNow(60_000);
  return (
    <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Newcomers by stream, a picture">
      <svg width={streams.length * w + 40} height={H + 22} role="group" aria-label="Newcomers of each stream">
        <defs>
          <pattern id="open" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="2" height="5" fill="var(--line)" />
          </pattern>
        </defs>
        <path d={`M0 ${H}H${streams.length * w}`} stroke="var(--line)" />
        {streams.map((s, i) => (
          <g
            key={s.stream}
            role="button"
            tabIndex={0}
            className="cursor-pointer"
            aria-label={`Stream ${s.stream}: ${s.newcomers} newcomers, ${s.returned} seen again${s.of < 5 ? `, ${s.of} of 5 streams so far` : ""}`}
            onClick={() => onOpen(s.stream)}
            onKeyDown={(e) => e.key === "Enter" && onOpen(s.stream)}
          >
            <title>
              Stream {s.stream}, {dated(s.opened, now)}: {s.newcomers} newcomers, {s.returned} seen again{s.of < 5 ? ` (only ${s.of} of 5 streams since)` : ""}
            </title>
            <rect x={i * w} y="0" width={w} height={H} fill="transparent" />
            <rect
              x={i * w + 2}
              y={H - y(s.newcomers)}
              width={w - 5}
              height={y(s.newcomers)}
              rx="2"
              fill={s.of < 5 ? "url(#open)" : "none"}
              stroke="var(--text-3)"
              strokeDasharray={s.of < 5 ? "3 2" : undefined}
            />
            <rect x={i * w + 2} y={H - y(s.returned)} width={w - 5} height={y(s.returned)} rx="2" fill="var(--fern)" />
            {(i % 5 === 0 || i === streams.length - 1) && (
              <text x={i * w + w / 2} y={H + 15} fontSize="12" textAnchor="middle" fill="var(--text-3)">
                {s.stream}
              </text>
            )}
          </g>
        ))}
      </svg>
      <p className="sub">Outline: came for the first time. Filled: seen again within five streams. Hatched: there have not been five streams since.</p>
    </div>
  );
}
