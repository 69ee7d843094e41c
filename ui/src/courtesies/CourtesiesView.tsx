import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import { api, said, type CourtesyView } from "../api/client";
import { useDeed, useOnce, useSettingsUndo } from "../api/deeds";
import { about, courtesies } from "../api/queries";
import { Changes } from "../keeping/Changes";
import { Never } from "../keeping/Never";
import { Button, Quiet, Toggle } from "../kit/Button";
import { faultLook } from "../kit/Field";
import { KeptEvenings } from "../kit/KeptEvenings";
import { Nowhere } from "../kit/Nowhere";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { Picker } from "../kit/Picker";
import { Switch } from "../kit/Switch";
import { AsTable } from "./AsTable";
import { asks } from "./table";
import { Editor } from "./Editor";
import { HouseFile } from "./HouseFile";
import { Manners } from "./Manners";
import { NewCommand } from "./NewCommand";
import { Own } from "./Own";
import { Sentence } from "./Sentence";
import { Guard } from "./trouble/Guard";
import { Rewards } from "./rewards/Rewards";
import { RuleForm } from "./trouble/RuleForm";
import { Rules } from "./trouble/Rules";
import { Shelf } from "./Shelf";
import { useChange } from "./useChange";
import { usePressed } from "./usePressed";
import { WorthALook } from "./WorthALook";
import "./courtesies.css";

/** trouble is the lane of what the guard looks for. */
const trouble = "When there is trouble";

export default function CourtesiesView() {
  const deed = useDeed();
  const once = useOnce();
  const takeBack = useSettingsUndo();
  const pressed = usePressed();
  const stale = [about.courtesies];
  const q = useQuery(courtesies);
  const change = useChange(q.data?.version);
  const { id } = useParams();
  const [group, setGroup] = useState<string>();
  const came = useLocation().state as { guard?: boolean; command?: string } | null; // for what somebody came here
  const [chose, setExtra] = useState<"never" | "manners" | "history" | "file" | "own" | "shelf" | "guard" | "rewards">();
  const extra = chose ?? (came?.guard ? "guard" : undefined);
  const [rule, setRule] = useState<string>(); // of what is looked for when there is trouble
  const go = useNavigate();
  if (!q.data) return <main className="empty">{q.error ? said(q.error) : "…"}</main>;
  const shown = pressed.over(q.data);
  const flip = (c: CourtesyView) =>
    void pressed.press(c.id, !c.on, (then) => deed(api.POST("/api/courtesies/{id}/switch", { params: { path: { id: c.id } }, body: { on: !c.on } }), { stale, then }));
  if (id === "table") return <AsTable all={shown} onOpen={(c) => void go(`/courtesies/${c}`)} onBack={() => void go("/courtesies")} onFlip={flip} />;
  const all = shown.courtesies.filter((c) => !c.rule.away);
  const away = shown.courtesies.filter((c) => c.rule.away);
  const named = shown.courtesies.find((c) => c.id === id);
  const late = !!id && !named && q.isFetching; // it is on its way: no other stands in its place meanwhile
  const chosen = named ?? (late ? undefined : all[0]);
  const groups = [...new Set(all.map((c) => c.rule.group).filter((g) => g !== undefined))];
  const lanes = [...new Set(all.map((c) => c.lane))];
  const open = (id: string) => {
    setExtra(undefined);
    setRule(undefined);
    void go(`/courtesies/${id}`);
  };
  const add = async (body: { from?: string; when?: string; slot?: string }) => {
    const made = await once(() => api.POST("/api/courtesies", { body }), { stale });
    if (made) open(made.id);
  };
  const putAway = (c: CourtesyView, away: boolean) =>
    change(c, { away }, undefined, {
      say: away ? "Put away" : "Brought back",
      undo: ({ version }) => takeBack(version),
    });
  const guarding = (
    <Rules
      chosen={extra === "guard" ? rule : undefined}
      log={extra === "guard" && !rule}
      onOpen={(id) => (setExtra("guard"), setRule(id))}
      onLog={() => (setExtra("guard"), setRule(undefined))}
    />
  );
  return (
    <main className="wrap courts" data-open={!!id || !!extra}>
      <h1 className="sr-only">Courtesies</h1>
      <Button
        size="s"
        className="back"
        onClick={() => {
          setExtra(undefined);
          void go("/courtesies");
        }}
      >
        ‹ All courtesies
      </Button>
      <Panel className="list" label="All courtesies">
        <Head
          count={`${all.length}, along the evening`}
          end={
            <Picker
              label="A new one, when…"
              size="s"
              width="m"
              begins={!!came?.command}
              above={(close) => <NewCommand all={q.data} word={came?.command} onMade={(id) => (close(), open(id))} />}
              choices={q.data.whens.map((w) => ({ value: w.type, label: w.words }))}
              onPick={(when) => void add({ when, slot: q.data.whens.find((w) => w.type === when)!.slots[0] })}
            >
              New
            </Picker>
          }
        >
          Courtesies
        </Head>
        <Link to="/rehearsal" className="px-4 pb-2 text-text no-underline empty:hidden">
          <KeptEvenings version={q.data.version} quiet />
        </Link>
        {groups.length > 0 && (
          <div className="flex flex-wrap items-center gap-1.5 px-4 pb-2" role="group" aria-label="Groups">
            {groups.map((g) => (
              <Toggle key={g} size="s" on={group === g} onClick={() => setGroup(group === g ? undefined : g)}>
                {g}
              </Toggle>
            ))}
            {group && (
              <>
                <Button size="s" look="ghost" onClick={() => all.filter((c) => c.rule.group === group && !c.on).forEach(flip)}>
                  all on
                </Button>
                <Button size="s" look="ghost" onClick={() => all.filter((c) => c.rule.group === group && c.on).forEach(flip)}>
                  all off
                </Button>
              </>
            )}
          </div>
        )}
        <Scroll label="Courtesies along the evening">
          {lanes.map((lane) => (
            <div key={lane}>
              <h3 className="lane">
                {lane}
                {lane === asks && (
                  <Quiet className="order-last ml-1" onClick={() => void go("/courtesies/table")}>
                    as a table
                  </Quiet>
                )}
              </h3>
              {all
                .filter((c) => c.lane === lane)
                .map((c) => (
                  <div key={c.id} className={c.on ? "c" : "c off"} hidden={!!group && c.rule.group !== group}>
                    <Switch on={c.on} label={`${c.sentence.map((p) => p.text).join("")}: ${c.on ? "on" : "off"}`} onChange={() => flip(c)} />
                    <button aria-current={!extra && chosen?.id === c.id ? true : undefined} onClick={() => open(c.id)}>
                      <Sentence c={c} plain />
                      {c.faults?.length ? <span className={faultLook()}> · draft with a fault</span> : c.draft ? <span className="sub"> · draft</span> : null}
                    </button>
                  </div>
                ))}
              {lane === trouble && guarding}
            </div>
          ))}
          {!lanes.includes(trouble) && <h3 className="lane">{trouble}</h3>}
          {!lanes.includes(trouble) && guarding}
          {away.length > 0 && <h3 className="lane">Put away</h3>}
          {away.map((c) => (
            <div key={c.id} className="c off">
              <button aria-current={!extra && chosen?.id === c.id ? true : undefined} onClick={() => open(c.id)}>
                <Sentence c={c} plain />
              </button>
            </div>
          ))}
          <WorthALook all={q.data} onGo={open} />
          <h3 className="lane">For all of them</h3>
          <div className="c">
            <button aria-current={extra === "never" ? true : undefined} onClick={() => setExtra("never")}>
              Those <b>never greeted</b> · {q.data.never.length}
            </button>
          </div>
          <div className="c">
            <button aria-current={extra === "manners" ? true : undefined} onClick={() => setExtra("manners")}>
              How <b>commands, hellos and shout-outs</b> are asked and kept apart
            </button>
          </div>
          <div className="c">
            <button aria-current={extra === "rewards" ? true : undefined} onClick={() => setExtra("rewards")}>
              Small <b>rewards</b>: points, levels and games
            </button>
          </div>
          <div className="c">
            <button aria-current={extra === "own" ? true : undefined} onClick={() => setExtra("own")}>
              <b>Fill-ins, emotes and events</b> of our own
            </button>
          </div>
          <div className="c">
            <button aria-current={extra === "shelf" ? true : undefined} onClick={() => setExtra("shelf")}>
              The shelf: <b>pictures, sounds and films</b>
            </button>
          </div>
          <div className="c">
            <button aria-current={extra === "history" ? true : undefined} onClick={() => setExtra("history")}>
              What was <b>changed</b>, and undo
            </button>
          </div>
          <div className="c">
            <button aria-current={extra === "file" ? true : undefined} onClick={() => setExtra("file")}>
              All settings as <b>one file</b>
            </button>
          </div>
        </Scroll>
      </Panel>
      {extra === "guard" && rule ? (
        <RuleForm key={rule} id={rule} onGone={() => setRule(undefined)} />
      ) : extra === "guard" ? (
        <Guard onOpen={setRule} />
      ) : extra === "rewards" ? (
        <Rewards />
      ) : extra === "never" ? (
        <Never list={q.data.never} version={q.data.version} />
      ) : extra === "manners" ? (
        <Manners all={q.data} />
      ) : extra === "history" ? (
        <Changes className="col-span-2" />
      ) : extra === "own" ? (
        <Own all={q.data} />
      ) : extra === "shelf" ? (
        <Shelf />
      ) : extra === "file" ? (
        <HouseFile all={q.data} />
      ) : chosen ? (
        <Editor
          key={chosen.id}
          c={chosen}
          all={q.data}
          above={id && !named && <Nowhere name="the first of the courtesies" />}
          acts={
            <span className="float-right flex gap-1">
              <Button size="s" look="ghost" onClick={() => void add({ from: chosen.id })}>
                Copy
              </Button>
              <Button size="s" look="ghost" onClick={() => void putAway(chosen, !chosen.rule.away)}>
                {chosen.rule.away ? "Bring back" : "Put away"}
              </Button>
            </span>
          }
        />
      ) : late ? (
        <Panel className="col-span-2" label="A courtesy on its way">
          <Empty>…</Empty>
        </Panel>
      ) : (
        <Panel className="col-span-2" label="No courtesy yet">
          <Empty>
            <b>The house does nothing by itself yet.</b> Make a first courtesy with New, or bring in a house file: everything it holds is shown before it is taken.
          </Empty>
        </Panel>
      )}
    </main>
  );
}
