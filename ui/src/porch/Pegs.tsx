import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from "@dnd-kit/core";
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ask, said } from "../api/client";
import { useDeed } from "../api/deeds";
import { useLive } from "../api/live";
import { draws, pegs as chosenPegs } from "../api/queries";
import { turns } from "../api/turns";
import { Button, Out } from "../kit/Button";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { allPegs, also, chosenOf, hung, moved, without, type Peg } from "./pegs/peg";

const noNames: string[] = [];

/** How long what was done stays said, and one press more does nothing: a thumb that slips asks for nothing twice. */
const restMs = 4000;

/** Pegs are what a member has to hand on a phone: one column of their own choosing, nearest to the thumb. */
export default function Pegs() {
  const hands = useLive((s) => s.hands);
  const hush = useLive((s) => s.hush) ?? false;
  const on = useLive((s) => s.live?.on) ?? false;
  const flood = !!useLive((s) => s.live?.flood);
  const draw = useLive((s) => s.live?.draw?.state);
  const ready = useQuery(draws("")).data?.ready.map((r) => r.name) ?? noNames;
  const deed = useDeed();
  const q = useQuery(chosenPegs);
  const client = useQueryClient();
  const [turn] = useState(turns); // the last one said is the one kept
  const [arranging, setArranging] = useState(false);
  const all = hands ? allPegs({ hands, hush, on, flood, draw, ready }) : [];
  const list = hung(all, q.data?.pegs ?? []);
  const others = all.filter((p) => !list.includes(p));
  // A change is made on what stands, not on what was drawn: the next press may come before the page has drawn the last one.
  const hang = (change: (ids: string[]) => string[]) => {
    void client.cancelQueries(chosenPegs);
    const ids = change(chosenOf(all, client.getQueryData(chosenPegs.queryKey)?.pegs ?? []));
    client.setQueryData(chosenPegs.queryKey, { pegs: ids }); // shown at once, and what the next press begins from
    void turn(async () => {
      const kept = await deed(api.PUT("/api/pegs", { body: { pegs: ids } }));
      if (!kept) await client.invalidateQueries(chosenPegs);
    });
  };
  const ids = list.map((p) => p.id);
  if (!q.data || !hands) return <Panel label="To hand" />;
  return (
    <Panel label="To hand">
      <Head
        end={
          <Button size="s" aria-pressed={arranging} onClick={() => setArranging((a) => !a)}>
            {arranging ? "Done arranging" : "Arrange"}
          </Button>
        }
      >
        To hand
      </Head>
      <Scroll label="Pegs" className="flex flex-1 flex-col gap-2 px-4 pb-4">
        {!arranging && <div className="mt-auto" />}
        {list.length === 0 && <Empty>Nothing hangs here yet.</Empty>}
        {arranging ? (
          <Order ids={ids} onOrder={(id, over) => hang(moved(id, over))}>
            {list.map((p) => (
              <Movable key={p.id} peg={p} onOff={ids.length > 1 ? () => hang(without(p.id)) : undefined} />
            ))}
          </Order>
        ) : (
          list.map((p) => <OnePeg key={p.id} peg={p} />)
        )}
        {arranging && others.length > 0 && (
          <div className="flex flex-col gap-2 pt-3">
            <b className="text-[13px]">Hang up as well</b>
            {others.map((p) => (
              <Button key={p.id} className="w-full text-left phone:min-h-[48px]" onClick={() => hang(also(p.id))}>
                {p.words}
              </Button>
            ))}
          </div>
        )}
      </Scroll>
    </Panel>
  );
}

type Outcome = { ok: boolean; words: string };

function OnePeg({ peg }: { peg: Peg }) {
  const [busy, setBusy] = useState(false);
  const [outcome, setOutcome] = useState<Outcome>();
  useEffect(() => {
    if (!outcome) return;
    const t = setTimeout(() => setOutcome(undefined), restMs);
    return () => clearTimeout(t);
  }, [outcome]);
  const resting = busy || (outcome?.ok === true && !peg.turns);
  const press = async () => {
    if (resting) return;
    setBusy(true);
    try {
      const done = await ask(peg.press());
      setOutcome(done.done ? { ok: true, words: peg.done } : { ok: false, words: done.because.join("; ") });
    } catch (problem) {
      setOutcome({ ok: false, words: said(problem) });
    }
    setBusy(false);
  };
  return (
    <button
      className="flex min-h-[64px] w-full flex-none cursor-pointer flex-col justify-center rounded-panel border border-line bg-surface-2 px-4 py-2 text-left text-text aria-disabled:border-marigold"
      data-peg={peg.id}
      aria-disabled={resting}
      onClick={() => void press()}
    >
      <span className="text-[17px] font-[650]">{peg.words}</span>
      <span role="status" className={outcome && !outcome.ok ? "text-[13px] text-persimmon" : "sub"}>
        {outcome?.words}
      </span>
    </button>
  );
}

function Order({ ids, onOrder, children }: { ids: string[]; onOrder: (id: string, over: string) => void; children: React.ReactNode }) {
  const sensors = useSensors(useSensor(PointerSensor), useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }));
  const end = ({ active, over }: DragEndEvent) => {
    if (over && active.id !== over.id) onOrder(String(active.id), String(over.id));
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={end}>
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  );
}

function Movable({ peg, onOff }: { peg: Peg; onOff?: () => void }) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: peg.id });
  return (
    <div
      ref={setNodeRef}
      data-peg={peg.id}
      className="flex min-h-[56px] w-full flex-none items-center gap-2 rounded-panel border border-line bg-surface-2 pr-2"
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <span {...attributes} {...listeners} className="flex flex-1 cursor-grab touch-none items-center gap-3 self-stretch px-4" aria-label={`Move ${peg.words}`}>
        <span aria-hidden className="text-text-3">
          ≡
        </span>
        <span className="text-[16px] font-[650]">{peg.words}</span>
      </span>
      {onOff && <Out className="min-h-11 min-w-11" label={`Take ${peg.words} down`} onClick={onOff} />}
    </div>
  );
}
