import { useState } from "react";
import type { Box, Overlay } from "../../overlay/frames";
import { Toggle } from "../../kit/Button";
import { Field, Num } from "../../kit/Field";
import { Head, Panel, Scroll } from "../../kit/Panel";
import { kinds } from "./kinds/kinds";
import { Row } from "./kinds/parts";
import { titleOf } from "./Overlays";
import { Whole } from "./Whole";

/** BoxForm sets the chosen box, and what holds for the whole overlay. */
export function BoxForm({
  o,
  box,
  open,
  setBox,
  change,
}: {
  o: Overlay;
  box?: Box;
  open: boolean;
  setBox: (b: Box, keep?: boolean) => void;
  change: (part: Partial<Overlay>) => Promise<boolean>;
}) {
  const [title, setTitle] = useState(box?.title ?? "");
  const Form = box && kinds[box.kind];
  const place = (part: Partial<Box>) => {
    if (!box) return;
    const next = { ...box, ...part };
    next.wide = Math.min(Math.max(next.wide, 1), 100);
    next.high = Math.min(Math.max(next.high, 1), 100);
    setBox({ ...next, left: Math.min(Math.max(next.left, 0), 100 - next.wide), top: Math.min(Math.max(next.top, 0), 100 - next.high) });
  };
  return (
    <Panel label="The chosen box">
      {box && (
        <Head
          count="chosen"
          end={
            <Toggle size="s" on={!!box.locked} onClick={() => setBox({ ...box, locked: box.locked ? undefined : true })}>
              {box.locked ? "Locked" : "Lock"}
            </Toggle>
          }
        >
          {titleOf(box)}
        </Head>
      )}
      <Scroll label="How the chosen box is set" className="box-form px-4 pb-4">
        {box && Form && (
          <>
            <Form box={box} set={(part, keep) => setBox({ ...box, ...part }, keep)} />
            <Row label="Place">
              <div className="places-of">
                {(["left", "top", "wide", "high"] as const).map((side) => (
                  <label key={side} className="flex items-center gap-1">
                    <Num label={words[side]} value={box[side]} onChange={(n) => n !== undefined && place({ [side]: n })} />
                    <span className="sub whitespace-nowrap">{words[side]}</span>
                  </label>
                ))}
              </div>
            </Row>
            <Row label="Called">
              <Field
                size="xs"
                aria-label="What this box is called"
                value={title}
                placeholder={titleOf({ ...box, title: "" })}
                maxLength={60}
                onChange={(e) => setTitle(e.target.value)}
                onBlur={() => title !== (box.title ?? "") && setBox({ ...box, title: title.trim() || undefined })}
              />
            </Row>
          </>
        )}
        <Whole o={o} open={open} change={change} />
      </Scroll>
    </Panel>
  );
}

const words = { left: "% left", top: "% top", wide: "% wide", high: "% high" };
