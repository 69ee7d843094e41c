import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, ask, based, said, type Courtesies, type CourtesyView } from "../api/client";
import { Nowhere } from "../kit/Nowhere";
import { Picker } from "../kit/Picker";
import { toast } from "../kit/toast";
import { Editor } from "./Editor";
import { History } from "./History";
import { HouseFile } from "./HouseFile";
import { Never } from "./Never";
import { Own } from "./Own";
import { Shelf } from "./Shelf";
import { Sentence } from "./Sentence";
import { WorthALook } from "./WorthALook";

export default function CourtesiesView() {
  const client = useQueryClient();
  const q = useQuery({ queryKey: ["courtesies"], queryFn: () => ask(api.GET("/api/courtesies")) });
  const { id } = useParams();
  const [group, setGroup] = useState<string>();
  const [extra, setExtra] = useState<"never" | "history" | "file" | "own" | "shelf">();
  const go = useNavigate();
  if (!q.data) return <main className="empty">{q.error ? said(q.error) : "…"}</main>;
  const all = q.data.courtesies.filter((c) => !c.rule.away);
  const away = q.data.courtesies.filter((c) => c.rule.away);
  const chosen = id ? q.data.courtesies.find((c) => c.id === id) : all[0];
  const groups = [...new Set(all.map((c) => c.rule.group).filter((g) => g !== undefined))];
  const lanes = [...new Set(all.map((c) => c.lane))];
  const open = (id: string) => {
    setExtra(undefined);
    void go(`/courtesies/${id}`);
  };
  const flip = (c: CourtesyView) => {
    client.setQueryData<Courtesies>(["courtesies"], (d) => d && { ...d, courtesies: d.courtesies.map((x) => (x.id === c.id ? { ...x, on: !c.on } : x)) });
    ask(api.POST("/api/courtesies/{id}/switch", { params: { path: { id: c.id } }, body: { on: !c.on } }))
      .catch((p) => toast(said(p)))
      .finally(() => client.invalidateQueries({ queryKey: ["courtesies"] }));
  };
  const add = (body: { from?: string; when?: string; slot?: string }) =>
    ask(api.POST("/api/courtesies", { body })).then(
      async (made) => {
        await client.invalidateQueries({ queryKey: ["courtesies"] });
        setExtra(undefined);
        void go(`/courtesies/${made.id}`);
      },
      (p) => toast(said(p)),
    );
  const putAway = (c: CourtesyView, put: boolean) =>
    ask(api.PUT("/api/courtesies/{id}", { params: { path: { id: c.id } }, body: { ...c.rule, away: put }, ...based(q.data!.version) })).then(
      () => {
        void client.invalidateQueries({ queryKey: ["courtesies"] });
        if (put) toast("Put away", { label: "Undo", act: () => void putAway(c, false) });
      },
      (p) => toast(said(p)),
    );
  return (
    <main className="wrap courts" data-open={!!id || !!extra}>
      <h1 className="sr-only">Courtesies</h1>
      <button
        className="btn s back"
        onClick={() => {
          setExtra(undefined);
          void go("/courtesies");
        }}
      >
        ‹ All courtesies
      </button>
      <section className="panel list" aria-label="All courtesies">
        <div className="ph">
          <h2>Courtesies</h2>
          <span className="n">{all.length}, along the evening</span>
          <span className="m flex gap-1">
            <Picker
              label="A new one, when…"
              className="btn s"
              choices={q.data.whens.map((w) => ({ value: w.type, label: w.words }))}
              onPick={(when) => void add({ when, slot: q.data.whens.find((w) => w.type === when)!.slots[0] })}
            >
              New
            </Picker>
          </span>
        </div>
        {groups.length > 0 && (
          <div className="flex flex-wrap items-center gap-1.5 px-4 pb-2" role="group" aria-label="Groups">
            {groups.map((g) => (
              <button key={g} className="btn s" aria-pressed={group === g} data-on={group === g} onClick={() => setGroup(group === g ? undefined : g)}>
                {g}
              </button>
            ))}
            {group && (
              <>
                <button className="btn s ghost" onClick={() => all.filter((c) => c.rule.group === group && !c.on).forEach(flip)}>
                  all on
                </button>
                <button className="btn s ghost" onClick={() => all.filter((c) => c.rule.group === group && c.on).forEach(flip)}>
                  all off
                </button>
              </>
            )}
          </div>
        )}
        <div className="scroll" tabIndex={0} role="group" aria-label="Courtesies along the evening">
          {lanes.map((lane) => (
            <div key={lane}>
              <h3 className="lane">{lane}</h3>
              {all
                .filter((c) => c.lane === lane)
                .map((c) => (
                  <div key={c.id} className={c.on ? "c" : "c off"} hidden={!!group && c.rule.group !== group}>
                    <button
                      className="lampsw"
                      role="switch"
                      aria-checked={c.on}
                      aria-label={`${c.sentence.map((p) => p.text).join("")}: ${c.on ? "on" : "off"}`}
                      onClick={() => flip(c)}
                    >
                      <i />
                    </button>
                    <button aria-current={!extra && chosen?.id === c.id ? true : undefined} onClick={() => open(c.id)}>
                      <Sentence c={c} plain />
                      {c.faults?.length ? <span className="flt"> · draft with a fault</span> : c.draft ? <span className="sub"> · draft</span> : null}
                    </button>
                  </div>
                ))}
            </div>
          ))}
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
        </div>
      </section>
      {extra === "never" ? (
        <Never list={q.data.never} version={q.data.version} />
      ) : extra === "history" ? (
        <History />
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
          acts={
            <span className="float-right flex gap-1">
              <button className="btn s ghost" onClick={() => void add({ from: chosen.id })}>
                Copy
              </button>
              <button className="btn s ghost" onClick={() => void putAway(chosen, !chosen.rule.away)}>
                {chosen.rule.away ? "Bring back" : "Put away"}
              </button>
            </span>
          }
        />
      ) : id ? (
        <section className="panel col-span-2" aria-label="No such courtesy">
          <Nowhere to="/courtesies" name="all courtesies" />
        </section>
      ) : (
        <section className="panel col-span-2" aria-label="No courtesy yet">
          <p className="empty">
            <b>The house does nothing by itself yet.</b> Make a first courtesy with New, or bring in a house file: everything it holds is shown before it is taken.
          </p>
        </section>
      )}
    </main>
  );
}
