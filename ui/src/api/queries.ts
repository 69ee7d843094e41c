import { infiniteQueryOptions, keepPreviousData, queryOptions } from "@tanstack/react-query";
import { api, ask, type DraftOutput, type Reading, type Rule, type SamplePerson, type Who } from "./client";
import { threadOf } from "./threads";
import type { operations } from "./schema.gen";

// All that is asked of the house, each question once: what it is kept under, and how it is asked. A
// deed names by `about` what it makes stale.

/** about is what questions are kept under; what stands before it is kept under it too. */
export const about = {
  all: [],
  session: ["session"],
  members: ["members"],
  log: ["log"],
  book: ["book"],
  courtesies: ["courtesies"],
  history: ["history"],
  media: ["media"],
  house: ["house"],
  moving: ["moving"],
  backups: ["backups"],
  dates: ["dates"],
  places: ["places"],
  bookmarks: ["bookmarks"],
  notes: ["notes"],
  overlays: ["overlays"],
  guard: ["guard"],
  draws: ["draws"],
  points: ["points"],
  rehearsal: ["rehearsal"],
  lookback: ["lookback"],
} as const;

export type People = NonNullable<operations["getPeople"]["parameters"]["query"]>;
export type Filter = NonNullable<operations["countPeople"]["parameters"]["query"]>;
type Ladder = operations["climbLadder"]["requestBody"]["content"]["application/json"];
type FileIn = operations["lookAtHouseFile"]["requestBody"]["content"]["application/json"];

export const guard = queryOptions({ queryKey: about.guard, queryFn: ({ signal }) => ask(api.GET("/api/guard", { signal })), staleTime: 0 });
export const triedRule = (rule: Record<string, unknown>) =>
  queryOptions({
    queryKey: [...about.guard, "try", rule],
    queryFn: ({ signal }) => ask(api.POST("/api/guard/try", { body: { rule }, signal })),
    staleTime: 60_000,
    placeholderData: keepPreviousData,
    retry: false,
  });

/** lookBacks are streams that are over, a page at a time. */
export const lookBacks = (text: string) =>
  infiniteQueryOptions({
    queryKey: [...about.lookback, "list", text],
    queryFn: ({ signal, pageParam }) => ask(api.GET("/api/lookback", { params: { query: { text, before: pageParam } }, signal })),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.streams.length === 30 ? last.streams[last.streams.length - 1]!.stream : undefined),
    staleTime: 0,
    placeholderData: keepPreviousData,
  });

/** lookBack is what became of a stream. */
export const lookBack = (stream: number) =>
  queryOptions({
    queryKey: [...about.lookback, stream],
    queryFn: ({ signal }) => ask(api.GET("/api/lookback/of/{stream}", { params: { path: { stream } }, signal })),
    enabled: stream > 0,
    staleTime: 0,
    placeholderData: keepPreviousData,
  });

/** behind are the people or lines behind a figure. */
export const behind = (stream: number, of: string) =>
  queryOptions({
    queryKey: [...about.lookback, stream, "behind", of],
    queryFn: ({ signal }) => ask(api.GET("/api/lookback/of/{stream}/behind", { params: { path: { stream }, query: { of } }, signal })),
    staleTime: 0,
  });

/** overStreams is what streams were like, one after another. */
export const overStreams = queryOptions({
  queryKey: [...about.lookback, "over"],
  queryFn: ({ signal }) => ask(api.GET("/api/lookback/over", { signal })),
  staleTime: 0,
});

/** rehearsals is what can be rehearsed, and how the kept evenings go; it is asked again while some are being lived. */
export const rehearsals = queryOptions({
  queryKey: about.rehearsal,
  queryFn: ({ signal }) => ask(api.GET("/api/rehearsal", { signal })),
  staleTime: 0,
  refetchInterval: (q) => (q.state.data?.kept.running ? 1500 : false),
});

/** rehearsal is one on its way, asked for until it is over. */
export const rehearsal = (id: string) =>
  queryOptions({
    queryKey: [...about.rehearsal, "job", id],
    queryFn: ({ signal }) => ask(api.GET("/api/rehearsal/jobs/{id}", { params: { path: { id } }, signal })),
    enabled: id !== "",
    staleTime: Infinity,
    refetchInterval: (q) => (q.state.data?.over || q.state.error ? false : 200),
  });

/** livedMoment is the conversation of both sides of a rehearsal, until a moment. */
export const livedMoment = (id: string, at: string) =>
  queryOptions({
    queryKey: [...about.rehearsal, "job", id, "moment", at],
    queryFn: ({ signal }) => ask(api.GET("/api/rehearsal/jobs/{id}/moment", { params: { path: { id }, query: { at } }, signal })),
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });

/** writtenEvening is one as its script. */
export const writtenEvening = (name: string) =>
  queryOptions({
    queryKey: [...about.rehearsal, "written", name],
    queryFn: ({ signal }) => ask(api.GET("/api/rehearsal/evenings/{name}", { params: { path: { name } }, signal })),
    enabled: name !== "",
    staleTime: 0,
  });

/** points is how points are gathered, and who leads. */
export const points = queryOptions({ queryKey: about.points, queryFn: ({ signal }) => ask(api.GET("/api/points", { signal })), staleTime: 0 });

/** pointsOf is what somebody has, and the last entries of theirs. */
export const pointsOf = (person: number) =>
  queryOptions({ queryKey: [...about.points, person], queryFn: ({ signal }) => ask(api.GET("/api/points/of/{person}", { params: { path: { person } }, signal })), staleTime: 0 });

/** draws is the draw that goes on, and all around it, as it stands after so much of it. */
export const draws = (after: string) =>
  queryOptions({ queryKey: [...about.draws, after], queryFn: ({ signal }) => ask(api.GET("/api/draws", { signal })), staleTime: 0, placeholderData: keepPreviousData });

export const session = queryOptions({ queryKey: about.session, queryFn: ({ signal }) => ask(api.GET("/api/session", { signal })) });
export const members = queryOptions({ queryKey: about.members, queryFn: ({ signal }) => ask(api.GET("/api/members", { signal })), staleTime: 0 });

// The log: why something was said or done, and why it was not.
export const why = (line: string) =>
  queryOptions({ queryKey: [...about.log, "why", line], queryFn: ({ signal }) => ask(api.GET("/api/why", { params: { query: { line } }, signal })), staleTime: 2000 });
export const whyNot = (account: string) =>
  queryOptions({ queryKey: [...about.log, "whynot", account], queryFn: ({ signal }) => ask(api.GET("/api/whynot", { params: { query: { account } }, signal })), staleTime: 1000 });

/** held holds the words of a command against those of all others. */
export const held = (words: { id: string; asks: string[]; words: string[] }) =>
  queryOptions({
    queryKey: [...about.courtesies, "words", words],
    queryFn: ({ signal }) => ask(api.POST("/api/courtesies/words", { body: words, signal })),
    placeholderData: keepPreviousData,
    staleTime: 5000,
  });

/** pegs is what the member has to hand on a phone, in their order. */
export const pegs = queryOptions({ queryKey: ["pegs"], queryFn: ({ signal }) => ask(api.GET("/api/pegs", { signal })) });

/** thread is what somebody last said to the streamer, or asked, before this stream; null for nothing. */
export const thread = (account: string, opened = "") =>
  queryOptions({ queryKey: [...about.book, "thread", account, opened], queryFn: () => threadOf(account), staleTime: 600_000 });

/** onward is to whom the stream could go on: asked for, or once it nears its usual end. */
export const onward = (asked: boolean) =>
  queryOptions({
    queryKey: [...about.log, "onward", asked],
    queryFn: ({ signal }) => ask(api.GET("/api/desk/onward", { params: { query: { ask: asked } }, signal })),
    staleTime: asked ? 0 : 30_000,
    refetchInterval: asked ? 30_000 : 60_000,
  });

/** ahead is the hour ahead: at a speed of chat, or as it is tonight; with a rule as if that was in force. */
export const ahead = (speed?: number, draft?: { id: string; rule: Rule }) =>
  queryOptions({
    queryKey: [...about.courtesies, "ahead", speed, draft],
    queryFn: ({ signal }) => ask(api.POST("/api/courtesies/forecast", { body: { speed, ...draft }, signal })),
    placeholderData: keepPreviousData,
    staleTime: 2000,
    refetchInterval: 30_000,
  });

/** dates are whose days are today, were missed, and are ahead; of everybody, or of those who were here lately. */
export const dates = (all: boolean) =>
  queryOptions({
    queryKey: [...about.dates, all],
    queryFn: ({ signal }) => ask(api.GET("/api/dates", { params: { query: { all } }, signal })),
    placeholderData: keepPreviousData,
    staleTime: 2000,
    refetchInterval: 5000,
  });

/** places are the places, what can happen, and what of it goes where. */
export const places = queryOptions({ queryKey: about.places, queryFn: ({ signal }) => ask(api.GET("/api/places", { signal })), staleTime: 1000, refetchInterval: 3000 });

/** overlays are how they stand, and what can be put on them. */
export const overlays = queryOptions({ queryKey: about.overlays, queryFn: ({ signal }) => ask(api.GET("/api/overlays", { signal })), staleTime: 1000, refetchInterval: 3000 });

/** landings are a community server's, with what the house may do at each; never kept: rights change there. */
export const landings = (platform: string) =>
  queryOptions({
    queryKey: [...about.house, "landings", platform],
    queryFn: ({ signal }) => ask(api.GET("/api/communities/{platform}/landings", { params: { path: { platform } }, signal })),
    enabled: !!platform,
    staleTime: 0,
  });

/** bookmarks are those of the last streams, and the keys that set them from outside. */
export const bookmarks = queryOptions({ queryKey: about.bookmarks, queryFn: ({ signal }) => ask(api.GET("/api/bookmarks", { signal })), staleTime: 1000, refetchInterval: 5000 });
/** notes are what people left for the streamer, page by page. */
export const notes = (query: { q?: string; open?: boolean }) =>
  infiniteQueryOptions({
    queryKey: [...about.notes, query],
    initialPageParam: 0,
    queryFn: ({ pageParam, signal }) => ask(api.GET("/api/notes", { params: { query: { ...query, before: pageParam || undefined } }, signal })),
    getNextPageParam: (last) => (last.more ? last.notes.at(-1)?.event : undefined),
    placeholderData: keepPreviousData,
    staleTime: 1000,
    refetchInterval: 5000,
  });

export type Sent = NonNullable<operations["findDeliveries"]["parameters"]["query"]>;
/** deliveries are the newest of what went to places. */
export const deliveries = (query: Omit<Sent, "before">) =>
  queryOptions({
    queryKey: [...about.places, "deliveries", query],
    queryFn: ({ signal }) => ask(api.GET("/api/deliveries", { params: { query }, signal })),
    placeholderData: keepPreviousData,
    staleTime: 1000,
    refetchInterval: 3000,
  });
/** lookedThrough are all of them, page by page. */
export const lookedThrough = (query: Omit<Sent, "before" | "most">) =>
  infiniteQueryOptions({
    queryKey: [...about.places, "all", query],
    initialPageParam: 0,
    queryFn: ({ pageParam, signal }) => ask(api.GET("/api/deliveries", { params: { query: { ...query, before: pageParam || undefined } }, signal })),
    getNextPageParam: (last) => (last.more ? last.deliveries.at(-1)?.id : undefined),
    placeholderData: keepPreviousData,
    staleTime: 1000,
    refetchInterval: 5000,
  });

/** fetched is how the texts stand that own fill-ins fetch. */
export const fetched = queryOptions({
  queryKey: [...about.courtesies, "fetched"],
  queryFn: ({ signal }) => ask(api.GET("/api/house/fetched", { signal })),
  staleTime: 5000,
  refetchInterval: 15_000,
});

/** along is who streams along this evening. */
export const along = queryOptions({ queryKey: [...about.log, "along"], queryFn: ({ signal }) => ask(api.GET("/api/desk/along", { signal })), staleTime: 0 });

// The guest book.
const page = 200; // rows asked for at once
export const mostRows = 5000; // in the scroller; whoever wants more narrows or jumps
export const people = (query: Omit<People, "limit" | "after">) =>
  infiniteQueryOptions({
    queryKey: [...about.book, "people", query],
    initialPageParam: "",
    queryFn: ({ pageParam, signal }) => ask(api.GET("/api/book/people", { params: { query: { ...query, limit: page, after: pageParam || undefined } }, signal })),
    getNextPageParam: (last, all) => (last.next && all.length * page < mostRows ? last.next : undefined),
    placeholderData: keepPreviousData,
    staleTime: 15_000,
  });
export const count = (filter: Filter) =>
  queryOptions({
    queryKey: [...about.book, "count", filter],
    queryFn: ({ signal }) => ask(api.GET("/api/book/count", { params: { query: filter }, signal })),
    placeholderData: keepPreviousData,
  });
/** found looks for people as somebody types. */
export const found = (text: string) =>
  queryOptions({
    queryKey: [...about.book, "find", text],
    enabled: text.length > 0,
    queryFn: ({ signal }) => ask(api.GET("/api/book/people", { params: { query: { text, limit: 12 } }, signal })),
    placeholderData: keepPreviousData,
  });
export const sheet = (person: number) =>
  queryOptions({ queryKey: [...about.book, "sheet", person], queryFn: ({ signal }) => ask(api.GET("/api/book/people/{person}", { params: { path: { person } }, signal })) });
export const ofAccount = (account: string) =>
  queryOptions({
    queryKey: [...about.book, "account", account],
    queryFn: ({ signal }) => ask(api.GET("/api/book/accounts/{account}", { params: { path: { account } }, signal })),
    staleTime: 0,
  });
const storyPage = 60; // moments the house gives at once
export const story = (person: number) =>
  infiniteQueryOptions({
    queryKey: [...about.book, "story", person],
    initialPageParam: "",
    queryFn: ({ pageParam, signal }) => ask(api.GET("/api/book/people/{person}/story", { params: { path: { person }, query: { before: pageParam || undefined } }, signal })),
    getNextPageParam: (last) => (last.moments.length >= storyPage ? last.moments[last.moments.length - 1]!.at : undefined),
  });
export const crews = queryOptions({ queryKey: [...about.book, "crews"], queryFn: ({ signal }) => ask(api.GET("/api/book/crews", { signal })) });
export const raids = queryOptions({ queryKey: [...about.book, "raids"], queryFn: ({ signal }) => ask(api.GET("/api/book/raids", { signal })) });
export const newcomers = queryOptions({ queryKey: [...about.book, "newcomers"], queryFn: ({ signal }) => ask(api.GET("/api/book/newcomers", { signal })) });
export const pairs = queryOptions({ queryKey: [...about.book, "pairs"], queryFn: ({ signal }) => ask(api.GET("/api/book/pairs", { signal })) });
export const filters = queryOptions({ queryKey: [...about.book, "filters"], queryFn: ({ signal }) => ask(api.GET("/api/book/filters", { signal })) });
/** imports are the files that were brought in, and the tags there are. */
export const imports = queryOptions({ queryKey: [...about.book, "imports"], queryFn: ({ signal }) => ask(api.GET("/api/book/imports", { signal })) });
export const importRows = (id: number, verdict: "new" | "changed" | "refused" | "unchanged") =>
  queryOptions({
    queryKey: [...about.book, "imports", id, verdict],
    queryFn: ({ signal }) => ask(api.GET("/api/book/imports/{id}", { params: { path: { id }, query: { verdict } }, signal })),
  });

// Courtesies and the settings.
export const courtesies = queryOptions({ queryKey: about.courtesies, queryFn: ({ signal }) => ask(api.GET("/api/courtesies", { signal })) });
/** findings are what a look over the whole set finds. */
export const findings = (version: number) =>
  queryOptions({
    queryKey: [...about.courtesies, "check", version],
    queryFn: ({ signal }) => ask(api.GET("/api/courtesies/check", { signal })),
    placeholderData: keepPreviousData,
    refetchInterval: 15_000,
  });
export const ladder = (version: number, body: Ladder) =>
  queryOptions({
    queryKey: [...about.courtesies, "ladder", version, body],
    queryFn: ({ signal }) => ask(api.POST("/api/courtesies/ladder", { body, signal })),
    placeholderData: keepPreviousData,
  });
/** whom counts whom of the guest book a who is about. */
export const whom = (who: Who) =>
  queryOptions({
    queryKey: [...about.courtesies, "whom", who],
    queryFn: ({ signal }) => ask(api.POST("/api/courtesies/whom", { body: who, signal })),
    placeholderData: keepPreviousData,
  });
/** tried renders all that a draft says, for one person; what is overtaken is given up. */
export const tried = (id: string, outputs: DraftOutput[], person: SamplePerson) =>
  queryOptions({
    queryKey: [...about.courtesies, "try", id, outputs, person],
    queryFn: ({ signal }) => ask(api.POST("/api/courtesies/{id}/try", { params: { path: { id } }, body: { outputs, person }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
  });
/** seen are the events of other services that came in lately. */
export const seen = queryOptions({ queryKey: [...about.courtesies, "seen"], queryFn: ({ signal }) => ask(api.GET("/api/settings/own", { signal })) });
export const history = queryOptions({ queryKey: about.history, queryFn: ({ signal }) => ask(api.GET("/api/settings/history", { signal })), staleTime: 0 });
/** fileLook is what taking a house file in would change. */
export const fileLook = (version: number, body: FileIn) =>
  queryOptions({
    queryKey: [...about.courtesies, "file", version, body],
    enabled: body.file !== "",
    queryFn: ({ signal }) => ask(api.POST("/api/settings/file", { body, signal })),
    placeholderData: body.file !== "" ? keepPreviousData : undefined,
  });
export const media = queryOptions({ queryKey: about.media, queryFn: ({ signal }) => ask(api.GET("/api/media", { signal })) });

// The house: its settings with what stands beside them, its doors, moving in, backups.
export const house = queryOptions({ queryKey: about.house, queryFn: ({ signal }) => ask(api.GET("/api/house", { signal })) });
/** door is a door's page; it is looked at while things come in. */
export const door = (name: string) =>
  queryOptions({
    queryKey: [...about.house, "door", name],
    queryFn: ({ signal }) => ask(api.GET("/api/doors/{door}", { params: { path: { door: name } }, signal })),
    refetchInterval: 2000,
  });
/** uses are the courtesies that use something. */
export const uses = (section: string, name: string) =>
  queryOptions({
    queryKey: [...about.house, "uses", section, name],
    queryFn: ({ signal }) => ask(api.GET("/api/house/uses", { params: { query: { section, name } }, signal })),
    staleTime: 0,
  });
export const moving = queryOptions({ queryKey: about.moving, queryFn: ({ signal }) => ask(api.GET("/api/moving", { signal })), refetchInterval: 5000 });
export const evening = queryOptions({ queryKey: [...about.moving, "evening"], queryFn: ({ signal }) => ask(api.GET("/api/moving/evening", { signal })), staleTime: 0, gcTime: 0 });
/** claim is the member's claim of an account in chat; whether it was said is looked at every second. */
export const claim = queryOptions({ queryKey: [...about.moving, "claim"], queryFn: ({ signal }) => ask(api.GET("/api/moving/claim", { signal })), refetchInterval: 1000 });
export const backups = queryOptions({ queryKey: about.backups, queryFn: ({ signal }) => ask(api.GET("/api/backups", { signal })) });
/** messages are what is kept of another service's messages at a door. */
export const messages = (name: string) =>
  queryOptions({
    queryKey: [...about.house, "messages", name],
    queryFn: ({ signal }) => ask(api.GET("/api/doors/{door}/messages", { params: { path: { door: name } }, signal })),
    refetchInterval: 3000,
  });
/** triedReading is what a reading would make of everything kept at a door. */
export const triedReading = (name: string, reading: Reading | undefined) =>
  queryOptions({
    queryKey: [...about.house, "reading", name, reading],
    enabled: !!reading,
    queryFn: ({ signal }) =>
      ask(api.POST("/api/doors/{door}/messages/try", { params: { path: { door: name } }, body: { reading: reading as unknown as Record<string, unknown> }, signal })),
    placeholderData: keepPreviousData,
    refetchInterval: 5000,
  });
/** signIns is where the house can sign in, and who is signed in. */
export const signIns = queryOptions({ queryKey: [...about.house, "signins"], queryFn: ({ signal }) => ask(api.GET("/api/signins", { signal })), refetchInterval: 5000 });
