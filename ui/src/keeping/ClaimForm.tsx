import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, claim as claimOf, house } from "../api/queries";
import { Button } from "../kit/Button";
import { Fault, Field } from "../kit/Field";
import { One } from "../kit/One";
import { useHouseNow } from "../kit/time";
import { titled } from "../kit/words";
import { Proof } from "./ChatForm";
import { Copyable, Line } from "./Line";

/** ClaimForm says by which account a member is known in chat, and has them prove it with a phrase. */
export function ClaimForm() {
  const deed = useDeed();
  const settings = useQuery(house).data?.settings;
  const made = useQuery(claimOf).data;
  const now = useHouseNow(1000);
  const platforms = [
    ...new Set(((settings?.["doors"] ?? []) as { kind: string; platform: string; as?: string }[]).filter((d) => d.kind === "irc" && !d.as).map((d) => d.platform)),
  ];
  const channel = settings?.["channel"] as string | undefined;
  const [platform, setPlatform] = useState<string>();
  const [login, setLogin] = useState<string>();
  const [fault, setFault] = useState("");
  const on = platform ?? platforms[0] ?? "";
  const who = login ?? (channel === "new-house" ? "" : (channel ?? ""));
  const begin = () =>
    void deed(api.POST("/api/moving/claim", { body: { platform: on, login: who } }), { stale: [about.moving, about.members], then: () => setFault(""), fault: setFault });
  if (!platforms.length) return <p className="sub">The house is in no chat yet. Connect one first; the phrase is said there.</p>;
  if (made && made.state !== "none" && made.state !== "late")
    return (
      <div className="grid gap-2" aria-live="polite">
        {made.state === "linked" ? (
          <Proof ok>
            {made.told}: the account <b>{made.login}</b> ({made.account}) is linked.
          </Proof>
        ) : (
          <>
            <p className="m-0">
              Say this in chat, as <b>{made.login}</b> on {titled(made.platform!)}:
            </p>
            <Copyable text={made.phrase!} label="the phrase" />
            <p className="sub m-0">
              Only a line of {made.login} counts. The phrase is good for {Math.max(0, Math.round((Date.parse(made.until!) - now) / 60_000))} min more.
            </p>
            <Proof ok={false} calm={!made.told}>
              {made.told || "Listening…"}
            </Proof>
          </>
        )}
        <div>
          <Button size="s" onClick={() => void deed(api.DELETE("/api/moving/claim"), { stale: [about.moving] })}>
            {made.state === "linked" ? "Link another" : "Give it up"}
          </Button>
        </div>
      </div>
    );
  return (
    <form
      aria-label="Whose account it is"
      onSubmit={(e) => {
        e.preventDefault();
        begin();
      }}
    >
      {platforms.length > 1 && <Line label="On">{() => <One label="Platform" value={on} list={platforms.map((p) => [p, titled(p)])} onPick={setPlatform} />}</Line>}
      <Line label="Your login in chat" hint="The house gives you a phrase; a line of this login with the phrase in it proves that it is yours." fault={fault}>
        {(id) => <Field id={id} value={who} maxLength={60} onChange={(e) => setLogin(e.target.value)} />}
      </Line>
      {made?.state === "late" && <Fault>{made.told || "Nobody said the phrase within its ten minutes. Take a new one."}</Fault>}
      <Button look="lit" className="mt-1">
        Give me a phrase
      </Button>
    </form>
  );
}
