import { AxisBottom, AxisLeft } from "@visx/axis";
import { Group } from "@visx/group";
import { scaleBand, scaleSqrt } from "@visx/scale";
import { Scroll } from "../kit/Panel";

type Hour = { weekday: number; hour: number; streams: number; people: number; new: number };

const days = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
const at = (weekday: number) => days[(weekday + 6) % 7]!;

/** Hours draws on which days and at which hours streams opened, each as a disc as large as people came; the ring within is the new ones. */
export function Hours({ hours }: { hours: Hour[] }) {
  const list = hours.map((h) => h.hour);
  const first = Math.min(...list, 18);
  const last = Math.max(...list, first + 3);
  const width = 430;
  const high = 270;
  const x = scaleBand({ domain: Array.from({ length: last - first + 1 }, (_, i) => String(first + i)), range: [0, width - 44] });
  const y = scaleBand({ domain: days, range: [0, high - 36] });
  const r = scaleSqrt({ domain: [0, Math.max(1, ...hours.map((h) => h.people))], range: [0, Math.min(x.bandwidth() / 2, 15)] });
  const words = { fill: "var(--color-text-2)", fontSize: 12, fontFamily: "var(--font-text)" };
  return (
    <Scroll across label="When streams opened, a picture">
      <svg width={width} height={high} role="group" aria-label="When streams opened, and how many came" className="block">
        <Group left={40} top={2}>
          <AxisLeft scale={y} hideAxisLine hideTicks tickLabelProps={{ ...words, textAnchor: "end", dy: 4 }} />
          <AxisBottom
            scale={x}
            top={high - 34}
            hideTicks
            stroke="var(--color-line)"
            tickValues={x.domain().filter((_, i) => i % Math.ceil((last - first + 1) / 8) === 0)}
            tickFormat={(h) => `${h}:00`}
            tickLabelProps={{ ...words, textAnchor: "middle" }}
          />
          {hours.map((h) => {
            const cx = (x(String(h.hour)) ?? 0) + x.bandwidth() / 2;
            const cy = (y(at(h.weekday)) ?? 0) + y.bandwidth() / 2;
            const says = `${at(h.weekday)} at ${h.hour}:00: ${h.streams === 1 ? "1 stream" : `${h.streams} streams`}, usually ${Math.round(h.people)} people, ${Math.round(h.new)} of them new`;
            return (
              <g key={`${h.weekday} ${h.hour}`} role="img" aria-label={says}>
                <title>{says}</title>
                <circle cx={cx} cy={cy} r={Math.max(2, r(h.people))} fill="var(--color-lagoon)" opacity=".55" />
                <circle cx={cx} cy={cy} r={r(h.new)} fill="none" stroke="var(--color-text)" strokeWidth="1.5" />
              </g>
            );
          })}
        </Group>
      </svg>
    </Scroll>
  );
}
