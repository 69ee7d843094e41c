import { useRef, useState } from "react";
import { Link } from "react-router";
import { api, type Points } from "../../api/client";
import { useDeed, useOnce } from "../../api/deeds";
import { about } from "../../api/queries";
import { Button, Quiet } from "../../kit/Button";
import { Area, Fault, Field } from "../../kit/Field";
import { Empty, Panel, Scroll } from "../../kit/Panel";
import { PersonPicker, type Somebody } from "../../kit/PersonPicker";
import { TabPanel, Tabs } from "../../kit/Tabs";

const tabs = [
  { value: "ever", label: "Ever" },
  { value: "season", label: "This season" },
] as const;

/** Leading is who gathered most, and what a member's hand does about points. */
export function Leading({ page }: { page: Points }) {
  const [tab, setTab] = useState<"ever" | "season">("ever");
  const once = useOnce();
  const stale = [about.points];
  const reset = (season: boolean, undo: boolean) =>
    void once(() => api.POST("/api/desk/points/reset", { body: { season, undo } }), {
      stale,
      say: undo ? "It counts again." : season ? "A season begins." : "Everybody begins anew.",
      undo: undo ? undefined : () => reset(season, true),
    });
  const canUndo = tab === "season" ? page.undoSeason : page.undoAll;
  return (
    <Panel label="Who leads">
      <Scroll className="ed" label="Who leads">
        <Tabs label="Ranks" size="s" tabs={tabs} value={tab} onChange={setTab}>
          <TabPanel value={tab}>
            <Ranks rows={tab === "season" ? page.season : page.top} season={tab === "season"} />
          </TabPanel>
        </Tabs>
        <p className="flex flex-wrap items-center gap-2">
          <Button size="s" look="grave" onClick={() => reset(tab === "season", false)}>
            {tab === "season" ? "Begin a season" : "Everybody begins anew"}
          </Button>
          {canUndo && <Quiet onClick={() => reset(tab === "season", true)}>take the last time back</Quiet>}
        </p>
        <ByHand />
        <BringIn />
      </Scroll>
    </Panel>
  );
}

function Ranks({ rows, season }: { rows: Points["top"]; season: boolean }) {
  if (rows.length === 0) return <Empty>Nobody has gathered anything yet.</Empty>;
  return (
    <ol className="m-0 list-none p-0">
      {rows.map((r, i) => (
        <li key={r.person} className="flex items-baseline gap-2 py-px">
          <span className="w-7 flex-none text-right text-text-3 tabular-nums">{i + 1}</span>
          <span className="min-w-0 flex-1">
            <Link className="cut block text-text no-underline hover:underline" to={`/book?person=${r.person}`}>
              <bdi>{r.name}</bdi>
            </Link>
            <span className="sub block">
              {r.level ? `${r.levelName || `level ${r.level}`} · ` : ""}has {r.has}
            </span>
          </span>
          <span className="font-semibold tabular-nums">{season ? r.season : r.gathered}</span>
        </li>
      ))}
    </ol>
  );
}

function ByHand() {
  const once = useOnce();
  const [who, setWho] = useState<Somebody>();
  const [amount, setAmount] = useState<number>();
  const [reason, setReason] = useState("");
  const [fault, setFault] = useState("");
  return (
    <form
      className="mt-3 border-t border-line pt-2.5"
      onSubmit={(e) => {
        e.preventDefault();
        setFault("");
        if (who && amount)
          void once(() => api.POST("/api/desk/points", { body: { account: who.account, amount, reason } }), {
            stale: [about.points],
            fault: setFault,
            say: `${who.name}: ${amount > 0 ? "+" : ""}${amount}`,
            then: () => setAmount(undefined),
          });
      }}
    >
      <b>Give by hand</b> <span className="sub">less than nothing takes some back</span>
      <span className="mt-1 flex flex-wrap items-center gap-1.5">
        <PersonPicker label="Whom to give to" onPick={setWho}>
          {who ? who.name : "somebody…"}
        </PersonPicker>
        <Field
          size="xs"
          className="w-20"
          type="number"
          aria-label="How many"
          value={amount ?? ""}
          onChange={(e) => setAmount(e.target.value === "" ? undefined : Number(e.target.value))}
        />
        <Field size="xs" className="min-w-24 flex-1" aria-label="Why" placeholder="why" value={reason} onChange={(e) => setReason(e.target.value)} />
        <Button size="s" disabled={!who || !amount}>
          Give
        </Button>
      </span>
      {fault && <Fault role="alert">{fault}</Fault>}
    </form>
  );
}

type Row = { row: number; name: string; points: number };
type Look = { rows: Row[]; before: Row[]; refused: { row: number; text?: string; why: string }[]; taken: number };

/** BringIn takes points in from another list, after a look at whom it means. */
function BringIn() {
  const once = useOnce();
  const deed = useDeed();
  const [csv, setCsv] = useState("");
  const [again, setAgain] = useState(false);
  const wanted = useRef(again);
  const [seen, setSeen] = useState<{ look: Look; of: string; again: boolean }>();
  const look = seen?.of === csv ? seen.look : undefined; // of other rows it says nothing of these
  const [fault, setFault] = useState("");
  const send = (take: boolean, again: boolean) => {
    setFault("");
    setAgain((wanted.current = again));
    const call = () => api.POST("/api/points/import", { body: { csv, take, again } });
    const then = (look: Look) => wanted.current === again && setSeen({ look, of: csv, again });
    void (take ? once(call, { stale: [about.points], fault: setFault, then }) : deed(call(), { fault: setFault, then }));
  };
  const sum = look?.rows.reduce((n, r) => n + r.points, 0) ?? 0;
  return (
    <details className="mt-3 border-t border-line pt-2.5">
      <summary className="cursor-pointer font-semibold">Bring points in from a file</summary>
      <p className="sub my-1">A heading with “login” or “account”, and “points”; a row for each person.</p>
      <input
        type="file"
        accept=".csv,text/csv"
        aria-label="A CSV file"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) void file.text().then(setCsv);
        }}
      />
      <Area
        size="s"
        className="mt-1 font-mono text-[12.5px]"
        rows={4}
        aria-label="The rows"
        placeholder={"login,points\nlimpet_lena,1200"}
        value={csv}
        onChange={(e) => setCsv(e.target.value)}
      />
      <span className="mt-1 flex gap-2">
        <Button size="s" disabled={!csv.trim()} onClick={() => send(false, false)}>
          Look first
        </Button>
        {look && look.taken === 0 && look.rows.length > 0 && (
          <Button size="s" look="lit" disabled={seen?.again !== again} onClick={() => send(true, again)}>
            Give {sum} to {look.rows.length}
          </Button>
        )}
      </span>
      {fault && <Fault role="alert">{fault}</Fault>}
      {look && (
        <div role="status" className="mt-1 text-[13px]">
          {look.taken > 0 ? (
            <b>{look.taken === 1 ? "One has theirs." : `${look.taken} have theirs.`}</b>
          ) : (
            `${look.rows.length === 1 ? "1 row means" : `${look.rows.length} rows mean`} somebody, with ${sum} altogether.`
          )}
          {look.before.length > 0 && (look.taken === 0 || !again) && (
            <p className="m-0">
              {look.before.length === 1 ? "1 row was" : `${look.before.length} rows were`} given from a file before, just as many{again ? "" : ", and left out"}.{" "}
              {look.taken === 0 && (
                <label className="flex items-center gap-1">
                  <input type="checkbox" checked={again} onChange={(e) => send(false, e.target.checked)} />
                  give to them once more
                </label>
              )}
            </p>
          )}
          {look.refused.map((r) => (
            <p key={r.row} className="m-0 text-persimmon">
              row {r.row}
              {r.text ? ` (${r.text})` : ""}: {r.why}
            </p>
          ))}
        </div>
      )}
    </details>
  );
}
