import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Box, Overlay } from "../../overlay/frames";
import { overlays } from "../../api/queries";
import { useSection } from "../../keeping/useSection";
import { Button } from "../../kit/Button";
import { Fault } from "../../kit/Field";
import { Empty, Head, Panel } from "../../kit/Panel";
import { Arrangement } from "./Arrangement";
import { BoxForm } from "./BoxForm";
import { Overlays } from "./Overlays";
import "./screen.css";

/** So many changes can be taken back one by one. */
const mostBack = 50;

/** OnScreen is the arrangement of the overlays: what stands where, and how it looks. */
export default function OnScreen() {
  const s = useSection("overlays");
  const q = useQuery(overlays);
  const [id, setId] = useState("");
  const [boxId, setBoxId] = useState("");
  const [before, setBefore] = useState<Overlay[][]>([]);
  const [drawn, setDrawn] = useState<Overlay[]>(); // as it stood before something is drawn out that is not let go yet
  const all = (s.value ?? []) as Overlay[];
  const at = Math.max(
    0,
    all.findIndex((o) => o.id === id),
  );
  const o = all[at];
  const box = o?.boxes?.find((b) => b.id === boxId) ?? o?.boxes?.at(-1);

  const put = (next: Overlay[]) => {
    setBefore([...before.slice(-mostBack), drawn ?? all]);
    setDrawn(undefined);
    return s.put(next);
  };
  const change = (part: Partial<Overlay>) => put(all.map((x, i) => (i === at ? { ...x, ...part } : x)));
  const setBox = (b: Box, keep = true) => {
    const next = all.map((x, i) => (i === at ? { ...x, boxes: x.boxes?.map((y) => (y.id === b.id ? b : y)) } : x));
    if (keep) return void put(next);
    setDrawn(drawn ?? all);
    s.set(next);
  };
  /** undo takes the last change of this page back. */
  const undo = () => {
    const last = before.at(-1);
    setBefore(before.slice(0, -1));
    if (last) void s.put(last);
  };

  return (
    <div className="on-screen">
      <Overlays all={all} at={at} known={s.version > 0} standing={q.data} boxId={box?.id} onChoose={setId} onBox={setBoxId} put={put} change={change} />
      {o ? (
        <Panel label={o.title}>
          <Head
            count={`${o.wide} × ${o.high}`}
            end={
              <span className="flex items-baseline gap-2">
                <span className="sub text-fern" role="status">
                  {s.saved ? "Saved" : ""}
                </span>
                <Button size="s" look="ghost" disabled={!before.length} onClick={undo}>
                  Undo
                </Button>
              </span>
            }
          >
            {o.title}
          </Head>
          {s.fault && (
            <Fault role="alert" className="px-4">
              {s.fault.words}
            </Fault>
          )}
          <Arrangement o={o} box={box} onBox={setBoxId} setBox={setBox} />
        </Panel>
      ) : (
        <Panel label="No overlay">
          <Empty>Make an overlay, copy its address into your streaming software as a browser page, and put boxes on it.</Empty>
        </Panel>
      )}
      {o && <BoxForm key={`${o.id} ${box?.id}`} o={o} box={box} open={!!q.data?.overlays.find((x) => x.id === o.id)?.open} setBox={setBox} change={change} />}
    </div>
  );
}
