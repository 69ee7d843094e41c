/** Pebbles burn down one a day: those that are left are full, those that are gone hollow. */
export function Pebbles({ left, of = 7, unit = "day" }: { left: number; of?: number; unit?: string }) {
  const words = `${left} of ${of} ${unit}s left`;
  return (
    <svg width={of * 10 - 2} height="8" viewBox={`0 0 ${of * 10 - 2} 8`} role="img" aria-label={words} className="flex-none">
      <title>{words}</title>
      {Array.from({ length: of }, (_, i) => {
        const gone = i < of - left;
        return <circle key={i} cx={4 + i * 10} cy="4" r="3" strokeWidth="1.3" className={gone ? "fill-none stroke-text-3" : "fill-rose-clay stroke-rose-clay"} />;
      })}
    </svg>
  );
}
