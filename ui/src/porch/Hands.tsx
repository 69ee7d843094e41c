import { Popover } from "radix-ui";
import { useState } from "react";
import { api, ask, said } from "../api/client";
import type { Live } from "../api/live";
import { PersonPicker, type Somebody } from "../kit/PersonPicker";
import { toast } from "../kit/toast";
import { courtesy } from "./courtesy";

const titled = (p: string) => p[0]!.toUpperCase() + p.slice(1);

/** Hands holds what a member asks for by hand: courtesies of that kind, and what the platforms can do. */
export function Hands({ live, chosen }: { live: Live; chosen?: Somebody }) {
  const [open, setOpen] = useState(false);
  const [meant, setMeant] = useState<Somebody>();
  const who = meant ?? chosen;
  const hand = (id: string, account?: string) =>
    ask(api.POST("/api/desk/ask", { body: { act: "courtesy", courtesy: id, account } })).then(
      (d) => toast(d.done ? "It is in Coming up; five seconds to drop it." : d.because.join("; ")),
      (p) => toast(said(p)),
    );
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button className="btn s">By hand…</button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="pop !w-96" align="end" sideOffset={6} aria-label="By hand">
          <>
            <p className="flex items-center gap-1.5 pb-1.5">
              <b className="flex-1">Courtesies by hand</b>
              <span className="sub">for</span>
              <PersonPicker label="Who is meant" onPick={setMeant} onTyped={(t) => live.chat[0] && setMeant({ account: `${live.chat[0]}:@${t}`, name: t })}>
                {who ? who.name : "nobody in particular"}
              </PersonPicker>
              {meant && (
                <button className="btn s ghost" aria-label="Nobody in particular" onClick={() => setMeant(undefined)}>
                  ×
                </button>
              )}
            </p>
            <div className="flex flex-wrap gap-1.5 pb-3">
              <button className="btn lit" disabled={!who} onClick={() => who && courtesy("shoutout", who.account)}>
                Shout out{who ? ` · ${who.name}` : ""}
              </button>
              {live.hands.map((h) => (
                <button key={h.id} className="btn lit" onClick={() => void hand(h.id, h.meant ? who?.account : undefined)}>
                  {h.label}
                  {h.meant && who ? ` · ${who.name}` : ""}
                </button>
              ))}
            </div>
          </>
          <Platform live={live} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const lengths: Record<string, number> = { "advert break": 30, "slow chat": 120, "emote-only chat": 120, "subscribers-only chat": 120 };

/** Platform has a platform do something at once. What one cannot do is marked with the reason. */
function Platform({ live }: { live: Live }) {
  const [on, setOn] = useState(live.chat[0] ?? "");
  const [act, setAct] = useState(live.acts[0]?.act ?? "");
  const [text, setText] = useState("");
  const a = live.acts.find((x) => x.act === act);
  const words = act === "title" || act === "category";
  const go = () =>
    ask(
      api.POST("/api/desk/act", {
        body: { act, platform: on, text: words ? text : undefined, login: a?.ofPerson ? text.replace(/^@/, "") : undefined, seconds: lengths[act] },
      }),
    ).then(
      (d) => {
        if (!d.done) toast(d.because.join("; "));
        else setText("");
      },
      (p) => toast(said(p)),
    );
  const why = a?.cannot[on];
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void go();
      }}
    >
      <b>On the platform</b>
      <div className="flex flex-wrap items-center gap-1.5 pt-1.5">
        <select className="btn s" aria-label="Platform" value={on} onChange={(e) => setOn(e.target.value)}>
          {live.chat.map((p) => (
            <option key={p} value={p}>
              {titled(p)}
            </option>
          ))}
        </select>
        <select className="btn s" aria-label="What it does" value={act} onChange={(e) => setAct(e.target.value)}>
          {live.acts
            .filter((x) => x.act !== "delete line")
            .map((x) => (
              <option key={x.act} value={x.act} disabled={!!x.cannot[on]}>
                {x.act}
                {x.cannot[on] ? " (cannot)" : ""}
              </option>
            ))}
        </select>
        {(words || a?.ofPerson) && (
          <input
            className="field !w-40 !py-1"
            aria-label={words ? `New ${act}` : "Login"}
            placeholder={words ? `new ${act}` : "login"}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        )}
        {lengths[act] && <span className="sub">for {lengths[act]} s</span>}
        <button className="btn s" disabled={!!why || ((words || a?.ofPerson) && !text.trim())}>
          Do it
        </button>
      </div>
      {why && <p className="flt">{why}</p>}
      <p className="sub pt-1">{a?.undoable ? "Can be taken back in the conversation." : "Cannot be taken back."}</p>
    </form>
  );
}
