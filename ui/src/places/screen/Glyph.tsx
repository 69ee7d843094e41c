/** Small marks of the kinds of boxes. */
const paths: Record<string, string> = {
  cards: "M1 3h12M4 3v2M5.5 8V5.500h7V11h-7",
  film: "M1 10c3 0 3-5 6-6s5 2 6 6Z",
  "chat lines": "M1 3h3M6 3h7M1 7h3M6 7h5M1 11h3M6 11h7",
  goal: "M0 3c4 2 10 2 14 0M3 5.500a2 2 0 1 0 .1 0M7 6.500a2 2 0 1 0 .1 0M11 5.500a2 2 0 1 0 .1 0",
  count: "M5 2 3.500 12M10.500 2 9 12M1.500 5h11M1 9h11",
  "last one": "M2 11h6M2 7h8M2 3h10M11 9l2 2-2 2",
  rail: "M0 2c4 3 10 3 14 0M4 4v2M4 6a2 2 0 1 0 .1 0M10 4v2M10 6a2 2 0 1 0 .1 0",
  countdown: "M7 1c3 3 4.200 5 4.200 7A4.200 4.200 0 0 1 2.800 8C2.800 6 4 4 7 1ZM3 8h8",
  emotes: "M5 9.500a1.600 1.600 0 1 0 .1 0M9 5.500a1.900 1.900 0 1 0 .1 0M5.500.800a2 2 0 1 0 .1 0",
};

export function Glyph({ kind }: { kind: string }) {
  return (
    <svg width="16" height="16" viewBox="0 0 14 14" fill="none" stroke="currentColor" strokeWidth="1.400" className="flex-none" aria-hidden>
      <path d={paths[kind] ?? "M2 2h10v10H2Z"} />
    </svg>
  );
}
