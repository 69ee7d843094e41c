import { useQuery } from "@tanstack/react-query";
import { api, said as problem } from "../api/client";
import { useDeed, usePart } from "../api/deeds";
import { about, pairs } from "../api/queries";
import { Button } from "../kit/Button";
import { Empty, Scroll } from "../kit/Panel";
import { titled } from "../kit/words";
import { useSheet } from "./sheet";

/** Pairs suggests records that may be one person, with what speaks for it. */
export function Pairs() {
  const deed = useDeed();
  const part = usePart();
  const { show } = useSheet();
  const q = useQuery(pairs);
  if (!q.data) return <Empty>{q.error ? problem(q.error) : "…"}</Empty>;
  const stale = [about.book];
  if (q.data.pairs.length === 0)
    return (
      <Empty>
        <b>No likely pairs.</b> When somebody has nearly the same login on two platforms, they stand here with the evidence.
      </Empty>
    );
  return (
    <Scroll className="px-4 pb-4" label="Likely pairs">
      <p className="sub pb-2">These may be one person with two accounts. Merging keeps everything and can be parted again at any time.</p>
      {q.data.pairs.map((p) => (
        <div key={`${p.a.person}-${p.b.person}`} className="pair" data-testid="pair">
          {[p.a, p.b].map((h) => (
            <button key={h.person} className="plain min-w-0 flex-1" onClick={() => show(h.person)}>
              <b className="cut">
                <bdi>{h.login}</bdi>
              </b>
              <span className="sub">
                {titled(h.platform)} · {h.streams} streams
              </span>
            </button>
          ))}
          <ul className="sub m-0 min-w-0 flex-[1.6] list-none p-0">
            {p.because.map((b) => (
              <li key={b}>{b}</li>
            ))}
          </ul>
          <Button
            size="s"
            look="lit"
            onClick={() => void deed(api.POST("/api/book/merge", { body: { kept: p.a.person, gone: p.b.person } }), { stale, say: "Merged.", undo: () => part(p.b.person) })}
          >
            Merge
          </Button>
          <Button
            size="s"
            look="ghost"
            onClick={() => void deed(api.POST("/api/book/pairs", { body: { kept: p.a.person, gone: p.b.person } }), { stale, say: "Noted: two different people." })}
          >
            Two people
          </Button>
        </div>
      ))}
    </Scroll>
  );
}
