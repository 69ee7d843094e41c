import type { Card } from "../api/client";
import { useLive } from "../api/live";
import { Quiet } from "../kit/Button";
import { Pop } from "../kit/Pop";
import { span, useHouseNow } from "../kit/time";
import { WhyLine } from "./Why";

const shownFor = 15 * 60_000; // ms a card stays in the strip

const nothing: Card[] = [];

/** Cards shows what went to the overlay lately, the newest first; one that is on now glows. */
export function Cards() {
  const cards = useLive((s) => s.cards) ?? nothing;
  const now = useHouseNow(1000);
  const list = cards
    .filter((c) => now - Date.parse(c.at) < shownFor)
    .slice(-3)
    .reverse();
  if (!list.length) return null;
  return (
    <section className="cards" aria-label="Cards on the overlay">
      {list.map((c) => {
        const age = now - Date.parse(c.at);
        const on = age < (c.seconds ?? 8) * 1000;
        return (
          <div key={c.line} className={on ? "ocard on" : "ocard"} data-card={c.line}>
            {c.media && <img src={`/api/media/${encodeURIComponent(c.media)}`} alt="" />}
            <div className="min-w-0 flex-1">
              <b className="cut block" title={c.heading}>
                <bdi>{c.heading}</bdi>
              </b>
              <span className="sub cut block">
                {c.second ? (
                  <>
                    <bdi>{c.second}</bdi> ·{" "}
                  </>
                ) : null}
                {on ? "on the overlay now" : `card, ${span(Math.max(0, age))} ago`}
                {c.try ? " · a try" : ""}
              </span>
            </div>
            <Pop label="Why" width="l" side="top" trigger={<Quiet aria-label={`Why the card ${c.heading}?`}>why?</Quiet>}>
              <WhyLine line={c.line} />
            </Pop>
          </div>
        );
      })}
    </section>
  );
}
