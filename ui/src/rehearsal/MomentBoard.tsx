import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { said as problem, type MomentRow, type RehearsalResult, type RehearsedLine, type SideWanted } from "../api/client";
import { livedMoment } from "../api/queries";
import { Quiet } from "../kit/Button";
import { Difference } from "../kit/drawings/Difference";
import { Lantern } from "../kit/drawings/Lantern";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { clockSeconds, useZone } from "../kit/time";
import { short } from "./rehearsal";

type Props = { id: string; result: RehearsalResult; at: string; above: SideWanted; below: SideWanted; onChoose: (n: number) => void };

/** MomentBoard is the conversation of both sides until a moment, side by side. */
export function MomentBoard({ id, result, at, above, below, onChoose }: Props) {
  const zone = useZone();
  const q = useQuery(livedMoment(id, new Date(Math.round(Date.parse(at) / 1000) * 1000).toISOString()));
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => void box.current?.scrollTo({ top: box.current.scrollHeight }), [q.data]); // the page itself stays where it is
  return (
    <Panel label="The moment">
      <Head count={`as viewers see it, up to ${clockSeconds(at, zone)}`}>The moment</Head>
      <div className="moment-heads">
        <b>{short[above.kind]}</b>
        <span />
        <b>{short[below.kind]}</b>
      </div>
      <Scroll label="The conversation of both sides" ref={box}>
        {q.error && <Empty>{problem(q.error)}</Empty>}
        {q.data?.earlier ? <p className="sub m-0 text-center">{q.data.earlier} rows before these</p> : null}
        {q.data?.rows.length === 0 && <Empty>Nobody said anything in the minutes before.</Empty>}
        {q.data?.rows.map((r, i) => (
          <Row key={i} r={r} zone={zone} result={result} onChoose={onChoose} />
        ))}
      </Scroll>
    </Panel>
  );
}

function Row({ r, zone, result, onChoose }: { r: MomentRow; zone: string; result: RehearsalResult; onChoose: (n: number) => void }) {
  const at = <span className="moment-at">{clockSeconds(r.at, zone)}</span>;
  if (r.told)
    return (
      <p className="moment-told">
        {r.who && (
          <b>
            <bdi>{r.who}</bdi>
          </b>
        )}{" "}
        {r.told}
      </p>
    );
  if (r.said !== undefined && r.who !== undefined) {
    const line = (
      <p className="m-0 min-w-0 text-[14px]">
        <span className="font-semibold text-lagoon">
          <bdi>{r.who}</bdi>
        </span>{" "}
        {r.said}
      </p>
    );
    return (
      <div className="moment-row">
        {line}
        {at}
        {line}
      </div>
    );
  }
  const n = (r.difference ?? 0) - 1;
  const d = n >= 0 ? result.differences[n] : undefined;
  return (
    <div className="moment-row" data-differs={d ? true : undefined}>
      {r.above?.effect ? <Board line={r.above} /> : <span className="sub self-center">{r.elsewhere}</span>}
      <button className="moment-at" disabled={!d} onClick={() => onChoose(n)} aria-label={d ? `${clockSeconds(r.at, zone)}: ${d.label}, ${d.why}` : undefined}>
        {clockSeconds(r.at, zone)}
        {d && <Difference kind={d.kind} />}
      </button>
      {r.below?.effect ? <Board line={r.below} /> : <span className="sub self-center">{r.elsewhere}</span>}
    </div>
  );
}

const told: Record<string, string> = {
  card: "a card",
  sound: "a sound",
  film: "a film",
  speak: "read aloud",
  relay: "a post",
  platform: "asked of the platform",
  lamp: "the lamp",
  scene: "the scene",
};

/** Board is a line of the house, hung from its lantern, with its why in place. */
function Board({ line }: { line: RehearsedLine }) {
  const [why, setWhy] = useState(false);
  return (
    <div className="flex min-w-0 items-start gap-2">
      <Lantern lit size={18} />
      <div className="house-board">
        {line.effect !== "say" && <span className="sub block">{`${told[line.effect] ?? line.effect} · ${line.to}`}</span>}
        <bdi>{line.text || "without words"}</bdi> <Quiet onClick={() => setWhy(!why)}>why?</Quiet>
        {why && (
          <ul className="sub m-0 mt-1 list-none p-0">
            {line.because.map((b) => (
              <li key={b}>{b}</li>
            ))}
          </ul>
        )}
      </div>
    </div>
  );
}
