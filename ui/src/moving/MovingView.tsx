import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, type Step } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, house, moving } from "../api/queries";
import { ChannelForm } from "../keeping/ChannelForm";
import { ChatForm, ChatProof, Proof } from "../keeping/ChatForm";
import { ClaimForm } from "../keeping/ClaimForm";
import { HappeningsForm, HappeningsProof } from "../keeping/HappeningsForm";
import { PlaceForm, PlaceTry } from "../keeping/PlaceForm";
import { ReachForm } from "../keeping/ReachForm";
import { Button, buttonLook } from "../kit/Button";
import { LanternShape } from "../kit/drawings/Lantern";
import { Nowhere } from "../kit/Nowhere";
import { Panel, Scroll } from "../kit/Panel";
import { Cord } from "./Cord";
import { CourtesiesStep } from "./CourtesiesStep";
import "./moving.css";

type Named = { name: string; on: string; title: ReactNode; says: string; body: () => ReactNode };

const thing = (settings: Record<string, unknown> | undefined, section: string) => (settings?.[section] ?? []) as { name: string; kind?: string; as?: string; title?: string }[];

const steps: Named[] = [
  {
    name: "channel",
    on: "Your channel",
    title: (
      <>
        Whose <u>house</u> is it?
      </>
    ),
    says: "The house looks after one channel.",
    body: () => (
      <>
        <ChannelForm />
        <details className="mt-3">
          <summary className="cursor-pointer font-medium">How the house is reached</summary>
          <div className="mt-2">
            <ReachForm />
          </div>
        </details>
      </>
    ),
  },
  {
    name: "chat",
    on: "Chat",
    title: (
      <>
        Where do people <u>talk</u>?
      </>
    ),
    says: "The house joins your chat under an account of its own.",
    body: () => <Chat />,
  },
  {
    name: "streamer",
    on: "You",
    title: (
      <>
        Which account is <u>yours</u>?
      </>
    ),
    says: "So that the house never greets you, and does what you ask it in chat.",
    body: () => <ClaimForm />,
  },
  {
    name: "happenings",
    on: "Happenings",
    title: (
      <>
        Follows, raids, support: how do they <u>come in</u>?
      </>
    ),
    says: "Chat alone does not tell of them. They come in by signed webhooks at a door of their own.",
    body: () => <Happenings />,
  },
  {
    name: "people",
    on: "People",
    title: (
      <>
        Whom do you know <u>already</u>?
      </>
    ),
    says: "Bring in lists, old chat logs and follow dates, so that no regular is greeted as a newcomer on the first evening.",
    body: () => (
      <p>
        <Link className={buttonLook({ look: "lit" })} to="/book/in">
          Bring people in
        </Link>
      </p>
    ),
  },
  {
    name: "courtesies",
    on: "Courtesies",
    title: (
      <>
        What shall the house <u>do</u>?
      </>
    ),
    says: "These are ready. Try one on yourself; nothing is said in chat by that.",
    body: () => <CourtesiesStep />,
  },
  {
    name: "place",
    on: "Announcement",
    title: (
      <>
        Where shall it be <u>announced</u> that you are live?
      </>
    ),
    says: "A landing of your community server, or wherever takes a webhook.",
    body: () => <Place />,
  },
];

/** MovingView sets a new house up, a step at a time, each with the proof that it works. */
export default function MovingView() {
  const { step } = useParams();
  const q = useQuery({ ...moving, refetchInterval: 1500 });
  const at = steps.findIndex((s) => s.name === step);
  return (
    <main className="moving">
      <nav className="hooks" aria-label="Steps of moving in">
        <Hook to="/moving" label="An evening" on={at < 0} lit={q.data?.steps[0]?.state === "done"} />
        {steps.map((s) => (
          <Hook key={s.name} to={`/moving/${s.name}`} label={s.on} on={s.name === step} step={q.data?.steps.find((x) => x.name === s.name)} />
        ))}
      </nav>
      <Panel label="Moving in">
        <Scroll className="ed" label="The step">
          {step && at < 0 && <Nowhere name="Moving in" />}
          {at < 0 ? (
            <First steps={q.data?.steps ?? []} />
          ) : (
            <One key={steps[at]!.name} s={steps[at]!} step={q.data?.steps.find((x) => x.name === step)} next={steps[at + 1]?.name} />
          )}
        </Scroll>
      </Panel>
    </main>
  );
}

/** Hook is a step at the left: its lantern lights when it is done. */
function Hook({ to, label, on, step, lit = step?.state === "done" }: { to: string; label: string; on: boolean; step?: Step; lit?: boolean }) {
  return (
    <Link to={to} aria-current={on ? "step" : undefined} className="hook">
      <svg width={22} height={27} viewBox="0 0 34 42" aria-hidden>
        <LanternShape lit={lit} />
      </svg>
      <span>
        {label}
        {step && <span className="sub block">{lit ? "done" : step.state === "skipped" ? "skipped" : "still to do"}</span>}
      </span>
    </Link>
  );
}

function First({ steps: list }: { steps: Step[] }) {
  return (
    <>
      <h1 className="sent">
        Welcome. This is <u>your house</u>.
      </h1>
      <p className="mb-4 max-w-[58ch] text-[15px]">
        It greets who comes, thanks who helps, and tells who you are live to, while you are busy being live. Look first at a minute of an evening in it, with people we made up:
        nothing is connected yet, and nothing of it leaves this page.
      </p>
      <Cord steps={list} />
      <p className="my-4 flex flex-wrap gap-2">
        <Link className={buttonLook({ look: "lit" })} to="/moving/evening">
          Show me an evening
        </Link>
        <Link className={buttonLook()} to="/moving/channel">
          Move in
        </Link>
      </p>
      <p className="sub max-w-[58ch]">
        Seven steps, five minutes. Each can be skipped and done later; what is left stands in the lamp at the top. You come back here from your own lantern at the top right.
      </p>
    </>
  );
}

function One({ s, step, next }: { s: Named; step?: Step; next?: string }) {
  const deed = useDeed();
  const go = useNavigate();
  const done = step?.state === "done";
  const onwards = () => void go(next ? `/moving/${next}` : "/");
  return (
    <>
      <h1 className="sent">{s.title}</h1>
      <p className="mb-3 max-w-[62ch] text-text-2">{s.says}</p>
      {s.body()}
      <div className="mt-5 border-t border-line pt-3">
        {step && (
          <Proof ok={done} calm>
            {step.proof.charAt(0).toUpperCase() + step.proof.slice(1)}.
          </Proof>
        )}
        <div className="mt-3 flex flex-wrap items-center gap-2">
          <Button look={done ? "lit" : "plain"} onClick={onwards} disabled={!done && step?.state !== "skipped"}>
            {next ? "On to the next" : "To the Porch"}
          </Button>
          {!done && step?.state !== "skipped" && (
            <Button look="ghost" onClick={() => void deed(api.PUT("/api/moving", { body: { step: s.name, state: "skipped" } }), { stale: [about.moving], then: onwards })}>
              Skip it for now
            </Button>
          )}
        </div>
      </div>
    </>
  );
}

function Chat() {
  const settings = useQuery(house).data?.settings;
  const [another, setAnother] = useState(false);
  const doors = thing(settings, "doors").filter((d) => d.kind === "irc" && !d.as);
  if (!settings) return null;
  if (doors.length && !another)
    return (
      <>
        {doors.map((d) => (
          <div key={d.name}>
            <ChatProof door={d.name} />
            <Link className="sub text-lagoon" to={`/house/doors/${d.name}`}>
              change it
            </Link>
          </div>
        ))}
        <p>
          <Button size="s" onClick={() => setAnother(true)}>
            Connect another chat
          </Button>
        </p>
      </>
    );
  return <ChatForm onMade={() => setAnother(false)} />;
}

function Happenings() {
  const settings = useQuery(house).data?.settings;
  const [made, setMade] = useState<string>();
  const doors = thing(settings, "doors").filter((d) => d.kind === "inbox");
  const name = made ?? doors[0]?.name;
  return name ? <HappeningsProof door={name} /> : <HappeningsForm onMade={setMade} />;
}

function Place() {
  const settings = useQuery(house).data?.settings;
  const deed = useDeed();
  const places = thing(settings, "places");
  const announce = (place: string) =>
    void deed(api.POST("/api/places/{place}/announce", { params: { path: { place } } }), { stale: [about.house, about.courtesies, about.history] });
  if (!places.length) return <PlaceForm onMade={announce} />;
  return (
    <>
      {places.map((p) => (
        <div key={p.name} className="py-1">
          <p className="mt-0 mb-2">
            The opening of your stream is announced at <b>{p.title || p.name}</b>.
          </p>
          <PlaceTry place={p.name} />
        </div>
      ))}
    </>
  );
}
