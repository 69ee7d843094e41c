import { useQuery } from "@tanstack/react-query";
import { api, type Courtesies, type Finding } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, findings } from "../api/queries";
import { Button } from "../kit/Button";
import { Word } from "../kit/Chip";
import { sentenceOf } from "./outputs";

const heads: Record<Finding["kind"], string> = {
  missing: "missing",
  stopped: "stopped",
  never: "never happens",
  tie: "a tie",
  gap: "a gap",
  long: "too long",
  letters: "prints as letters",
  link: "a link that is not free",
};

const off = (f: Finding) => f.kind === "stopped" && f.what === "is switched off";

/** said is a finding in one sentence, with courtesies called by what they do. */
const said = (all: Courtesies, f: Finding) =>
  `${f.what
    .replace(/^ties with (\S+):/, (_, x: string) => `can tie with “${sentenceOf(all, x)}”:`)
    .replace(/^can never win: (\S+) is/, (_, x: string) => `can never win: “${sentenceOf(all, x)}” is`)}; ${f.remedy}.`;

/** useFindings is what a look over the whole set finds. */
const useFindings = (all: Courtesies) => useQuery(findings(all.version)).data?.items ?? [];

/** Stopped says what keeps this one courtesy from happening: the switch, right, door or place. */
export function Stopped({ id, all }: { id: string; all: Courtesies }) {
  const deed = useDeed();
  const mine = useFindings(all).filter((f) => f.courtesy === id || (!f.courtesy && f.kind === "stopped"));
  return (
    <div role="status" data-testid="stopped">
      {mine.map((f) => (
        <p key={f.kind + f.what} className="sub pb-1">
          <Word>{heads[f.kind]}</Word>
          {said(all, f)}
          {off(f) && (
            <Button
              size="s"
              className="ml-2"
              onClick={() => void deed(api.POST("/api/courtesies/{id}/switch", { params: { path: { id } }, body: { on: true } }), { stale: [about.courtesies] })}
            >
              Switch it on
            </Button>
          )}
        </p>
      ))}
    </div>
  );
}

/** WorthALook lists what a look over the whole set finds: what is stopped and by what, what can never happen, ties, gaps and wordings that do not come out as meant. */
export function WorthALook({ all, onGo }: { all: Courtesies; onGo: (id: string) => void }) {
  const items = useFindings(all).filter((f) => !off(f));
  if (!items.length) return null;
  return (
    <>
      <h3 className="lane">Worth a look · {items.length}</h3>
      {items.map((f, i) => (
        <div key={i} className="c items-start" data-finding={f.kind}>
          <button onClick={() => f.courtesy && onGo(f.courtesy)}>
            <Word>{heads[f.kind]}</Word>
            {f.courtesy && <b>{sentenceOf(all, f.courtesy)}</b>} <span className="sub">{said(all, f)}</span>
          </button>
        </div>
      ))}
    </>
  );
}
