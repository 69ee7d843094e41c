import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { api, ask, based, said, type Courtesies, type OwnParts } from "../api/client";
import { clashed } from "../kit/clash";
import { titled } from "./outputs";
import { Num, One } from "./WhoForm";

type FillIn = OwnParts["fillIns"][number];

const enactAfter = 600; // ms of quiet until a change comes into force

const kinds: [string, string][] = [
  ["dice", "a dice"],
  ["last", "who came last"],
  ["clock", "a time elsewhere"],
  ["list", "one of a list"],
];

/** begins is what each kind of fill-in starts as. */
const begins: Record<string, Omit<FillIn, "name">> = {
  dice: { kind: "dice", from: 1, to: 6 },
  last: { kind: "last", who: "followers", most: 5 },
  clock: { kind: "clock", zone: "Europe/Lisbon" },
  list: { kind: "list", list: ["a limpet"] },
};

/** Own is where the channel's own fill-ins, its emotes and other services' events are described; wordings then refer to them by name. */
export function Own({ all }: { all: Courtesies }) {
  const client = useQueryClient();
  const [own, setOwn] = useState(all.own);
  const [fault, setFault] = useState("");
  const timer = useRef<number>(undefined);
  const base = useRef(all.version); // what stands here was made of this version
  const typed = useRef(false);
  useEffect(() => {
    if (typed.current) return;
    base.current = all.version;
    setOwn(all.own);
  }, [all.version, all.own]);
  const seen = useQuery({ queryKey: ["courtesies", "seen"], queryFn: () => ask(api.GET("/api/settings/own")) });
  const lately = (seen.data?.events ?? []).filter((e) => !own.events.some((o) => o.event.toLowerCase() === e.event.toLowerCase()));
  const save = (next: OwnParts) => {
    typed.current = true;
    setOwn(next);
    clearTimeout(timer.current);
    timer.current = window.setTimeout(() => enact(next), enactAfter);
  };
  const latest = useRef(own);
  latest.current = own;
  const shown = () => {
    typed.current = false;
    setFault("");
    return client.invalidateQueries({ queryKey: ["courtesies"] });
  };
  const enact = (next: OwnParts, on = base.current) =>
    ask(api.PUT("/api/settings/own", { body: next, ...based(on) })).then(
      () => (latest.current === next ? shown() : undefined),
      (p: { faults?: { at: string; what: string; remedy: string }[] }) => {
        if (
          clashed(
            p,
            (v) => void enact(next, v),
            () => void shown(),
          )
        )
          return;
        const f = p.faults?.[0];
        setFault(`Not in force yet: ${f ? `${f.at} ${f.what}; ${f.remedy}` : said(p)}`);
      },
    );
  const put = <K extends keyof OwnParts>(key: K, i: number, part: Partial<OwnParts[K][number]>) =>
    save({ ...own, [key]: own[key].map((x, k) => (k === i ? { ...x, ...part } : x)) });
  const out = (key: keyof OwnParts, i: number) => save({ ...own, [key]: own[key].filter((_, k) => k !== i) });
  const fill = (i: number, part: Partial<FillIn>) => put("fillIns", i, part);
  const fresh = (base: string, taken: string[]) => {
    for (let i = 1; ; i++) if (!taken.includes(i === 1 ? base : base + i)) return i === 1 ? base : base + i;
  };
  return (
    <section className="panel col-span-2" aria-label="Fill-ins, emotes and events of our own">
      <div className="scroll ed" tabIndex={0} role="group" aria-label="Of our own">
        <p className="sent">Fill-ins, emotes and events of our own</p>
        <p className="sub pb-2" role="status">
          {fault ? <span className="flt">{fault}</span> : "In force as you write. Made once here, used in wordings by name."}
        </p>
        <div className="row">
          <span>Fill-ins</span>
          <div>
            {own.fillIns.map((f, i) => (
              <Line key={i} onOut={() => out("fillIns", i)} what={`fill-in ${f.name}`}>
                <input className="field !w-36 !py-1" aria-label={`Name of fill-in ${i + 1}`} value={f.name} onChange={(e) => fill(i, { name: e.target.value })} />
                <One
                  label={`Kind of fill-in ${i + 1}`}
                  value={f.kind}
                  list={kinds}
                  onPick={(kind) => save({ ...own, fillIns: own.fillIns.map((x, k) => (k === i ? { name: x.name, ...begins[kind]! } : x)) })}
                />
                {f.kind === "dice" && (
                  <>
                    <Num label="From" value={f.from} onChange={(n) => fill(i, { from: Math.round(n ?? 1) })} /> to{" "}
                    <Num label="To" value={f.to} onChange={(n) => fill(i, { to: Math.round(n ?? 6) })} />
                  </>
                )}
                {f.kind === "last" && (
                  <>
                    the last <Num label="How many" value={f.most} onChange={(n) => fill(i, { most: Math.round(n ?? 1) })} />
                    <One
                      label="Of whom"
                      value={f.who ?? ""}
                      list={["followers", "subscribers", "gifters", "tippers", "raiders"].map((x) => [x, x])}
                      onPick={(who) => fill(i, { who })}
                    />
                  </>
                )}
                {f.kind === "clock" && <input className="field !w-52 !py-1" aria-label="Time zone" value={f.zone ?? ""} onChange={(e) => fill(i, { zone: e.target.value })} />}
                {f.kind === "list" && (
                  <textarea
                    className="field min-h-16 !py-1"
                    aria-label="One a line"
                    value={(f.list ?? []).join("\n")}
                    onChange={(e) => fill(i, { list: e.target.value.split("\n") })}
                    onBlur={(e) =>
                      fill(i, {
                        list: e.target.value
                          .split("\n")
                          .map((x) => x.trim())
                          .filter(Boolean),
                      })
                    }
                  />
                )}
              </Line>
            ))}
            <button
              className="btn s"
              onClick={() =>
                save({
                  ...own,
                  fillIns: [
                    ...own.fillIns,
                    {
                      name: fresh(
                        "dice",
                        own.fillIns.map((f) => f.name),
                      ),
                      kind: "dice",
                      from: 1,
                      to: 20,
                    },
                  ],
                })
              }
            >
              A new fill-in
            </button>
          </div>
        </div>
        <div className="row">
          <span>Emotes</span>
          <div>
            {own.emotes.map((e, i) => (
              <Line key={i} onOut={() => out("emotes", i)} what={`emote ${e.word}`}>
                <input className="field !w-44 !py-1" aria-label={`Emote ${i + 1}`} value={e.word} onChange={(ev) => put("emotes", i, { word: ev.target.value.trim() })} />
                <span className="sub">a picture on</span>
                {all.platforms.map((p) => {
                  const on = e.platforms.includes(p);
                  return (
                    <button
                      key={p}
                      className="btn s"
                      aria-pressed={on}
                      data-on={on}
                      onClick={() => put("emotes", i, { platforms: on ? e.platforms.filter((y) => y !== p) : [...e.platforms, p] })}
                    >
                      {titled(p)}
                    </button>
                  );
                })}
              </Line>
            ))}
            <button
              className="btn s"
              onClick={() =>
                save({
                  ...own,
                  emotes: [
                    ...own.emotes,
                    {
                      word: fresh(
                        "tidepoolNew",
                        own.emotes.map((e) => e.word),
                      ),
                      platforms: all.platforms,
                    },
                  ],
                })
              }
            >
              A new emote
            </button>
          </div>
        </div>
        <div className="row">
          <span>Events</span>
          <div>
            <p className="sub pb-1">What other services send, with an example for each field; a field whose example is a number is a number.</p>
            {own.events.map((e, i) => (
              <Line key={i} onOut={() => out("events", i)} what={`event ${e.event}`}>
                <input className="field !w-44 !py-1" aria-label={`Event ${i + 1}`} value={e.event} onChange={(ev) => put("events", i, { event: ev.target.value })} />
                <textarea
                  className="field min-h-14 !py-1"
                  aria-label={`Fields of event ${i + 1}, name and example`}
                  key={e.event}
                  defaultValue={Object.entries(e.fields)
                    .map(([k, v]) => `${k}: ${v}`)
                    .join("\n")}
                  onBlur={(ev) => {
                    const fields: Record<string, string> = {};
                    for (const line of ev.target.value.split("\n")) {
                      const m = /^\s*(\w+)\s*:\s*(.*)$/.exec(line);
                      if (m) fields[m[1]!] = m[2]!.trim();
                    }
                    put("events", i, { fields });
                  }}
                />
              </Line>
            ))}
            <button
              className="btn s"
              onClick={() =>
                save({
                  ...own,
                  events: [
                    ...own.events,
                    {
                      event: fresh(
                        "tide.turned",
                        own.events.map((e) => e.event),
                      ),
                      fields: { height: "3.2" },
                    },
                  ],
                })
              }
            >
              A new event
            </button>
            {lately.length > 0 && (
              <div className="pt-3" role="group" aria-label="Came in lately">
                <p className="sub pb-1">Came in lately, and not described yet:</p>
                {lately.map((e) => (
                  <button key={e.event} className="btn s mr-1.5 mb-1.5" onClick={() => save({ ...own, events: [...own.events, e] })}>
                    <bdi>{e.event}</bdi>
                    <span className="sub"> {Object.keys(e.fields).join(", ") || "no fields"}</span>
                  </button>
                ))}
              </div>
            )}
          </div>
        </div>
      </div>
    </section>
  );
}

function Line({ children, onOut, what }: { children: ReactNode; onOut: () => void; what: string }) {
  return (
    <div className="flex items-start gap-1.5 pb-2">
      <div className="flex min-w-0 flex-1 flex-wrap items-center gap-1.5">{children}</div>
      <button className="btn s ghost" aria-label={`Take out: ${what}`} onClick={onOut}>
        ×
      </button>
    </div>
  );
}
