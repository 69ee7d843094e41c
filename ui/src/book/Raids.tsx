import { useQuery } from "@tanstack/react-query";
import { api, ask, said as problem } from "../api/client";
import { dated, useNow } from "../kit/time";
import { useSheet } from "./shared";

/** Raids is the ledger: who brought how many, whom we went to, and what is owed. */
export function Raids() {
  const now = useNow(60_000);
  const { open, show } = useSheet();
  const q = useQuery({ queryKey: ["book", "raids"], queryFn: () => ask(api.GET("/api/book/raids")) });
  if (!q.data) return <p className="empty">{q.error ? problem(q.error) : "…"}</p>;
  const { lines } = q.data;
  if (lines.length === 0)
    return (
      <p className="empty">
        <b>No raids yet.</b> Who came over with people, and whom you went to see, is counted here by itself.
      </p>
    );
  const most = Math.max(1, ...lines.flatMap((l) => l.sizes));
  const owed = lines.filter((l) => l.came > l.went).length;
  return (
    <>
      <p className="sub px-4 pb-2">
        {owed} {owed === 1 ? "fellow streamer came" : "fellow streamers came"} more often than we went to them.
      </p>
      <div className="scroll grid-rows" tabIndex={0} role="table" aria-label="Raid ledger">
        <div role="row" className="r head ledger">
          {["Fellow streamer", "They came", "We went", "", "Balance"].map((h, i) => (
            <div role="columnheader" key={i}>
              {h || <span className="sr-only">Sizes</span>}
            </div>
          ))}
        </div>
        {lines.map((l) => (
          <div role="row" key={l.person} className={`r ledger static${open === l.person ? " on" : ""}`}>
            <div role="cell">
              <button className="plain" onClick={() => show(l.person)}>
                <b className="cut">
                  <bdi>{l.name}</bdi>
                </b>
              </button>
            </div>
            <div role="cell">{l.came || <span className="muted">–</span>}</div>
            <div role="cell">{l.went || <span className="muted">–</span>}</div>
            <div role="cell">
              <svg width="120" height="34" viewBox="0 0 120 34" role="img" aria-label={`sizes ${l.sizes.join(", ")}`}>
                {l.sizes.slice(-6).map((v, i) => {
                  const r = 3 + 13 * Math.sqrt(v / most);
                  return (
                    <path
                      key={i}
                      d={`M${i * 20 + 2} 30A${Math.min(r, 9)} ${r} 0 0 1 ${i * 20 + 2 + 2 * Math.min(r, 9)} 30Z`}
                      fill="none"
                      stroke="var(--marigold)"
                      strokeWidth="1.8"
                    />
                  );
                })}
              </svg>
            </div>
            <div role="cell" className="!whitespace-normal">
              {l.says}
              {l.unthanked > 0 && <span className="text-(--persimmon)"> · {l.unthanked} not thanked</span>}
              {l.lastWent && <span className="sub"> · we were there {dated(l.lastWent, now)}</span>}
            </div>
          </div>
        ))}
      </div>
    </>
  );
}
