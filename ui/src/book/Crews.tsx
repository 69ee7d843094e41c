import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, said as problem, type Crew, type Crews, type Understood } from "../api/client";
import { useDeed, useUndo } from "../api/deeds";
import { about, crews as allCrews } from "../api/queries";
import { Button, buttonLook } from "../kit/Button";
import { Chip } from "../kit/Chip";
import { Emblem } from "../kit/drawings/Emblem";
import { Area, Field, Select } from "../kit/Field";
import { Empty, Scroll } from "../kit/Panel";
import { RadioGroup } from "../kit/RadioGroup";
import { usePlatforms } from "../kit/usePlatforms";
import { titled } from "../kit/words";
import { useSheet } from "./sheet";

/** CrewsPage lists the crews, takes lists of accounts, and draws who is in which combination. */
export function CrewsPage() {
  const q = useQuery(allCrews);
  const [open, setOpen] = useState<string>();
  if (!q.data) return <Empty>{q.error ? problem(q.error) : "…"}</Empty>;
  const { crews } = q.data;
  const chosen = crews.find((c) => c.id === open);
  return (
    <Scroll className="px-4 pb-4" label="Crews">
      <p className="sub pb-2">A crew is a named group of fellow streamers. Somebody can be in several; combinations are worked out, never typed.</p>
      <div className="flex flex-wrap gap-2">
        {crews.map((c) => (
          <button key={c.id} className="crew" aria-pressed={open === c.id} onClick={() => setOpen(open === c.id ? undefined : c.id)}>
            <span className="grid min-w-11 place-items-center gap-px text-[12px] text-text">
              <Emblem shape={c.emblem} size={22} />
              <b>{c.initials}</b>
            </span>
            <span>
              <b>{c.name}</b>
              <span className="sub block">{c.people ?? 0} people</span>
            </span>
          </button>
        ))}
        <NewCrew onMade={setOpen} />
      </div>
      {chosen && <OneCrew key={chosen.id} c={chosen} emblems={q.data.emblems} onGone={() => setOpen(undefined)} />}
      <Overlap data={q.data} />
    </Scroll>
  );
}

function NewCrew({ onMade }: { onMade: (id: string) => void }) {
  const deed = useDeed();
  const [name, setName] = useState("");
  return (
    <form
      className="flex items-center gap-1.5"
      onSubmit={(e) => {
        e.preventDefault();
        void deed(api.PUT("/api/book/crews", { body: { name } }), {
          stale: [allCrews.queryKey],
          then: (c) => {
            setName("");
            onMade(c.id!);
          },
        });
      }}
    >
      <Field className="w-44" placeholder="Name a new crew" aria-label="Name of a new crew" value={name} onChange={(e) => setName(e.target.value)} required />
      <Button>Make it</Button>
    </form>
  );
}

function OneCrew({ c, emblems, onGone }: { c: Crew; emblems: string[]; onGone: () => void }) {
  const deed = useDeed();
  const undo = useUndo();
  const stale = [about.book];
  const change = (what: { name?: string; initials?: string; emblem?: string }) =>
    void deed(api.PATCH("/api/book/crews/{id}", { params: { path: { id: c.id! } }, body: what }), { stale });
  const away = () =>
    deed(api.DELETE("/api/book/crews/{id}", { params: { path: { id: c.id! } } }), {
      stale,
      then: onGone,
      say: `${c.name} is taken away.`,
      undo: async (done) => (await deed(api.PUT("/api/book/crews", { body: c }), { stale })) && undo(done.seq),
    });
  return (
    <div className="mt-3 rounded-lg bg-surface-2 p-3" role="region" aria-label={c.name}>
      <div className="flex flex-wrap items-center gap-2">
        <Field
          size="s"
          className="w-52"
          aria-label="Name"
          defaultValue={c.name}
          onBlur={(e) => e.target.value.trim() && e.target.value !== c.name && change({ name: e.target.value })}
        />
        <Field
          size="s"
          className="w-16"
          aria-label="Initials"
          defaultValue={c.initials}
          maxLength={3}
          onBlur={(e) => e.target.value.trim() && e.target.value !== c.initials && change({ initials: e.target.value })}
        />
        <RadioGroup
          label="Emblem"
          look="sign"
          className="flex flex-wrap gap-0.5"
          value={c.emblem}
          onChange={(emblem) => change({ emblem })}
          options={emblems.map((e) => ({ value: e, name: e, label: <Emblem shape={e} size={18} /> }))}
        />
        <span className="ml-auto flex gap-1.5">
          <Link className={buttonLook({ size: "s" })} to={`/book?crew=${c.id}`}>
            Show its people
          </Link>
          <a className={buttonLook({ size: "s" })} href={`/api/book/crews/${c.id}/list`} download>
            List
          </a>
          <Button size="s" look="ghost" onClick={() => void away()}>
            Take away
          </Button>
        </span>
      </div>
      <Paste crew={c} />
    </div>
  );
}

/** Paste understands a list of accounts before anything is taken. */
function Paste({ crew }: { crew: Crew }) {
  const deed = useDeed();
  const platforms = usePlatforms();
  const [text, setText] = useState("");
  const [platform, setPlatform] = useState("");
  const [got, setGot] = useState<Understood>();
  const go = (take: boolean) =>
    deed(api.POST("/api/book/crews/{id}/list", { params: { path: { id: crew.id! } }, body: { text, platform: platform || platforms[0], take } }), {
      stale: take ? [about.book] : [],
      then: (u) => {
        setGot(u);
        if (take) setText("");
      },
      say: (u) => (take ? `${u.known + u.fresh} people are in ${crew.name}.` : undefined),
      undo: (u) => deed(api.POST("/api/book/imports/{id}", { params: { path: { id: u.import! } }, body: { act: "undo" } }), { stale: [about.book], then: () => setGot(undefined) }),
    });
  return (
    <div className="mt-3">
      <label className="sub" htmlFor="paste">
        Add many at once: names one a line or between commas, with or without @, links too
      </label>
      <div className="mt-1 flex items-start gap-2">
        <Area
          id="paste"
          rows={3}
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            setGot(undefined);
          }}
          placeholder={"@kelpwright, driftprint\nhttps://fernlight.example/tern_and_tide"}
        />
        <div className="grid gap-1.5">
          <Select size="s" aria-label="Platform of names without a link" value={platform || platforms[0]} onChange={(e) => setPlatform(e.target.value)}>
            {platforms.map((p) => (
              <option key={p} value={p}>
                {titled(p)}
              </option>
            ))}
          </Select>
          <Button size="s" disabled={!text.trim() || platforms.length === 0} onClick={() => void go(false)}>
            Read it
          </Button>
          {got && !got.taken && (
            <Button size="s" look="lit" disabled={got.known + got.fresh === 0} onClick={() => void go(true)}>
              Take {got.known + got.fresh}
            </Button>
          )}
        </div>
      </div>
      {got && (
        <div className="mt-2" data-testid="understood">
          <p className="sub" role="status">
            {got.taken ? "Taken: " : "Understood: "}
            {got.known} in the book, {got.fresh} new to it, {got.left} left out
          </p>
          <ul className="m-0 grid list-none gap-x-4 p-0 text-[13px]" style={{ gridTemplateColumns: "repeat(auto-fill,minmax(230px,1fr))" }}>
            {got.lines.map((l, i) => (
              <li key={i} className={l.why ? "muted" : ""}>
                {l.why ? "– " : "+ "}
                <bdi>{l.login || l.said}</bdi> <span className="sub">{l.why ?? `${l.platform}${l.person ? "" : " · new"}`}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}

/**
 * Overlap draws the crews as ropes and each combination as a column of knots on the ropes it belongs to; the
 * lantern below says how many hang there.
 */
function Overlap({ data }: { data: Crews }) {
  const { show } = useSheet();
  const [at, setAt] = useState(0);
  const { crews, combinations } = data;
  if (combinations.length === 0) return <Empty className="px-0">Nobody is in a crew yet. Open a crew and paste a list, or choose people in Everyone.</Empty>;
  const chosen = combinations[Math.min(at, combinations.length - 1)]!;
  const left = 170;
  const col = 56;
  const row = 34;
  const h = crews.length * row;
  const most = Math.max(...combinations.map((c) => c.count));
  return (
    <div className="mt-5">
      <h2 className="mb-1 font-semibold text-[15px]">Who is in which combination</h2>
      <Scroll across label="Combinations of crews">
        <svg width={left + combinations.length * col + 10} height={h + 92} role="group" aria-label="Crews as ropes, combinations as columns" className="block">
          {crews.map((c, i) => (
            <g key={c.id}>
              <path d={`M${left - 12} ${i * row + 18}H${left + combinations.length * col}`} stroke="var(--color-line)" strokeWidth="2" />
              <text x="0" y={i * row + 23} fontSize="13" fill="var(--color-text)">
                {c.name.length > 22 ? c.name.slice(0, 21) + "…" : c.name}
              </text>
            </g>
          ))}
          {combinations.map((k, i) => {
            const x = left + i * col + col / 2;
            const on = crews.map((c, n) => (k.crews.includes(c.id!) ? n : -1)).filter((n) => n >= 0);
            const r = 9 + 11 * Math.sqrt(k.count / most);
            const names = k.crews.map((id) => crews.find((c) => c.id === id)?.name ?? id).join(" and ");
            return (
              <g
                key={k.crews.join()}
                role="button"
                tabIndex={0}
                aria-pressed={at === i}
                aria-label={`${names}${k.crews.length === 1 ? " only" : ""}: ${k.count}`}
                className="cursor-pointer"
                onClick={() => setAt(i)}
                onKeyDown={(e) => (e.key === "Enter" || e.key === " ") && (e.preventDefault(), setAt(i))}
              >
                <rect x={x - col / 2 + 2} y="0" width={col - 4} height={h + 86} rx="8" fill={at === i ? "var(--color-surface-2)" : "transparent"} />
                {on.length > 0 && <path d={`M${x} ${on[0]! * row + 18}V${h + 34}`} stroke="var(--color-lagoon)" strokeWidth="2" />}
                {on.map((n) => (
                  <circle key={n} cx={x} cy={n * row + 18} r="6" fill="var(--color-lagoon)" />
                ))}
                <ellipse cx={x} cy={h + 52} rx={r * 0.86} ry={r} fill="var(--color-lamp)" />
                <text x={x} y={h + 57} fontSize="13" fontWeight="700" textAnchor="middle" fill="var(--color-on-lamp)">
                  {k.count}
                </text>
              </g>
            );
          })}
        </svg>
      </Scroll>
      <p className="sub mt-1">
        {chosen.crews.map((id) => crews.find((c) => c.id === id)?.name ?? id).join(" and ")}
        {chosen.crews.length === 1 && " only"}:
      </p>
      <div className="flex flex-wrap gap-1.5 pt-1">
        {chosen.people.map((p) => (
          <Chip key={p.person} onClick={() => show(p.person)}>
            <bdi>{p.name}</bdi>
          </Chip>
        ))}
        {chosen.count > chosen.people.length && <span className="sub">and {chosen.count - chosen.people.length} more</span>}
      </div>
    </div>
  );
}
