import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, based, said, type PlacesView, type RelayView, type RuleOutput } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, courtesies, deliveries } from "../api/queries";
import { toast } from "../api/toast";
import { turns } from "../api/turns";
import { Button, quietLook } from "../kit/Button";
import { Fault, Field, Num, Tick } from "../kit/Field";
import { One } from "../kit/One";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { Wording } from "../kit/Wording";
import { Bead } from "./Bead";
import { Drawing } from "./Drawing";
import { DeliveryRow } from "./Deliveries";
import { goes, named } from "./places";

const turn = turns(); // a change of a relay is made on what the one before it comes to

/** useRelay changes how one relay posts; the rest of its courtesy stays as it is. */
function useRelay() {
  const client = useQueryClient();
  const deed = useDeed();
  const change = async (r: RelayView, part: Partial<RuleOutput>, fault: (words: string) => void) => {
    const all = await client.fetchQuery({ ...courtesies, staleTime: 0 }); // a bead may be newer than what this page knows
    const c = all.courtesies.find((c) => c.id === r.courtesy);
    if (!c) return fault("That relay is no more.");
    const outputs = c.rule.outputs.map((o) => (o.id === r.output ? { ...o, ...part } : o));
    const done = await deed(api.PUT("/api/courtesies/{id}", { params: { path: { id: c.id } }, body: { ...c.rule, outputs }, ...based(all.version) }), {
      stale: [about.courtesies, about.places],
      fault,
    });
    if (done && part.paused === false && !c.on)
      await deed(api.POST("/api/courtesies/{id}/switch", { params: { path: { id: c.id } }, body: { on: true } }), { stale: [about.courtesies, about.places] });
  };
  return (r: RelayView, part: Partial<RuleOutput>, fault: (words: string) => void = (words) => void toast(words)) =>
    turn(() => change(r, part, fault)).catch((problem: unknown) => fault(said(problem)));
}

/** usePause pauses a relay, or lets it go on. */
export function usePause() {
  const change = useRelay();
  return (r: RelayView) => change(r, { paused: goes(r) !== "paused" });
}

/** RelayPanel is one bead: how it goes, what it says, when it keeps quiet, and what went there lately. */
export function RelayPanel({ v, at, relay }: { v: PlacesView; at?: [when: string, place: string]; relay?: RelayView }) {
  const place = v.places.find((p) => p.name === at?.[1]);
  const what = v.happenings.find((h) => h.when === at?.[0]);
  if (!place || !what || !relay)
    return (
      <Panel label="Relay">
        <Head>Relay</Head>
        <Empty>
          <b>Press a bead</b> to see how it goes and what went there. A small knot is where nothing goes yet: pressing it posts that happening there.
        </Empty>
      </Panel>
    );
  return (
    <Panel label="Relay">
      <Scroll label="How it goes" className="px-4 pt-3 pb-3">
        <h2 className="m-0 mb-2 font-display text-[18px] leading-snug">
          {named(what)} <span className="text-text-2">goes to</span> <bdi>{place.title}</bdi>
        </h2>
        <How key={`${relay.courtesy} ${relay.output}`} r={relay} />
        <Latest v={v} place={place.name} when={what.when} />
      </Scroll>
    </Panel>
  );
}

function How({ r }: { r: RelayView }) {
  const change = useRelay();
  const [fault, setFault] = useState("");
  const how = goes(r);
  const set = (part: Partial<RuleOutput>) => {
    setFault("");
    void change(r, part, setFault);
  };
  const [minutes, setMinutes] = useState(r.gather?.minutes ?? 10);
  const [count, setCount] = useState(r.gather?.count);
  const [call, setCall] = useState(r.call);
  const [quiet, setQuiet] = useState({ from: r.quiet?.from ?? "00:00", to: r.quiet?.to ?? "08:00" });
  const keepGather = () => how === "gathered" && set({ gather: { minutes, count: count || undefined } });
  const keepQuiet = (drop = r.quiet?.drop) => set({ quiet: { ...quiet, drop: drop || undefined } });
  return (
    <div className="settings">
      <span className="name">Goes</span>
      <div>
        <div className="flex flex-wrap gap-1.5" role="group" aria-label="How it goes">
          {(
            [
              ["at once", () => set({ paused: false, gather: undefined })],
              ["gathered", () => set({ paused: false, gather: { minutes, count: count || undefined } })],
              ["paused", () => set({ paused: true })],
            ] as const
          ).map(([name, press]) => (
            <Button key={name} size="s" on={how === name} aria-pressed={how === name} onClick={press}>
              <span className="inline-flex items-center gap-1.5">
                <Bead how={name} /> {name}
              </span>
            </Button>
          ))}
        </div>
        {how === "gathered" && (
          <p className="sub m-0 flex flex-wrap items-center gap-1.5 pt-1.5">
            every <Num label="Minutes" value={minutes} onChange={(n) => setMinutes(n ?? 0)} onBlur={keepGather} /> min, or when
            <Num label="How many" value={count} onChange={setCount} onBlur={keepGather} /> have come
          </p>
        )}
        {!r.on && <p className="sub m-0 pt-1">Its courtesy is switched off.</p>}
      </div>
      <span className="name">Says</span>
      <div>
        <p className="m-0 rounded-lg border border-line bg-ground px-3 py-2 leading-relaxed [overflow-wrap:anywhere]">
          <Wording text={r.words} />
        </p>
        <Link className={quietLook()} to={`/courtesies/${r.courtesy}`}>
          Change its words, and for whom it is
        </Link>
      </div>
      {!(r.cannot.edit && r.cannot.under) && r.when !== "porch.stream.opened" && (
        <>
          <span className="name">Stands</span>
          <div className="flex flex-wrap gap-1.5" role="group" aria-label="Where it stands">
            {(
              [
                ["", "as a post of its own"],
                ["edit", "in place of the announcement"],
                ["under", "under the announcement"],
              ] as const
            ).map(([onto, words]) => (
              <Button
                key={onto}
                size="s"
                on={r.onto === onto}
                aria-pressed={r.onto === onto}
                disabled={!!r.cannot[onto]}
                title={r.cannot[onto]}
                onClick={() => set({ onto: onto || undefined })}
              >
                {words}
              </Button>
            ))}
          </div>
        </>
      )}
      {!(r.cannot.message && r.cannot.portrait && r.cannot.banner) && (
        <>
          <span className="name">Does</span>
          <Does r={r} set={set} />
        </>
      )}
      <span className="name">Calls</span>
      <div>
        {r.cannot.call ? (
          <span className="sub">nobody: {r.cannot.call}</span>
        ) : (
          <span className="flex flex-wrap items-center gap-1.5">
            <Field
              size="xs"
              className="w-32"
              aria-label="Who is called"
              placeholder="nobody"
              value={call}
              maxLength={80}
              onChange={(e) => setCall(e.target.value.trim())}
              onBlur={() => call !== r.call && set({ call: call || undefined })}
            />
            <span className="sub">a group&apos;s name, such as all</span>
          </span>
        )}
      </div>
      {!r.cannot.picture && (
        <>
          <span className="name">Picture</span>
          <div>
            <Drawing r={r} set={set} />
          </div>
        </>
      )}
      <span className="name">Quiet</span>
      <div>
        <Tick on={!!r.quiet} onChange={(on) => (on ? keepQuiet() : set({ quiet: undefined }))}>
          hours in which nothing is posted
        </Tick>
        {r.quiet && (
          <p className="sub m-0 flex flex-wrap items-center gap-1.5 pt-1.5">
            <Field
              size="xs"
              className="w-18"
              aria-label="Quiet from"
              value={quiet.from}
              maxLength={5}
              onChange={(e) => setQuiet({ ...quiet, from: e.target.value })}
              onBlur={() => keepQuiet()}
            />{" "}
            to
            <Field
              size="xs"
              className="w-18"
              aria-label="Quiet to"
              value={quiet.to}
              maxLength={5}
              onChange={(e) => setQuiet({ ...quiet, to: e.target.value })}
              onBlur={() => keepQuiet()}
            />
            <Tick on={!!r.quiet.drop} onChange={(drop) => keepQuiet(drop)}>
              drop what happens then
            </Tick>
          </p>
        )}
      </div>
      {fault && (
        <Fault role="alert" className="col-span-2">
          {fault}
        </Fault>
      )}
    </div>
  );
}

/** Does is what is done at a social account: a post, or another thing that is switched on for it. */
function Does({ r, set }: { r: RelayView; set: (part: Partial<RuleOutput>) => void }) {
  const shelf = useQuery({ queryKey: ["media"], queryFn: ({ signal }) => ask(api.GET("/api/media", { signal })), staleTime: 30_000 }).data;
  const pictures = (shelf?.items ?? []).filter((m) => m.kind === "picture").map((m): [string, string] => [m.name, m.name]);
  const all: [string, string][] = [
    ["", "a post"],
    ["message", "a message to them"],
    ["portrait", "another picture for the account"],
    ["banner", "another banner"],
  ];
  return (
    <span className="flex flex-wrap gap-1.5">
      <One
        label="What it does"
        value={r.does}
        list={all.filter(([does]) => !r.cannot[does])}
        onPick={(does) => set({ does: does || undefined, media: does === "portrait" || does === "banner" ? r.media || pictures[0]?.[0] : undefined })}
      />
      {(r.does === "portrait" || r.does === "banner") && <One label="Which picture" value={r.media} list={pictures} onPick={(media) => set({ media })} />}
    </span>
  );
}

/** Latest is what went there lately, of this happening. */
function Latest({ v, place, when }: { v: PlacesView; place: string; when: string }) {
  const went = useQuery(deliveries({ place, most: 60 })).data?.deliveries;
  const list = went?.filter((d) => d.when === when).slice(0, 8) ?? [];
  return (
    <section aria-label="Last deliveries" className="mt-3 border-t border-line pt-2">
      <div className="flex items-baseline gap-2">
        <h3 className="m-0 font-display text-[14px]">Last deliveries</h3>
        <Link className={quietLook({ className: "ml-auto" })} to={`/places/deliveries?place=${encodeURIComponent(place)}`}>
          look through all
        </Link>
      </div>
      {went && list.length === 0 && <p className="sub m-0">Nothing went there yet.</p>}
      {list.map((d) => (
        <DeliveryRow key={d.id} d={d} v={v} />
      ))}
    </section>
  );
}
