import { useState } from "react";
import { api, type Draws } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Button, Quiet } from "../kit/Button";
import { Field } from "../kit/Field";
import { PersonPicker, type Somebody } from "../kit/PersonPicker";

/** KeptOut are those who never win, each with why. */
export function KeptOut({ draws: d }: { draws: Draws }) {
  const deed = useDeed();
  const [who, setWho] = useState<Somebody>();
  const [reason, setReason] = useState("");
  const bar = (account: string, on: boolean, why?: string) =>
    void deed(api.POST("/api/desk/draw/bar", { body: { account, on, reason: why } }), {
      stale: [about.draws],
      then: () => {
        setWho(undefined);
        setReason("");
      },
    });
  return (
    <details className="mt-4">
      <summary className="cursor-pointer text-text-2">Kept out of draws ({d.barred.length})</summary>
      <ul className="m-0 mt-1 list-none p-0">
        {d.barred.map((b) => (
          <li key={b.account} className="flex items-baseline gap-2 py-0.5">
            <bdi className="font-semibold">{b.name}</bdi>
            <span className="sub cut flex-1">
              {b.reason}
              {b.by ? ` (${b.by})` : ""}
            </span>
            <Quiet onClick={() => bar(b.account, false)}>let in</Quiet>
          </li>
        ))}
      </ul>
      <form
        className="mt-1 flex flex-wrap items-center gap-1.5"
        onSubmit={(e) => {
          e.preventDefault();
          if (who) bar(who.account, true, reason);
        }}
      >
        <PersonPicker label="Whom to keep out" onPick={setWho}>
          {who ? who.name : "somebody…"}
        </PersonPicker>
        <Field size="xs" className="min-w-24 flex-1" aria-label="Why they are kept out" placeholder="why" value={reason} onChange={(e) => setReason(e.target.value)} />
        <Button size="s" disabled={!who || !reason.trim()}>
          Keep out
        </Button>
      </form>
    </details>
  );
}
