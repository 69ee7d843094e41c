import { useEffect, useRef, useState } from "react";
import { Button } from "../kit/Button";
import { Fault, Field, Tick } from "../kit/Field";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { titled } from "../kit/words";
import "./street.css";

type PlatformState = {
  name: string;
  live: boolean;
  title: string;
  category: string;
  address: string;
  here: string[];
  waiting: number;
  refused: string;
  heard: { id: string; at: string; nick: string; text: string }[];
  modes: string[] | null;
  vips: string[] | null;
  deeds: Deed[] | null;
  private: { at: string; to: string; text: string }[] | null;
};
type Deed = {
  at: string;
  effect: string;
  text: string;
  second: string;
  media: string;
  loud: number;
  voice: string;
  seconds: number;
  colour: string;
  scene: string;
  act: string;
  off: boolean;
  login: string;
  try: boolean;
  refused?: string;
};
type State = {
  now: string;
  movable: boolean;
  tin: { hook: string; said: string; ears: number; told: string[] };
  stage: { dark: boolean; fittings: Record<string, Deed[]> };
  channel: string;
  platforms: PlatformState[];
  skerry: { posts: { id: string; words: string; to?: string }[]; picture?: string; banner?: string };
  landings: {
    name: string;
    title: string;
    may: string[];
    posts: { id: string; at: string; key: string; message: string; board?: Record<string, string>; rings: string[]; under?: string; picture?: string; changed?: number }[];
  }[];
  outage: boolean;
  ignoresKeys: boolean;
  viewers: { id: string; login: string; name: string }[];
  player: { playing: boolean; paused: boolean; speed: number; at: number; of: number; minute: number };
};

const every = 700; // ms between two looks

async function go(act: string, order: object = {}) {
  await fetch(`/street/do/${act}`, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(order) });
}

/** Street is the page from which a hand moves the whole outside world. */
export function Street() {
  const [s, set] = useState<State>();
  const [viewer, setViewer] = useState("tidewrack");
  useEffect(() => {
    const look = () =>
      fetch("/street/state")
        .then((r) => r.json())
        .then(set, () => undefined);
    void look();
    const t = setInterval(look, every);
    return () => clearInterval(t);
  }, []);
  if (!s) return <main className="empty">The street is dark…</main>;
  const p = s.player;
  return (
    <main className="street">
      <header className="flex flex-wrap items-baseline gap-4">
        <h1 className="text-xl font-bold">The street</h1>
        <span className="sub">the world outside {s.channel}: two platforms, a community server and a stage, all pretended</span>
      </header>
      <Panel label="The written evening">
        <Head count={<>{p.playing ? `minute ${p.minute.toFixed(0)} · step ${p.at} of ${p.of}` : p.at ? "played; a quiet trickle goes on" : "not played yet"}</>}>
          The written evening
        </Head>
        <div className="rowed">
          <Button look="lit" onClick={() => void go("play")}>
            {p.at ? "Play again" : "Play"}
          </Button>
          <Button onClick={() => void go("pause", { on: !p.paused })}>{p.paused ? "Go on" : "Pause"}</Button>
          {[1, 10, 60].map((v) => (
            <Button key={v} aria-pressed={p.speed === v} onClick={() => void go("speed", { speed: v })}>
              {v === 1 ? "as in life" : `${v} times`}
              {p.speed === v ? " ✓" : ""}
            </Button>
          ))}
          {s.movable && (
            <span className="flex items-center gap-2 whitespace-nowrap">
              <span className="sub">it is {new Date(s.now).toUTCString().slice(0, 22)} UTC</span>
              <Button onClick={() => void go("clock", { days: 1 })}>A day on</Button>
              <Button onClick={() => void go("clock", { minutes: 60 })}>An hour on</Button>
            </span>
          )}
          <label className="sub ml-auto flex items-center gap-2 whitespace-nowrap">
            Speak as
            <Field size="s" className="w-40" list="viewers" value={viewer} aria-label="Speak as" onChange={(e) => setViewer(e.target.value)} />
          </label>
          <datalist id="viewers">
            {s.viewers.map((v) => (
              <option key={v.id} value={v.login} />
            ))}
          </datalist>
        </div>
      </Panel>
      <div className="two">
        {s.platforms.map((pl) => (
          <PlatformPanel key={pl.name} p={pl} viewer={viewer} />
        ))}
        <div className="flex min-h-0 flex-col gap-3">
          <Panel label="The Boathouse">
            <Head count={<>{s.outage ? "under water" : "open"}</>}>The Boathouse</Head>
            <div className="rowed">
              <Button onClick={() => void go("outage", { on: !s.outage })}>{s.outage ? "Mend it" : "Break it"}</Button>
              <Button onClick={() => void go("ignore-keys", { on: !s.ignoresKeys })}>{s.ignoresKeys ? "Heed keys" : "Ignore keys"}</Button>
              <Button onClick={() => void go("join", { viewer })}>{viewer} joins</Button>
              <Button onClick={() => void go("note", { viewer })}>{viewer} leaves a note</Button>
            </div>
            <Scroll className="px-4 pb-3" label="Landings">
              {s.landings.map((b) => (
                <div key={b.name}>
                  <p className="sub flex flex-wrap items-center gap-2 py-1">
                    {b.title} · {b.posts.length}
                    <span className="ml-auto flex gap-2" role="group" aria-label={`A house may at ${b.title}`}>
                      {["write", "hang", "call"].map((right) => (
                        <Tick key={right} on={b.may.includes(right)} onChange={(on) => void go("may", { title: b.name, text: right, on })}>
                          {right}
                        </Tick>
                      ))}
                    </span>
                  </p>
                  {b.posts.map((x, i) => (
                    <div key={i} className={x.under ? "bub ml-5" : "bub"} data-post={x.key}>
                      <bdi>{x.message}</bdi>
                      {x.picture && <img className="mt-1 block max-w-full rounded-lg" alt="What hangs there" src={`data:image/png;base64,${x.picture}`} />}
                      <div className="sub">
                        {x.board?.heading}
                        {x.rings.length ? ` · rings ${x.rings.join(", ")}` : ""}
                        {x.changed ? ` · changed ${x.changed === 1 ? "once" : `${x.changed} times`}` : ""}
                      </div>
                    </div>
                  ))}
                  {b.posts.length === 0 && <p className="sub">Nobody has posted here yet.</p>}
                </div>
              ))}
            </Scroll>
          </Panel>
          <SkerryPanel s={s.skerry} viewer={viewer} />
          <TinPanel tin={s.tin} viewer={viewer} />
          <Panel label="The stage">
            <Head count={<>{s.stage.dark ? "the power is off" : "what it was told, newest first"}</>}>The stage</Head>
            <div className="rowed">
              <Button onClick={() => void go("dark", { on: !s.stage.dark })}>{s.stage.dark ? "Power on" : "Cut the power"}</Button>
            </div>
            <Scroll className="px-4 pb-3" label="Fittings">
              {Object.entries(s.stage.fittings).map(([name, list]) => (
                <div key={name} data-fitting={name}>
                  <p className="sub py-1">{name}</p>
                  {[...list]
                    .reverse()
                    .slice(0, 6)
                    .map((d, i) => (
                      <div key={i} className="bub flex items-center gap-2">
                        {d.colour && (
                          <svg width="22" height="22" aria-hidden>
                            <circle cx="11" cy="11" r="10" fill={d.colour} />
                          </svg>
                        )}
                        <bdi>{deed(d)}</bdi>
                      </div>
                    ))}
                </div>
              ))}
              {Object.keys(s.stage.fittings).length === 0 && <p className="sub">Nothing has been lit, played or shown yet.</p>}
            </Scroll>
          </Panel>
        </div>
      </div>
    </main>
  );
}

/** deed says what was told, and whether it was refused. */
function deed(d: Deed): string {
  const what =
    d.act !== ""
      ? `${d.act}${d.off ? ", off" : ""}${d.text ? `: ${d.text}` : ""}${d.login ? `: ${d.login}` : ""}`
      : [d.effect, d.scene, d.media, d.text && `“${d.text}”`, d.colour, d.voice && `in the ${d.voice} voice`, d.loud ? `at ${d.loud}` : ""].filter(Boolean).join(" · ");
  return `${what}${d.seconds ? ` for ${d.seconds} s` : ""}${d.try ? " (a try)" : ""}${d.refused ? ` — refused: ${d.refused}` : ""}`;
}

/** SkerryPanel is a social site with one account, and people who follow it. */
function SkerryPanel({ s, viewer }: { s: State["skerry"]; viewer: string }) {
  return (
    <Panel label="Skerry">
      <Head count={<>{s.posts.length}</>}>Skerry</Head>
      <div className="rowed">
        {["followed", "liked", "reposted"].map((what) => (
          <Button key={what} onClick={() => void go("social", { viewer, text: what })}>
            {viewer} {what}
          </Button>
        ))}
      </div>
      {s.banner && <img className="mx-4 mb-2 block max-h-20 rounded-lg object-cover" alt="The account's banner" src={`data:image/png;base64,${s.banner}`} />}
      {s.picture && <img className="mx-4 mb-2 block h-12 w-12 rounded-lg" alt="The account" src={`data:image/png;base64,${s.picture}`} />}
      <Scroll className="px-4 pb-3" label="Posts">
        {s.posts.map((p) => (
          <div key={p.id} className="bub">
            {p.to && <span className="sub">to {p.to}: </span>}
            <bdi>{p.words}</bdi>
          </div>
        ))}
        {s.posts.length === 0 && <p className="sub">Nothing was posted yet.</p>}
      </Scroll>
    </Panel>
  );
}

/** TinPanel is a tip-and-raffle service with a language of its own. */
function TinPanel({ tin, viewer }: { tin: State["tin"]; viewer: string }) {
  const [pence, setPence] = useState(500);
  const [says, setSays] = useState("");
  return (
    <Panel label="The Tin">
      <Head count={<>{tin.ears === 1 ? "one listens" : tin.ears ? `${tin.ears} listen` : "nobody listens"}</>}>The Tin</Head>
      <div className="rowed">
        <Field size="s" className="w-20 flex-none" type="number" min={1} aria-label="The Tin: pence" value={pence} onChange={(e) => setPence(Number(e.target.value))} />
        <Field size="s" className="w-auto min-w-24 flex-1" placeholder="and says" aria-label="The Tin: says" value={says} onChange={(e) => setSays(e.target.value)} />
        <Button look="lit" onClick={() => void go("coin", { viewer, viewers: pence, text: says })}>
          Drop a coin
        </Button>
        <Button onClick={() => void go("raffle", { viewer, text: says })}>Win the raffle</Button>
      </div>
      {tin.said && <p className="sub px-4">its hook was answered: {tin.said}</p>}
      <Scroll className="px-4 pb-3" label="What The Tin told">
        {[...tin.told]
          .reverse()
          .slice(0, 3)
          .map((m) => (
            <div key={m} className="bub [overflow-wrap:anywhere]">
              <bdi>{m}</bdi>
            </div>
          ))}
      </Scroll>
    </Panel>
  );
}

function PlatformPanel({ p, viewer }: { p: PlatformState; viewer: string }) {
  const [text, setText] = useState("");
  const [title, setTitle] = useState("");
  const [heads, setHeads] = useState(25);
  const [minutes, setMinutes] = useState(0);
  const end = useRef<HTMLDivElement>(null);
  const last = p.heard[p.heard.length - 1]?.id;
  useEffect(() => {
    const box = end.current;
    if (box) box.scrollTop = box.scrollHeight;
  }, [last]);
  const name = titled(p.name);
  const platform = p.name;
  return (
    <Panel label={name}>
      <Head
        count={
          <>
            {p.live ? "live" : "off-line"} · chat at {p.address}
          </>
        }
      >
        {name}
      </Head>
      <div className="rowed">
        <Field size="s" className="w-auto min-w-24 flex-1" placeholder="Title" aria-label={`${name}: title`} value={title} onChange={(e) => setTitle(e.target.value)} />
        <Button onClick={() => void go(p.live ? "change" : "open", { platform, title, category: "Field and microscope" })}>{p.live ? "Change" : "Open"}</Button>
        <Button disabled={!p.live} onClick={() => void go("close", { platform, minutes })}>
          Close
        </Button>
      </div>
      <form
        className="rowed"
        onSubmit={(e) => {
          e.preventDefault();
          if (text) void go("say", { platform, viewer, text });
          setText("");
        }}
      >
        <Button type="button" onClick={() => text && void go("hold", { platform, viewer, text })}>
          Hold it back
        </Button>
        <Field size="s" className="w-auto min-w-24 flex-1" placeholder={`Say as ${viewer}`} aria-label={`${name}: say`} value={text} onChange={(e) => setText(e.target.value)} />
        <Button look="lit">Say</Button>
      </form>
      <div className="rowed">
        <Button onClick={() => void go("follow", { platform, viewer, minutes })}>Follow</Button>
        <Button onClick={() => void go("raid", { platform, viewer, viewers: heads, minutes })}>Raid with</Button>
        <Field size="s" className="flex-none w-20" type="number" min={0} aria-label={`${name}: how many`} value={heads} onChange={(e) => setHeads(Number(e.target.value))} />
        {(["subscribe", "gift", "tip"] as const).map((x) => (
          <Button key={x} onClick={() => void go(x, { platform, viewer, viewers: heads, minutes, text })}>
            {titled(x)}
          </Button>
        ))}
        <label className="sub flex items-center gap-1">
          minutes late{" "}
          <Field
            size="s"
            className="flex-none w-16"
            type="number"
            min={0}
            aria-label={`${name}: minutes late`}
            value={minutes}
            onChange={(e) => setMinutes(Number(e.target.value))}
          />
        </label>
        <Button look="ghost" onClick={() => void go("drop", { platform })}>
          Cut chat
        </Button>
      </div>
      {(p.waiting > 0 || p.refused) && <Fault className="px-4">{p.waiting > 0 ? `${p.waiting} events wait for the house` : p.refused}</Fault>}
      {(p.modes?.length ?? 0) + (p.vips?.length ?? 0) > 0 && <p className="sub px-4">{[...(p.modes ?? []), ...(p.vips ?? []).map((v) => `VIP: ${v}`)].join(" · ")}</p>}
      {p.deeds?.slice(-2).map((d) => (
        <p key={d.at} className="sub px-4 [overflow-wrap:anywhere]">
          the house: {deed(d)}
        </p>
      ))}
      {p.private?.slice(-2).map((m) => (
        <p key={m.at} className="sub px-4 [overflow-wrap:anywhere]" data-private={m.to}>
          only to {m.to}: <bdi>{m.text}</bdi>
        </p>
      ))}
      <Scroll className="heard" ref={end} label={`${name}: chat`}>
        {p.heard.map((h) => (
          <div key={h.id} className="px-4 py-0.5">
            <b className={h.nick === "porchlamp" ? "text-marigold" : "text-lagoon"}>{h.nick}</b> <bdi>{h.text}</bdi>
          </div>
        ))}
        {p.heard.length === 0 && <Empty>The chat is quiet. In the room: {p.here.join(", ") || "nobody"}.</Empty>}
      </Scroll>
    </Panel>
  );
}
