import { api, type Waiting } from "../api/client";
import { useDeed } from "../api/deeds";
import { useLive } from "../api/live";
import { Button } from "../kit/Button";
import { Empty, Head, Scroll } from "../kit/Panel";
import { span, useHouseNow } from "../kit/time";

const words: Record<string, string> = { thank: "Thank", done: "Done", again: "Send again", forget: "Forget them" };
const signs: Record<string, string> = { raid: "~", late: "◷", post: "!", line: "?", regular: "○", act: "!", aside: "!", book: "!", settings: "!", host: "→", forget: "?" };
const nothing: Waiting[] = [];

export function WaitingForYou() {
  const waiting = useLive((s) => s.waiting) ?? nothing;
  const now = useHouseNow(1000);
  const deed = useDeed();
  return (
    <section className="flex min-h-0 flex-1 flex-col" aria-label="Waiting for you">
      <Head count={waiting.length}>Waiting for you</Head>
      <Scroll label="What waits for you">
        {waiting.length === 0 && <Empty>Nothing needs you. Unthanked raids, posts that did not arrive and what came late stand here.</Empty>}
        {waiting.map((w) => (
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
              <Button
                key={a}
                size="s"
                look={a === "done" ? "ghost" : "plain"}
                onClick={() => void deed(api.POST("/api/desk/waiting", { body: { item: w.item, act: a as "done" } }))}
              >
                {a === "again" && w.kind === "aside" ? "Try again" : (words[a] ?? a)}
              </Button>
            ))}
          </div>
        ))}
      </Scroll>
    </section>
  );
}
