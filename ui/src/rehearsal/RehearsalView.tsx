import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { api, based, said as problem, type RehearsalResult, type SideWanted } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, courtesies, rehearsal, rehearsals } from "../api/queries";
import { toast } from "../api/toast";
import { turns } from "../api/turns";
import { Button } from "../kit/Button";
import { Empty, Panel } from "../kit/Panel";
import { useCalendar } from "../kit/time";
import { Differences } from "./Differences";
import { EveningList } from "./EveningList";
import { Figures } from "./Figures";
import { MomentBoard } from "./MomentBoard";
import { changesIn, wanted, whatIs, type What } from "./rehearsal";
import { Sides } from "./Sides";
import { TwinLine } from "./TwinLine";
import { WriteOne } from "./WriteOne";
import "./rehearsal.css";

const inForce: SideWanted = { kind: "force" };

/** begins is what is lived when the view is opened: what its address names, else the last stream, else the usual evening. */
function useWhat() {
  const [params, set] = useSearchParams();
  const q = useQuery(rehearsals);
  const stream = Number(params.get("stream"));
  const evening = params.get("evening");
  const [what, setWhat] = useState<What | undefined>(() => (stream ? { stream } : evening ? { evening } : undefined));
  const first = q.data?.recorded.find((r) => !r.gone);
  const begins = what ?? (q.data && (first ? { stream: first.stream } : { dials: q.data.usual }));
  const choose = useCallback(
    (w: What) => {
      setWhat(w);
      set("stream" in w ? { stream: String(w.stream) } : "evening" in w ? { evening: w.evening } : {}, { replace: true });
    },
    [set],
  );
  return { all: q.data, error: q.error, what: begins, choose };
}

export default function RehearsalView() {
  const { all, error, what, choose } = useWhat();
  const [params] = useSearchParams();
  const [above, setAbove] = useState<SideWanted>(() => (params.get("version") ? { kind: "version", version: Number(params.get("version")) } : inForce));
  const [below, setBelow] = useState<SideWanted>(() => (params.get("version") ? inForce : { kind: "draft", changes: {} }));
  const [ownChance, setOwnChance] = useState(false);
  const [writing, setWriting] = useState<string | undefined>();
  const [id, setID] = useState("");
  const [at, setAt] = useState<string>();
  const [chosen, setChosen] = useState<number>(-1);
  const deed = useDeed();
  const client = useQueryClient();
  const version = useQuery(courtesies).data?.version ?? 0;
  const calendar = useCalendar();
  const asked = what && JSON.stringify([wanted(what, above, below, ownChance), all?.draft.map((d) => d.id), version]);

  // What is chosen is lived at once: nothing of it is sent, and it can be called off. The house lives the last one that comes to it,
  // so they go out one after the other.
  const [turn] = useState(turns);
  useEffect(() => {
    if (!asked || !version) return;
    const [body] = JSON.parse(asked) as [ReturnType<typeof wanted>];
    let over = false;
    const t = setTimeout(
      () =>
        void turn(async () => {
          if (over) return;
          await deed(api.POST("/api/rehearsal", { body }), {
            then: (r) => {
              if (over) return;
              setID(r.id);
              setAt(undefined);
              setChosen(-1);
            },
          });
        }),
      250, // a dial is dragged
    );
    return () => {
      over = true;
      clearTimeout(t);
    };
  }, [asked, version, deed, turn]);

  const job = useQuery(rehearsal(id));
  const [lived, setLived] = useState<{ id: string; result: RehearsalResult }>(); // stays until the next one is lived
  if (job.data?.result && job.data.result !== lived?.result) setLived({ id, result: job.data.result });
  const result = job.data?.problem ? undefined : lived?.result;
  const moment = at ?? result?.differences[0]?.at ?? result?.above.evening.said.at(-1)?.at ?? result?.closed;
  const choose1 = useCallback(
    (n: number) => {
      const d = result?.differences[n];
      if (!d) return;
      setChosen(n);
      setAt(new Date(Math.max(Date.parse(d.above?.at ?? d.at), Date.parse(d.below?.at ?? d.at)) + 20_000).toISOString());
    },
    [result],
  );

  if (!all || !what) return <main className="empty">{error ? problem(error) : "…"}</main>;
  if (writing !== undefined)
    return (
      <WriteOne
        name={writing}
        opens={result?.opened}
        onRehearse={(script, called) => {
          choose({ script, called });
          setWriting(undefined);
        }}
        onSaved={(name) => {
          choose({ evening: name });
          setWriting(undefined);
        }}
        onClose={() => setWriting(undefined)}
      />
    );
  const drafting = below.kind === "draft" ? below : above.kind === "draft" ? above : undefined;
  const changes = drafting?.changes ?? {};
  const nChanges = drafting ? all.draft.length + changesIn(changes) : 0;
  const enact = (kept: boolean) =>
    void deed(api.POST("/api/rehearsal/enact", { body: { changes, kept }, ...based(version) }), {
      stale: [about.courtesies, about.house, about.rehearsal],
      say: "It is in force.",
      then: () => setBelow({ kind: "draft", changes: {} }),
    });
  const drop = async () => {
    const { courtesies: list, version } = await client.fetchQuery({ ...courtesies, staleTime: 0 }); // what was typed last, for whoever wants it back
    const typed = list.flatMap(({ id, draft }) => (draft ? [{ id, draft }] : []));
    const stale = [about.courtesies, about.rehearsal];
    const path = (id: string) => ({ params: { path: { id } } });
    setBelow({ kind: "draft", changes: {} });
    await Promise.all(all.draft.map(({ id }) => deed(api.DELETE("/api/courtesies/{id}/draft", path(id)), { stale })));
    const back = async () => {
      setBelow(below);
      await Promise.all(typed.map(({ id, draft }) => deed(api.PUT("/api/courtesies/{id}/draft", { ...path(id), body: draft, ...based(version) }), { stale })));
    };
    toast("The draft is dropped.", { label: "Undo", act: () => void back() });
  };
  return (
    <main className="rehearsal">
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1 px-5 pt-1">
        <h1 className="m-0 text-[20px] leading-8">
          <Sides
            what={whatIs(what, all, calendar.dated)}
            recorded={"stream" in what}
            all={all}
            above={above}
            below={below}
            onAbove={setAbove}
            onBelow={setBelow}
            ownChance={ownChance}
            onOwnChance={setOwnChance}
          />
        </h1>
        <span className="sub" role="status">
          {told(job.data, result)}
        </span>
        {job.data && !job.data.over && (
          <Button size="s" onClick={() => void deed(api.DELETE("/api/rehearsal/jobs/{id}", { params: { path: { id } } }))}>
            Call it off
          </Button>
        )}
        {nChanges > 0 && (
          <span className="ml-auto flex items-center gap-2">
            <Button look="ghost" onClick={() => void drop().catch((why: unknown) => void toast(problem(why)))}>
              Drop the draft
            </Button>
            {all.kept.kept > 0 && (
              <Button onClick={() => enact(true)} title="Only when every kept evening goes as it should">
                Put it in force if the kept ones hold
              </Button>
            )}
            <Button look="lit" onClick={() => enact(false)}>
              Put it in force
            </Button>
          </span>
        )}
      </header>
      {job.error && (
        <Panel label="What came of it" className="mx-5 flex-none">
          <Empty role="alert">
            {problem(job.error)}{" "}
            <Button size="s" onClick={() => void deed(api.POST("/api/rehearsal", { body: wanted(what, above, below, ownChance) }), { then: (r) => setID(r.id) })}>
              Rehearse again
            </Button>
          </Empty>
        </Panel>
      )}
      {job.data?.problem && (
        <Panel label="What came of it" className="mx-5 flex-none">
          <Empty role="alert">
            <b>{job.data.problem}</b>
            {job.data.faults?.map((f) => (
              <span key={f.at + f.what} className="block">
                {f.at}: {f.what}; {f.remedy}
              </span>
            ))}
          </Empty>
        </Panel>
      )}
      {result && <Figures above={result.above} below={result.below} />}
      {result && <TwinLine result={result} above={above} below={below} at={moment} chosen={chosen} onAt={setAt} onChoose={choose1} />}
      <div className="boards">
        <EveningList
          all={all}
          what={what}
          result={result}
          onChoose={choose}
          onWrite={setWriting}
          onShow={(e, v) => {
            choose({ evening: e });
            setAbove(v ? { kind: "version", version: v } : inForce);
            setBelow(inForce);
          }}
        />
        {result && moment ? (
          <MomentBoard id={lived!.id} result={result} at={moment} above={above} below={below} onChoose={choose1} />
        ) : (
          <Panel label="The moment">{!job.data?.problem && <Empty>…</Empty>}</Panel>
        )}
        {result ? <Differences result={result} chosen={chosen} onChoose={choose1} /> : <Panel label="Differences">{!job.data?.problem && <Empty>…</Empty>}</Panel>}
      </div>
    </main>
  );
}

function told(job: { part: number; over: boolean } | undefined, result: { opened: string; closed: string; millis: number } | undefined): string {
  if (!job) return "";
  if (!job.over) return `${Math.round(job.part * 100)} % lived`;
  if (!result) return "";
  const minutes = Math.round((Date.parse(result.closed) - Date.parse(result.opened)) / 60_000);
  return `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, "0")} lived twice in ${(result.millis / 1000).toFixed(1)} s · nothing is sent`;
}
