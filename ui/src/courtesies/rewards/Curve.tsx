const [wide, high, left] = [360, 92, 4];

/** Curve draws what the levels take: a shore that rises, a step a level. */
export function Curve({ needs, names, many }: { needs: number[]; names: string[]; many: string }) {
  if (needs.length === 0) return null;
  const top = needs.at(-1)!;
  const step = (wide - left) / needs.length;
  const y = (n: number) => high - 14 - (n / top) * (high - 26);
  const path = needs.map((n, i) => `L${(left + i * step).toFixed(1)} ${y(n).toFixed(1)}H${(left + (i + 1) * step).toFixed(1)}`).join("");
  const marks = [1, 5, 10, 20, 30].filter((l) => l <= needs.length);
  return (
    <svg
      viewBox={`0 0 ${wide} ${high}`}
      className="block w-full max-w-[420px]"
      role="img"
      aria-label={`What the levels take: the first ${needs[0]}, level ${needs.length} ${top} ${many}`}
    >
      <path d={`M${left} ${high - 14}${path}V${high - 14}Z`} fill="var(--color-surface-2)" />
      <path d={`M${left} ${y(needs[0]!)}${path}`} fill="none" stroke="var(--color-lagoon)" strokeWidth="1.6" />
      {marks.map((l) => (
        <text
          key={l}
          x={l === needs.length ? wide : left + (l - 0.5) * step}
          y={high - 2}
          textAnchor={l === needs.length ? "end" : "middle"}
          fontSize="12"
          fill="var(--color-text-3)"
        >
          {l}
        </text>
      ))}
      {marks.slice(1).map((l) => (
        <text key={l} x={l === needs.length ? wide : left + (l - 0.5) * step} y={y(needs[l - 1]!) - 4} textAnchor="end" fontSize="12" fill="var(--color-text-2)">
          {needs[l - 1]}
        </text>
      ))}
      <title>{names.map((n, i) => `${n}: ${needs[i] ?? ""}`).join(", ")}</title>
    </svg>
  );
}
