import { api } from "../../api/client";
import type { Kind } from "./peg";

export const pegs: Kind = ({ hush }) => [
  {
    id: "hush",
    words: hush ? "Lift hush" : "Hush",
    done: hush ? "The house speaks again." : "The house holds its lines.",
    fresh: 5,
    turns: true,
    press: () => api.POST("/api/desk/hush", { body: { on: !hush } }),
  },
];
