import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, Route, Routes, useNavigate, useParams } from "react-router";
import { profilesOf, type Profile } from "../api/client";
import { house } from "../api/queries";
import { Line } from "../keeping/Line";
import { RowsField } from "../keeping/RowsField";
import { SignIn } from "../keeping/SignIn";
import { useSection } from "../keeping/useSection";
import { Button } from "../kit/Button";
import { Fault, Field, Num, Tick } from "../kit/Field";
import { titled } from "../kit/words";
import { GiveAway } from "./GiveAway";
import { Part } from "./Part";

export function Platforms() {
  return (
    <Routes>
      <Route index element={<List />} />
      <Route path=":name" element={<One />} />
    </Routes>
  );
}

/** useProfiles are the profiles that the house knows, and those that its own file carries. */
function useProfiles() {
  const known = profilesOf(useQuery(house).data);
  const carried = useSection("profiles");
  return { known, carried, list: (carried.value ?? []) as Profile[] };
}

function List() {
  const { known, carried, list } = useProfiles();
  const file = useRef<HTMLInputElement>(null);
  const [fault, setFault] = useState("");
  const go = useNavigate();
  const bring = async (f: File | undefined) => {
    if (!f) return;
    setFault("");
    let p: Profile;
    try {
      p = JSON.parse(await f.text()) as Profile;
    } catch {
      return setFault(`${f.name} is no JSON file. A profile is one JSON file, as its schema says.`);
    }
    if (typeof p?.platform !== "string") return setFault(`${f.name} names no platform: "platform" is missing.`);
    if (await carried.put([...list.filter((x) => x.platform !== p.platform), p])) void go(p.platform);
  };
  return (
    <Part
      label="Platforms"
      title={
        <>
          What the house <u>knows</u> of platforms.
        </>
      }
    >
      <p className="sub m-0 mb-2">
        A profile is one file: how a platform&apos;s chat is spoken, where one signs in, what each permission allows, what it can be asked and had to do. Bring one in, or give one
        away.
      </p>
      {known.map((p) => (
        <div key={p.platform} className="thing">
          <div>
            {p.platform ? (
              <Link to={p.platform} className="font-semibold text-lagoon">
                {p.title}
              </Link>
            ) : (
              <b>{p.title}</b>
            )}{" "}
            <span className="sub">{p.carried ? "kept with this house" : "ships with the house"}</span>
            <div className="sub [overflow-wrap:anywhere]">{p.leads.join(", ")}</div>
          </div>
          <span className="flex gap-1.5">
            <GiveAway title={p.title} name={p.platform || "plain"} profile={p.profile} />
            {p.carried && (
              <Button size="s" onClick={() => void carried.put(list.filter((x) => x.platform !== p.platform))}>
                Take away
              </Button>
            )}
          </span>
        </div>
      ))}
      <div className="my-3">
        <input ref={file} type="file" accept="application/json,.json" className="hidden" aria-label="A profile's file" onChange={(e) => void bring(e.target.files?.[0])} />
        <Button onClick={() => file.current?.click()}>Bring a profile in</Button>
      </div>
      {(fault || carried.fault) && (
        <Fault role="alert">
          {fault || carried.fault?.words} {!fault && carried.fault?.at && <span className="muted">({carried.fault.at})</span>}
        </Fault>
      )}
    </Part>
  );
}

const tags: [key: "idTag" | "nameTag" | "rolesTag" | "messageTag" | "timeTag" | "commandSigns", label: string, hint: string][] = [
  ["idTag", "Tag of the id", "The message tag that says who somebody is, whatever they are called."],
  ["nameTag", "Tag of the name", "The one that says how they are shown."],
  ["rolesTag", "Tag of the roles", "The one that says what they are here."],
  ["messageTag", "Tag of the line", "The one with the line's own id."],
  ["timeTag", "Tag of the time", "The one that says when it was said."],
  ["commandSigns", "Command signs", "What begins a command of the network's own; the house never begins a line with one."],
];

/** One is what is known of one platform. Whatever is changed is kept with this house. */
function One() {
  const { name = "" } = useParams();
  const { known, carried, list } = useProfiles();
  const shipped = known.find((x) => x.platform === name) ?? known.find((x) => x.platform === "");
  const own = list.find((x) => x.platform === name);
  const p: Profile | undefined = own ?? (shipped && { ...shipped.profile, platform: name, title: shipped.platform ? shipped.title : titled(name) });
  if (!p) return null;
  const chat = p.chat ?? { lines: 0, windowSeconds: 0, maxBytes: 0 };
  const at = list.findIndex((x) => x.platform === name);
  const change = (next: Partial<Profile>) => carried.set(at < 0 ? [...list, { ...p, ...next }] : list.map((x, i) => (i === at ? { ...x, ...next } : x)));
  const talk = (next: Partial<typeof chat>) => change({ chat: { ...chat, ...next } });
  const save = () => void carried.save();
  const wrong = (field: string) => (carried.fault?.at.endsWith(`.${field}`) ? carried.fault.words : undefined);
  return (
    <Part
      label="Platform"
      title={
        <>
          What the house knows of <u>{p.title}</u>.
        </>
      }
    >
      <div className="flex flex-wrap items-center gap-2">
        <span className="sub mr-auto">{own ? "Kept with this house." : "It ships with the house; what you change is kept with yours."}</span>
        <GiveAway title={p.title} name={name || "plain"} profile={p} />
      </div>
      <SignIn platform={name} />
      <h2 className="mt-4 mb-1 text-lg">What is known of it</h2>
      <Line label="Where it is" hint="Addresses below that begin with a slash lead on from here." fault={wrong("at")}>
        {(id) => <Field id={id} value={p.at ?? ""} maxLength={500} onChange={(e) => change({ at: e.target.value || undefined })} onBlur={save} />}
      </Line>
      <Line label="Where people stream" hint="With {login} where the login goes." fault={wrong("link")}>
        {(id) => <Field id={id} value={p.link ?? ""} maxLength={500} onChange={(e) => change({ link: e.target.value || undefined })} onBlur={save} />}
      </Line>
      <Line label="Looks people up at" hint="With {id} and {login}; none where there is no such address." fault={wrong("lookup.address")}>
        {(id) => (
          <Field
            id={id}
            value={p.lookup?.address ?? ""}
            maxLength={2000}
            onChange={(e) => change({ lookup: e.target.value ? { ...p.lookup, address: e.target.value } : undefined })}
            onBlur={save}
          />
        )}
      </Line>
      <Line label="Acts at" hint="An address that does what the platform can do; none where there is none." fault={wrong("acts.address")}>
        {(id) => (
          <Field id={id} value={p.acts?.address ?? ""} maxLength={2000} onChange={(e) => change({ acts: { ...p.acts, address: e.target.value || undefined } })} onBlur={save} />
        )}
      </Line>
      <Line label="It cannot" hint="What this platform cannot do, and why; it is not offered then." fault={wrong("acts.cannot")}>
        {() => (
          <RowsField
            label="What the platform cannot do"
            name="What"
            words="Why"
            rows={Object.entries(p.acts?.cannot ?? {})}
            onChange={(rows) => change({ acts: { ...p.acts, cannot: Object.fromEntries(rows) } })}
            onSave={save}
          />
        )}
      </Line>
      <Line label="Its chat allows" hint="0 is no limit. Lines longer than that are cut.">
        {() => (
          <span className="flex flex-wrap items-center gap-2 pt-1">
            <Num label="Lines" value={chat.lines} onChange={(lines) => talk({ lines: lines ?? 0 })} /> lines in
            <Num label="Seconds" value={chat.windowSeconds} onChange={(n) => talk({ windowSeconds: n ?? 0 })} /> s, of
            <Num label="Bytes" value={chat.maxBytes} onChange={(n) => talk({ maxBytes: n ?? 0 })} /> bytes
            <Button size="s" onClick={save}>
              Keep
            </Button>
          </span>
        )}
      </Line>
      <details className="py-2">
        <summary className="cursor-pointer font-medium">What its messages tell</summary>
        {tags.map(([k, label, hint]) => (
          <Line key={k} label={label} hint={hint}>
            {(id) => <Field id={id} size="s" maxLength={300} value={chat[k] ?? ""} onChange={(e) => talk({ [k]: e.target.value || undefined })} onBlur={save} />}
          </Line>
        ))}
        <Line label="Its words for roles" hint="Ours are streamer, moderator, vip, subscriber, follower.">
          {() => (
            <RowsField
              label="Roles"
              name="Its word"
              words="Ours"
              rows={Object.entries(chat.roles ?? {})}
              onChange={(rows) => talk({ roles: Object.fromEntries(rows) })}
              onSave={save}
            />
          )}
        </Line>
        <Line label="Private messages">
          {() => (
            <Tick className="pt-2" on={!!chat.private} onChange={(v) => (talk({ private: v || undefined }), save())}>
              it carries them to one person
            </Tick>
          )}
        </Line>
        {(["speak", "moderate"] as const).map((k) => (
          <Line key={k} label={k === "speak" ? "Lets the house speak" : "Lets it moderate"} hint="The line that its keeper says, with {room} and {account}; none is as IRC does.">
            {(id) => (
              <Field
                id={id}
                size="s"
                maxLength={200}
                value={chat.grants?.[k] ?? ""}
                onChange={(e) => talk({ grants: { ...chat.grants, [k]: e.target.value || undefined } })}
                onBlur={save}
              />
            )}
          </Line>
        ))}
      </details>
      {carried.fault && (
        <Fault role="alert">
          {carried.fault.words} <span className="muted">({carried.fault.at})</span>
        </Fault>
      )}
    </Part>
  );
}
