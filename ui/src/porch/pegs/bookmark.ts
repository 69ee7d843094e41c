import { api } from "../../api/client";
import type { Kind } from "./peg";

export const pegs: Kind = () => [{ id: "bookmark", words: "Mark this moment", done: "Marked.", fresh: 3, press: () => api.POST("/api/desk/bookmark", { body: {} }) }];
