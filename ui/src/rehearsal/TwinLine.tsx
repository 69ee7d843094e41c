import { useMemo, useRef } from "react";
import type { EveningDifference, RehearsalResult, SideWanted } from "../api/client";
import { drawn, useWidth, type Evening } from "../kit/drawings/evening";
import { ShapePath } from "../kit/drawings/Lantern";
import { Times } from "../kit/drawings/Times";
import { clockSeconds, useZone } from "../kit/time";
import { short } from "./rehearsal";

const H = 196;
const up = 66; // ground of the one above
const down = 112; // and of the one below
const head = 112; // px at the left, for what each is called

const time = (iso: string) => Date.parse(iso);

type Props = {
  result: RehearsalResult;
  above: SideWanted;
  below: SideWanted;
  at?: string;
  chosen: number;
  onAt: (iso: string) => void;
  onChoose: (n: number) => void;
};

/**
 * TwinLine is the evening twice: the changed one hangs mirrored under the other, as in water, and threads between their ticks are the differences. The
 * scrubber chooses a moment.
 */
export function TwinLine({ result, above, below, at, chosen, onAt, onChoose }: Props) {
  const { box, width: whole } = useWidth();
  const zone = useZone();
  const svg = useRef<SVGSVGElement>(null);
  const width = Math.max(200, whole - head);
  const from = time(result.opened);
  const long = Math.max(60_000, time(result.closed) - from);
  const x = (iso: string) => head + Math.max(4, Math.min(width - 6, ((time(iso) - from) / long) * (width - 10)));
  const both = useMemo(() => {
    const dims = { ground: 60, high: 34, most: 40 };
    return [result.above.evening, result.below.evening].map((e: Evening) => drawn(e, from, long, width, dims));
  }, [result, from, long, width]);
  const [a, b] = both as [ReturnType<typeof drawn>, ReturnType<typeof drawn>];
  const iso = (px: number) => new Date(from + Math.max(0, Math.min(1, (px - head) / (width - 10))) * long).toISOString();
  const step = (minutes: number) => at && onAt(new Date(Math.max(from, Math.min(from + long, time(at) + minutes * 60_000))).toISOString());
  const pill = at ? Math.min(0, whole - 46 - x(at)) : 0; // stays inside
  const threads = useMemo(() => thinned(result.differences), [result]);
  return (
    <div className="flex-none px-5" ref={box}>
      <svg
        ref={svg}
        width={whole}
        height={H}
        viewBox={`0 0 ${whole} ${H}`}
        role="group"
        aria-label={`Both evenings: ${result.differences.length + result.more} differences`}
        className="twin block"
        onPointerDown={(e) => {
          const r = svg.current?.getBoundingClientRect();
          if (r && e.clientX - r.left > head) onAt(iso(e.clientX - r.left));
        }}
        onPointerMove={(e) => {
          const r = svg.current?.getBoundingClientRect();
          if (r && e.buttons === 1 && e.clientX - r.left > head) onAt(iso(e.clientX - r.left));
        }}
      >
        <text x="0" y={up - 14} className="fill-text font-display text-[15px] font-[650]">
          {short[above.kind]}
        </text>
        <text x="0" y={up + 2} className="fill-text-2 text-[12.5px]">
          {result.above.lines} lines
        </text>
        <text x="0" y={(up + down) / 2 + 4} className="fill-text-2 text-[12.5px]">
          {result.differences.length + result.more} differ
        </text>
        <text x="0" y={down + 14} className="fill-text font-display text-[15px] font-[650]">
          {short[below.kind]}
        </text>
        <text x="0" y={down + 31} className="fill-text-2 text-[12.5px]">
          {result.below.lines} lines
        </text>
        <g transform={`translate(${head},${up - 60})`}>
          <Side d={a} ground={60} />
        </g>
        <g transform={`translate(${head},${down + 60}) scale(1,-1)`}>
          <Side d={b} ground={60} mirrored />
        </g>
        {a.said.map((m) => (
          <path key={m.id} d={`M${head + m.x} ${up + 4}v7`} className="stroke-marigold" strokeWidth="2.4" strokeLinecap="round" />
        ))}
        {b.said.map((m) => (
          <path key={m.id} d={`M${head + m.x} ${down - 11}v7`} className="stroke-marigold" strokeWidth="2.4" strokeLinecap="round" />
        ))}
        {threads.map(([d, n]) => (
          <Thread key={n} d={d} x={x} lit={n === chosen} onChoose={() => onChoose(n)} />
        ))}
        <Times from={from} long={long} zone={zone} left={head} width={width - 10} y={H - 5} taken={at ? [x(at) + pill - 48, x(at) + pill + 48] : undefined} />
        {at && (
          <g
            role="slider"
            tabIndex={0}
            aria-label="The moment that is shown"
            aria-valuemin={0}
            aria-valuemax={Math.round(long / 1000)}
            aria-valuenow={Math.round((time(at) - from) / 1000)}
            aria-valuetext={clockSeconds(at, zone)}
            transform={`translate(${x(at)},0)`}
            onKeyDown={(e) => {
              const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10 }[e.key];
              if (by === undefined) return;
              step(by);
              e.preventDefault();
            }}
          >
            <path d={`M0 4V${H - 18}`} className="stroke-text" strokeWidth="2" />
            <rect x={pill - 44} y={H - 20} width="88" height="20" rx="10" className="fill-text" />
            <text x={pill} y={H - 5.5} textAnchor="middle" fontSize="13" fontWeight="650" className="fill-ground">
              {clockSeconds(at, zone)}
            </text>
          </g>
        )}
      </svg>
    </div>
  );
}

/** thinned are as many threads as can be told apart; the list has all of them. */
const thinned = (list: EveningDifference[]): [EveningDifference, number][] => {
  const all = list.map((d, n): [EveningDifference, number] => [d, n]);
  const every = Math.ceil(all.length / 160);
  return all.filter((_, i) => i % every === 0);
};

function Side({ d, ground, mirrored }: { d: ReturnType<typeof drawn>; ground: number; mirrored?: boolean }) {
  return (
    <>
      <path d={d.hill} className="fill-lagoon" opacity=".18" />
      <path d={`M0 ${ground}H3000`} className="stroke-line" clipPath="inset(0)" />
      {d.arcs.map((a) => (
        <path key={a.id} d={`M${a.x - a.r} ${ground}A${a.r} ${a.r} 0 0 1 ${a.x + a.r} ${ground}`} fill="none" className="stroke-marigold" strokeWidth="2" />
      ))}
      {!mirrored &&
        d.labels.map((a) => (
          <text key={a.id} x={a.lx} y={Math.max(11, a.ly)} fontSize="12" textAnchor={a.anchor} className="fill-text" fontWeight="600">
            {a.name}{" "}
            <tspan className="fill-text-2" fontWeight="400">
              brought {a.viewers}
            </tspan>
          </text>
        ))}
      {d.stacks.map((s) => (
        <g key={s.id + s.shape} transform={`translate(${s.x - 6},${ground - 15})`} className={s.shape === "wave" ? "fill-marigold" : "fill-text"}>
          <title>
            {s.names.slice(0, 12).join(", ")}
            {s.n > 12 ? ` and ${s.n - 12} more` : ""}
          </title>
          <g transform={mirrored ? "translate(0,12) scale(1,-1)" : undefined}>
            <ShapePath name={s.shape} />
            {s.n > 1 && (
              <text x="15" y="10" fontSize="12" fontWeight="650">
                {s.n}
              </text>
            )}
          </g>
        </g>
      ))}
    </>
  );
}

/** Thread is a difference between the two lines: a dead end, a diamond or a slant. */
function Thread({ d, x, lit, onChoose }: { d: EveningDifference; x: (iso: string) => number; lit: boolean; onChoose: () => void }) {
  const top = up + 12;
  const foot = down - 12;
  const mid = (top + foot) / 2;
  const w = lit ? 3 : 1.6;
  const xa = d.above?.at ? x(d.above.at) : 0;
  const xb = d.below?.at ? x(d.below.at) : 0;
  const body =
    d.kind === "only above" ? (
      <>
        <path d={`M${xa} ${top}v5`} strokeWidth={w} />
        <circle cx={xa} cy={top + 8.5} r="3.4" fill="none" strokeWidth={w} />
      </>
    ) : d.kind === "only below" ? (
      <>
        <path d={`M${xb} ${foot}v-5`} strokeWidth={w} />
        <circle cx={xb} cy={foot - 8.5} r="3.4" fill="none" strokeWidth={w} />
      </>
    ) : d.kind === "words" ? (
      <>
        <path d={`M${xa} ${top}L${xb} ${foot}`} strokeWidth="1.2" />
        <path d={`M${(xa + xb) / 2} ${mid - 5.5}l5.5 5.5-5.5 5.5-5.5-5.5Z`} className="fill-text" />
      </>
    ) : (
      <path d={`M${xa} ${top}L${xb} ${foot}`} strokeWidth={w} />
    );
  return (
    <g
      className="cursor-pointer stroke-text"
      strokeLinecap="round"
      aria-hidden
      onPointerDown={(e) => {
        e.stopPropagation();
        onChoose();
      }}
    >
      <title>{`${d.label}: ${d.why}`}</title>
      {body}
    </g>
  );
}
