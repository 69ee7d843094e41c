import { Popover } from "radix-ui";
import type { Card } from "../api/client";
import { span } from "../kit/time";
import { WhyLine } from "./Why";

const shownFor = 15 * 60_000; // ms a card stays in the strip

/** Cards shows what went to the overlay lately, the newest first; one that is on now glows. */
export function Cards({ cards, now }: { cards: Card[]; now: number }) {
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
            <Popover.Root>
              <Popover.Trigger className="why !ml-0" aria-label={`Why the card ${c.heading}?`}>
                why?
              </Popover.Trigger>
              <Popover.Portal>
                <Popover.Content className="pop !w-96" side="top" sideOffset={6} aria-label="Why">
                  <WhyLine line={c.line} />
                </Popover.Content>
              </Popover.Portal>
            </Popover.Root>
          </div>
        );
      })}
    </section>
  );
}
