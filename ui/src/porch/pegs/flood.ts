import { api } from "../../api/client";
import type { Kind } from "./peg";

export const pegs: Kind = ({ flood }) => [
  {
    id: "flood",
    words: flood ? "Let everybody in" : "Hold a flood off",
    done: flood ? "Everybody is let in again." : "Newcomers' lines are held.",
    turns: true,
    press: () => api.POST("/api/desk/flood", { body: { on: !flood } }),
  },
];
