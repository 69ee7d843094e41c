import { audio } from "../sound";
import type { Env, BoxView, Kind } from "../view";
import { cards } from "./cards";
import { countdown } from "./countdown";
import { emotes } from "./emotes";
import { film } from "./film";
import { count, goal } from "./goal";
import { last } from "./last";
import { lines } from "./lines";
import { rail } from "./rail";

/** The kinds of boxes, by their names; and sound, which needs none. */
export const kinds: Record<Box, Kind> & { sound: (env: Env) => BoxView } = {
  cards,
  film,
  "chat lines": lines,
  goal,
  count,
  "last one": last,
  rail,
  countdown,
  emotes,
  sound: audio,
};

type Box = "cards" | "film" | "chat lines" | "goal" | "count" | "last one" | "rail" | "countdown" | "emotes";
