import { shapes } from "./shapes";

export type ShapeName = keyof typeof shapes;

/** shapeOf is the shape that hangs beside somebody's lantern. */
export function shapeOf(standing?: string, raider?: number, fellow?: boolean): ShapeName | undefined {
  if (raider) return "wave";
  if (fellow) return "sail";
  return ({ newcomer: "seed", returning: "leaf", regular: "ring", "long away": "moon" } as Record<string, ShapeName>)[standing ?? ""];
}

/** standingOf is the standing that shows: the streamer and whoever is never greeted have none. */
export const standingOf = (r: { standing: string; leaveBe?: boolean; roles?: string[] }) => (r.leaveBe || r.roles?.includes("streamer") ? undefined : r.standing);

export function ShapePath({ name }: { name: ShapeName }) {
  return <path d={shapes[name]} fillRule="evenodd" />;
}

export function Shape({ name, size = 12, className }: { name: ShapeName; size?: number; className?: string }) {
  return (
    <svg width={size} height={size} viewBox="0 0 12 12" fill="currentColor" className={className} aria-hidden>
      <ShapePath name={name} />
    </svg>
  );
}

/** LanternShape is the lantern alone, 34 by 42, for drawings that hold one. */
export function LanternShape({ lit }: { lit: boolean }) {
  const edge = lit ? "var(--color-lamp)" : "var(--color-text-3)";
  return (
    <>
      <path d="M17 2.5v5" stroke={edge} strokeWidth="1.6" strokeLinecap="round" />
      <path d="M10.5 8.5h13" stroke={edge} strokeWidth="2.4" strokeLinecap="round" />
      <path
        d="M9 11h16c3.8 3.6 5.4 8 5.4 13.2S28.800 34.4 25 38H9C5.2 34.4 3.6 30 3.6 24.2S5.2 14.6 9 11Z"
        fill={lit ? "var(--color-lamp)" : "none"}
        stroke={edge}
        strokeWidth="1.6"
      />
      <path d="M12 40.8h10" stroke={edge} strokeWidth="2" strokeLinecap="round" />
    </>
  );
}

const readable = 12; // px; nothing on the page is written smaller
const smallest = 26; // px of a lantern that two such letters fit into

/** Lantern is our mark for a person: filled while they are here, glowing just after something changed, in rose clay on a day of theirs. */
export function Lantern({ initials = "", lit, glow, day, shape, size = 34 }: { initials?: string; lit: boolean; glow?: boolean; day?: boolean; shape?: ShapeName; size?: number }) {
  const letters = Math.max(12.5, (readable * 34) / size); // in units of the drawing, which is 34 wide
  return (
    <svg width={size} height={size * 1.24} viewBox="0 0 34 42" className="flex-none overflow-visible" aria-hidden>
      {glow && <ellipse cx="17" cy="25" rx="24" ry="22" fill={day ? "var(--color-rose-clay)" : "var(--color-lamp)"} opacity={day ? ".45" : ".2"} />}
      {day && !glow && <ellipse cx="17" cy="25" rx="21" ry="20" fill="var(--color-rose-clay)" opacity=".22" />}
      <LanternShape lit={lit} />
      <text
        x="17"
        y={24.5 + letters * 0.36}
        textAnchor="middle"
        fontFamily="var(--font-display)"
        fontWeight="650"
        fontSize={letters}
        fill={lit ? "var(--color-on-lamp)" : "var(--color-text-2)"}
      >
        {size >= smallest ? initials : ""}
      </text>
      {shape && (
        <g transform="translate(21,-3) scale(1.25)">
          <circle cx="6" cy="6" r="7.6" fill="var(--color-surface)" />
          <g fill={lit ? "var(--color-text)" : "var(--color-text-2)"}>
            <ShapePath name={shape} />
          </g>
        </g>
      )}
    </svg>
  );
}

/** initials are the first letters of the first two words, else the first two letters. */
export function initials(name: string): string {
  const words = name.split(/[\s_.-]+/).filter((w) => /\p{L}|\p{N}/u.test(w));
  const letters = words.length > 1 ? words.slice(0, 2).map((w) => [...w][0]) : [...(words[0] ?? "?")].slice(0, 2);
  return letters.join("").toUpperCase();
}
