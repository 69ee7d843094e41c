import type { ComponentType } from "react";
import type { Settings } from "../../api/client";

export type Place = NonNullable<Settings["places"]>[number];

/** What the parts of a kind's form work with. */
export type Form = {
  place: Partial<Place>;
  /** Changes it as it is typed; what is chosen by a press comes into force at once. */
  set: (part: Partial<Place>, now?: boolean) => void;
  /** Brings it into force: a field was left. */
  save: () => void;
  /** What is wrong with a field. */
  fault: (field: string) => string | undefined;
  /** It is there already; else it is being made. */
  made: boolean;
};

/** PlaceKind is a kind of places as it is set up; one more kind is one more file beside this one. */
export type PlaceKind = {
  name: string;
  words: string;
  order: number;
  /** What a new one holds before anything is written. */
  fresh: Partial<Place>;
  /** What is still missing before it can be added, in words. */
  missing?: (p: Partial<Place>) => string | undefined;
  /** Secrets that are kept for its address. */
  secrets?: { slot: "secret" | "token" | "password"; label: string; words: string; hint: string; looks?: string }[];
  Fields: ComponentType<Form>;
};

const files = import.meta.glob<PlaceKind>(["./*.tsx"], { eager: true, import: "kind" });

/** placeKinds are all there are, in the order in which they are offered. */
export const placeKinds: PlaceKind[] = Object.values(files).sort((a, b) => a.order - b.order);

/** kindOf is the kind of a place; a webhook where it says none. */
export const kindOf = (p: Partial<Place>): PlaceKind => placeKinds.find((k) => k.name === (p.kind || "webhook")) ?? placeKinds[0]!;
