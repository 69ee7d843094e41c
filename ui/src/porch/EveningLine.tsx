import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link } from "react-router";
import { session } from "../api/queries";
import { useLive, useSlowly, type Live } from "../api/live";
import { drawn, thin, useWidth } from "../kit/drawings/evening";
import { ShapePath } from "../kit/drawings/Lantern";
import { clock, useHouseNow, useZone } from "../kit/time";

const H = 92;
const ground = H - 26;
/** Ribbon is the evening line in 24 px, on the other views while live: the hill, raids and what the house said. */
export function Ribbon() {
  const live = useLive((s) => s.live);
  const evening = useSlowly(1000, (s) => s.evening);
  const coming = useLive((s) => s.coming.length);
  const now = useHouseNow(5000);
  const { box, width } = useWidth();
  if (!live?.on || !live.opened || !evening) return null;
  const from = Date.parse(live.opened);
  const long = Math.max(now - from, 60_000);
  const x = (iso: string) => Math.max(2, Math.min(width - 4, ((Date.parse(iso) - from) / long) * (width - 6)));
  const { minutes, raids, said, arrivals } = evening;
  const tall = Math.max(8, ...minutes);
  const step = ((width - 6) * 60_000) / long;
  let hill = "M0 18";
  minutes.forEach((n, i) => (hill += `L${((i + 0.5) * step).toFixed(1)} ${(18 - (n / tall) * 14).toFixed(1)}`));
  hill += `L${width} 18Z`;
  return (
    <div className="flex-none overflow-hidden px-5" ref={box}>
      <svg
        width={width}
        height="24"
        role="img"
        aria-label={`Live: ${arrivals.length} arrived, ${raids.length} ${raids.length === 1 ? "raid" : "raids"}, ${live.house} lines by the house, ${coming} coming up`}
        className="block"
      >
        <path d={hill} fill="var(--color-lagoon)" opacity=".2" />
        <path d={`M0 18H${width}`} stroke="var(--color-line)" />
        {raids.map((r) => (
          <path key={r.id} d={`M${x(r.at) - 9} 18A9 13 0 0 1 ${x(r.at) + 9} 18`} fill="none" stroke="var(--color-marigold)" strokeWidth="1.8" />
        ))}
        {thin(said, x).map((m) => (
          <path key={m.id} d={`M${m.x} 20v4`} stroke="var(--color-marigold)" strokeWidth="2" />
        ))}
        <rect x={width - 3} y="2" width="2.5" height="20" rx="1" fill="var(--color-marigold)" />
      </svg>
    </div>
  );
}

/** EveningLine draws the stream from its opening to now. */
export function EveningLine({ onGo }: { onGo: (id: string) => void }) {
  const mayLook = useQuery(session).data?.role !== "helper";
  const { box, width } = useWidth();
  const on = useLive((s) => s.live.on);
  const opened = useLive((s) => s.live.opened);
  const evening = useSlowly(1000, (s) => s.evening) ?? quiet;
  const zone = useZone();
  const now = useHouseNow(5000); // drawn anew every five seconds
  const from = opened ? Date.parse(opened) : now;
  const long = Math.max(now - from, 60_000);
  const { hill, stacks, arcs, labels, said, pins } = useMemo(() => drawn(evening, from, long, width, { ground }), [evening, from, long, width]);
  if (!on)
    return (
      <div className="px-5 pb-2.5" ref={box}>
        <div className="sub flex h-8 items-center gap-3 border-b border-line">
          The evening line begins when a stream opens.
          {mayLook && (
            <Link className="link" to="/lookback">
              Look back at the last one
            </Link>
          )}
        </div>
      </div>
    );
  const marks = Array.from({ length: 6 }, (_, i) => i / 5);
  return (
    <div className="flex-none px-5 pb-2.5" ref={box}>
      <svg width={width} height={H} viewBox={`0 0 ${width} ${H}`} role="group" aria-label="The evening so far" className="block">
        <path d={hill} fill="var(--color-lagoon)" opacity=".16" />
        <path d={`M0 ${ground}H${width}`} stroke="var(--color-line)" />
        {arcs.map((a) => (
          <path key={a.id} d={`M${a.x - a.r} ${ground}A${a.r} ${a.r} 0 0 1 ${a.x + a.r} ${ground}`} fill="none" stroke="var(--color-marigold)" strokeWidth="2" />
        ))}
        {labels.map((a) => (
          <text key={a.id} x={a.lx} y={a.ly} fontSize="12" fill="var(--color-text)" fontWeight="600" textAnchor={a.anchor}>
            {a.name}{" "}
            <tspan fill="var(--color-text-2)" fontWeight="400">
              brought {a.viewers}
            </tspan>
          </text>
        ))}
        {stacks.map((s) => (
          <g
            key={s.id + s.shape}
            transform={`translate(${s.x - 6},${ground - 15})`}
            fill={s.shape === "wave" ? "var(--color-marigold)" : "var(--color-text)"}
            role="button"
            tabIndex={0}
            className="cursor-pointer"
            aria-label={`${s.names.slice(0, 6).join(", ")}${s.n > 6 ? ` and ${s.n - 6} more` : ""}`}
            onClick={() => onGo(s.id)}
            onKeyDown={(e) => e.key === "Enter" && onGo(s.id)}
          >
            <title>
              {s.names.slice(0, 12).join(", ")}
              {s.n > 12 ? ` and ${s.n - 12} more` : ""}
            </title>
            <rect x="-4" y="-5" width={s.n > 1 ? 30 : 20} height="22" fill="transparent" />
            <ShapePath name={s.shape} />
            {s.n > 1 && (
              <text x="15" y="10" fontSize="12" fontWeight="650" fill="var(--color-text)">
                {s.n}
              </text>
            )}
          </g>
        ))}
        {pins.map((m) => (
          <g
            key={m.id}
            transform={`translate(${m.x},${ground})`}
            role="button"
            tabIndex={0}
            className="cursor-pointer"
            aria-label={`Bookmark: ${m.name}`}
            onClick={() => onGo(m.id)}
            onKeyDown={(e) => e.key === "Enter" && onGo(m.id)}
          >
            <title>{m.name}</title>
            <rect x="-7" y="-30" width="14" height="32" fill="transparent" />
            <path d="M0 0v-18" stroke="var(--color-text)" strokeWidth="1.6" />
            <circle cy="-21" r="4" fill="var(--color-text)" />
          </g>
        ))}
        {said.map((m) => (
          <path key={m.id} d={`M${m.x} ${ground + 5}v7`} stroke="var(--color-marigold)" strokeWidth="2.4" strokeLinecap="round" />
        ))}
        {marks.map((f) => {
          if (width < 700 && f !== 0 && f !== 1) return null;
          const time = (g: number) => clock(new Date(from + g * long).toISOString(), zone);
          const t = time(f);
          if (f !== 0 && f !== 1 && (t === time(f - 0.2) || t === time(1))) return null; // a minute stands once
          return (
            <text key={f} x={f * width} y={H - 1} fontSize="12" fill="var(--color-text-3)" textAnchor={f === 1 ? "end" : f === 0 ? "start" : "middle"}>
              {f === 0 ? `${t} opened` : f === 1 ? `now ${t}` : t}
            </text>
          );
        })}
        <rect x={width - 3} y="4" width="2.5" height={H - 30} rx="1" fill="var(--color-marigold)" />
      </svg>
    </div>
  );
}

const quiet: Live["evening"] = { minutes: [], arrivals: [], raids: [], said: [], pins: [] };
