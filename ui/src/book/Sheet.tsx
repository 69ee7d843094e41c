import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { api, ask, said as problem, type BookSheet } from "../api/client";
import { useLive } from "../api/live";
import { initials, Lantern, shapeOf, standingOf } from "../kit/Lantern";
import { useFound } from "../kit/PersonPicker";
import { Picker } from "../kit/Picker";
import { Strip } from "../kit/Strip";
import { dated, span, useNow } from "../kit/time";
import { toast } from "../kit/toast";
import { courtesy } from "../porch/courtesy";
import { useCrews, useSheet } from "./shared";
import { edit } from "./edit";
import { Story } from "./Story";

const titled = (s: string) => s[0]!.toUpperCase() + s.slice(1);

/** Sheet is everything about a person on one page; what is known by hand is written in place and saved at once. */
export function Sheet({ person, onClose }: { person: number; onClose: () => void }) {
  const q = useQuery({ queryKey: ["book", "sheet", person], queryFn: () => ask(api.GET("/api/book/people/{person}", { params: { path: { person } } })), retry: false });
  if (!q.data)
    return (
      <section className="panel aside" aria-label="A person">
        <p className="empty">{q.error ? problem(q.error) : "…"}</p>
        {q.error && (
          <button className="btn s mx-5 self-start" onClick={onClose}>
            Close
          </button>
        )}
      </section>
    );
  return <Known s={q.data} onClose={onClose} />;
}

function Known({ s, onClose }: { s: BookSheet; onClose: () => void }) {
  const live = useLive();
  const now = useNow(30_000, live?.skew);
  const client = useQueryClient();
  const [why, setWhy] = useState(false);
  const r = s.row;
  const crews = useCrews().data?.crews ?? [];
  const here = s.accounts.find((a) => live?.byAccount.has(a.key));
  const anyAccount = here?.key ?? s.accounts[0]?.key; // whoever is not here can be shouted out too
  const guest = here && live?.byAccount.get(here.key);
  const save = (e: Parameters<typeof edit>[2]) => edit(client, [r.person], e).catch((p) => toast(problem(p)));
  const roles = [...s.toldRoles.map((x) => ({ x, by: "" })), ...s.handRoles.map((x) => ({ x, by: " (by hand)" }))];
  const came = s.raids.filter((x) => x.way === "came");
  const went = s.raids.length - came.length;
  return (
    <section className="panel aside" aria-label={`About ${r.name}`}>
      <div className="scroll" tabIndex={0} role="group" aria-label={`The sheet of ${r.name}`}>
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
          <button className="btn s ghost self-start" aria-label="Close the sheet" onClick={onClose}>
            ×
          </button>
        </header>
        <div className="flex gap-1.5 px-4 pb-2">
          <button className="btn lit s" disabled={!anyAccount} onClick={() => anyAccount && courtesy("shoutout", anyAccount)}>
            Shout out
          </button>
          <button className="btn s" disabled={!here} onClick={() => here && courtesy("greet", here.key)} title={here ? "" : "not here tonight"}>
            Greet again
          </button>
          {r.worth.map((w, i) => (
            <span key={i} className={`sub self-center ${w.kind === "date" ? "text-(--rose-clay)" : ""}`}>
              {w.text}
            </span>
          ))}
        </div>
        <dl className="kv">
          <Fact name="Standing">
            {titled(r.standing)}
            {r.fellow && ", fellow streamer"}{" "}
            <button className="why !ml-1" aria-expanded={why} onClick={() => setWhy(!why)}>
              why?
            </button>
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
              {s.fetched && <span className="sub"> · asked {dated(s.fetched, now)}</span>}
            </Fact>
          )}
          {s.link && (
            <Fact name="Link">
              <a className="text-(--lagoon) underline" href={s.link.startsWith("https://") ? s.link : undefined} rel="noreferrer" target="_blank">
                {s.link.replace(/^https:\/\//, "")}
              </a>
            </Fact>
          )}
          {s.raids.length > 0 && (
            <Fact name="Raids">
              {came.length > 0 ? `brought ${came.length} (${came.map((x) => x.viewers).join(", ")})` : "none came"}, {went ? `we went ${went}` : "none returned"}
            </Fact>
          )}
          <Fact name="Follows">{s.follows ?? <span className="muted">not yet</span>}</Fact>
          {s.support.length > 0 && (
            <Fact name="Support">
              {s.support.map((g) => [titled(g.kind), g.amount && Number(g.amount) > 0 ? `${g.amount} ${g.currency}` : "", `${g.times}×`].filter(Boolean).join(" ")).join("; ")}
            </Fact>
          )}
          <Fact name="Lines">
            {s.lines.toLocaleString("en")}
            {r.firstSeen && Date.parse(r.firstSeen) > 0 && <span className="sub"> since {dated(r.firstSeen, now)}</span>}
          </Fact>
          <Fact name="Roles">
            {roles.length === 0 && <span className="muted">none told</span>}
            {roles.map((x) => `${x.x}${x.by}`).join(", ")}
            <HandRoles has={s.handRoles} save={save} />
          </Fact>
        </dl>
        <dl className="kv border-t border-(--line) pt-2">
          <Field name="Say it as" value={s.hand.sayAs} placeholder="how the name is spoken" onSave={(sayAs) => save({ set: { sayAs } })} />
          <Field name="Pronouns" value={s.hand.pronouns} onSave={(pronouns) => save({ set: { pronouns } })} />
          <Field
            name="Birthday"
            value={s.hand.birthday}
            placeholder="not known"
            onSave={(birthday) => save({ set: { birthday } })}
            after={s.birthday ? (s.birthdayIn ? ` in ${s.birthdayIn} days` : " today") : ""}
          />
          <Field name="Time zone" value={s.hand.zone} placeholder="the channel’s" onSave={(zone) => save({ set: { zone } })} />
          <Fact name="Crews">
            <Tokens
              items={r.crews.map((id) => ({ id, name: crews.find((c) => c.id === id)?.name ?? id }))}
              onDrop={(id) => void save({ dropCrews: [id] })}
              add={
                <Picker
                  label="Add to a crew"
                  className="btn s ghost"
                  choices={crews.filter((c) => !r.crews.includes(c.id!)).map((c) => ({ value: c.id!, label: c.name }))}
                  onPick={(c) => void save({ addCrews: [c] })}
                >
                  + crew
                </Picker>
              }
            />
          </Fact>
          <Fact name="Tags">
            <Tokens
              items={r.tags.map((t) => ({ id: t, name: t }))}
              onDrop={(t) => void save({ dropTags: [t] })}
              add={<NewTag has={r.tags} onAdd={(t) => void save({ addTags: [t] })} />}
            />
          </Fact>
          <Fact name="By hand">
            <div className="flex flex-wrap gap-x-4">
              <Check label="leave me be" on={!!s.hand.leaveBe} onChange={(leaveBe) => void save({ set: { leaveBe } })} />
              <Check label="trusted" on={!!s.hand.trusted} onChange={(trusted) => void save({ set: { trusted } })} />
              <Check label="fellow streamer" on={!!s.hand.fellow} onChange={(fellow) => void save({ set: { fellow } })} />
            </div>
          </Fact>
          <Field name="Note" value={s.hand.note} long placeholder="only you see this" onSave={(note) => save({ set: { note } })} />
        </dl>
        <Story person={r.person} />
        <Records s={s} />
      </div>
    </section>
  );
}

function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <>
      <dt>{name}</dt>
      <dd>{children}</dd>
    </>
  );
}

/** Field is written in place: saved when it is left, taken back with Escape. */
function Field({
  name,
  value,
  placeholder,
  long,
  after,
  onSave,
}: {
  name: string;
  value?: string;
  placeholder?: string;
  long?: boolean;
  after?: string;
  onSave: (v: string) => void;
}) {
  const [text, setText] = useState<string>();
  const shown = text ?? value ?? "";
  const props = {
    className: "write",
    "aria-label": name,
    placeholder: placeholder ?? "–",
    value: shown,
    onBlur: () => {
      if (text !== undefined && text !== (value ?? "")) onSave(text);
      setText(undefined);
    },
  };
  return (
    <>
      <dt>{name}</dt>
      <dd className="flex items-baseline">
        {long ? (
          <textarea {...props} rows={2} onChange={(e) => setText(e.target.value)} onKeyDown={(e) => e.key === "Escape" && (setText(undefined), e.currentTarget.blur())} />
        ) : (
          <input
            {...props}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === "Enter") e.currentTarget.blur();
              if (e.key === "Escape") {
                setText(undefined);
                e.currentTarget.value = value ?? "";
              }
            }}
          />
        )}
        {after && <span className="sub whitespace-nowrap">{after}</span>}
      </dd>
    </>
  );
}

function Check({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-1.5">
      <input type="checkbox" checked={on} onChange={(e) => onChange(e.target.checked)} /> {label}
    </label>
  );
}

function Tokens({ items, onDrop, add }: { items: { id: string; name: string }[]; onDrop: (id: string) => void; add: ReactNode }) {
  return (
    <div className="flex flex-wrap items-center gap-1">
      {items.map((x) => (
        <button key={x.id} className="cond" aria-label={`Take away: ${x.name}`} onClick={() => onDrop(x.id)}>
          {x.name} <span aria-hidden>×</span>
        </button>
      ))}
      {add}
    </div>
  );
}

function NewTag({ has, onAdd }: { has: string[]; onAdd: (t: string) => void }) {
  const tags = useQuery({ queryKey: ["book", "imports"], queryFn: () => ask(api.GET("/api/book/imports")) }).data?.tags ?? [];
  return (
    <Picker label="Add a tag" className="btn s ghost" choices={tags.filter((t) => !has.includes(t)).map((t) => ({ value: t, label: t }))} onPick={onAdd} onNew={onAdd}>
      + tag
    </Picker>
  );
}

/** HandRoles sets roles where no platform tells them; they are marked as given by hand. */
function HandRoles({ has, save }: { has: string[]; save: (e: { addRoles?: string[]; dropRoles?: string[] }) => void }) {
  const all = ["moderator", "vip", "subscriber", "follower"];
  return (
    <Picker
      label="Role by hand"
      className="btn s ghost"
      choices={all.map((x) => ({ value: x, label: (has.includes(x) ? "Take away: " : "") + x }))}
      onPick={(x) => save(has.includes(x) ? { dropRoles: [x] } : { addRoles: [x] })}
    >
      by hand…
    </Picker>
  );
}

/** Records shows accounts and merged records, and merges, parts and forgets. */
function Records({ s }: { s: BookSheet }) {
  const client = useQueryClient();
  const { show } = useSheet();
  const now = useNow(60_000);
  const [typed, setTyped] = useState("");
  const [sure, setSure] = useState(false);
  const found = useFound(typed);
  const again = () => client.invalidateQueries({ queryKey: ["book"] });
  const part = (record: number, name: string) =>
    ask(api.POST("/api/book/part", { body: { record } })).then(
      () => {
        void again();
        toast(`${name} is a record of its own again.`);
      },
      (p) => toast(problem(p)),
    );
  const merge = (gone: number, name: string) =>
    ask(api.POST("/api/book/merge", { body: { kept: s.row.person, gone } })).then(
      () => {
        void again();
        toast(`${name} is found here now.`, { label: "Undo", act: () => void part(gone, name) });
      },
      (p) => toast(problem(p)),
    );
  return (
    <div className="border-t border-(--line) px-4 py-3">
      <h3 className="mb-1 font-semibold">Accounts</h3>
      {s.accounts.map((a) => (
        <div key={a.key} className="py-1">
          <b className="font-semibold">{titled(a.platform)}</b> <bdi>{a.login || a.key}</bdi>
          {a.provisional && <span className="sub"> · known by login only</span>}
          {a.nick && <span className="sub"> · known by nick only: nobody vouches for it</span>}
          <div className="sub">
            {a.lines} lines · {a.followed ? `follows since ${dated(a.followed, now)}` : "does not follow"}
            {a.lastSeen && Date.parse(a.lastSeen) > 0 && ` · last heard ${span(now - Date.parse(a.lastSeen))} ago`}
            {a.was.length > 0 && (
              <>
                {" "}
                · was <bdi>{a.was.join(", ")}</bdi>
              </>
            )}
          </div>
        </div>
      ))}
      {s.merged.map((m) => (
        <div key={m.record} className="flex items-center gap-2 py-1">
          <span className="flex-1">
            merged: <bdi>{m.name || `record ${m.record}`}</bdi>
          </span>
          <button className="btn s" onClick={() => void part(m.record, m.name)}>
            Part
          </button>
        </div>
      ))}
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Picker
          label="Merge with"
          className="btn s"
          onSearch={setTyped}
          choices={(found.data?.rows ?? []).filter((x) => x.person !== s.row.person).map((x) => ({ value: String(x.person), label: x.name, hint: x.platforms.join(", ") }))}
          onPick={(v) => void merge(Number(v), found.data?.rows.find((x) => x.person === Number(v))?.name ?? "")}
        >
          Merge with…
        </Picker>
        <a className="btn s" href={`/api/book/people/${s.row.person}/kept`} download>
          All that is kept
        </a>
        {sure ? (
          <>
            <button
              className="btn s !border-(--persimmon) text-(--persimmon)"
              onClick={() =>
                ask(api.POST("/api/book/people/{person}/forget", { params: { path: { person: s.row.person } } })).then(
                  () => {
                    show();
                    void again();
                    toast("Forgotten. Counts of past streams stay, without a name.");
                  },
                  (p) => toast(problem(p)),
                )
              }
            >
              Forget for good
            </button>
            <button className="btn s ghost" onClick={() => setSure(false)}>
              Keep
            </button>
          </>
        ) : (
          <button className="btn s ghost" onClick={() => setSure(true)}>
            Forget…
          </button>
        )}
      </div>
      {sure && <p className="sub mt-1">This cannot be undone: names, notes, dates and lines go, and the accounts are not recorded again unless they ask for it in chat.</p>}
    </div>
  );
}
