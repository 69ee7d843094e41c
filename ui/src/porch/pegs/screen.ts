import { api } from "../../api/client";
import type { Kind } from "./peg";

export const pegs: Kind = () => [
  { id: "silence", words: "Stop the sound", done: "The overlays are silent.", press: () => api.POST("/api/desk/silence") },
  { id: "screen-try", words: "A try on screen", done: "It is on the overlay, marked as a try.", press: () => api.POST("/api/desk/screen") },
];
