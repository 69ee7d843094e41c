import { api } from "../../api/client";
import type { Kind } from "./peg";

export const pegs: Kind = () => [
  {
    id: "greetings",
    words: "Greet everybody again",
    done: "Everybody’s next line is greeted anew.",
    fresh: 3,
    press: () => api.POST("/api/desk/rearm", { body: { what: "greetings" } }),
  },
  {
    id: "shout-outs",
    words: "Shout-outs once more",
    done: "Everybody may be shouted out anew.",
    press: () => api.POST("/api/desk/rearm", { body: { what: "shout-outs" } }),
  },
];
