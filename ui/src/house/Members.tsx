import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, members as listOf } from "../api/queries";
import { toast } from "../api/toast";
import { Button, Quiet } from "../kit/Button";
import { Field, Select } from "../kit/Field";
import { ClaimForm } from "../keeping/ClaimForm";
import { PersonPicker } from "../kit/PersonPicker";
import { span, useNow } from "../kit/time";
import { Part } from "./Part";

const may: Record<string, string> = { owner: "everything", "co-host": "the Porch, the guest book and the settings", helper: "the Porch only" };

/** What linking an account makes somebody in chat. */
const inChat: Record<string, string> = { owner: "the streamer", "co-host": "a co-host", helper: "nothing more than the platform says" };

/** Members is where the owner invites and removes those who help keep the house, and where every member says by which account they are known in chat. */
export function Members({ role: mine }: { role: string }) {
  const q = useQuery(listOf);
  const deed = useDeed();
  const now = useNow(60_000);
  const [name, setName] = useState("");
  const [role, setRole] = useState("helper");
  const [link, setLink] = useState<{ name: string; link: string }>();
  const stale = [about.members];
  const invite = (who: string, as: string) =>
    deed(api.POST("/api/members", { body: { name: who, role: as } }), {
      stale,
      then: (x) => {
        setLink({ name: who, link: x.link });
        setName("");
      },
    });
  const known = (id: number, account: string | undefined, say: string) =>
    deed(api.PUT("/api/members/{id}/account", { params: { path: { id } }, body: { account } }), { stale, say });
  const end = (id: number, remove: boolean, say: string) =>
    remove
      ? deed(api.DELETE("/api/members/{id}", { params: { path: { id } } }), { stale, say })
      : deed(api.DELETE("/api/members/{id}/sessions", { params: { path: { id } } }), { stale, say });
  return (
    <Part
      label="Members"
      title={
        mine === "owner" ? (
          <>
            Who <u>keeps</u> the house.
          </>
        ) : (
          <>
            You, as a <u>member</u>.
          </>
        )
      }
    >
      {q.data?.map((m) => (
        <div key={m.id} className="row grid-cols-[1fr_auto]" data-member={m.name}>
          <div>
            <b>{m.name}</b> · {m.role} <span className="sub">may use {may[m.role] ?? m.role}</span>
            <div className="sub">
              {m.sessions === 0 ? "not signed in anywhere" : m.sessions === 1 ? "signed in on one browser" : `signed in on ${m.sessions} browsers`}
              {m.seen && ` · last ${span(now - Date.parse(m.seen))} ago`}
              {m.invited && " · has a link not used yet"}
            </div>
            <div className="sub flex flex-wrap items-center gap-2">
              {m.account ? (
                <span>
                  in chat <b>{m.called || m.account}</b>, {m.nick ? "by a nick that nobody vouches for, so no more than the platform says" : inChat[m.role]}
                </span>
              ) : (
                "no chat account linked"
              )}
              <PersonPicker label={`Chat account of ${m.name}`} onPick={(x) => void known(m.id, x.account, `${m.name} is known in chat as ${x.name}.`)}>
                {m.account ? "Another…" : "Link one…"}
              </PersonPicker>
              {m.account && (
                <Button size="s" look="ghost" onClick={() => void known(m.id, undefined, `${m.name} is known by no chat account now.`)}>
                  unlink it
                </Button>
              )}
            </div>
            {mine === "owner" &&
              m.open?.map((o) => (
                <div key={o.id} className="sub flex items-center gap-2" data-session={o.id}>
                  <span className="cut max-w-96" title={o.browser}>
                    {o.here ? "this browser" : o.browser || "a browser"}
                  </span>
                  · since {span(now - Date.parse(o.since))} ago
                  <Quiet
                    className="ml-auto"
                    onClick={() => void deed(api.DELETE("/api/members/{id}/sessions/{session}", { params: { path: { id: m.id, session: o.id } } }), { stale })}
                  >
                    sign it out
                  </Quiet>
                </div>
              ))}
          </div>
          {mine === "owner" && m.role !== "owner" && (
            <div className="flex flex-wrap items-start gap-1.5">
              <Select size="s" aria-label={`Role of ${m.name}`} value={m.role} onChange={(e) => void invite(m.name, e.target.value)}>
                <option value="helper">helper</option>
                <option value="co-host">co-host</option>
              </Select>
              <Button size="s" onClick={() => void invite(m.name, m.role)}>
                New link
              </Button>
              <Button size="s" onClick={() => void end(m.id, false, `${m.name} is signed out everywhere.`)}>
                Sign out everywhere
              </Button>
              <Button size="s" onClick={() => void end(m.id, true, `${m.name} is no member any more; invite them again if that was a slip.`)}>
                Remove
              </Button>
            </div>
          )}
        </div>
      ))}
      {mine === "owner" && (
        <form
          className="row"
          onSubmit={(e) => {
            e.preventDefault();
            if (name.trim()) void invite(name.trim(), role);
          }}
        >
          <span>Invite</span>
          <div className="flex flex-wrap items-center gap-1.5">
            <Field className="w-56" aria-label="Name of the new member" placeholder="Name" maxLength={60} value={name} onChange={(e) => setName(e.target.value)} />
            <Select aria-label="Role of the new member" value={role} onChange={(e) => setRole(e.target.value)}>
              <option value="helper">helper: the Porch only</option>
              <option value="co-host">co-host: settings too</option>
            </Select>
            <Button look="lit">Make a link</Button>
          </div>
        </form>
      )}
      {link && (
        <p role="status">
          For <bdi>{link.name}</bdi>, good once and for three days: <code className="[overflow-wrap:anywhere]">{link.link}</code>{" "}
          <Button
            size="s"
            onClick={() =>
              navigator.clipboard.writeText(link.link).then(
                () => toast("Copied"),
                () => toast("Select it and copy it by hand."),
              )
            }
          >
            Copy
          </Button>
        </p>
      )}
      <h2 className="mt-5 mb-1 text-lg">Your account in chat</h2>
      <ClaimForm />
    </Part>
  );
}
