import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";
import { api, said, type Points, type PointsSettings } from "../../api/client";
import { useAgain, useDeed } from "../../api/deeds";
import { about, points } from "../../api/queries";
import { useSection } from "../../keeping/useSection";
import { Button, Out, Quiet } from "../../kit/Button";
import { Area, Fault, Field, Num, Select, Tick } from "../../kit/Field";
import { One } from "../../kit/One";
import { Empty, Panel, Scroll } from "../../kit/Panel";
import { Curve } from "./Curve";
import { Leading } from "./Leading";

/** Rewards is how points are gathered and what can be had for them; beside it who leads. */
export function Rewards() {
  const q = useQuery(points);
  if (!q.data)
    return (
      <Panel className="col-span-2" label="Rewards">
        <Empty>{q.error ? said(q.error) : "…"}</Empty>
      </Panel>
    );
  return (
    <>
      <How page={q.data} />
      <Leading page={q.data} />
    </>
  );
}

function How({ page }: { page: Points }) {
  const deed = useDeed();
  const go = useNavigate();
  const s = useSection("rooms");
  const again = useAgain();
  const rooms = (s.value ?? {}) as Record<string, unknown>;
  const typed = (rooms.points ?? {}) as PointsSettings;
  const stale = [about.points, about.courtesies, about.house];
  const part = (p: Partial<PointsSettings>): PointsSettings => ({ ...typed, ...p });
  const setTyped = (next: PointsSettings) => s.set({ ...rooms, points: next });
  /** save puts what is typed in force; next is put in force at once. */
  const save = async (next?: PointsSettings) => {
    await (next && next !== typed ? s.put({ ...rooms, points: next }) : s.save());
    await again(about.points);
  };
  /** number is a measure that is in force once its field is left. */
  const number = (label: string, of: "here" | "line" | "lines" | "visit" | "withinMinutes" | "evening", usual = 0) => (
    <Num label={label} value={typed[of] ?? usual} onChange={(n) => setTyped(part({ [of]: n || undefined }))} onBlur={() => void save()} />
  );
  const levels = typed.levels ?? {};
  const setLevels = (l: typeof levels) => part({ levels: l });
  const many = typed.many || `${typed.one || "point"}s`;
  return (
    <Panel label="How points are gathered">
      <Scroll className="ed" label="How points are gathered">
        <p className="sent">
          Small <b>rewards</b>: {many} for being here.
        </p>
        <Tick on={!!typed.on} onChange={(on) => void save(part({ on: on || undefined }))} className="pb-2">
          points are on
        </Tick>
        {s.fault && <Fault role="alert">{s.fault.words}</Fault>}
        <Row head="Called">
          <Sentence>
            one <Text label="What one is called" value={typed.one ?? ""} hint="pearl" onChange={(one) => setTyped(part({ one: one || undefined }))} onBlur={() => void save()} />{" "}
            several{" "}
            <Text label="What several are called" value={typed.many ?? ""} hint="pearls" onChange={(v) => setTyped(part({ many: v || undefined }))} onBlur={() => void save()} />
          </Sentence>
        </Row>
        <Row head="Gathered">
          <Sentence>
            {number("Points every ten minutes", "here")} every ten minutes, to all who spoke within {number("Minutes within which they spoke", "withinMinutes", 15)} minutes
          </Sentence>
          <Sentence>
            {number("Points for a line", "line")} for a line, of {number("Lines that count a minute", "lines", 3)} a minute
          </Sentence>
          <Sentence>{number("Points for coming", "visit")} for coming to a stream</Sentence>
          {(typed.support ?? []).map((s, i) => (
            <Sentence key={i}>
              <Num
                label={`Points for ${s.when}`}
                value={s.points}
                onChange={(n) => setTyped(part({ support: typed.support!.map((x, k) => (k === i ? { ...x, points: n ?? 0 } : x)) }))}
                onBlur={() => void save()}
              />
              for
              <Select
                size="s"
                aria-label="What is given"
                value={s.when}
                onChange={(e) => void save(part({ support: typed.support!.map((x, k) => (k === i ? { ...x, when: e.target.value } : x)) }))}
              >
                {page.supports.map((w) => (
                  <option key={w.type} value={w.type}>
                    {w.words}
                  </option>
                ))}
              </Select>
              {page.supports.find((w) => w.type === s.when)?.number && (
                <Tick on={!!s.each} onChange={(each) => void save(part({ support: typed.support!.map((x, k) => (k === i ? { ...x, each: each || undefined } : x)) }))}>
                  times its {page.supports.find((w) => w.type === s.when)!.number}
                </Tick>
              )}
              <Out label="Take this out" onClick={() => void save(part({ support: typed.support!.filter((_, k) => k !== i) }))} />
            </Sentence>
          ))}
          <Quiet className="self-start" onClick={() => void save(part({ support: [...(typed.support ?? []), { when: page.supports[0]!.type, points: 50 }] }))}>
            for something given…
          </Quiet>
        </Row>
        <Row head="Levels">
          <Sentence>
            the first takes{" "}
            <Num
              label="Points for the first level"
              value={levels.first ?? 0}
              onChange={(first) => setTyped(setLevels({ ...levels, first: first || undefined }))}
              onBlur={() => void save()}
            />
            and each more than the one before, by a bend of{" "}
            <Num label="Bend of the levels" value={levels.bend ?? 1.5} onChange={(bend) => setTyped(setLevels({ ...levels, bend }))} onBlur={() => void save()} />
          </Sentence>
          <Curve needs={page.needs} names={levels.names ?? []} many={many} />
          <label className="block">
            <span className="sub">their names, one a line, from the first on</span>
            <Area
              size="s"
              rows={3}
              aria-label="Names of the levels, one a line"
              placeholder={"Barnacle\nLimpet\nPeriwinkle"}
              value={(levels.names ?? []).join("\n")}
              onChange={(e) => setTyped(setLevels({ ...levels, names: e.target.value ? e.target.value.split("\n") : undefined }))}
              onBlur={() => void save(setLevels({ ...levels, names: levels.names?.map((n) => n.trim()).filter(Boolean) }))}
            />
          </label>
          <Sentence>
            whoever reaches one is{" "}
            <One
              label="How a level is told"
              value={levels.tell ?? ""}
              list={[
                ["", "not spoken of"],
                ["said", "told of at once"],
                ["gathered", "told of with others"],
              ]}
              onPick={(tell) => {
                void save(setLevels({ ...levels, tell: tell || undefined }));
                if (tell) void deed(api.POST("/api/points/games", { body: { game: "levels" } }), { stale });
              }}
            />
          </Sentence>
        </Row>
        <Row head="Played">
          <ul className="m-0 flex list-none flex-col gap-2 p-0">
            {page.games.map((g) => (
              <li key={g.game}>
                <span className="flex flex-wrap items-baseline gap-2">
                  <b>{g.title}</b>
                  {g.courtesy ? (
                    <Quiet onClick={() => void go(`/courtesies/${g.courtesy}`)}>!{g.asks}</Quiet>
                  ) : (
                    <Button
                      size="s"
                      disabled={!typed.on}
                      onClick={() => void deed(api.POST("/api/points/games", { body: { game: g.game } }), { stale, say: "Set up; its words stand among the courtesies." })}
                    >
                      Set it up
                    </Button>
                  )}
                  <span className="sub basis-full">{g.tells}</span>
                </span>
                {g.odds && (
                  <ul className="m-0 list-none p-0 text-[13px] text-text-2" aria-label="What lives under a stone">
                    {g.odds.map((o) => (
                      <li key={o.name} className="tabular-nums">
                        {o.name}: {o.once} in {o.in}, {o.worth === 0 ? "nothing" : `${o.worth.toFixed(2)} × the stake`}
                      </li>
                    ))}
                  </ul>
                )}
              </li>
            ))}
          </ul>
          <Sentence>a person plays {number("Plays an evening", "evening", 20)} times an evening at most</Sentence>
        </Row>
        <Row head="Seen">
          <Tick on={!!typed.ranks} onChange={(ranks) => void save(part({ ranks: ranks || undefined }))}>
            the list of ranks is a page for everybody{" "}
            {typed.ranks && (
              <a className="text-lagoon" href="/ranks" target="_blank" rel="noreferrer">
                /ranks
              </a>
            )}
          </Tick>
        </Row>
      </Scroll>
    </Panel>
  );
}

function Row({ head, children }: { head: string; children: ReactNode }) {
  return (
    <section aria-label={head} className="border-t border-line py-2.5">
      <h3 className="m-0 mb-1 text-[13px] font-[650] text-text-2">{head}</h3>
      <div className="flex flex-col gap-1.5">{children}</div>
    </section>
  );
}

const Sentence = ({ children }: { children: ReactNode }) => <span className="flex flex-wrap items-center gap-x-1.5 gap-y-1">{children}</span>;

function Text({ label, value, hint, onChange, onBlur }: { label: string; value: string; hint: string; onChange: (v: string) => void; onBlur: () => void }) {
  return <Field size="xs" className="w-28" aria-label={label} placeholder={hint} value={value} onChange={(e) => onChange(e.target.value)} onBlur={onBlur} />;
}
