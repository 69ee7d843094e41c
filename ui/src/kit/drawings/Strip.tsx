/**
 * Strip is somebody's attendance: the last twenty streams as twenty small marks, absent a short one, came a full
 * one, tonight a full one with a dot.
 */
export function Strip({ bits }: { bits?: string }) {
  if (!bits) return null;
  const came = [...bits].filter((b) => b !== "0").length;
  return (
    <svg
      width={bits.length * 7}
      height="19"
      viewBox={`0 0 ${bits.length * 7} 19`}
      role="img"
      aria-label={`at ${came} of the last ${bits.length} streams`}
      className="block flex-none"
    >
      {[...bits].map((b, i) =>
        b === "0" ? (
          <rect key={i} x={i * 7} y="15" width="5" height="4" rx="2" fill="var(--color-text-3)" opacity=".75" />
        ) : (
          <g key={i} fill={b === "t" ? "var(--color-lamp)" : "var(--color-lagoon)"}>
            <rect x={i * 7} y="6" width="5" height="13" rx="2" />
            {b === "t" && <circle cx={i * 7 + 2.5} cy="2" r="1.7" />}
          </g>
        ),
      )}
    </svg>
  );
}
