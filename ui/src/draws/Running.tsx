import { useState } from "react";
import { api, type DrawPage, type DrawPick, type Draws, type Entry } from "../api/client";
import { useDeed } from "../api/deeds";
import { useLive, useSlowly } from "../api/live";
import { about } from "../api/queries";
import { Button, buttonLook, Out, Quiet } from "../kit/Button";
import { initials, Lantern } from "../kit/drawings/Lantern";
import { Field } from "../kit/Field";
import { span, useHouseNow } from "../kit/time";
import { said } from "./terms";

const nothing: Entry[] = [];
const shown = 40; // entries in the list; all of them stand on the page that anyone checks

/** Running is a draw that goes on, or just ended. */
export function Running({ draws, onAnother }: { draws: Draws; onAnother: () => void }) {
  const d = draws.now!;
  const deed = useDeed();
  const call = (act: string, more: { account?: string; reason?: string } = {}) => void deed(api.POST("/api/desk/draw", { body: { act, ...more } }), { stale: [about.draws] });
  const hush = useLive((s) => s.hush);
  const over = d.state === "over" || d.state === "cancelled";
  return (
    <>
      <p className="m-0 font-display text-[17px]/[1.25] font-[650] break-words">{counted(d.prizes)}</p>
      <p className="mt-0.5 mb-2 text-text-2">
        {said(d)}
        {d.who && d.who !== "everybody" ? ` · ${d.who}` : ""}
      </p>
      <State d={d} />
      {hush && !over && <p className="my-1 text-persimmon">Hush is on: viewers are not told of it.</p>}
      {d.picks.map((p) => (
        <Pick key={`${p.number}.${p.prize}`} d={d} p={p} call={call} />
      ))}
      {d.unwon?.map((n) => (
        <p key={n} className="my-1 text-text-2">
          Nobody has {d.prizes[n]}.
        </p>
      ))}
      <div className="mt-3 flex flex-wrap gap-2">
        {d.state === "open" && (
          <>
            <Button look="lit" onClick={() => call("draw")}>
              {d.way === "word" || d.way === "lately" ? "Close and draw" : "Close it"}
            </Button>
            {(d.way === "word" || d.way === "lately") && <Button onClick={() => call("close")}>Close entries</Button>}
          </>
        )}
        {d.state === "closed" && (
          <Button look="lit" onClick={() => call("draw")}>
            Draw
          </Button>
        )}
        {!over && <CallOff onCall={(reason) => call("cancel", { reason })} />}
        {over && (
          <Button look="lit" onClick={onAnother}>
            The next draw
          </Button>
        )}
        {d.commit && (
          <a className={buttonLook({ look: "ghost" })} href={`/draws/${d.id}`} target="_blank" rel="noreferrer">
            Check it
          </a>
        )}
      </div>
      {d.entries.length > 0 && <Entries d={d} onVoid={(account) => call("void", { account })} />}
    </>
  );
}

/** counted says what can be won, alike ones counted. */
const counted = (prizes: string[]) => [...new Set(prizes)].map((p) => (prizes.filter((o) => o === p).length > 1 ? `${prizes.filter((o) => o === p).length} × ${p}` : p)).join(", ");

function State({ d }: { d: DrawPage }) {
  const now = useHouseNow(1000);
  const closes = useLive((s) => s.live.draw?.closes);
  const n = d.entries.filter((e) => e.in).length;
  const left = closes ? Date.parse(closes) - now : 0;
  const words: Record<DrawPage["state"], string> = {
    sealing: "Its secret is being made.",
    open: left > 0 ? `closes in ${span(left)}` : "open",
    closed: "entries are closed",
    drawing: "drawn",
    over: "over",
    cancelled: `called off: ${d.why ?? ""}`,
  };
  return (
    <p className="my-0 flex items-baseline gap-2" role="status">
      <b className="font-display text-[30px]/[1] font-[650] tabular-nums">{n}</b>
      <span>{d.way === "number" ? (n === 1 ? "guess" : "guesses") : n === 1 ? "entry" : "entries"}</span>
      <span className="ml-auto text-text-2">{words[d.state]}</span>
    </p>
  );
}

/** Pick is somebody who was drawn: who has to speak up stands large, with the time left and what they last said. */
function Pick({ d, p, call }: { d: DrawPage; p: DrawPick; call: (act: string, more: { account?: string; reason?: string }) => void }) {
  const now = useHouseNow(500);
  const entries = useSlowly(500, (s) => s.entries) ?? nothing;
  const name = p.name || "somebody who asked to be forgotten";
  if (p.state === "passed")
    return (
      <p className="my-1 text-text-3">
        <bdi>{name}</bdi>: {p.why}
      </p>
    );
  const left = p.ends ? Math.max(0, Date.parse(p.ends) - now) : 0;
  const lines = entries.filter((e) => e.kind === "line" && e.account === p.account).slice(-3);
  return (
    <div className="my-2 rounded-xl border border-line bg-surface-2 px-3 py-2.5">
      <div className="flex items-center gap-2.5">
        <Lantern initials={initials(name)} lit glow={p.state === "pending"} size={34} />
        <div className="min-w-0 flex-1">
          <b className="block font-display text-[17px]/[1.2] break-words">
            <bdi>{name}</bdi>
          </b>
          <span className="sub">
            {d.prizes[p.prize]} · number {p.number}
            {p.state === "claimed" && p.why ? ` · ${p.why}` : ""}
          </span>
        </div>
        {p.ends && p.state === "pending" && (
          <span className="font-display text-[22px] font-[650] tabular-nums" role="timer" aria-label={`${Math.ceil(left / 1000)} seconds to speak up`}>
            {Math.ceil(left / 1000)}
          </span>
        )}
      </div>
      {p.state === "pending" && (
        <>
          <div className="mt-2 flex flex-col gap-0.5" aria-label="What they last said">
            {lines.length === 0 ? (
              <span className="sub">has said nothing this page knows of</span>
            ) : (
              lines.map((l) => (
                <span key={l.id} className="cut text-[13px] text-text-2">
                  {l.text}
                </span>
              ))
            )}
          </div>
          <div className="mt-2 flex gap-1.5">
            <Button size="s" onClick={() => call("claimed", { account: p.account })}>
              They are here
            </Button>
            <Button size="s" look="ghost" onClick={() => call("again", { account: p.account })}>
              Draw again
            </Button>
          </div>
        </>
      )}
      {p.state === "claimed" && (d.way === "word" || d.way === "lately" || d.way === "number") && (
        <Quiet className="mt-1" onClick={() => call("again", { account: p.account })}>
          draw again…
        </Quiet>
      )}
    </div>
  );
}

function CallOff({ onCall }: { onCall: (reason: string) => void }) {
  const [reason, setReason] = useState<string>();
  if (reason === undefined)
    return (
      <Button look="ghost" onClick={() => setReason("")}>
        Call off…
      </Button>
    );
  return (
    <form
      className="flex flex-1 gap-1.5"
      onSubmit={(e) => {
        e.preventDefault();
        if (reason.trim()) onCall(reason.trim());
      }}
    >
      {/* eslint-disable-next-line jsx-a11y/no-autofocus -- it was just asked for */}
      <Field size="xs" autoFocus aria-label="Why it is called off" placeholder="why; everybody reads it" value={reason} onChange={(e) => setReason(e.target.value)} />
      <Button size="s" look="grave" disabled={!reason.trim()}>
        Call off
      </Button>
    </form>
  );
}

function Entries({ d, onVoid }: { d: DrawPage; onVoid: (account: string) => void }) {
  const last = d.entries.slice(-shown).reverse();
  return (
    <ol className="m-0 mt-3 list-none p-0" aria-label="Entries, the newest first">
      {last.map((e) => (
        <li key={e.number} className="flex items-baseline gap-2 py-px text-[13px]">
          <span className="w-9 flex-none text-right text-text-3 tabular-nums">{e.number}</span>
          <bdi className={`cut flex-1 ${e.in ? "" : "text-text-3 line-through"}`}>{e.name || "somebody who asked to be forgotten"}</bdi>
          {e.guess !== undefined && <span className="tabular-nums">{e.guess}</span>}
          {e.void && <span className="sub cut">{e.void}</span>}
          {d.state === "open" && e.in && e.account && <Out label={`Take ${e.name} out`} onClick={() => onVoid(e.account!)} />}
        </li>
      ))}
      {d.entries.length > shown && <li className="sub">and {d.entries.length - shown} before them</li>}
    </ol>
  );
}
