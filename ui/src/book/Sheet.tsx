import { Empty, Panel, Scroll } from "../kit/Panel";
import { Button, Quiet, buttonLook } from "../kit/Button";
import { Chip } from "../kit/Chip";
import { Tick } from "../kit/Field";
import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { api, said as problem, type BookSheet } from "../api/client";
import { useByHand, useDeed, useEdit, usePart } from "../api/deeds";
import { useLive } from "../api/live";
import { about, crews as allCrews, found as foundFor, imports, sheet } from "../api/queries";
import { initials, Lantern, shapeOf, standingOf } from "../kit/Lantern";
import { Picker } from "../kit/Picker";
import { Strip } from "../kit/Strip";
import { span, useCalendar } from "../kit/time";
import { titled } from "../kit/words";
import { useSheet } from "./sheet";
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
  const crews = useQuery(allCrews).data?.crews ?? [];
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
          <Button size="s" look="ghost" className="self-start" aria-label="Close the sheet" onClick={onClose}>
            ×
          </Button>
        </header>
        <div className="flex gap-1.5 px-4 pb-2">
          <Button size="s" look="lit" disabled={!anyAccount} onClick={() => anyAccount && byHand("shoutout", anyAccount)}>
            Shout out
          </Button>
          <Button size="s" disabled={!here} onClick={() => here && byHand("greet", here.key)} title={here ? "" : "not here tonight"}>
            Greet again
          </Button>
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
          <Fact name="Follows">{s.follows ?? <span className="muted">not yet</span>}</Fact>
          {s.support.length > 0 && (
            <Fact name="Support">
              {s.support.map((g) => [titled(g.kind), g.amount && Number(g.amount) > 0 ? `${g.amount} ${g.currency}` : "", `${g.times}×`].filter(Boolean).join(" ")).join("; ")}
            </Fact>
          )}
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
        <dl className="kv border-t border-line pt-2">
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
                  size="s"
                  look="ghost"
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
              <Tick on={!!s.hand.leaveBe} onChange={(leaveBe) => void save({ set: { leaveBe } })}>
                leave me be
              </Tick>
              <Tick on={!!s.hand.trusted} onChange={(trusted) => void save({ set: { trusted } })}>
                trusted
              </Tick>
              <Tick on={!!s.hand.fellow} onChange={(fellow) => void save({ set: { fellow } })}>
                fellow streamer
              </Tick>
            </div>
          </Fact>
          <Field name="Note" value={s.hand.note} long placeholder="only you see this" onSave={(note) => save({ set: { note } })} />
        </dl>
        <Story person={r.person} />
        <Records s={s} />
      </Scroll>
    </Panel>
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

function Tokens({ items, onDrop, add }: { items: { id: string; name: string }[]; onDrop: (id: string) => void; add: ReactNode }) {
  return (
    <div className="flex flex-wrap items-center gap-1">
      {items.map((x) => (
        <Chip key={x.id} aria-label={`Take away: ${x.name}`} onClick={() => onDrop(x.id)}>
          {x.name} <span aria-hidden>×</span>
        </Chip>
      ))}
      {add}
    </div>
  );
}

function NewTag({ has, onAdd }: { has: string[]; onAdd: (t: string) => void }) {
  const tags = useQuery(imports).data?.tags ?? [];
  return (
    <Picker label="Add a tag" size="s" look="ghost" choices={tags.filter((t) => !has.includes(t)).map((t) => ({ value: t, label: t }))} onPick={onAdd} onNew={onAdd}>
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
      size="s"
      look="ghost"
      choices={all.map((x) => ({ value: x, label: (has.includes(x) ? "Take away: " : "") + x }))}
      onPick={(x) => save(has.includes(x) ? { dropRoles: [x] } : { addRoles: [x] })}
    >
      by hand…
    </Picker>
  );
}

/** Records shows accounts and merged records, and merges, parts and forgets. */
function Records({ s }: { s: BookSheet }) {
  const deed = useDeed();
  const part = usePart();
  const { show } = useSheet();
  const calendar = useCalendar();
  const [typed, setTyped] = useState("");
  const [sure, setSure] = useState(false);
  const found = useQuery(foundFor(typed));
  const stale = [about.book];
  const merge = (gone: number, name: string) =>
    deed(api.POST("/api/book/merge", { body: { kept: s.row.person, gone } }), {
      stale,
      say: `${name} is found here now.`,
      undo: () => part(gone, `${name} is a record of its own again.`),
    });
  return (
    <div className="border-t border-line px-4 py-3">
      <h3 className="mb-1 font-semibold">Accounts</h3>
      {s.accounts.map((a) => (
        <div key={a.key} className="py-1">
          <b className="font-semibold">{titled(a.platform)}</b> <bdi>{a.login || a.key}</bdi>
          {a.provisional && <span className="sub"> · known by login only</span>}
          {a.nick && <span className="sub"> · known by nick only: nobody vouches for it</span>}
          <div className="sub">
            {a.lines} lines · {a.followed ? `follows since ${calendar.dated(a.followed)}` : "does not follow"}
            {a.lastSeen && Date.parse(a.lastSeen) > 0 && ` · last heard ${span(calendar.now - Date.parse(a.lastSeen))} ago`}
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
          <Button size="s" onClick={() => void part(m.record, `${m.name} is a record of its own again.`)}>
            Part
          </Button>
        </div>
      ))}
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Picker
          label="Merge with"
          size="s"
          onSearch={setTyped}
          choices={(found.data?.rows ?? []).filter((x) => x.person !== s.row.person).map((x) => ({ value: String(x.person), label: x.name, hint: x.platforms.join(", ") }))}
          onPick={(v) => void merge(Number(v), found.data?.rows.find((x) => x.person === Number(v))?.name ?? "")}
        >
          Merge with…
        </Picker>
        <a className={buttonLook({ size: "s" })} href={`/api/book/people/${s.row.person}/kept`} download>
          All that is kept
        </a>
        {sure ? (
          <>
            <Button
              size="s"
              look="grave"
              onClick={() =>
                void deed(api.POST("/api/book/people/{person}/forget", { params: { path: { person: s.row.person } } }), {
                  stale,
                  then: () => show(),
                  say: "Forgotten. Counts of past streams stay, without a name.",
                })
              }
            >
              Forget for good
            </Button>
            <Button size="s" look="ghost" onClick={() => setSure(false)}>
              Keep
            </Button>
          </>
        ) : (
          <Button size="s" look="ghost" onClick={() => setSure(true)}>
            Forget…
          </Button>
        )}
      </div>
      {sure && <p className="sub mt-1">This cannot be undone: names, notes, dates and lines go, and the accounts are not recorded again unless they ask for it in chat.</p>}
    </div>
  );
}
