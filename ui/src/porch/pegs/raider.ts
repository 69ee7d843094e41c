import { api } from "../../api/client";
import type { Kind } from "./peg";

export const pegs: Kind = () => [
  {
    id: "raider",
    words: "Shout out the last raider",
    done: "The shout-out comes up in five seconds.",
    fresh: 4,
    press: () => api.POST("/api/desk/ask", { body: { act: "shoutout", whom: "raider" } }),
  },
];
