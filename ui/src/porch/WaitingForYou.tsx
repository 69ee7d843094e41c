import { api, ask, said } from "../api/client";
import type { Live } from "../api/live";
import { span } from "../kit/time";
import { toast } from "../kit/toast";

const words: Record<string, string> = { thank: "Thank", done: "Done", again: "Send again", forget: "Forget them" };
const signs: Record<string, string> = { raid: "~", late: "◷", post: "!", line: "?", regular: "○", act: "!", aside: "!", book: "!", settings: "!", host: "→", forget: "?" };

export function WaitingForYou({ live, now }: { live: Live; now: number }) {
  const act = (item: string, a: string) =>
    ask(api.POST("/api/desk/waiting", { body: { item, act: a as "done" } })).then(
      (d) => {
        if (!d.done) toast(d.because.join("; "));
      },
      (p) => toast(said(p)),
    );
  return (
    <section className="flex min-h-0 flex-1 flex-col" aria-label="Waiting for you">
      <div className="ph">
        <h2>Waiting for you</h2>
        <span className="n">{live.waiting.length}</span>
      </div>
      <div className="scroll" tabIndex={0} role="group" aria-label="What waits for you">
        {live.waiting.length === 0 && <p className="empty">Nothing needs you. Unthanked raids, posts that did not arrive and what came late stand here.</p>}
        {live.waiting.map((w) => (
          <div key={w.item} className="wt" data-item={w.item}>
            <span className="sh" aria-hidden>
              {signs[w.kind] ?? "!"}
            </span>
            <div className="flex-1">
              <bdi>{w.title}</bdi>
              {w.count > 1 && w.kind !== "post" ? ` · ${w.count} times` : ""}
              <div className="sub">
                <bdi>{w.why}</bdi>
                {w.next ? ` · next try in ${span(Date.parse(w.next) - now)}` : ` · ${span(now - Date.parse(w.since))} ago`}
              </div>
            </div>
            {w.acts.map((a) => (
              <button key={a} className={a === "done" ? "btn s ghost" : "btn s"} onClick={() => void act(w.item, a)}>
                {a === "again" && w.kind === "aside" ? "Try again" : (words[a] ?? a)}
              </button>
            ))}
          </div>
        ))}
      </div>
    </section>
  );
}
