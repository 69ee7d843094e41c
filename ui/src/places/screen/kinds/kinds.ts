import type { FunctionComponent } from "react";
import type { Box } from "../../../overlay/frames";
import { Cards } from "./Cards";
import { Countdown } from "./Countdown";
import { Emotes } from "./Emotes";
import { Film } from "./Film";
import { Count, Goal } from "./Goal";
import { Last } from "./Last";
import { Lines } from "./Lines";
import type { FormOf } from "./parts";
import { Rail } from "./Rail";

/** The forms of the kinds of boxes. */
export const kinds: Record<Box["kind"], FunctionComponent<FormOf>> = {
  cards: Cards,
  film: Film,
  "chat lines": Lines,
  goal: Goal,
  count: Count,
  "last one": Last,
  rail: Rail,
  countdown: Countdown,
  emotes: Emotes,
};
