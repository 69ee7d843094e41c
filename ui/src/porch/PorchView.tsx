import { useEffect, useRef, useState } from "react";
import { api, ask, said } from "../api/client";
import { useLive, type Live } from "../api/live";
import { span, useNow } from "../kit/time";
import type { Somebody } from "../kit/PersonPicker";
import { toast } from "../kit/toast";
import { setHush } from "../shell/TopBar";
import { courtesy } from "./courtesy";
import { ComingUp } from "./ComingUp";
import { Conversation, type ConversationHandle } from "./Conversation";
import { EveningLine } from "./EveningLine";
import { Hands } from "./Hands";
import { hereNow, People } from "./People";
import { WaitingForYou } from "./WaitingForYou";

const tabs = ["Coming up", "Conversation", "People"] as const;

export function PorchView() {
  const live = useLive();
  const now = useNow(1000, live?.skew);
  const [tab, setTab] = useState<(typeof tabs)[number]>("Coming up");
  const [selected, setSelected] = useState<string>();
  const [keys, setKeys] = useState(false);
  const talk = useRef<ConversationHandle>(null);
  const find = useRef<HTMLInputElement>(null);

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const t = e.target as HTMLElement;
      if (e.ctrlKey || e.metaKey || e.altKey || t.closest("input, textarea, select, [contenteditable]") || localStorage.getItem("porch-keys") === "off") return;
      const k = e.key.toLowerCase();
      if (k === "h") setHush(!live?.hush);
      else if (k === "s" && selected) courtesy("shoutout", selected);
      else if (k === "g" && selected) courtesy("greet", selected);
      else if (k === "/") find.current?.focus();
      else if (k === "?") setKeys((v) => !v);
      else return;
      e.preventDefault();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [live?.hush, selected]);

  if (!live) return <main className="empty">Opening the porch…</main>;
  const here = hereNow(live, now);
  return (
    <main className="contents">
      <h1 className="sr-only">Porch</h1>
      <LiveState live={live} now={now} talking={here.length} chosen={selected ? { account: selected, name: live.byAccount.get(selected)?.name ?? selected } : undefined} />
      <EveningLine
        live={live}
        now={now}
        onGo={(id) => {
          setTab("Conversation");
          talk.current?.go(id);
        }}
      />
      <div className="tabs" role="tablist" aria-label="Parts of the Porch">
        {tabs.map((t) => (
          <button key={t} role="tab" className="btn" aria-selected={tab === t} onClick={() => setTab(t)}>
            {t}
          </button>
        ))}
      </div>
      <div className="cols">
        <div className="contents" data-hidden={tab !== "People"}>
          <People live={live} now={now} selected={selected} onSelect={setSelected} findRef={find} hidden={tab !== "People"} />
        </div>
        <Conversation live={live} ref={talk} hidden={tab !== "Conversation"} />
        <section className="panel" data-hidden={tab !== "Coming up"}>
          <ComingUp live={live} now={now} />
          <WaitingForYou live={live} now={now} />
        </section>
      </div>
      {keys && <Keys onClose={() => setKeys(false)} />}
    </main>
  );
}

function LiveState({ live, now, talking, chosen }: { live: Live; now: number; talking: number; chosen?: Somebody }) {
  const l = live.live;
  const declare = (act: "opened" | "closed") => ask(api.POST("/api/desk/stream", { body: { act } })).catch((p) => toast(said(p)));
  return (
    <div className="now">
      {l.on ? (
        <>
          <span className="live">
            <i />
            {l.dropped ? "Dropped" : "Live"} {span(now - Date.parse(l.opened!))}
          </span>
          <b>{l.title || live.channel}</b>
          <span className="cut">{l.category}</span>
          <span className="ml-auto whitespace-nowrap">
            {l.viewers ? `${l.viewers} watching, ` : ""}
            {talking} talking
          </span>
          <Hands live={live} chosen={chosen} />
        </>
      ) : (
        <>
          <span className="live off">
            <i />
            Off-line
          </span>
          <b>{live.channel}</b>
          <span className="ml-auto flex gap-1.5">
            <button className="btn s" onClick={() => declare("opened")}>
              The stream is on
            </button>
            <Hands live={live} chosen={chosen} />
          </span>
        </>
      )}
    </div>
  );
}

function Keys({ onClose }: { onClose: () => void }) {
  const [on, setOn] = useState(localStorage.getItem("porch-keys") !== "off");
  return (
    <div className="pop fixed right-5 bottom-5" role="dialog" aria-label="Keys">
      {[
        ["S", "shout out whoever is chosen"],
        ["G", "greet them again"],
        ["H", "hush, and lift it"],
        ["/", "find somebody"],
        ["?", "this list"],
      ].map(([k, t]) => (
        <div key={k} className="py-0.5">
          <kbd>{k}</kbd> {t}
        </div>
      ))}
      <label className="mt-2 flex gap-2">
        <input
          type="checkbox"
          checked={on}
          onChange={(e) => {
            localStorage.setItem("porch-keys", e.target.checked ? "on" : "off");
            setOn(e.target.checked);
          }}
        />{" "}
        single keys are on
      </label>
      <button className="btn s mt-2" onClick={onClose}>
        Close
      </button>
    </div>
  );
}
