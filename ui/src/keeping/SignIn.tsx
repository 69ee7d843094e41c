import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type PlatformSignIn } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, session, signIns } from "../api/queries";
import { Button } from "../kit/Button";
import { Fault, Field } from "../kit/Field";
import { useCalendar } from "../kit/time";
import { Copyable, Line } from "./Line";
import { useSection } from "./useSection";

/** SignIn is the house's sign-in at a platform: who is signed in, what each permission allows and until when, and what is still to be allowed. moves sets up channel, chat and account by it, in one press. */
export function SignIn({ platform, moves }: { platform: string; moves?: boolean }) {
  const page = useQuery(signIns).data;
  const owner = useQuery(session).data?.role === "owner";
  const p = page?.platforms.find((x) => x.platform === platform);
  const deed = useDeed();
  const [fault, setFault] = useState("");
  const [registers, setRegisters] = useState(false);
  if (!page || !p) return null;
  const go = (who: "house" | "streamer", scopes: string[] = []) =>
    void deed(api.POST("/api/signins/{platform}/begin", { params: { path: { platform } }, body: { who, scopes, movesIn: moves } }), {
      then: ({ address }) => window.location.assign(address),
      fault: setFault,
    });
  return (
    <section aria-label={`Signing in at ${p.title}`} className="grid gap-2">
      {!moves && <h2 className="mt-4 mb-0 text-lg">Signing in</h2>}
      {p.another && <Asked p={p} />}
      {p.said && !p.another && (
        <p className="m-0" role="status">
          {p.said}
        </p>
      )}
      {!moves && p.accounts.map((a) => <Account key={a.who} p={p} a={a} owner={owner} />)}
      {p.known ? (
        owner && (
          <div className="flex flex-wrap gap-2">
            {moves ? (
              <Button type="button" look="lit" onClick={() => go("streamer")}>
                Sign in at {p.title}
              </Button>
            ) : (
              (["streamer", "house"] as const).map((who) => (
                <Button key={who} look={p.accounts.length ? "plain" : "lit"} onClick={() => go(who)}>
                  {p.accounts.some((a) => a.who === who) ? `Sign in anew as ${words[who]}` : `Sign in as ${words[who]}`}
                </Button>
              ))
            )}
          </div>
        )
      ) : owner && moves && !registers ? (
        <div>
          <Button type="button" onClick={() => setRegisters(true)}>
            Sign in at {p.title} instead
          </Button>
          <p className="sub m-0 pt-1">It makes the channel, its chat and your account in one press, once the house is registered there.</p>
        </div>
      ) : owner ? (
        <Register p={p} redirect={page.redirect} />
      ) : (
        <p className="sub m-0">The owner registers the house there.</p>
      )}
      {moves && p.known && <p className="sub m-0">It makes the channel, its chat and your account in one press. The house speaks through your account until it has its own.</p>}
      {!moves && p.accounts.length > 0 && <Permissions p={p} owner={owner} onAllow={go} />}
      {fault && <Fault role="alert">{fault}</Fault>}
    </section>
  );
}

const words = { streamer: "yourself", house: "the house's own account" };

/** Register is how a house becomes known to a platform: its client id and secret. */
function Register({ p, redirect }: { p: PlatformSignIn; redirect: string }) {
  const deed = useDeed();
  const [id, setId] = useState("");
  const [secret, setSecret] = useState("");
  const [fault, setFault] = useState("");
  const name = `signin:${p.platform}`;
  const keep = async () => {
    setFault("");
    const put = (slot: "client" | "client-secret", value: string) =>
      deed(api.PUT("/api/house/secrets", { body: { name, slot, value } }), { stale: [about.house], then: () => undefined, fault: setFault });
    if (secret) await put("client-secret", secret);
    await put("client", id);
  };
  return (
    <div>
      <p className="m-0 py-1">
        {p.title} lets a house in that is registered there. {p.register && "Do so once:"}{" "}
        {p.register && (
          <a className="text-lagoon underline" href={p.register} target="_blank" rel="noreferrer">
            where a house is registered
          </a>
        )}
      </p>
      <p className="sub m-0 py-1">Give this as the address to come back to:</p>
      <Copyable text={redirect} label="the address to come back to" />
      <Line label="Client id">{(x) => <Field id={x} size="s" autoComplete="off" value={id} maxLength={400} onChange={(e) => setId(e.target.value)} />}</Line>
      <Line label="Client secret" hint="Kept under lock and key, sent to this platform alone. Empty where there is none.">
        {(x) => <Field id={x} size="s" type="password" autoComplete="off" value={secret} maxLength={400} onChange={(e) => setSecret(e.target.value)} />}
      </Line>
      <Button type="button" disabled={!id.trim()} onClick={() => void keep()}>
        That is how it knows the house
      </Button>
      {fault && <Fault role="alert">{fault}</Fault>}
    </div>
  );
}

/** Asked asks before another account than last time is taken in. */
function Asked({ p }: { p: PlatformSignIn }) {
  const deed = useDeed();
  const a = p.another!;
  const say = (yes: boolean) =>
    void deed(api.POST("/api/signins/{platform}/confirm", { params: { path: { platform: p.platform } }, body: { key: a.key, yes } }), { stale: [about.house] });
  return (
    <div className="rounded-lg border border-marigold px-3 py-2" role="alert">
      <p className="m-0">
        <b>{a.login}</b> signed in this time; last time it was <b>{a.was}</b>.
      </p>
      <div className="flex gap-2 pt-2">
        <Button type="button" look="lit" onClick={() => say(true)}>
          From now on {a.login}
        </Button>
        <Button type="button" onClick={() => say(false)}>
          Leave it at {a.was}
        </Button>
      </div>
    </div>
  );
}

function Account({ p, a, owner }: { p: PlatformSignIn; a: PlatformSignIn["accounts"][number]; owner: boolean }) {
  const deed = useDeed();
  const calendar = useCalendar();
  const doors = useSection("doors");
  const chat = doors.value?.find((d) => d.kind === "irc" && d.platform === p.platform && !d.as);
  const speaks = chat?.account?.toLowerCase() === a.login.toLowerCase();
  return (
    <div className="flex flex-wrap items-start gap-3">
      <span className={`mt-1.5 ${a.trouble ? "dot bad" : "dot"}`} aria-hidden />
      <div className="min-w-0 flex-1">
        <b>{a.login}</b>{" "}
        <span className="sub">
          {a.who === "house" ? "the house's own account" : "yourself"}
          {speaks && ", the house speaks through it"}
        </span>
        <div className="sub">
          {a.trouble
            ? `${a.trouble}. Sign in again.`
            : `since ${calendar.fully(a.since)}; ${a.expires ? (a.renews ? `renewed by itself before ${calendar.fully(a.expires)}` : `ends ${calendar.fully(a.expires)}`) : "it does not end"}`}
        </div>
      </div>
      {chat && owner && a.who === "house" && !speaks && (
        <Button size="s" look="lit" onClick={() => void doors.put(doors.value!.map((d) => (d.name === chat.name ? { ...d, account: a.login, shared: undefined } : d)))}>
          Speak as {a.login} from now on
        </Button>
      )}
      <Button
        size="s"
        onClick={() => void deed(api.POST("/api/signins/{platform}/check", { params: { path: { platform: p.platform } } }), { stale: [about.house], say: "Looked." })}
      >
        Check
      </Button>
      {owner && (
        <Button
          size="s"
          onClick={() =>
            void deed(api.DELETE("/api/signins/{platform}/{who}", { params: { path: { platform: p.platform, who: a.who } } }), {
              stale: [about.house],
              say: `${a.login} is signed out; its permission is given back.`,
            })
          }
        >
          Sign out
        </Button>
      )}
    </div>
  );
}

/** Permissions are what can be allowed: each with what it allows, by whom it is, and which courtesy needs it. */
function Permissions({ p, owner, onAllow }: { p: PlatformSignIn; owner: boolean; onAllow: (who: "house" | "streamer", scopes: string[]) => void }) {
  const who = p.accounts.some((a) => a.who === "streamer") ? "streamer" : "house";
  return (
    <ul className="m-0 list-none p-0" aria-label="What is allowed">
      {p.scopes.map((x) => {
        const by = p.accounts.filter((a) => a.scopes.includes(x.name));
        const wanted = x.by.length > 0 && by.length === 0;
        return (
          <li key={x.name} className="thing">
            <div>
              <span aria-hidden>{by.length ? "✓ " : ""}</span>
              {x.allows} <span className="sub">{by.length ? `allowed by ${by.map((a) => a.login).join(", ")}` : "not allowed"}</span>
              {wanted && (
                <div className="text-persimmon">
                  {x.by.length === 1 ? "A courtesy needs it" : `${x.by.length} courtesies need it`}: {x.by[0]}
                </div>
              )}
            </div>
            {owner && by.length === 0 && (
              <Button size="s" look={wanted ? "lit" : "plain"} aria-label={`Allow: ${x.allows}`} onClick={() => onAllow(who, [x.name])}>
                Allow it
              </Button>
            )}
          </li>
        );
      })}
    </ul>
  );
}
