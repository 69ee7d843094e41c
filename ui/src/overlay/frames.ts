import type { Box, Overlay } from "../api/house.gen";

export type { Box, Overlay };

/** A file from the shelf, as it is shown or played. */
export interface Medium {
  name: string;
  path?: string; // below the overlay's own address
  kind: "picture" | "sound" | "film";
  type: string;
  wide?: number;
  high?: number;
  seconds?: number;
  face?: boolean; // somebody's picture, which stands in their lantern
  gain: number;
}

/** One thing of what is shown at once. */
export interface Part {
  box?: string;
  effect: "card" | "film" | "sound" | "speak" | "box";
  text?: string;
  second?: string;
  letters?: string;
  style?: Partial<Pick<Box, "look" | "size" | "board" | "words" | "light" | "comes" | "goes">>;
  media?: Medium;
  whole?: boolean;
  key?: Box["key"];
}

export interface Line {
  id: number;
  sort: string;
  platform: string;
  mark: string;
  name: string;
  tint: number;
  text: string;
  emotes?: { from: number; to: number; path: string }[];
}

/** What is shown at once; a try is not counted, and nobody is told of it. */
export interface Show {
  do: "show" | "try";
  show: string;
  try?: boolean;
  seconds: number;
  parts: Part[];
}

/** What the house tells a page of an overlay. */
export type Frame =
  | { do: "stand"; now: string; overlay: Overlay; board: Record<string, unknown>; lines?: Line[]; samples?: string[] }
  | { do: "board"; now: string; board: Record<string, unknown> }
  | Show
  | { do: "line"; line: Line }
  | { do: "unline"; ids: number[] }
  | { do: "sample"; box: string; on: boolean; seconds: number }
  | { do: "beat" }
  | { do: "silence" }
  | { do: "drop"; show: string }
  | { do: "gone" };

/** What a page knows of something that it was told to show. */
export interface Known {
  show: string;
  seconds: number;
  left?: number;
  on?: boolean;
  over?: boolean;
}
