/** The kinds of dates: a starfish for a birthday, a knot for following since, a doorway for who first came, a cairn for a round number. */
export type DateKind = "birthday" | "follows since" | "first came" | "round number";

const drawn: Record<DateKind, React.ReactNode> = {
  birthday: <path d="M6 6.4V1.5M6 6.4 10.5 4.9M6 6.4 8.8 10.4M6 6.4 3.2 10.4M6 6.4 1.500 4.9" stroke="currentColor" strokeWidth="2.5" strokeLinecap="round" fill="none" />,
  "follows since": <path d="M6 6 1.4 2.7V9.3ZM6 6 10.6 2.7V9.3Z" fill="currentColor" stroke="currentColor" strokeWidth="1.3" strokeLinejoin="round" />,
  "first came": <path d="M2.3 10.6V5.9a3.7 3.7 0 0 1 7.4 0V10.6" stroke="currentColor" strokeWidth="2.3" fill="none" strokeLinecap="round" />,
  "round number": (
    <g fill="currentColor">
      <ellipse cx="6" cy="10" rx="5" ry="1.7" />
      <ellipse cx="6" cy="6.3" rx="3.6" ry="1.6" />
      <ellipse cx="6" cy="2.8" rx="2.2" ry="1.5" />
    </g>
  ),
};

/** DateMark is the shape alone, 12 by 12, for drawings that hold one. */
export function DateMark({ kind }: { kind: DateKind }) {
  return drawn[kind];
}

/** DateShape says of what kind a date is. */
export function DateShape({ kind, size = 13 }: { kind: DateKind; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 12 12" role="img" aria-label={kind} className="flex-none text-rose-clay">
      <title>{kind}</title>
      {drawn[kind]}
    </svg>
  );
}
