import type { Box, Line, Part } from "./frames";

/** Something on its way to be shown. */
export interface Shown {
  /** It is loaded, or never will be. */
  ready: Promise<unknown>;
  /** How long it takes by itself, where it does; in seconds. */
  seconds?: () => number;
  /** What could not be shown. */
  failed?: () => string | undefined;
  begin: (seconds: number) => void;
  /** It goes, which may take a moment. */
  end: () => Promise<unknown> | void;
  silence?: () => void;
}

/** What a box does with what it is told; a kind has those that concern it. */
export interface BoxView {
  board?: (value: unknown) => void;
  line?: (l: Line) => void;
  unline?: (ids: number[]) => void;
  emote?: (url: string) => void;
  show?: (p: Part, f: { try?: boolean }) => Shown;
  sample?: (on: boolean) => void;
  /** Its size on the screen changed. */
  fits?: () => void;
  gone?: () => void;
}

export interface Env {
  media: (m: { name: string; path?: string }) => string;
  now: () => number;
  mute?: boolean;
  calm: () => boolean;
}

export type Kind = (at: HTMLElement, box: Box, env: Env) => BoxView;
