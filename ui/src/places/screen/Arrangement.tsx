import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { api } from "../../api/client";
import { useDeed } from "../../api/deeds";
import type { Box, Overlay } from "../../overlay/frames";
import { Button } from "../../kit/Button";
import { Select, Tick } from "../../kit/Field";
import { Pool } from "../../onscreen/Pool";
import { useStage } from "../../onscreen/useStage";
import { titleOf } from "./Overlays";
import { handles, moved, sized, type Handle } from "./place";

/** Arrangement is the overlay over a picture of the stage: boxes are chosen, moved and sized there. */
export function Arrangement({ o, box, onBox, setBox }: { o: Overlay; box?: Box; onBox: (id: string) => void; setBox: (b: Box, keep?: boolean) => void }) {
  const { at, stage } = useStage(o);
  const [behind, setBehind] = useState("pool");
  const area = useRef<HTMLDivElement>(null);
  const drag = useRef<{ from: Box; x: number; y: number; handle?: Handle }>(undefined);
  const [line, setLine] = useState<Box>(); // as it is while it is dragged

  const down = (e: PointerEvent, b: Box, handle?: Handle) => {
    e.stopPropagation();
    onBox(b.id);
    if (b.locked || e.button) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    drag.current = { from: b, x: e.clientX, y: e.clientY, handle };
  };
  const dragged = (e: PointerEvent): Box | undefined => {
    const d = drag.current;
    const r = area.current?.getBoundingClientRect();
    if (!d || !r) return undefined;
    const step = e.altKey ? 0.1 : 0.5;
    const dx = Math.round((((e.clientX - d.x) / r.width) * 100) / step) * step;
    const dy = Math.round((((e.clientY - d.y) / r.height) * 100) / step) * step;
    return d.handle ? sized(d.from, d.handle, dx, dy) : moved(d.from, dx, dy);
  };
  const move = (e: PointerEvent) => {
    const next = dragged(e);
    if (next) setLine(next);
  };
  const up = (e: PointerEvent) => {
    const next = dragged(e);
    const was = drag.current?.from;
    drag.current = undefined;
    setLine(undefined);
    if (next && was && JSON.stringify(next) !== JSON.stringify(was)) setBox(next);
  };
  const key = (e: KeyboardEvent, b: Box) => {
    const [dx, dy] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key] ?? [0, 0];
    if ((!dx && !dy) || b.locked) return;
    e.preventDefault();
    const step = e.altKey ? 0.1 : 1;
    setBox(e.shiftKey ? sized(b, "se", dx! * step, dy! * step) : moved(b, dx! * step, dy! * step));
  };

  const shown = (o.boxes ?? []).map((b) => (line?.id === b.id ? line : b));
  return (
    <>
      <div className="stage-frame" style={{ "--shape": `${o.wide} / ${o.high}` } as React.CSSProperties}>
        <div className="stage-area" ref={area} data-behind={behind}>
          {behind === "pool" && <Pool />}
          <div className="stage-drawn" ref={at} />
          {shown.map((b) => (
            <div
              key={b.id}
              className="frame"
              role="button"
              tabIndex={0}
              data-box={b.id}
              aria-pressed={b.id === box?.id}
              aria-label={`${titleOf(b)}: ${round(b.left)} per cent from left, ${round(b.top)} from top, ${round(b.wide)} wide, ${round(b.high)} high${b.locked ? ", locked" : ""}`}
              data-off={b.off || undefined}
              data-chosen={b.id === box?.id || undefined}
              style={{ left: `${b.left}%`, top: `${b.top}%`, width: `${b.wide}%`, height: `${b.high}%` }}
              onPointerDown={(e) => down(e, b)}
              onPointerMove={move}
              onPointerUp={up}
              onKeyDown={(e) => key(e, b)}
              onFocus={() => onBox(b.id)}
            >
              <span className="tag">
                {titleOf(b)}
                {b.locked ? " · locked" : ""}
                {b.off ? " · not shown" : ""}
              </span>
              {b.id === box?.id &&
                !b.locked &&
                handles.map((h) => <i key={h} className={`handle ${h}`} onPointerDown={(e) => down(e, b, h)} onPointerMove={move} onPointerUp={up} />)}
            </div>
          ))}
        </div>
      </div>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 pt-2 text-[12px] text-text-2">
        <span>
          <kbd>←</kbd> <kbd>↑</kbd> <kbd>→</kbd> <kbd>↓</kbd> move by 1 %
        </span>
        <span>
          <kbd>Shift</kbd> size
        </span>
        <span>
          <kbd>Alt</kbd> by 0.1 %
        </span>
        <span className="ml-auto flex items-center gap-1.5">
          Behind it
          <Select size="s" aria-label="Behind it, for you alone" value={behind} onChange={(e) => setBehind(e.target.value)}>
            <option value="pool">the drawn rock pool</option>
            <option value="dark">plain dark</option>
            <option value="light">plain light</option>
          </Select>
        </span>
      </div>
      {box && <Near o={o} box={box} tryHere={() => void stage.current?.show({ do: "try", show: "try", try: true, seconds: 0, parts: [{ box: box.id, effect: "box" }] })} />}
    </>
  );
}

const round = (n: number) => Math.round(n * 10) / 10;

/** How wide the nearer look is at most, in pixels; and how large it is beside the overlay itself. */
const nearer = 0.5;

/** How much of it is seen, in pixels: of a box that is higher its foot is looked at. */
const seen = 168;

/** Near is the chosen box as viewers see it, and where it is tried. */
function Near({ o, box, tryHere }: { o: Overlay; box: Box; tryHere: () => void }) {
  const { at, stage } = useStage({ ...o, boxes: [{ ...box, off: undefined }] });
  const deed = useDeed();
  const [kept, setKept] = useState(false);
  useEffect(() => {
    if (!kept) return;
    const sample = (on: boolean) => api.POST("/api/overlays/{overlay}/sample", { params: { path: { overlay: o.id } }, body: { box: box.id, on } });
    void sample(true);
    return () => void sample(false);
  }, [kept, o.id, box.id]);
  const shows = ["cards", "film", "emotes"].includes(box.kind);
  const here = () => {
    tryHere();
    void stage.current?.show({ do: "try", show: "try", try: true, seconds: 0, parts: [{ box: box.id, effect: "box" }] });
  };
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-2 px-4 pt-2 pb-1.5">
        <h2 className="m-0 text-[15px] font-[650]">As viewers see it</h2>
        <span className="text-[13px] text-text-3">half its size</span>
        <span className="ml-auto flex items-center gap-2 text-[13px]">
          <Tick on={kept} onChange={setKept}>
            its sample on the real overlay too
          </Tick>
          {shows && (
            <>
              <Button size="s" onClick={here}>
                Try here
              </Button>
              <Button
                size="s"
                look="lit"
                onClick={() =>
                  void deed(api.POST("/api/overlays/{overlay}/try", { params: { path: { overlay: o.id } }, body: { box: box.id } }), {
                    say: "It is on the overlay, marked as a try",
                  })
                }
              >
                Try on the overlay
              </Button>
            </>
          )}
        </span>
      </div>
      <div className="near">
        <Pool />
        <div
          ref={at}
          className="near-drawn"
          style={
            {
              width: `${o.wide * nearer}px`,
              height: `${o.high * nearer}px`,
              left: `${-Math.max(0, (box.left / 100) * o.wide * nearer - 12)}px`,
              top: `${-Math.max(0, Math.max(box.top, box.top + box.high - (100 * seen) / (o.high * nearer)) * (o.high / 100) * nearer - 8)}px`,
            } as React.CSSProperties
          }
        />
      </div>
    </>
  );
}
