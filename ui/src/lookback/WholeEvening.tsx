import { useMemo } from "react";
import type { LookBack } from "../api/client";
import { drawn, useWidth } from "../kit/drawings/evening";
import { ShapePath } from "../kit/drawings/Lantern";
import { Times } from "../kit/drawings/Times";
import { useZone } from "../kit/time";
import { percent, shares } from "./lookback";

const H = 158;
const ground = 92;
const foot = 138; // of the house share

/** WholeEvening is the evening line of a stream that is over, with its bookmarks, our raid, hush, and the house's share of the lines beneath. */
export function WholeEvening({ of }: { of: LookBack }) {
  const { box, width } = useWidth();
  const zone = useZone();
  const from = Date.parse(of.opened);
  const long = Math.max(60_000, Date.parse(of.closed) - from);
  const x = (iso: string) => Math.max(4, Math.min(width - 6, ((Date.parse(iso) - from) / long) * (width - 10)));
  const d = useMemo(() => drawn(of.evening, from, long, width, { ground, high: 50, most: 56 }), [of, from, long, width]);
  const share = useMemo(() => {
    const list = shares(of.evening.minutes, of.house);
    const step = ((width - 10) * 60_000) / long;
    let path = `M0 ${foot}`;
    list.forEach((v, i) => (path += `L${Math.min(width, (i + 0.5) * step).toFixed(1)} ${(foot - v * 60).toFixed(1)}`));
    const top = list.reduce((best, v, i) => (v > (list[best] ?? 0) ? i : best), 0);
    return { path: `${path}L${width} ${foot}Z`, top, most: list[top] ?? 0, at: Math.min(width - 20, (top + 0.5) * step) };
  }, [of, long, width]);
  const people = of.evening.minutes.reduce((a, b) => a + b, 0);
  const house = of.house.reduce((a, b) => a + b, 0);
  const went = of.raids.filter((r) => r.went);
  return (
    <div ref={box} className="flex-none">
      <svg width={width} height={H} viewBox={`0 0 ${width} ${H}`} role="group" aria-label="The whole evening" className="block overflow-visible">
        <path d={d.hill} className="fill-lagoon" opacity=".18" />
        <path d={`M0 ${ground}H${width}`} className="stroke-line" />
        {d.arcs.map((a) => (
          <path key={a.id} d={`M${a.x - a.r} ${ground}A${a.r} ${a.r} 0 0 1 ${a.x + a.r} ${ground}`} fill="none" className="stroke-marigold" strokeWidth="2" />
        ))}
        {d.labels.map((a) => (
          <text key={a.id} x={a.lx} y={Math.max(28, a.ly)} fontSize="12" textAnchor={a.anchor} className="fill-text" fontWeight="600">
            {a.name}{" "}
            <tspan className="fill-text-2" fontWeight="400">
              brought {a.viewers}
            </tspan>
          </text>
        ))}
        {went.map((r) => (
          <g key={r.at}>
            <title>{`${r.name || "somebody"} got ${r.viewers} from us`}</title>
            <path
              d={`M${x(r.at) - 26} ${ground}C${x(r.at) - 26} ${ground - 36} ${x(r.at) - 8} ${ground - 38} ${x(r.at)} ${ground - 38}`}
              fill="none"
              className="stroke-marigold"
              strokeWidth="2"
              strokeDasharray="5 3"
            />
            <path d={`M${x(r.at) - 6} ${ground - 43}l8 5-8 5Z`} className="fill-marigold" />
            <text x={x(r.at) - 30} y={ground - 44} fontSize="12" textAnchor="end" className="fill-text-2">
              <tspan className="fill-text" fontWeight="600">
                {r.name || "somebody"}
              </tspan>{" "}
              got {r.viewers} from us
            </text>
          </g>
        ))}
        {d.pins.map((m, i) => (
          <g key={m.id} transform={`translate(${m.x},0)`}>
            <title>{m.name}</title>
            <path d={`M0 12V${ground}`} className="stroke-text-3" strokeDasharray="2 3" />
            <circle cy="8" r="3.6" className="fill-text" />
            {i % 2 === 0 && m.x < width - 120 && (
              <text x="8" y="12" fontSize="12" className="fill-text-2">
                {m.name.slice(0, 22)}
              </text>
            )}
          </g>
        ))}
        {d.stacks.map((s) => (
          <g key={s.id + s.shape} transform={`translate(${s.x - 6},${ground - 15})`} className={s.shape === "wave" ? "fill-marigold" : "fill-text"}>
            <title>{s.names.slice(0, 12).join(", ")}</title>
            <ShapePath name={s.shape} />
            {s.n > 1 && (
              <text x="15" y="10" fontSize="12" fontWeight="650">
                {s.n}
              </text>
            )}
          </g>
        ))}
        {d.said.map((m) => (
          <path key={m.id} d={`M${m.x} ${ground + 4}v7`} className="stroke-marigold" strokeWidth="2.4" strokeLinecap="round" />
        ))}
        {of.hushes.map((h) => {
          const end = h.to && !h.to.startsWith("0001") ? h.to : of.closed;
          return (
            <g key={h.from} transform={`translate(0,${ground + 8})`}>
              <path d={`M${x(h.from)} 0H${x(end)}`} className="stroke-text-3" strokeDasharray="3 3" />
              <text x={(x(h.from) + x(end)) / 2} y="4" textAnchor="middle" fontSize="12" className="fill-text-2">
                hush
              </text>
            </g>
          );
        })}
        <path d={share.path} className="fill-marigold" opacity=".32" />
        {of.usualShare > 0 && <path d={`M0 ${foot - of.usualShare * 60}H${width}`} className="stroke-marigold" strokeDasharray="2 3" />}
        <text x="0" y={foot - 24} fontSize="12" className="fill-text-2">
          house share{" "}
          <tspan className="fill-text" fontWeight="650">
            {percent(people + house ? house / (people + house) : 0)}
          </tspan>
          {of.usualShare > 0 && `, dotted the usual ${percent(of.usualShare)}`}
        </text>
        {share.most > 0 && share.at > 240 && (
          <text x={share.at} y={foot - share.most * 60 - 4} fontSize="12" textAnchor="middle" className="fill-text-2">
            {percent(share.most)}
          </text>
        )}
        <Times from={from} long={long} zone={zone} width={width - 4} y={H - 3} />
      </svg>
    </div>
  );
}
