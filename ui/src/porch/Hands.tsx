import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Porch } from "../api/client";
import { useAnew, useByHand, useDeed } from "../api/deeds";
import { useLive } from "../api/live";
import { along } from "../api/queries";
import { Button, Out } from "../kit/Button";
import { Fault, Field, Select } from "../kit/Field";
import { PersonPicker, type Somebody } from "../kit/PersonPicker";
import { Pop } from "../kit/Pop";
import { titled } from "../kit/words";

const noHands: Porch["hands"] = [];
const noActs: Porch["acts"] = [];
const noChat: string[] = [];

/** Hands holds what a member asks for by hand: courtesies of that kind, and what the platforms can do. */
export function Hands({ chosen }: { chosen?: Somebody }) {
  const hands = useLive((s) => s.hands) ?? noHands;
  const first = useLive((s) => s.chat[0]);
  const byHand = useByHand();
  const anew = useAnew();
  const [meant, setMeant] = useState<Somebody>();
  const who = meant ?? chosen;
  return (
    <Pop label="By hand" width="l" align="end" trigger={<Button size="s">By hand…</Button>}>
      <p className="flex items-center gap-1.5 pb-1.5">
        <b className="flex-1">Courtesies by hand</b>
        <span className="sub">for</span>
        <PersonPicker label="Who is meant" onPick={setMeant} onTyped={(t) => first && setMeant({ account: `${first}:@${t}`, name: t })}>
          {who ? who.name : "nobody in particular"}
        </PersonPicker>
        {meant && <Out label="Nobody in particular" onClick={() => setMeant(undefined)} />}
      </p>
      <div className="flex flex-wrap gap-1.5 pb-3 phone:flex-col">
        <Button look="lit" disabled={!who} onClick={() => who && byHand("shoutout", who.account)}>
          Shout out{who ? ` · ${who.name}` : ""}
        </Button>
        {hands.map((h) => (
          <Button key={h.id} look="lit" onClick={() => byHand({ courtesy: h.id }, h.meant ? who?.account : undefined)}>
            {h.label}
            {h.meant && who ? ` · ${who.name}` : ""}
          </Button>
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-1.5 pb-3 phone:flex-col phone:items-stretch">
        <span className="sub">Once more in this stream, for {who ? who.name : "everybody"}:</span>
        <Button size="s" onClick={() => anew("greetings", who)}>
          the greeting
        </Button>
        <Button size="s" onClick={() => anew("shout-outs", who)}>
          the shout-out
        </Button>
      </div>
      <Along />
      <Platform />
    </Pop>
  );
}

/** Along says who streams along this evening; one link shows all of them and us. */
function Along() {
  const deed = useDeed();
  const q = useQuery(along);
  const [typed, setTyped] = useState<string>();
  const now = q.data?.logins.join(" ") ?? "";
  const keep = () => {
    if (typed === undefined || typed.trim() === now) return setTyped(undefined);
    void deed(api.PUT("/api/desk/along", { body: { text: typed } }), {
      stale: [along.queryKey],
      then: () => setTyped(undefined),
      say: typed.trim() ? "Noted who streams along." : "Nobody streams along.",
    });
  };
  return (
    <label className="block pb-3">
      <b>Streaming along tonight</b>
      <Field
        size="s"
        className="mt-1 w-full"
        aria-label="Who streams along tonight"
        placeholder="kelpwright, mothlight"
        value={typed ?? now}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      {q.data?.links.map((l) => (
        <span key={l} className="sub block cut">
          <bdi>{l}</bdi>
        </span>
      ))}
    </label>
  );
}

const lengths: Record<string, number> = { "advert break": 30, "slow chat": 120, "emote-only chat": 120, "subscribers-only chat": 120 };

/** Platform has a platform do something at once. What one cannot do is marked with the reason. */
function Platform() {
  const chat = useLive((s) => s.chat) ?? noChat;
  const acts = useLive((s) => s.acts) ?? noActs;
  const deed = useDeed();
  const [where, setOn] = useState<string>();
  const [what, setAct] = useState<string>();
  const on = where ?? chat[0] ?? ""; // they may come after this was opened
  const act = what ?? acts[0]?.act ?? "";
  const [text, setText] = useState("");
  const a = acts.find((x) => x.act === act);
  const words = act === "title" || act === "category";
  const go = () =>
    void deed(
      api.POST("/api/desk/act", {
        body: { act, platform: on, text: words ? text : undefined, login: a?.ofPerson ? text.replace(/^@/, "") : undefined, seconds: lengths[act] },
      }),
      { then: () => setText("") },
    );
  const why = a?.cannot[on];
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        go();
      }}
    >
      <b>On the platform</b>
      <div className="flex flex-wrap items-center gap-1.5 pt-1.5">
        <Select size="s" aria-label="Platform" value={on} onChange={(e) => setOn(e.target.value)}>
          {chat.map((p) => (
            <option key={p} value={p}>
              {titled(p)}
            </option>
          ))}
        </Select>
        <Select size="s" aria-label="What it does" value={act} onChange={(e) => setAct(e.target.value)}>
          {acts
            .filter((x) => x.act !== "delete line")
            .map((x) => (
              <option key={x.act} value={x.act} disabled={!!x.cannot[on]}>
                {x.act}
                {x.cannot[on] ? " (cannot)" : ""}
              </option>
            ))}
        </Select>
        {(words || a?.ofPerson) && (
          <Field
            size="s"
            className="w-40"
            aria-label={words ? `New ${act}` : "Login"}
            placeholder={words ? `new ${act}` : "login"}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        )}
        {lengths[act] && <span className="sub">for {lengths[act]} s</span>}
        <Button size="s" disabled={!!why || ((words || a?.ofPerson) && !text.trim())}>
          Do it
        </Button>
      </div>
      {why && <Fault>{why}</Fault>}
      <p className="sub pt-1">{a?.undoable ? "Can be taken back in the conversation." : "Cannot be taken back."}</p>
    </form>
  );
}
