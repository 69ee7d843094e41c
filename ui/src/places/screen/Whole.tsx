import { useState } from "react";
import type { Overlay } from "../../overlay/frames";
import { Button } from "../../kit/Button";
import { Num, Tick } from "../../kit/Field";
import { Row, Slide } from "./kinds/parts";

/** What goes first in line, unless an overlay says otherwise. */
const usual = ["porch.raid.came", "porch.support.tipped", "day", "porch.support.gifted", "porch.support.subscribed", "porch.person.followed"];
const words: Record<string, string> = {
  "porch.raid.came": "raid",
  "porch.support.tipped": "tip",
  day: "birthday and other days",
  "porch.support.gifted": "gifts",
  "porch.support.subscribed": "subscription",
  "porch.person.followed": "follow",
};

/** Whole sets what holds for all of an overlay. */
export function Whole({ o, open, change }: { o: Overlay; open: boolean; change: (part: Partial<Overlay>) => Promise<boolean> }) {
  const [drawn, setDrawn] = useState<number>();
  const loudest = drawn ?? (o.loudest || -16);
  const order = o.order?.length ? o.order : usual;
  const sooner = (i: number) => {
    const next = [...order];
    next.splice(i - 1, 0, next.splice(i, 1)[0]!);
    void change({ order: next });
  };
  return (
    <>
      <h2 className="mt-3 mb-1 border-t border-line pt-3 text-[15px] font-[650]">All of this overlay</h2>
      <Row label="Loudest">
        <span className="few">
          <Slide label="What all sound is levelled to" least={-40} most={-5} value={loudest} onChange={(n, keep) => (keep ? void change({ loudest: n }) : setDrawn(n))} />
          <span className="tabular-nums">{loudest} LUFS</span>
          <span className="sub">every file is brought to this; nothing is louder</span>
        </span>
      </Row>
      <Row label="Sound">
        <span className="few">
          <Tick on={!o.silent} onChange={(on) => void change({ silent: on ? undefined : true })}>
            it plays sound
          </Tick>
          <Tick on={!o.calm} onChange={(on) => void change({ calm: on ? undefined : true })}>
            things move on it
          </Tick>
        </span>
      </Row>
      <Row label="In line">
        <div>
          <ol className="few m-0 list-none p-0" aria-label="What goes first in line">
            {order.map((w, i) => (
              <li key={w}>
                <Button size="s" aria-label={`${i + 1} ${words[w] ?? w}${i ? ", one sooner" : ""}`} disabled={i === 0} onClick={() => sooner(i)}>
                  {i + 1} {words[w] ?? w}
                </Button>
              </li>
            ))}
          </ol>
          <p className="sub m-0 pt-1.5">Press one to let it go sooner. One thing is shown at a time.</p>
        </div>
      </Row>
      <Row label="At most">
        <span className="few">
          <Num label="At most so many wait" value={o.most || 20} onChange={(n) => n && void change({ most: n })} />
          <span className="sub">wait, each</span>
          <Num label="Each waits so many seconds" value={o.waitSeconds || 90} onChange={(n) => n && void change({ waitSeconds: n })} />
          <span className="sub">s; then it is left out, thanks last</span>
        </span>
      </Row>
      {!open && <p className="sub">The overlay is not open anywhere just now: what is to be shown waits its time, and is then given up.</p>}
    </>
  );
}
