import { lazy, Suspense, useCallback, useEffect, useRef, useState } from "react";
import { api, type Guest } from "../api/client";
import { useByHand, useDeed, useFlood, useHeld, useHush, useMark, useSilence } from "../api/deeds";
import { current, useLive, useSlowly } from "../api/live";
import { Link, useLocation } from "react-router";
import { Button, Toggle } from "../kit/Button";
import { Tick } from "../kit/Field";
import { keepKeys, keysAreOn, singleKey } from "../kit/keys";
import { Panel } from "../kit/Panel";
import type { Somebody } from "../kit/PersonPicker";
import { TabPanel, Tabs } from "../kit/Tabs";
import { span, useHouseNow } from "../kit/time";
import { GoOn } from "./BeforeYouGo";
import { ComingUp } from "./ComingUp";
import { Conversation, type ConversationHandle } from "./Conversation";
import { EveningLine } from "./EveningLine";
import { idOf } from "./Held";
import { Hands } from "./Hands";
import { hereNow, People } from "./People";
import { WaitingForYou } from "./WaitingForYou";
import "./porch.css";

const Drawer = lazy(() => import("../draws/Drawer"));
const Pegs = lazy(() => import("./Pegs")); // for a phone alone: the first load goes without them

const tabs = ["Coming up", "Conversation", "People", "To hand"] as const;
type Tab = (typeof tabs)[number] | "Draw";
const named = (drawing: boolean): { value: Tab; label: string }[] => [...tabs, ...(drawing ? (["Draw"] as const) : [])].map((t) => ({ value: t, label: t }));

export function PorchView() {
  const told = useLive(() => true);
  const [tab, setTab] = useState<Tab>("Coming up");
  const [selected, setSelected] = useState<string>();
  const [keys, setKeys] = useState(false);
  const asked = useLocation() as { key: string; state: { draw?: boolean } | null };
  const [drawing, setDrawing] = useState(() => !!asked.state?.draw || !!current()?.live.draw);
  const showDraw = useCallback((on: boolean) => {
    setDrawing(on);
    setTab((was) => (on ? "Draw" : was === "Draw" ? "Coming up" : was));
  }, []);
  const [came, setCame] = useState(asked.key);
  if (came !== asked.key) {
    setCame(asked.key);
    if (asked.state?.draw) {
      setDrawing(true);
      setTab("Draw");
    }
  }
  const talk = useRef<ConversationHandle>(null);
  const find = useRef<HTMLInputElement>(null);
  const hush = useHush();
  const byHand = useByHand();
  const mark = useMark();
  const silence = useSilence();
  const flood = useFlood();
  const decide = useHeld();

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const k = singleKey(e);
      if (k === "h") hush(!current()?.hush);
      else if (k === "s" && selected) byHand("shoutout", selected);
      else if (k === "g" && selected) byHand("greet", selected);
      else if (k === "b") mark();
      else if (k === "q") silence();
      else if (k === "d") showDraw(!drawing);
      else if (k === "f") flood(!current()?.live.flood);
      else if (k === "a" || k === "r") {
        const oldest = current()?.waiting.find((w) => w.kind === "held");
        if (!oldest) return;
        decide([idOf(oldest)], k === "a");
      } else if (k === "/") find.current?.focus();
      else if (k === "?") setKeys((v) => !v);
      else return;
      e.preventDefault();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [hush, byHand, mark, silence, flood, decide, selected, drawing, showDraw]);

  if (!told) return <main className="empty">Opening the porch…</main>;
  return (
    <main className="contents">
      <h1 className="sr-only">Porch</h1>
      <LiveState selected={selected} drawing={drawing} onDraw={showDraw} />
      <Guarded />
      <EveningLine
        onGo={(id) => {
          setTab("Conversation");
          talk.current?.go(id);
        }}
      />
      <Tabs label="Parts of the Porch" className="tabs" size="m" tabs={named(drawing)} value={tab} onChange={setTab}>
        <div className="cols">
          {drawing && (
            <TabPanel kept value="Draw" className="part">
              <Suspense>
                <Drawer onClose={() => showDraw(false)} />
              </Suspense>
            </TabPanel>
          )}
          <TabPanel kept value="People" className={drawing ? "part aside" : "part"}>
            <People selected={selected} onSelect={setSelected} findRef={find} />
          </TabPanel>
          <TabPanel kept value="Conversation" className="part">
            <Conversation ref={talk} />
          </TabPanel>
          <TabPanel kept value="Coming up" className="part">
            <Panel label="What comes and what waits">
              <ComingUp />
              <WaitingForYou />
            </Panel>
          </TabPanel>
          {tab === "To hand" && (
            <TabPanel value="To hand" className="part hidden phone:contents">
              <Suspense>
                <Pegs />
              </Suspense>
            </TabPanel>
          )}
        </div>
      </Tabs>
      {keys && <Keys onClose={() => setKeys(false)} />}
    </main>
  );
}

const none: ReadonlyMap<string, Guest> = new Map();

type Drawing = { drawing: boolean; onDraw: (on: boolean) => void };

function LiveState({ selected, drawing, onDraw }: { selected?: string } & Drawing) {
  const now = useHouseNow(1000);
  const l = useSlowly(500, (s) => s.live);
  const channel = useLive((s) => s.channel);
  const guests = useSlowly(1000, (s) => s.byAccount) ?? none;
  const deed = useDeed();
  if (!l) return null;
  const chosen: Somebody | undefined = selected ? { account: selected, name: guests.get(selected)?.name ?? selected } : undefined;
  return (
    <div className="now">
      {l.on ? (
        <>
          <span className="live">
            <i />
            {l.dropped ? "Dropped" : "Live"} {span(now - Date.parse(l.opened!))}
          </span>
          <b>{l.title || channel}</b>
          <span className="cut">{l.category}</span>
          <span className="ml-auto whitespace-nowrap">
            {l.viewers ? `${l.viewers} watching, ` : ""}
            {hereNow(guests, now).length} talking
          </span>
          <span className="flex gap-1.5">
            <GoOn />
            <DrawToggle drawing={drawing} onDraw={onDraw} />
            <Hands chosen={chosen} />
          </span>
        </>
      ) : (
        <>
          <span className="live off">
            <i />
            Off-line
          </span>
          <b>{channel}</b>
          <span className="ml-auto flex gap-1.5">
            <Button size="s" onClick={() => void deed(api.POST("/api/desk/stream", { body: { act: "opened" } }))}>
              The stream is on
            </Button>
            <DrawToggle drawing={drawing} onDraw={onDraw} />
            <Hands chosen={chosen} />
          </span>
        </>
      )}
    </div>
  );
}

/** DrawToggle opens the draw beside the conversation, and says how it stands where it is not open. */
function DrawToggle({ drawing, onDraw }: Drawing) {
  const d = useSlowly(500, (s) => s.live.draw);
  const says = !d ? "" : d.waits?.length ? ` · ${d.waits[0]!.name} has to speak up` : d.state === "open" ? ` · ${d.entries} in` : "";
  return (
    <Toggle size="s" on={drawing} onClick={() => onDraw(!drawing)}>
      Draw{drawing ? "" : says}
    </Toggle>
  );
}

/** Guarded is what the guard did tonight, and that a flood is held off. */
function Guarded() {
  const now = useHouseNow(1000);
  const until = useLive((s) => s.live.flood);
  const says = useSlowly(1000, (s) => s.live.guard);
  const flood = useFlood();
  const left = until ? Date.parse(until) - now : 0;
  if (left <= 0 && !says) return null;
  return (
    <p className="m-0 flex flex-wrap items-center gap-x-3 gap-y-1 px-5 pb-1 text-[13px] text-text-2">
      {left > 0 && (
        <>
          <b className="text-persimmon">A flood of strangers is held off for {span(left)}</b>
          <Button size="s" onClick={() => flood(false)}>
            Let them in <kbd>F</kbd>
          </Button>
        </>
      )}
      {says && (
        <Link className="text-text-2" to="/courtesies" state={{ guard: true }}>
          {says}.
        </Link>
      )}
    </p>
  );
}

const keyWords = [
  ["S", "shout out whoever is chosen"],
  ["G", "greet them again"],
  ["B", "mark this moment"],
  ["H", "hush, and lift it"],
  ["Q", "quiet: stop the sound on the overlays"],
  ["D", "the draw, beside the conversation"],
  ["F", "hold a flood of strangers off, and let them in again"],
  ["A", "allow the oldest line that is held"],
  ["R", "remove it"],
  ["/", "find somebody"],
  ["?", "this list"],
] as const;

function Keys({ onClose }: { onClose: () => void }) {
  const [on, setOn] = useState(keysAreOn());
  return (
    <div className="keys" role="dialog" aria-label="Keys">
      {keyWords.map(([k, t]) => (
        <div key={k} className="py-0.5">
          <kbd>{k}</kbd> {t}
        </div>
      ))}
      <Tick
        className="mt-2"
        on={on}
        onChange={(v) => {
          keepKeys(v);
          setOn(v);
        }}
      >
        single keys are on
      </Tick>
      <Button size="s" className="mt-2" onClick={onClose}>
        Close
      </Button>
    </div>
  );
}
