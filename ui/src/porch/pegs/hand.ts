import { api } from "../../api/client";
import type { Kind } from "./peg";

/** Courtesies that are asked for by hand, about nobody in particular. */
export const pegs: Kind = ({ hands }) =>
  hands
    .filter((h) => !h.meant)
    .map((h) => ({
      id: `courtesy:${h.id}`,
      words: h.label,
      done: "It comes up in five seconds.",
      fresh: 2,
      press: () => api.POST("/api/desk/ask", { body: { act: "courtesy", courtesy: h.id } }),
    }));
