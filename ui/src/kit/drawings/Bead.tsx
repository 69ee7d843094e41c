import { tv } from "tailwind-variants";

/** How something goes along a rope: at once, gathered into one, paused, not set, or not able to. */
export type Way = "at once" | "gathered" | "paused" | "not set" | "cannot";

const size = 14; // px of a bead

/** Bead hangs on a rope: full at once, half gathered, a ring paused, a knot not set, a dash cannot. Shape tells it, not colour alone. */
export function Bead({ way, label, chosen }: { way: Way; label?: string; chosen?: boolean }) {
  const words = label ?? way;
  return (
    <svg width={size} height={size} viewBox="0 0 14 14" role="img" aria-label={words} className={beadLook({ chosen })}>
      <title>{words}</title>
      {way !== "not set" && <circle cx="7" cy="7" r="7" className="fill-surface" />}
      {way === "at once" && <circle cx="7" cy="7" r="6.2" className="fill-lamp stroke-marigold" strokeWidth="1.5" />}
      {way === "gathered" && (
        <>
          <path d="M7 1A6 6 0 0 0 7 13Z" className="fill-lamp" />
          <circle cx="7" cy="7" r="6" fill="none" className="stroke-marigold" strokeWidth="2" />
        </>
      )}
      {way === "paused" && <circle cx="7" cy="7" r="6" fill="none" className="stroke-text-3" strokeWidth="2" />}
      {way === "not set" && <circle cx="7" cy="7" r="2.2" className="fill-surface stroke-text-3" strokeWidth="1.5" />}
      {way === "cannot" && <path d="M3 7h8" className="stroke-text-3" strokeWidth="2" strokeLinecap="round" />}
    </svg>
  );
}

const beadLook = tv({ base: "flex-none", variants: { chosen: { true: "rounded-full outline-2 outline-offset-[3px] outline-text" } } });

/** Rope is what beads hang on; dashed while what goes along it waits and mends itself. */
export function Rope({ length, held }: { length: number; held?: boolean }) {
  return (
    <svg width="2" height={length} viewBox={`0 0 2 ${length}`} aria-hidden className="flex-none">
      <path d={`M1 0V${length}`} className={held ? "stroke-text-3" : "stroke-line"} strokeWidth="2" strokeDasharray={held ? "4 5" : undefined} />
    </svg>
  );
}
