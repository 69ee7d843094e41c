import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Draws, type Terms } from "../api/client";
import { useDeed, useSettingsUndo } from "../api/deeds";
import { useLive } from "../api/live";
import { about, draws, session } from "../api/queries";
import { Button, Out, Quiet } from "../kit/Button";
import { Fault, Field } from "../kit/Field";
import { Empty, Head, Panel, Scroll } from "../kit/Panel";
import { KeptOut } from "./KeptOut";
import { Running } from "./Running";
import { TermsForm } from "./TermsForm";
import { anew, fresh, ready, said } from "./terms";

/** Drawer is a draw beside the conversation: its terms, its entries, and whoever has to speak up. */
export default function Drawer({ onClose }: { onClose: () => void }) {
  const glance = useLive((s) => s.live.draw);
  const q = useQuery(draws(glance ? `${glance.id} ${glance.state} ${glance.entries} ${glance.picks ?? 0} ${glance.waits?.length ?? 0}` : ""));
  const [another, setAnother] = useState<string>(); // the draw that is over, and makes room for the next
  const d = q.data;
  const running = d?.now && (["sealing", "open", "closed", "drawing"].includes(d.now.state) || (glance?.id === d.now.id && another !== d.now.id));
  return (
    <Panel label="Draw">
      <Head count={d?.now && running ? `number ${d.now.number}` : undefined} end={<Out label="Close this" onClick={onClose} />}>
        Draw
      </Head>
      <Scroll label="The draw" className="px-4 pb-4">
        {q.error && !d && <Fault>The house does not answer.</Fault>}
        {d && (running ? <Running draws={d} onAnother={() => setAnother(d.now!.id)} /> : <Next draws={d} />)}
        {d && <KeptOut draws={d} />}
        {d && <Before draws={d} />}
      </Scroll>
    </Panel>
  );
}

/** Next is the draw that comes next: one that is kept ready, or terms anew. */
function Next({ draws: d }: { draws: Draws }) {
  const deed = useDeed();
  const takeBack = useSettingsUndo();
  const cohost = useQuery(session).data?.role !== "helper";
  const [terms, setTerms] = useState<Terms>(() => (d.terms ? anew(d.terms) : fresh));
  const [name, setName] = useState<string>();
  const [fault, setFault] = useState("");
  const open = (body: { terms?: Terms; ready?: string }) => {
    setFault("");
    void deed(api.POST("/api/desk/draw", { body: { act: "open", ...body } }), { stale: [about.draws], fault: setFault });
  };
  const keep = (as: string) =>
    void deed(api.PUT("/api/draws/ready", { body: { name: as, terms: ready(terms) } }), {
      stale: [about.draws, about.house],
      then: () => setName(undefined),
      say: "Kept ready.",
      undo: ({ version }) => takeBack(version), // one of that name may have been there
      fault: setFault,
    });
  return (
    <>
      {!d.told && (
        <p className="mt-0 rounded-lg bg-surface-2 px-3 py-2">
          The house says nothing of draws yet.{" "}
          {cohost ? (
            <Quiet onClick={() => void deed(api.POST("/api/draws/words"), { stale: [about.draws, about.courtesies, about.house], say: "Its words stand under Courtesies." })}>
              Let it speak of them
            </Quiet>
          ) : (
            "A co-host can let it speak of them."
          )}
        </p>
      )}
      {d.ready.length > 0 && (
        <ul className="m-0 mb-3 flex list-none flex-col gap-1.5 p-0" aria-label="Draws that are kept ready">
          {d.ready.map((r) => (
            <li key={r.name} className="flex items-center gap-2">
              <Button size="s" onClick={() => open({ ready: r.name })}>
                Open {r.name}
              </Button>
              <span className="sub cut flex-1">{said(r.terms)}</span>
              <Quiet onClick={() => setTerms(r.terms)}>change</Quiet>
              {cohost && (
                <Out
                  label={`Put ${r.name} away`}
                  onClick={() =>
                    void deed(api.PUT("/api/draws/ready", { body: { name: r.name } }), {
                      stale: [about.draws, about.house],
                      say: `“${r.name}” is put away.`,
                      undo: ({ version }) => takeBack(version),
                    })
                  }
                />
              )}
            </li>
          ))}
        </ul>
      )}
      <TermsForm terms={terms} onChange={setTerms} />
      {fault && <Fault role="alert">{fault}</Fault>}
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <Button look="lit" onClick={() => open({ terms: ready(terms) })}>
          Open the draw
        </Button>
        {cohost &&
          (name === undefined ? (
            <Quiet onClick={() => setName(terms.prizes[0]?.trim() ?? "")}>keep ready…</Quiet>
          ) : (
            <form
              className="flex flex-1 items-center gap-1.5"
              onSubmit={(e) => {
                e.preventDefault();
                keep(name);
              }}
            >
              <Field size="xs" aria-label="A name to keep it under" placeholder="a name" value={name} onChange={(e) => setName(e.target.value)} />
              <Button size="s">Keep</Button>
            </form>
          ))}
      </div>
    </>
  );
}

/** Before are the draws that are over. */
function Before({ draws: d }: { draws: Draws }) {
  if (d.past.length === 0) return <Empty>Every draw can be checked by anyone: its secret is made and committed to before anybody enters.</Empty>;
  return (
    <details className="mt-3">
      <summary className="cursor-pointer text-text-2">Draws before ({d.past.length})</summary>
      <ul className="m-0 mt-1 list-none p-0">
        {d.past.map((p) => (
          <li key={p.id} className="flex gap-2 py-0.5">
            <a className="cut text-lagoon" href={`/draws/${p.id}`} target="_blank" rel="noreferrer">
              {p.number}. {p.prizes.join(", ")}
            </a>
            <span className="sub ml-auto whitespace-nowrap">{p.state === "cancelled" ? "called off" : p.winners === 1 ? "one winner" : `${p.winners} winners`}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}
