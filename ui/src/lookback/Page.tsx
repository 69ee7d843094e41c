import { useState } from "react";
import { Link } from "react-router";
import { api, type CameOne, type LookBack } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Button, buttonLook } from "../kit/Button";
import { Usual } from "../kit/drawings/Usual";
import { initials, Lantern, Shape } from "../kit/drawings/Lantern";
import { Panel, Scroll } from "../kit/Panel";
import { useCalendar, useZone } from "../kit/time";
import { titled } from "../kit/words";
import { Behind } from "./Behind";
import { WholeEvening } from "./WholeEvening";
import { daily, into, percent } from "./lookback";

/** Page is the look back of one stream: its evening, its figures beside the usual, and what lies behind each. */
export function Page({ of }: { of: LookBack }) {
  const zone = useZone();
  const [opened, setOpened] = useState<{ of: string; title: string }>();
  const open = (figure: string, title: string) => setOpened({ of: figure, title });
  const minutes = Math.round((Date.parse(of.closed) - Date.parse(of.opened)) / 60_000);
  return (
    <div className="looked">
      <header className="flex flex-wrap items-start justify-between gap-x-6 gap-y-1">
        <div className="min-w-0">
          <h2 className="cut m-0 text-[20px] leading-7">{of.title || `Stream ${of.stream}`}</h2>
          <span className="sub">
            {[daily(of.opened, zone), `${Math.floor(minutes / 60)} h ${minutes % 60} min`, of.category, of.platforms.map(titled).join(" and ")].filter(Boolean).join(" · ")}
          </span>
        </div>
        <div className="grid justify-items-end gap-1.5">
          {of.logged && (
            <Link className={buttonLook({ look: "lit" })} to={`/rehearsal?stream=${of.stream}`}>
              Rehearse this evening with today’s settings
            </Link>
          )}
          <span className="sub flex items-center gap-1.5">
            Files to keep
            <a className={buttonLook({ size: "s" })} href={`/api/lookback/of/${of.stream}/file?format=html`} download>
              Page
            </a>
            <a className={buttonLook({ size: "s" })} href={`/api/lookback/of/${of.stream}/file?format=csv`} download>
              CSV
            </a>
            <a className={buttonLook({ size: "s" })} href={`/api/streams/${of.stream}/chapters?format=vtt`} download>
              Chapters, WebVTT
            </a>
          </span>
        </div>
      </header>
      {of.logged ? <WholeEvening of={of} /> : <p className="sub m-0">This stream was before the house kept a log: only the guest book knows of it.</p>}
      <div className="looked-boards">
        <Panel label="Against the usual">
          <Scroll label="Figures">
            <Figures of={of} onOpen={open} />
            {of.given.length > 0 && (
              <Section title="Given" onOpen={() => open("given", "Given")}>
                {of.given.map((g) => (
                  <p key={g.kind} className="fact-row">
                    <b>{g.count}</b> <span className="flex-1">{g.kind}</span> <span className="sub">{g.sums?.join(", ")}</span>
                  </p>
                ))}
              </Section>
            )}
            <Marks of={of} />
          </Scroll>
        </Panel>
        <Panel label="New, and back again">
          <Scroll label="New people and those who came back">
            <Section title="New" count={newWords(of)} onOpen={() => open("new", "New")} more={of.newOf - 4}>
              {of.new.length === 0 && <p className="sub m-0">Nobody was new.</p>}
              {of.new.slice(0, 4).map((p) => (
                <Somebody key={p.person} p={p} shape="seed" />
              ))}
            </Section>
            <Section title="Earlier newcomers who came back" onOpen={() => open("returned", "Earlier newcomers who came back")} more={of.returnedOf - 4}>
              <Seeds of={of} />
              {of.returned.slice(0, 4).map((p) => (
                <Somebody key={p.person} p={p} shape="leaf" />
              ))}
            </Section>
            <RaidsOf of={of} onOpen={open} />
            <Asked of={of} />
          </Scroll>
        </Panel>
        <Panel label="What went otherwise">
          <Scroll label="Not greeted, did not arrive, dates">
            <Section title="Not greeted" count={`${of.silentOf} of ${of.arrived}`}>
              {of.silent.length === 0 && <p className="sub m-0">{of.arrived ? "Everybody who arrived was greeted." : "Nobody’s arrival is on record."}</p>}
              {of.silent.map((s) => (
                <div key={s.why} className="silent-row">
                  <b>{s.count}</b>
                  <span className="min-w-0">
                    {titled(s.why)}
                    <span className="sub cut">
                      {s.names.join(", ")}
                      {s.count > s.names.length && s.names.length > 0 ? ` and ${s.count - s.names.length} more` : ""}
                    </span>
                  </span>
                  <button className="text-[12.5px] font-semibold text-marigold" aria-label={`Who: ${s.why}`} onClick={() => open(`silent:${s.why}`, titled(s.why))}>
                    who?
                  </button>
                </div>
              ))}
            </Section>
            <Failed of={of} />
            <Section title="Dates" count={of.days.length ? `${of.days.filter((d) => d.kept).length} kept, ${of.days.filter((d) => !d.kept).length} missed` : undefined}>
              {of.days.length === 0 && <p className="sub m-0">Nobody who came had a day.</p>}
              {of.days.map((d, i) => (
                <p key={i} className="fact-row">
                  <span className="min-w-0 flex-1">
                    <b>
                      <bdi>{d.name || "somebody"}</bdi>
                    </b>{" "}
                    {d.day}
                  </span>
                  <span className="sub">{d.kept ? "kept" : "missed"}</span>
                </p>
              ))}
            </Section>
            <Counts title="Given up" list={of.dropped} onOpen={() => open("dropped", "Given up")} />
            <Counts title="Moderation" list={of.peace} />
            {of.down.length > 0 && (
              <Section title="Doors that were down">
                {of.down.map((d, i) => (
                  <p key={i} className="fact-row">
                    <b>{d.door}</b> <span className="sub flex-1">{d.why}</span> <span className="sub">{into((Date.parse(d.from) - Date.parse(of.opened)) / 1000)}</span>
                  </p>
                ))}
              </Section>
            )}
          </Scroll>
        </Panel>
      </div>
      {opened && <Behind stream={of.stream} of={opened.of} title={opened.title} onClose={() => setOpened(undefined)} />}
    </div>
  );
}

function newWords(of: LookBack): string {
  const raid = of.raids.filter((r) => !r.went && r.newcomers > 0).sort((a, b) => b.newcomers - a.newcomers)[0];
  return raid ? `${of.newOf}, of them ${raid.newcomers} with ${raid.name || "a raid"}` : String(of.newOf);
}

function Section({ title, count, onOpen, more = 0, children }: { title: string; count?: React.ReactNode; onOpen?: () => void; more?: number; children: React.ReactNode }) {
  return (
    <section className="looked-section">
      <h3>
        {title} {count !== undefined && <span>{count}</span>}
        {onOpen && (
          <button className="link ml-auto text-[12.5px] whitespace-nowrap" aria-label={`All behind ${title}`} onClick={onOpen}>
            {more > 0 ? `${more} more` : "all"}
          </button>
        )}
      </h3>
      {children}
    </section>
  );
}

function Figures({ of, onOpen }: { of: LookBack; onOpen: (figure: string, title: string) => void }) {
  const [weekday, setWeekday] = useState(false);
  const write = (name: string, v: number) => (name === "house share" ? percent(v / 100) : Math.round(v).toLocaleString("en-GB"));
  return (
    <section className="looked-section">
      <h3>
        Against the usual
        <span className="ml-auto">
          <Button size="s" look="ghost" aria-pressed={weekday} on={weekday} onClick={() => setWeekday(!weekday)}>
            same weekday
          </Button>
        </span>
      </h3>
      <table className="looked-figures">
        <thead>
          <tr>
            <td />
            <th scope="col">that evening</th>
            <th scope="col">last ten</th>
            <th scope="col">usual</th>
          </tr>
        </thead>
        <tbody>
          {of.figures.map((f) => {
            const r = weekday ? f.weekday : f.usual;
            return (
              <tr key={f.name}>
                <th scope="row">{titled(f.name)}</th>
                <td>
                  <button className="font-semibold" aria-label={`${titled(f.name)}: ${write(f.name, f.value)}, who and what`} onClick={() => onOpen(f.name, titled(f.name))}>
                    {write(f.name, f.value)}
                  </button>
                </td>
                <td>{r.of > 0 && <Usual value={f.value} usual={r} name={titled(f.name)} unit={f.name === "house share" ? "%" : ""} />}</td>
                <td className="sub">{r.of > 0 ? write(f.name, r.middle) : "–"}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

function Marks({ of }: { of: LookBack }) {
  const all = [...of.bookmarks.map((m) => ({ ...m, note: false })), ...of.notes.map((m) => ({ ...m, note: true }))].sort((a, b) => a.into - b.into);
  return (
    <Section title="Bookmarks and notes" count={`${of.bookmarks.length} and ${of.notes.length}`}>
      {all.length === 0 && <p className="sub m-0">None was set or left.</p>}
      {all.map((m, i) => (
        <p key={i} className="fact-row">
          <span className="text-text-2">{into(m.into)}</span>
          <span aria-label={m.note ? "note" : "bookmark"} role="img">
            {m.note ? "✎" : "●"}
          </span>
          <span className="min-w-0 flex-1">
            {m.note && m.by ? (
              <>
                <bdi>{m.by}</bdi>:{" "}
              </>
            ) : null}
            <bdi>{m.text}</bdi>
          </span>
        </p>
      ))}
    </Section>
  );
}

function Somebody({ p, shape }: { p: CameOne; shape: "seed" | "leaf" }) {
  const calendar = useCalendar();
  const facts = [
    p.newOn ? `new on ${calendar.dated(p.newOn)}, ${p.after === 1 ? "one stream" : `${p.after} streams`} before` : p.lines === 1 ? "1 line" : `${p.lines} lines`,
    p.with && (p.newOn ? `with ${p.with}` : `came with ${p.with}`),
    p.follows && "follows",
    p.birthday && "set a birthday",
    (p.attended ?? 0) > 1 && !p.newOn && `${p.attended} streams by now`,
  ];
  return (
    <Link className="somebody" to={`/book?person=${p.person}`}>
      <Lantern lit={false} initials={initials(p.name || "?")} shape={shape} size={32} />
      <span className="min-w-0">
        <b className="cut">
          <bdi>{p.name || "somebody"}</bdi>
        </b>
        <span className="sub cut">{facts.filter(Boolean).join(" · ")}</span>
      </span>
    </Link>
  );
}

/** Seeds are the newcomers of the five streams before; a seed turns to a leaf when its person came back. */
function Seeds({ of }: { of: LookBack }) {
  if (of.earlierNew === 0) return <p className="sub m-0">Nobody was new in the five streams before.</p>;
  const shown = Math.min(60, of.earlierNew);
  const leaves = Math.round((of.returnedOf / of.earlierNew) * shown);
  return (
    <div className="grid gap-1">
      <span className="flex flex-wrap gap-1.5" role="img" aria-label={`${of.returnedOf} of ${of.earlierNew}`}>
        {Array.from({ length: shown }, (_, i) => {
          const leaf = Math.floor(((i + 1) * leaves) / shown) > Math.floor((i * leaves) / shown);
          return <Shape key={i} name={leaf ? "leaf" : "seed"} size={12} className={leaf ? "text-fern" : "text-text-3"} />;
        })}
      </span>
      <span className="sub">
        {of.returnedOf} of the {of.earlierNew} new in the five streams before
      </span>
    </div>
  );
}

function RaidsOf({ of, onOpen }: { of: LookBack; onOpen: (figure: string, title: string) => void }) {
  if (of.raids.length === 0) return null;
  return (
    <Section title="Raids" onOpen={() => onOpen(of.raids.some((r) => !r.went) ? "raids brought" : "our raid took", "Raids")}>
      {of.raids.map((r, i) => (
        <p key={i} className="fact-row">
          <span className="min-w-0 flex-1">
            <b>
              <bdi>{r.name || "somebody"}</bdi>
            </b>{" "}
            {r.went ? `got ${r.viewers} from us` : `brought ${r.viewers}`}
            {!r.went && !r.thanked && " · not thanked"}
          </span>
          {!r.went && (
            <span className="sub">
              {r.newcomers} new, {r.returned} seen again
            </span>
          )}
        </p>
      ))}
    </Section>
  );
}

function Asked({ of }: { of: LookBack }) {
  if (of.asked.length + of.unanswered.length === 0) return null;
  return (
    <Section title="Asked">
      {of.unanswered.slice(0, 5).map((a) => (
        <p key={a.why} className="fact-row">
          <span className="min-w-0 flex-1">
            people asked <b>{a.why}</b> {a.count === 1 ? "once" : `${a.count} times`}; there is no such command
          </span>
          <Link className={buttonLook({ size: "s" })} to="/courtesies" state={{ command: a.why.slice(1) }} aria-label={`Answer ${a.why}`}>
            Answer it
          </Link>
        </p>
      ))}
      {of.asked.slice(0, 6).map((a) => (
        <p key={a.why} className="fact-row">
          <b>{a.count}</b> <span>{a.why}</span>
        </p>
      ))}
    </Section>
  );
}

function Failed({ of }: { of: LookBack }) {
  const deed = useDeed();
  if (of.failed.length === 0) return null;
  return (
    <Section title="Did not arrive" count={of.failed.length}>
      {of.failed.map((f) => (
        <div key={f.line + f.place} className="flex items-start gap-2 py-1">
          <span aria-hidden className={f.trying ? "text-text-3" : "text-persimmon"}>
            {f.trying ? "◇" : "◆"}
          </span>
          <span className="min-w-0 flex-1">
            <span className="cut block">
              <bdi>{f.text || "a post"}</bdi>
            </span>
            <span className="sub block">
              {f.place} · {f.unclear ? "unclear whether it arrived" : f.reason}
              {f.trying && " · not yet, and tried again by itself"} · {f.attempts === 1 ? "1 try" : `${f.attempts} tries`}
            </span>
          </span>
          {!f.trying && (
            <Button
              size="s"
              onClick={() =>
                void deed(api.POST("/api/deliveries/again", { body: { line: f.line, place: f.place } }), { stale: [about.places, about.lookback], say: "It is sent again." })
              }
            >
              Send again
            </Button>
          )}
        </div>
      ))}
    </Section>
  );
}

function Counts({ title, list, onOpen }: { title: string; list: LookBack["peace"]; onOpen?: () => void }) {
  if (list.length === 0) return null;
  return (
    <Section title={title} onOpen={onOpen}>
      {list.slice(0, 6).map((c) => (
        <p key={c.why} className="fact-row">
          <b>{c.count}</b> <span>{c.why}</span>
        </p>
      ))}
    </Section>
  );
}
