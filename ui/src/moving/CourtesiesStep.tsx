import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, based, type CourtesyView } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, courtesies, house, session, tried } from "../api/queries";
import { Button } from "../kit/Button";
import { Switch } from "../kit/Switch";

/** CourtesiesStep lists the courtesies with their switches; each is tried on oneself. */
export function CourtesiesStep() {
  const q = useQuery(courtesies);
  const deed = useDeed();
  const [open, setOpen] = useState<string>();
  if (!q.data) return null;
  const version = q.data.version;
  const said = (on: boolean) => deed(api.PUT("/api/moving", { body: { step: "courtesies", state: on ? "done" : "open" } }), { stale: [about.moving] });
  return (
    <>
      {q.data.courtesies.map((c) => (
        <div key={c.id} className="border-t border-line py-2">
          <div className="flex items-start gap-3">
            <Switch
              label={c.id}
              on={c.on}
              onChange={(on) =>
                void deed(api.POST("/api/courtesies/{id}/switch", { params: { path: { id: c.id } }, body: { on }, ...based(version) }), {
                  stale: [about.courtesies, about.house, about.history, about.moving],
                })
              }
            />
            <span className={c.on ? "min-w-0 flex-1" : "min-w-0 flex-1 text-text-2"}>
              {c.sentence.map((p, i) => (p.strong ? <b key={i}>{p.text}</b> : <span key={i}>{p.text}</span>))}
            </span>
            <Button size="s" onClick={() => setOpen(open === c.id ? undefined : c.id)}>
              Try on me
            </Button>
          </div>
          {open === c.id && <OnMe c={c} />}
        </div>
      ))}
      <p>
        <Button look="lit" onClick={() => void said(true)}>
          That is how I want it
        </Button>
      </p>
    </>
  );
}

/** OnMe shows what a courtesy would say to the member, word for word. */
function OnMe({ c }: { c: CourtesyView }) {
  const me = useQuery(session).data;
  const channel = useQuery(house).data?.settings["channel"] as string | undefined;
  const words = c.outputs.filter((o) => o.alternatives.length > 0);
  const q = useQuery(
    tried(
      c.id,
      words.map((o) => ({ id: o.id, alternatives: o.alternatives })),
      { id: "me", name: me?.member ?? channel ?? "you", standing: "returning", streams: 3, viewers: 23, category: "", link: "" },
    ),
  );
  return (
    <div className="grid gap-1.5 py-2 pl-9" aria-live="polite">
      {q.data?.outputs.flatMap((o) =>
        o.alternatives.map((a, i) => (
          <p key={o.id + i} className="bub m-0">
            {a.text}
          </p>
        )),
      )}
      {words.length === 0 && <p className="sub m-0">It says nothing.</p>}
    </div>
  );
}
