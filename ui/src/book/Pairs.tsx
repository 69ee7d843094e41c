import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, said as problem } from "../api/client";
import { toast } from "../kit/toast";
import { useSheet } from "./shared";

/** Pairs suggests records that may be one person, with what speaks for it. */
export function Pairs() {
  const client = useQueryClient();
  const { show } = useSheet();
  const q = useQuery({ queryKey: ["book", "pairs"], queryFn: () => ask(api.GET("/api/book/pairs")) });
  if (!q.data) return <p className="empty">{q.error ? problem(q.error) : "…"}</p>;
  const again = () => client.invalidateQueries({ queryKey: ["book"] });
  const act = (call: Promise<unknown>, then: () => void) =>
    call.then(
      () => (then(), void again()),
      (p) => toast(problem(p)),
    );
  if (q.data.pairs.length === 0)
    return (
      <p className="empty">
        <b>No likely pairs.</b> When somebody has nearly the same login on two platforms, they stand here with the evidence.
      </p>
    );
  return (
    <div className="scroll px-4 pb-4" tabIndex={0} role="group" aria-label="Likely pairs">
      <p className="sub pb-2">These may be one person with two accounts. Merging keeps everything and can be parted again at any time.</p>
      {q.data.pairs.map((p) => (
        <div key={`${p.a.person}-${p.b.person}`} className="pair" data-testid="pair">
          {[p.a, p.b].map((h) => (
            <button key={h.person} className="plain min-w-0 flex-1" onClick={() => show(h.person)}>
              <b className="cut">
                <bdi>{h.login}</bdi>
              </b>
              <span className="sub">
                {h.platform[0]!.toUpperCase() + h.platform.slice(1)} · {h.streams} streams
              </span>
            </button>
          ))}
          <ul className="sub m-0 min-w-0 flex-[1.6] list-none p-0">
            {p.because.map((b) => (
              <li key={b}>{b}</li>
            ))}
          </ul>
          <button
            className="btn s lit"
            onClick={() =>
              void act(ask(api.POST("/api/book/merge", { body: { kept: p.a.person, gone: p.b.person } })), () =>
                toast("Merged.", { label: "Undo", act: () => void ask(api.POST("/api/book/part", { body: { record: p.b.person } })).then(again, (x) => toast(problem(x))) }),
              )
            }
          >
            Merge
          </button>
          <button
            className="btn s ghost"
            onClick={() => void act(ask(api.POST("/api/book/pairs", { body: { kept: p.a.person, gone: p.b.person } })), () => toast("Noted: two different people."))}
          >
            Two people
          </button>
        </div>
      ))}
    </div>
  );
}
