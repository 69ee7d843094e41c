import { useEffect, useRef } from "react";
import type { EveningDifference, RehearsalResult } from "../api/client";
import { Button } from "../kit/Button";
import { Difference, type Differs } from "../kit/drawings/Difference";
import { singleKey } from "../kit/keys";
import { seeWithin } from "../kit/seeWithin";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { clock, useZone } from "../kit/time";

const kinds: [Differs[], string][] = [
  [["only above"], "only above"],
  [["words"], "other words"],
  [["only below"], "only below"],
  [["sooner", "later"], "other moment"],
];

const says = (d: EveningDifference) =>
  d.kind === "words"
    ? "other words"
    : d.kind === "sooner" || d.kind === "later"
      ? `${d.seconds < 60 ? `${Math.max(1, Math.round(d.seconds))} s` : `${Math.round(d.seconds / 60)} min`} ${d.kind}`
      : d.kind;

/** Differences lists how the two sides differ, in order, each with its why; [ and ] go from one to the next. */
export function Differences({ result, chosen, onChoose }: { result: RehearsalResult; chosen: number; onChoose: (n: number) => void }) {
  const zone = useZone();
  const list = result.differences;
  const on = useRef<HTMLButtonElement>(null);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => seeWithin(box.current, on.current), [chosen]);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const by = { "[": -1, "]": 1 }[singleKey(e) ?? ""];
      if (by && list.length) onChoose(Math.max(0, Math.min(list.length - 1, chosen + by)));
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [chosen, list.length, onChoose]);
  const count = (of: Differs[]) => of.reduce((n, k) => n + (result.counts[k] ?? 0), 0);
  return (
    <Panel label="Differences">
      <Head
        count={list.length + result.more}
        end={
          list.length > 0 && (
            <span className="sub flex items-center gap-1.5">
              {chosen >= 0 && `${chosen + 1} of ${list.length}`}
              <Button size="s" look="ghost" aria-label="The difference before" disabled={chosen <= 0} onClick={() => onChoose(chosen - 1)}>
                <kbd>[</kbd>
              </Button>
              <Button size="s" look="ghost" aria-label="The next difference" disabled={chosen >= list.length - 1} onClick={() => onChoose(chosen + 1)}>
                <kbd>]</kbd>
              </Button>
            </span>
          )
        }
      >
        Differences
      </Head>
      {list.length === 0 && <Empty>Nothing differs: the evening goes the same under both.</Empty>}
      {list.length > 0 && (
        <ul className="m-0 grid flex-none list-none grid-cols-2 gap-x-2 gap-y-0.5 px-4 pb-2">
          {kinds.map(([of, words]) => (
            <li key={words} className="flex items-center gap-2 text-[13px]">
              <Difference kind={of[of.length - 1]!} /> <b>{count(of)}</b> <span className="text-text-2">{words}</span>
            </li>
          ))}
        </ul>
      )}
      <Scroll label="Differences, in order" ref={box}>
        {list.map((d, n) => (
          <button key={n} ref={n === chosen ? on : undefined} className="differ" aria-current={n === chosen || undefined} onClick={() => onChoose(n)}>
            <Difference kind={d.kind} />
            <span className="text-text-2">{clock(d.at, zone)}</span>
            <span className="min-w-0">
              <b className="cut">
                <bdi>{d.label}</bdi>
              </b>
              <span className="sub block">
                {says(d)} · {d.why}
              </span>
            </span>
          </button>
        ))}
        {result.more > 0 && <p className="sub px-4">and {result.more} more, later on</p>}
      </Scroll>
    </Panel>
  );
}
