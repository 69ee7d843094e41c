import { useState } from "react";
import { api, type Waiting } from "../api/client";
import { useDeed } from "../api/deeds";
import { useLive } from "../api/live";
import { Answer } from "../kit/Answer";
import { Aloud } from "./Aloud";
import { Asked } from "./Asked";
import { Held, HeldAll } from "./Held";
import { Button } from "../kit/Button";
import { DateShape } from "../kit/drawings/DateShape";
import { Empty, Head, Scroll } from "../kit/Panel";
import { span, useHouseNow } from "../kit/time";
import { BeforeYouGo } from "./BeforeYouGo";

const words: Record<string, string> = { thank: "Thank", celebrate: "Celebrate", done: "Done", again: "Send again", forget: "Forget them" };
const signs: Record<string, string> = {
  raid: "~",
  late: "◷",
  post: "!",
  line: "?",
  regular: "○",
  note: "✎",
  social: "✎",
  act: "!",
  aside: "!",
  book: "!",
  settings: "!",
  host: "→",
  forget: "?",
  allow: "”",
  held: "”",
};
const nothing: Waiting[] = [];

export function WaitingForYou() {
  const waiting = useLive((s) => s.waiting) ?? nothing;
  const now = useHouseNow(1000);
  const deed = useDeed();
  const [answering, setAnswering] = useState<string>();
  const held = waiting.filter((w) => w.kind === "held");
  return (
    <section className="flex min-h-0 flex-1 flex-col" aria-label="Waiting for you">
      <Head count={waiting.length}>Waiting for you</Head>
      <Scroll label="What waits for you">
        <BeforeYouGo />
        {waiting.length === 0 && <Empty>Nothing needs you. Unthanked raids, days of people, notes, posts that did not arrive and what came late stand here.</Empty>}
        <HeldAll list={held} />
        <Away late={waiting.filter((w) => w.kind === "late" && w.account)} />
        {waiting
          .filter((w) => !(w.kind === "late" && w.account))
          .map((w) => (
            <div key={w.item} className="wt" data-item={w.item}>
              <span className="sh" aria-hidden>
                {w.kind === "day" ? <DateShape kind="birthday" /> : (signs[w.kind] ?? "!")}
              </span>
              <div className="flex-1">
                <bdi>{w.title}</bdi>
                {w.count > 1 && w.kind !== "post" ? ` · ${w.count} times` : ""}
                {w.kind === "social" && <Asked w={w} />}
                {w.kind === "allow" && <Aloud w={w} />}
                {w.kind === "held" && <Held w={w} first={w.item === held[0]?.item} />}
                <div className="sub">
                  {!["social", "allow", "held"].includes(w.kind) && (
                    <>
                      <bdi>{w.why}</bdi>
                      {" · "}
                    </>
                  )}
                  {w.kind === "allow" && w.ends
                    ? `given up in ${span(Date.parse(w.ends) - now)}`
                    : w.next
                      ? `next try in ${span(Date.parse(w.next) - now)}`
                      : `${span(now - Date.parse(w.since))} ago`}
                </div>
                {answering === w.item && <Answer event={Number(w.item.slice("note/".length))} name={w.name ?? ""} onDone={() => setAnswering(undefined)} />}
              </div>
              {w.kind === "note" && (
                <Button size="s" aria-expanded={answering === w.item} onClick={() => setAnswering(answering === w.item ? undefined : w.item)}>
                  Answer
                </Button>
              )}
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

/** Away gathers what came late, by person: what happened while the house, or its way out, was away. Thanks can still be said. */
function Away({ late }: { late: Waiting[] }) {
  const deed = useDeed();
  const now = useHouseNow(10_000);
  if (late.length === 0) return null;
  const people = new Map<string, Waiting[]>();
  for (const w of late) people.set(w.account!, [...(people.get(w.account!) ?? []), w]);
  const act = (w: Waiting, a: "thank" | "done") => deed(api.POST("/api/desk/waiting", { body: { item: w.item, act: a } }));
  return (
    <section className="away" aria-label="While you were away">
      <h3 className="m-0 text-[15px]">
        While you were away <span className="sub">{late.length === 1 ? "one thing came late" : `${late.length} things came late`}</span>
      </h3>
      {[...people].map(([account, list]) => (
        <div key={account} className="wt">
          <span className="sh" aria-hidden>
            ◷
          </span>
          <div className="min-w-0 flex-1">
            <bdi>{list[0]!.name}</bdi>
            {list.map((w) => (
              <div key={w.item} className="flex items-center gap-2 py-0.5">
                <span className="sub flex-1">
                  {w.of}
                  {w.count > 1 ? `, ${w.count} times` : ""} {span(now - Date.parse(w.since))} ago
                </span>
                <Button size="s" aria-label={`Thank ${w.name ?? ""} for ${w.of}`} onClick={() => void act(w, "thank")}>
                  Thank
                </Button>
              </div>
            ))}
          </div>
          <Button size="s" look="ghost" aria-label={`Done with ${list[0]!.name}`} onClick={() => list.forEach((w) => void act(w, "done"))}>
            Done
          </Button>
        </div>
      ))}
    </section>
  );
}
