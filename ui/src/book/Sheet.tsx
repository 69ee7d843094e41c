import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { said as problem, type BookSheet } from "../api/client";
import { useByHand, useEdit } from "../api/deeds";
import { useLive } from "../api/live";
import { sheet } from "../api/queries";
import { Button, Out, Quiet } from "../kit/Button";
import { initials, Lantern, shapeOf, standingOf } from "../kit/drawings/Lantern";
import { Strip } from "../kit/drawings/Strip";
import { OwnWords } from "../kit/OwnWords";
import { Empty, Panel, Scroll } from "../kit/Panel";
import { Picker } from "../kit/Picker";
import { useCalendar } from "../kit/time";
import { titled } from "../kit/words";
import { ByHand } from "./ByHand";
import { Fact } from "./Fact";
import { Purse } from "./Purse";
import { Records } from "./Records";
import { Story } from "./Story";

/** Sheet is everything about a person on one page; what is known by hand is written in place and saved at once. */
export function Sheet({ person, onClose }: { person: number; onClose: () => void }) {
  const q = useQuery(sheet(person));
  if (!q.data)
    return (
      <Panel className="aside" label="A person">
        <Empty>{q.error ? problem(q.error) : "…"}</Empty>
        {q.error && (
          <Button size="s" className="mx-5 self-start" onClick={onClose}>
            Close
          </Button>
        )}
      </Panel>
    );
  return <Known s={q.data} onClose={onClose} />;
}

function Known({ s, onClose }: { s: BookSheet; onClose: () => void }) {
  const guests = useLive((l) => l.byAccount);
  const calendar = useCalendar();
  const byHand = useByHand();
  const edit = useEdit();
  const [why, setWhy] = useState(false);
  const r = s.row;
  const here = s.accounts.find((a) => guests?.has(a.key));
  const anyAccount = here?.key ?? s.accounts[0]?.key; // whoever is not here can be shouted out too
  const guest = here && guests?.get(here.key);
  const save = (e: Parameters<typeof edit>[1]) => edit([r.person], e);
  const roles = [...s.toldRoles.map((x) => ({ x, by: "" })), ...s.handRoles.map((x) => ({ x, by: " (by hand)" }))];
  const came = s.raids.filter((x) => x.way === "came");
  const went = s.raids.length - came.length;
  return (
    <Panel className="aside" label={`About ${r.name}`}>
      <Scroll label={`The sheet of ${r.name}`}>
        <header className="big">
          <Lantern initials={initials(r.name)} lit={!!r.here} shape={shapeOf(standingOf(r), guest?.raider, r.fellow)} size={50} />
          <div className="min-w-0 flex-1">
            <h2 title={r.name}>
              <bdi>{r.name}</bdi>
            </h2>
            <div className="sub">
              {s.hand.sayAs && <>say it “{s.hand.sayAs}” · </>}
              {s.hand.pronouns && <>{s.hand.pronouns} · </>}
              {s.accounts.map((a) => titled(a.platform)).join(", ")}
            </div>
          </div>
          <Out className="self-start" label="Close the sheet" onClick={onClose} />
        </header>
        <div className="flex gap-1.5 px-4 pb-2">
          <Button size="s" look="lit" disabled={!anyAccount} onClick={() => anyAccount && byHand("shoutout", anyAccount)}>
            Shout out
          </Button>
          <Button size="s" disabled={!here} onClick={() => here && byHand("greet", here.key)} title={here ? "" : "not here tonight"}>
            Greet again
          </Button>
          {anyAccount && <OwnWords account={anyAccount} />}
          {r.worth.map((w, i) => (
            <span key={i} className={`sub self-center ${w.kind === "date" ? "text-rose-clay" : ""}`}>
              {w.text}
            </span>
          ))}
        </div>
        <dl className="kv">
          <Fact name="Standing">
            {titled(r.standing)}
            {r.fellow && ", fellow streamer"}{" "}
            <Quiet className="ml-1" aria-expanded={why} onClick={() => setWhy(!why)}>
              why?
            </Quiet>
            {why && <div className="sub">{s.why}</div>}
          </Fact>
          <Fact name="Streams">
            {r.attended} of {s.ofStreams}
            {s.streak > 1 && `, ${s.streak} in a row`} <Strip bits={r.strip} />
          </Fact>
          {s.usual.length > 0 && <Fact name="Usually live">{s.usual.join("; ")}</Fact>}
          {s.category && (
            <Fact name="Last showed">
              {s.category}
              {s.title && `: ${s.title}`}
              {s.fetched && <span className="sub"> · asked {calendar.dated(s.fetched)}</span>}
            </Fact>
          )}
          {s.link && (
            <Fact name="Link">
              <a className="text-lagoon underline" href={s.link.startsWith("https://") ? s.link : undefined} rel="noreferrer" target="_blank">
                {s.link.replace(/^https:\/\//, "")}
              </a>
            </Fact>
          )}
          {s.raids.length > 0 && (
            <Fact name="Raids">
              {came.length > 0 ? `brought ${came.length} (${came.map((x) => x.viewers).join(", ")})` : "none came"}, {went ? `we went ${went}` : "none returned"}
            </Fact>
          )}
          {s.thread && (
            <Fact name="Left off">
              <bdi>“{s.thread.text}”</bdi> <span className="sub">· {calendar.dated(s.thread.at)}</span>
            </Fact>
          )}
          <Fact name="Follows">{s.follows ?? <span className="muted">not yet</span>}</Fact>
          {s.support.length > 0 && (
            <Fact name="Support">
              {s.support.map((g) => [titled(g.kind), g.amount && Number(g.amount) > 0 ? `${g.amount} ${g.currency}` : "", `${g.times}×`].filter(Boolean).join(" ")).join("; ")}
            </Fact>
          )}
          <Purse person={r.person} />
          <Fact name="Lines">
            {s.lines.toLocaleString("en")}
            {r.firstSeen && Date.parse(r.firstSeen) > 0 && <span className="sub"> since {calendar.dated(r.firstSeen)}</span>}
          </Fact>
          <Fact name="Roles">
            {roles.length === 0 && <span className="muted">none told</span>}
            {roles.map((x) => `${x.x}${x.by}`).join(", ")}
            <HandRoles has={s.handRoles} save={save} />
          </Fact>
        </dl>
        <ByHand s={s} save={save} />
        <Story person={r.person} />
        <Records s={s} />
      </Scroll>
    </Panel>
  );
}

/** HandRoles sets roles where no platform tells them; they are marked as given by hand. */
function HandRoles({ has, save }: { has: string[]; save: (e: { addRoles?: string[]; dropRoles?: string[] }) => void }) {
  const all = ["moderator", "vip", "subscriber", "follower"];
  return (
    <Picker
      label="Role by hand"
      size="s"
      look="ghost"
      choices={all.map((x) => ({ value: x, label: (has.includes(x) ? "Take away: " : "") + x }))}
      onPick={(x) => save(has.includes(x) ? { dropRoles: [x] } : { addRoles: [x] })}
    >
      by hand…
    </Picker>
  );
}
