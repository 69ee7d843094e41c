import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, said } from "../api/client";
import { PersonPicker } from "../kit/PersonPicker";
import { toast } from "../kit/toast";
import { span } from "../kit/time";

const may: Record<string, string> = { owner: "everything", "co-host": "the Porch, the guest book and the settings", helper: "the Porch only" };

/** What linking an account makes somebody in chat. */
const inChat: Record<string, string> = { owner: "the streamer", "co-host": "a co-host", helper: "nothing more than the platform says" };

/** MembersView is where the owner invites and removes those who help keep the house, and where every member says by which account they are known in chat. */
export default function MembersView({ role: mine }: { role: string }) {
  const client = useQueryClient();
  const q = useQuery({ queryKey: ["members"], queryFn: () => ask(api.GET("/api/members")), staleTime: 0 });
  const [name, setName] = useState("");
  const [role, setRole] = useState("helper");
  const [link, setLink] = useState<{ name: string; link: string }>();
  const again = () => client.invalidateQueries({ queryKey: ["members"] });
  const invite = (who: string, as: string) =>
    ask(api.POST("/api/members", { body: { name: who, role: as } })).then(
      (x) => {
        setLink({ name: who, link: x.link });
        setName("");
        void again();
      },
      (p) => toast(said(p)),
    );
  const known = (id: number, account: string | undefined, text: string) =>
    ask(api.PUT("/api/members/{id}/account", { params: { path: { id } }, body: { account } })).then(
      () => {
        toast(text);
        void again();
      },
      (p) => toast(said(p)),
    );
  const end = (id: number, remove: boolean, text: string) =>
    ask(remove ? api.DELETE("/api/members/{id}", { params: { path: { id } } }) : api.DELETE("/api/members/{id}/sessions", { params: { path: { id } } })).then(
      () => {
        toast(text);
        void again();
      },
      (p) => toast(said(p)),
    );
  return (
    <main className="p-5 pt-1.5">
      <section className="panel" aria-label="Members">
        <div className="scroll ed" tabIndex={0} role="group" aria-label="Members of the house">
          <h1 className="sent">{mine === "owner" ? "Members" : "You, as a member"}</h1>
          {q.data?.map((m) => (
            <div key={m.id} className="row !grid-cols-[1fr_auto]" data-member={m.name}>
              <div>
                <b>{m.name}</b> · {m.role} <span className="sub">may use {may[m.role] ?? m.role}</span>
                <div className="sub">
                  {m.sessions === 0 ? "not signed in anywhere" : m.sessions === 1 ? "signed in on one browser" : `signed in on ${m.sessions} browsers`}
                  {m.seen && ` · last ${span(Date.now() - Date.parse(m.seen))} ago`}
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
                    <button className="btn s ghost" onClick={() => void known(m.id, undefined, `${m.name} is known by no chat account now.`)}>
                      unlink it
                    </button>
                  )}
                </div>
                {mine === "owner" &&
                  m.open?.map((o) => (
                    <div key={o.id} className="sub flex items-center gap-2" data-session={o.id}>
                      <span className="cut max-w-96" title={o.browser}>
                        {o.here ? "this browser" : o.browser || "a browser"}
                      </span>
                      · since {span(Date.now() - Date.parse(o.since))} ago
                      <button
                        className="why"
                        onClick={() =>
                          ask(api.DELETE("/api/members/{id}/sessions/{session}", { params: { path: { id: m.id, session: o.id } } })).then(
                            () => void again(),
                            (p) => toast(said(p)),
                          )
                        }
                      >
                        sign it out
                      </button>
                    </div>
                  ))}
              </div>
              {mine === "owner" && m.role !== "owner" && (
                <div className="flex flex-wrap items-start gap-1.5">
                  <select className="btn s" aria-label={`Role of ${m.name}`} value={m.role} onChange={(e) => void invite(m.name, e.target.value)}>
                    <option value="helper">helper</option>
                    <option value="co-host">co-host</option>
                  </select>
                  <button className="btn s" onClick={() => void invite(m.name, m.role)}>
                    New link
                  </button>
                  <button className="btn s" onClick={() => void end(m.id, false, `${m.name} is signed out everywhere.`)}>
                    Sign out everywhere
                  </button>
                  <button className="btn s" onClick={() => void end(m.id, true, `${m.name} is no member any more; invite them again if that was a slip.`)}>
                    Remove
                  </button>
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
                <input className="field !w-56" aria-label="Name of the new member" placeholder="Name" maxLength={60} value={name} onChange={(e) => setName(e.target.value)} />
                <select className="btn" aria-label="Role of the new member" value={role} onChange={(e) => setRole(e.target.value)}>
                  <option value="helper">helper: the Porch only</option>
                  <option value="co-host">co-host: settings too</option>
                </select>
                <button className="btn lit">Make a link</button>
              </div>
            </form>
          )}
          {link && (
            <p role="status">
              For <bdi>{link.name}</bdi>, good once and for three days: <code className="[overflow-wrap:anywhere]">{link.link}</code>{" "}
              <button
                className="btn s"
                onClick={() =>
                  navigator.clipboard.writeText(link.link).then(
                    () => toast("Copied"),
                    () => toast("Select it and copy it by hand."),
                  )
                }
              >
                Copy
              </button>
            </p>
          )}
        </div>
      </section>
    </main>
  );
}
