import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Settings } from "../api/client";
import { useDeed } from "../api/deeds";
import { house } from "../api/queries";
import type { Overlay, Show } from "../overlay/frames";
import type { components } from "../api/schema.gen";
import { Button } from "../kit/Button";
import { Fault } from "../kit/Field";
import { One } from "../kit/One";
import { Pool } from "./Pool";
import { useStage } from "./useStage";

type What = Omit<components["schemas"]["BoxTry"], "here">;

interface Tries {
  what: () => What;
  /** wait is while what is tried is still on its way. */
  wait?: boolean;
}

/** TryOnScreen tries something on an overlay: here, on a picture of it, or on the real one. Nothing of it is counted. */
export function TryOnScreen({ fits, ...tries }: Tries & { fits: (o: Overlay) => boolean }) {
  const settings = useQuery(house).data?.settings as Settings | undefined;
  const all = ((settings?.overlays ?? []) as Overlay[]).filter(fits);
  const [id, setId] = useState("");
  const o = all.find((x) => x.id === id) ?? all[0];
  if (!o) return settings ? <p className="sub">No overlay has a box for it. Places, On screen, is where one gets it.</p> : null;
  return <On key={o.id} o={o} all={all} {...tries} onOverlay={setId} />;
}

function On({ o, all, what, wait, onOverlay }: Tries & { o: Overlay; all: Overlay[]; onOverlay: (id: string) => void }) {
  const { at, stage } = useStage(o, true);
  const deed = useDeed();
  const [fault, setFault] = useState("");
  const put = (here: boolean) => {
    setFault("");
    return deed(api.POST("/api/overlays/{overlay}/try", { params: { path: { overlay: o.id } }, body: { ...what(), here } }), {
      say: here ? undefined : "It is on the overlay, marked as a try",
      fault: setFault,
      then: (tried) => {
        if (here) void stage.current?.show(tried.show as unknown as Show);
      },
    });
  };
  return (
    <div className="grid gap-2">
      <div className="small-stage" style={{ "--shape": `${o.wide} / ${o.high}` } as React.CSSProperties}>
        <Pool />
        <div className="stage-drawn" ref={at} data-testid="small-stage" />
      </div>
      <span className="flex flex-wrap items-center gap-1.5">
        {all.length > 1 && <One label="On which overlay" value={o.id} list={all.map((x) => [x.id, x.title])} onPick={onOverlay} />}
        <Button size="s" disabled={wait} onClick={() => void put(true)}>
          Try here
        </Button>
        <Button size="s" look="lit" disabled={wait} onClick={() => void put(false)}>
          Try on the overlay
        </Button>
      </span>
      {fault && <Fault role="alert">{fault}</Fault>}
    </div>
  );
}
