import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Reason } from "../api/client";
import { why, whyNot } from "../api/queries";
import { Quiet } from "../kit/Button";
import { Scroll } from "../kit/Panel";

const verbs: Record<string, string> = {
  say: "said",
  plan: "decided",
  drop: "given up",
  refuse: "not done",
  reword: "changed",
  hurry: "hurried",
  arrive: "arrived",
  relay: "posted",
  wait: "waits for you",
  done: "dealt with",
  card: "shown",
  sound: "played",
  film: "shown",
  speak: "spoken",
  lamp: "lit",
  scene: "gone to",
  platform: "asked of the platform",
  raise: "raised",
};

/** Reasons tells, from the log, what was decided and why. */
function Reasons({ items }: { items: Reason[] }) {
  if (!items.length) return <p>The log says nothing about this in this stream.</p>;
  return (
    <ol>
      {items.map((r, i) => (
        <li key={i}>
          <b>{verbs[r.kind] ?? r.kind}</b>
          {r.sentence ? ` by “${r.sentence}”` : ""}: {r.because.join("; ")}
          {r.joined?.length ? <div>for {r.joined.join(", ")}</div> : null}
          {r.ladder
            ?.filter((g) => !g.won)
            .map((g, k) => (
              <div key={k} className="muted">
                “{g.courtesy}” {g.why}
              </div>
            ))}
        </li>
      ))}
    </ol>
  );
}

export function WhyLine({ line }: { line: string }) {
  const q = useQuery(why(line));
  return (
    <div className="reasons" data-testid="why">
      {q.data ? <Reasons items={q.data.items} /> : q.error ? "The log does not answer." : "…"}
    </div>
  );
}

export function WhyNot({ account }: { account: string }) {
  const [open, setOpen] = useState(false);
  const q = useQuery({ ...whyNot(account), enabled: open });
  return (
    <div className="sub">
      <Quiet aria-expanded={open} onClick={() => setOpen(!open)}>
        why, or why not?
      </Quiet>
      {open && (
        <Scroll className="reasons max-h-60" data-testid="whynot" label="Why, or why not">
          {q.data ? <Reasons items={q.data.items} /> : "…"}
        </Scroll>
      )}
    </div>
  );
}
