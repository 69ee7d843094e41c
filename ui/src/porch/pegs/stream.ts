import { api } from "../../api/client";
import type { Kind } from "./peg";

export const pegs: Kind = ({ on }) => [
  {
    id: "stream",
    words: on ? "A new stream begins" : "The stream is on",
    done: on ? "A new stream has begun." : "The stream is on.",
    fresh: 1,
    press: () => api.POST("/api/desk/stream", { body: { act: on ? "new" : "opened" } }),
  },
];
