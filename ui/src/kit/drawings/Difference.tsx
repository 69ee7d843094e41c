/** How two livings of one evening differ at a tick: it is on one side only, in other words, or at another moment. */
export type Differs = "only above" | "only below" | "words" | "later" | "sooner";

const tells: Record<Differs, string> = {
  "only above": "in the one above only",
  "only below": "in the one below only",
  words: "in other words",
  later: "later in the one below",
  sooner: "sooner in the one below",
};

const slant = (
  <>
    <path d="M3 1v4M11 11v4" className="stroke-marigold" strokeWidth="2.4" />
    <path d="M3 5.5 11 10.5" className="stroke-text" strokeWidth="1.8" />
  </>
);

const drawn: Record<Differs, React.ReactNode> = {
  "only above": (
    <>
      <path d="M7 1v5" className="stroke-marigold" strokeWidth="2.4" />
      <path d="M7 7v2.6" className="stroke-text" strokeWidth="1.5" />
      <circle cx="7" cy="12.3" r="2.6" fill="none" className="stroke-text" strokeWidth="1.5" />
    </>
  ),
  "only below": (
    <>
      <path d="M7 10v5" className="stroke-marigold" strokeWidth="2.4" />
      <path d="M7 6.4v2.6" className="stroke-text" strokeWidth="1.5" />
      <circle cx="7" cy="3.7" r="2.6" fill="none" className="stroke-text" strokeWidth="1.5" />
    </>
  ),
  words: (
    <>
      <path d="M7 1v4M7 11v4" className="stroke-marigold" strokeWidth="2.4" />
      <path d="M7 4.2 10.8 8 7 11.8 3.2 8Z" className="fill-text" />
    </>
  ),
  later: slant,
  sooner: <g transform="translate(14,0) scale(-1,1)">{slant}</g>,
};

/** Difference is a thread between two ticks: a dead end, a diamond or a slant, the same on the twin line and in the list. */
export function Difference({ kind, size = 16 }: { kind: Differs; size?: number }) {
  return (
    <svg width={(size * 14) / 16} height={size} viewBox="0 0 14 16" strokeLinecap="round" role="img" aria-label={tells[kind]} className="flex-none">
      <title>{tells[kind]}</title>
      {drawn[kind]}
    </svg>
  );
}
