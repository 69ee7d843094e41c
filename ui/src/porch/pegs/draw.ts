import { api } from "../../api/client";
import type { Kind } from "./peg";

/** The draw that goes on is drawn with one press; one that is kept ready is opened with one. */
export const pegs: Kind = ({ draw, ready }) => [
  { id: "draw", words: draw === "closed" ? "Draw" : "Close and draw", done: "It is drawn.", press: () => api.POST("/api/desk/draw", { body: { act: "draw" } }) },
  ...ready.map((name) => ({
    id: `draw:${name}`,
    words: `Open the draw: ${name}`,
    done: "The draw is open.",
    press: () => api.POST("/api/desk/draw", { body: { act: "open", ready: name } }),
  })),
];
