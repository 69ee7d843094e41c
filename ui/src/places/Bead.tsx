import type { Goes } from "./places";

/** Bead is how something goes: full at once, half gathered, a ring paused, a knot not at all. */
export function Bead({ how }: { how: Goes }) {
  return (
    <svg className="bead" viewBox="0 0 16 16" aria-hidden data-how={how}>
      {how === "not" ? <circle cx="8" cy="8" r="2.5" className="knot" /> : <circle cx="8" cy="8" r="6" className="round" />}
      {how === "gathered" && <path d="M8 2a6 6 0 0 0 0 12z" className="half" />}
    </svg>
  );
}
