import type { CourtesyView } from "../api/client";

export function Sentence({ c, plain }: { c: CourtesyView; plain?: boolean }) {
  return <>{c.sentence.map((p, i) => (p.strong ? plain ? <b key={i}>{p.text}</b> : <u key={i}>{p.text}</u> : <span key={i}>{p.text}</span>))}</>;
}
