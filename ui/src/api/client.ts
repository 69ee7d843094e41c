import createClient from "openapi-fetch";
import type { Profile, Reading, Service, VividPorchHouseFileFormat3 } from "./house.gen";
import { madeUp } from "./madeUp";
import type { components, paths } from "./schema.gen";

export type Porch = components["schemas"]["Porch"];
export type Change = components["schemas"]["Change"];
export type Guest = components["schemas"]["Guest"];
export type Entry = components["schemas"]["Entry"];
export type Forecast = components["schemas"]["Forecast"];
export type Dates = components["schemas"]["Dates"];
export type DateEntry = components["schemas"]["DateEntry"];
export type YearEntry = components["schemas"]["YearEntry"];
export type OnwardTo = components["schemas"]["OnwardTo"];
export type Thread = components["schemas"]["Thread"];
export type Coming = components["schemas"]["Coming"];
export type Waiting = components["schemas"]["Waiting"];
export type Door = components["schemas"]["Door"];
export type Mark = components["schemas"]["Mark"];
export type Session = components["schemas"]["Session"];
export type Reason = components["schemas"]["Reason"];
export type Problem = components["schemas"]["Problem"];
export type Deed = components["schemas"]["Deed"];
export type CourtesyView = components["schemas"]["CourtesyView"];
export type Courtesies = components["schemas"]["Courtesies"];
export type Rule = components["schemas"]["CourtesyRule"];
export type Asking = components["schemas"]["Asking"];
export type WordClash = components["schemas"]["WordClash"];
export type CommandRow = components["schemas"]["CommandRow"];
export type Who = components["schemas"]["Who"];
export type Measure = components["schemas"]["Measure"];
export type RuleOutput = components["schemas"]["RuleOutput"];
export type DraftOutput = components["schemas"]["DraftOutput"];
export type FillIn = components["schemas"]["FillIn"];
export type OwnParts = components["schemas"]["OwnParts"];
export type Finding = components["schemas"]["Finding"];
export type Card = components["schemas"]["CardView"];
export type Draft = components["schemas"]["Draft"];
export type Fault = components["schemas"]["Fault"];
export type SamplePerson = components["schemas"]["SamplePerson"];
export type Tried = components["schemas"]["Tried"];
export type TriedOutput = components["schemas"]["TriedOutput"];

export type BookRow = components["schemas"]["BookRow"];
export type BookEdit = components["schemas"]["BookEdit"];
export type BookSheet = components["schemas"]["BookSheet"];
export type Moment = components["schemas"]["Moment"];
export type Crew = components["schemas"]["Crew"];
export type Crews = components["schemas"]["Crews"];
export type RaidLine = components["schemas"]["LedgerLine"];
export type Cohort = components["schemas"]["Cohort"];
export type Import = components["schemas"]["Import"];
export type Understood = components["schemas"]["Understood"];

export type Points = components["schemas"]["PointsView"];
export type PointsSettings = components["schemas"]["PointsSettings"];
export type Terms = components["schemas"]["DrawTerms"];
export type DrawPage = components["schemas"]["DrawPage"];
export type DrawPick = components["schemas"]["DrawPick"];
export type Draws = components["schemas"]["DrawsView"];

export type LookBack = components["schemas"]["LookBack"];
export type SmallStream = components["schemas"]["SmallStream"];
export type CameOne = components["schemas"]["CameOne"];
export type Rehearsals = components["schemas"]["Rehearsals"];
export type RehearsalWanted = components["schemas"]["RehearsalWanted"];
export type RehearsalResult = components["schemas"]["RehearsalResult"];
export type RehearsedSide = components["schemas"]["RehearsedSide"];
export type EveningDifference = components["schemas"]["EveningDifference"];
export type RehearsedLine = components["schemas"]["RehearsedLine"];
export type MomentRow = components["schemas"]["MomentRow"];
export type SideWanted = components["schemas"]["SideWanted"];
export type DraftChanges = components["schemas"]["DraftChanges"];
export type Dials = components["schemas"]["Dials"];
export type EveningRow = components["schemas"]["EveningRow"];
export type Expected = components["schemas"]["Expected"];

export type House = components["schemas"]["House"];
export type { Profile, Reading, Service };
export type PlatformProfile = Omit<components["schemas"]["PlatformProfile"], "profile"> & { profile: Profile };
export type DoorPage = components["schemas"]["DoorPage"];
export type Moving = components["schemas"]["Moving"];
export type Step = components["schemas"]["Step"];
export type Claim = components["schemas"]["Claim"];
export type ShownEvening = components["schemas"]["ShownEvening"];
export type PlacesView = components["schemas"]["PlacesView"];
export type Overlays = components["schemas"]["Overlays"];
export type PlaceStanding = components["schemas"]["PlaceStanding"];
export type HappeningRow = components["schemas"]["HappeningRow"];
export type InForce = components["schemas"]["InForce"];
export type RelayView = components["schemas"]["RelayView"];
export type Note = components["schemas"]["Note"];
export type StreamBookmarks = components["schemas"]["StreamBookmarks"];
export type Delivery = components["schemas"]["Delivery"];
export type Backup = components["schemas"]["Backup"];
/** The settings as one document: the house file. */
export type Settings = Omit<VividPorchHouseFileFormat3, "madeOn" | "crews">;

// What changes the settings goes out in the order in which it was done: two opposite presses in quick succession could
// cross on their way, and the first would have the last word.
const settings =
  /^\/api\/(courtesies|pegs|house\/sections|settings|house\/(rename|takeaway)|places\/[^/]+\/(relays|announce))\b(?!.*\/(try|check|ladder|words|street|whom|forecast)$)/;
const longest = 10_000; // ms that one waits for those before it
let before: Promise<unknown> = Promise.resolve();

// Whoever leaves the page leaves nothing behind: all that waits its turn goes out then, and outlives the page.
const leaving = new Promise<true>((go) => globalThis.addEventListener?.("pagehide", () => go(true)));

const gone = 8_000; // ms that one tries again while the house can write nothing down; less than those behind it wait

/** again is what may be done twice: what it puts stands there as it does after the first time. */
const again = (r: Request) => r.method !== "POST" || /\/(enact|switch)$/.test(new URL(r.url).pathname);

/**
 * patient sends a change, and again while the house answers that it could write nothing down, and after how long to ask anew (RFC 9110,
 * section 10.2.3): whoever has left a field has no other moment in which it would be kept.
 */
const patient = async (request: Request): Promise<Response> => {
  for (const end = Date.now() + gone; ;) {
    const answer = await fetch(request.clone());
    const after = answer.status === 503 && again(request) ? answer.headers.get("Retry-After") : null;
    if (after === null || Date.now() + 1000 * Number(after) > end) return answer;
    await new Promise((go) => setTimeout(go, 1000 * Number(after)));
  }
};

/** inTurn sends a request after those before it; ready is waited for once it is its turn. */
const inTurn = (request: Request, ready?: (r: Request) => Promise<unknown>): Promise<Response> => {
  if (request.method === "GET" || !settings.test(new URL(request.url).pathname)) return fetch(request);
  const turn = Promise.race([before.then(() => false), leaving, new Promise<false>((go) => setTimeout(() => go(false), longest))]);
  const mine = turn.then(async (left) => {
    if (!left) await ready?.(request);
    return left ? fetch(new Request(request, { keepalive: true })) : patient(request);
  });
  before = mine.catch(() => undefined); // whatever became of it
  return mine;
};

export const api = createClient<paths>({ baseUrl: "/", fetch: (r) => inTurn(r) });

let mine = "";

/** setToken keeps what every change must carry. */
export function setToken(t: string) {
  mine = t;
}

api.use({
  onRequest({ request }) {
    if (request.method === "GET") return request;
    if (madeUp.current()) return Response.json({ status: 409, title: "This evening is made up", detail: "Nothing that is done in it is done." }, { status: 409 });
    request.headers.set("X-Porch-Token", mine);
    return request;
  },
});

/** based says which version of the settings a change was made on: what others changed since is merged with it. */
export const based = (version: number) => ({ headers: { "X-Porch-Base": String(version) } });

/**
 * alone reports whether a change came into force right upon the version it was made on: nobody else's came in between, and what is
 * changed next is made on it.
 */
export const alone = (made: InForce, base: number) => made.changed && made.version === base + 1;

/** basedLate is based for what waits its turn behind changes of the same: those may still make the version it is made on. */
export const basedLate = (version: () => number, known: Promise<unknown>) => ({
  ...based(version()),
  fetch: (request: Request) =>
    inTurn(request, async (r) => {
      await known;
      r.headers.set("X-Porch-Base", String(version()));
    }),
});

/** said turns a problem into one sentence with what to do. */
export function said(p: unknown): string {
  const q = p as Partial<Problem> | undefined;
  if (!q?.title) return "The house did not answer. Try again in a moment.";
  return [q.title, q.remedy ?? q.detail].filter(Boolean).join(": ");
}

/** sent sends a file as it is; the answer is of the form that all others have. */
export async function sent<T>(path: string, file: File, { method = "POST", type = "application/octet-stream" } = {}): Promise<{ data?: T; error?: unknown }> {
  const res = await fetch(path, { method, headers: { "X-Porch-Token": mine, "Content-Type": type }, body: file });
  const body: unknown = await res.json().catch(() => ({}));
  return res.ok ? { data: body as T } : { error: body };
}

/** ask unwraps an answer, throwing its problem. */
export async function ask<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  const { data, error } = await call.catch(() => ({ data: undefined, error: {} }));
  if (error !== undefined) throw error;
  return data as T;
}

/** profilesOf are the platforms' profiles that a house knows, as their schema has them. */
export const profilesOf = (h: { profiles: unknown[] } | undefined) => (h?.profiles ?? []) as PlatformProfile[];
export type PlatformSignIn = components["schemas"]["PlatformSignIn"];
export type KeptMessage = components["schemas"]["KeptMessage"];
export type MadeOf = components["schemas"]["MadeOf"];
export type Makeable = components["schemas"]["Makeable"];
