import { Fragment } from "react";
import { Word } from "./Chip";
import { shown, spots, type Piece } from "./icu";

/** Wording is a wording to be read: its fill-ins as chips, and of what depends on something the likelier words. */
export function Wording({ text, className }: { text: string; className?: string }) {
  const pieces: Piece[] = [];
  let at = 0;
  for (const s of spots(text)) {
    if (s.from > at) pieces.push({ text: text.slice(at, s.from) });
    pieces.push(s.kind === "plain" ? { fill: s.name } : { frame: shown(s) });
    at = s.to;
  }
  if (at < text.length) pieces.push({ text: text.slice(at) });
  return <bdi className={className}>{pieces.map(piece)}</bdi>;
}

const piece = (p: Piece, i: number): React.ReactNode =>
  "text" in p ? (
    <Fragment key={i}>{p.text}</Fragment>
  ) : "fill" in p ? (
    <Word key={i} look="fill" className="mx-px">
      {p.fill}
    </Word>
  ) : (
    <Fragment key={i}>{p.frame.map(piece)}</Fragment>
  );
