import { useQuery } from "@tanstack/react-query";
import { api, ask, type Courtesies, type Finding } from "../api/client";

const heads: Record<Finding["kind"], string> = {
  missing: "missing",
  stopped: "stopped",
  never: "never happens",
  tie: "a tie",
  gap: "a gap",
  long: "too long",
  letters: "prints as letters",
};

/** WorthALook lists what a look over the whole set finds: what is stopped and by what, what can never happen, ties, gaps and wordings that do not come out as meant. */
export function WorthALook({ all, words, onGo }: { all: Courtesies; words: (id: string) => string; onGo: (id: string) => void }) {
  const q = useQuery({ queryKey: ["check", all.version], queryFn: () => ask(api.GET("/api/courtesies/check")), placeholderData: (b) => b, refetchInterval: 15_000 });
  const items = (q.data?.items ?? []).filter((f) => !(f.kind === "stopped" && f.what === "is switched off"));
  if (!items.length) return null;
  const said = (s: string) =>
    s.replace(/^ties with (\S+):/, (_, x: string) => `can tie with “${words(x)}”:`).replace(/^can never win: (\S+) is/, (_, x: string) => `can never win: “${words(x)}” is`);
  return (
    <>
      <h3 className="lane">Worth a look · {items.length}</h3>
      {items.map((f, i) => (
        <div key={i} className="c !items-start" data-finding={f.kind}>
          <button onClick={() => f.courtesy && onGo(f.courtesy)}>
            <span className="pill !m-0 !mr-1 !px-1.5 !py-0 !text-[12px]">{heads[f.kind]}</span>
            {f.courtesy && <b>{words(f.courtesy)}</b>}{" "}
            <span className="sub">
              {said(f.what)}; {f.remedy}.
            </span>
          </button>
        </div>
      ))}
    </>
  );
}
