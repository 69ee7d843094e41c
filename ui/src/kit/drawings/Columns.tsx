import { AxisBottom, AxisLeft } from "@visx/axis";
import { Group } from "@visx/group";
import { scaleBand, scaleLinear } from "@visx/scale";
import { Bar } from "@visx/shape";
import { useId, useLayoutEffect, useRef } from "react";
import { Scroll } from "../Panel";

/** A column of a picture: how many, how many of them count as filled, and whether it may still grow. */
export type ColumnOf = { key: string; label: string; says: string; of: number; filled: number; open?: boolean };

const margin = { left: 30, right: 22, top: 6, bottom: 24 };

/**
 * Columns draws counts as columns, of each the filled part; what may still grow is hatched. Each is pressed to see what is behind
 * it. They are narrow rather than wider than `wide` px together, and `high` px without their axis.
 */
export function Columns({ label, list, onOpen, wide: most = 820, high = 150 }: { label: string; list: ColumnOf[]; onOpen: (key: string) => void; wide?: number; high?: number }) {
  const hatch = useId();
  const box = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => void box.current?.scrollTo({ left: box.current.scrollWidth }), [list.length]); // the latest are seen first
  const step = Math.max(7, Math.min(26, most / Math.max(1, list.length)));
  const wide = list.length * step;
  const x = scaleBand({ domain: list.map((c) => c.key), range: [0, wide], paddingInner: 0.2, paddingOuter: 0.1 });
  const y = scaleLinear({ domain: [0, Math.max(4, ...list.map((c) => c.of))], range: [high - margin.top, 0], nice: true });
  const base = high - margin.top;
  const apart = Math.ceil(60 / step); // columns between two dates
  const every = list.filter((_, i) => (list.length - 1 - i) % apart === 0);
  const words = { fill: "var(--color-text-3)", fontSize: 12, fontFamily: "var(--font-text)" };
  return (
    <Scroll across label={`${label}, a picture`} ref={box}>
      <svg width={wide + margin.left + margin.right} height={high + margin.bottom} role="group" aria-label={label} className="block">
        <defs>
          <pattern id={hatch} width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="2" height="5" fill="var(--color-line)" />
          </pattern>
        </defs>
        <Group left={margin.left} top={margin.top}>
          <AxisLeft scale={y} numTicks={3} hideAxisLine tickStroke="var(--color-line)" tickFormat={String} tickLabelProps={{ ...words, dx: -2, dy: 4, textAnchor: "end" }} />
          <AxisBottom
            scale={x}
            top={base}
            tickValues={every.map((c) => c.key)}
            tickFormat={(k) => list.find((c) => c.key === k)?.label ?? ""}
            hideTicks
            stroke="var(--color-line)"
            tickLabelProps={{ ...words, textAnchor: "middle", dy: 2 }}
          />
          {list.map((c) => {
            const left = x(c.key) ?? 0;
            const w = x.bandwidth();
            return (
              <g
                key={c.key}
                role="button"
                tabIndex={0}
                className="cursor-pointer"
                aria-label={c.says}
                onClick={() => onOpen(c.key)}
                onKeyDown={(e) => {
                  if (e.key !== "Enter" && e.key !== " ") return;
                  e.preventDefault();
                  onOpen(c.key);
                }}
              >
                <title>{c.says}</title>
                <rect x={left} y={0} width={w} height={base} fill="transparent" />
                <Bar
                  x={left}
                  y={y(c.of)}
                  width={w}
                  height={base - y(c.of)}
                  rx={2}
                  fill={c.open ? `url(#${hatch})` : "none"}
                  stroke="var(--color-text-3)"
                  strokeDasharray={c.open ? "3 2" : undefined}
                />
                <Bar x={left} y={y(c.filled)} width={w} height={base - y(c.filled)} rx={2} fill="var(--color-fern)" />
              </g>
            );
          })}
        </Group>
      </svg>
    </Scroll>
  );
}
