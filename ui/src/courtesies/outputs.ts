import type { Courtesies, RuleOutput } from "../api/client";
import type { Choice } from "../kit/Picker";
import { titled } from "../kit/words";

/** sentenceOf is what a courtesy says it does, by its id. */
export const sentenceOf = (all: Courtesies, id: string) =>
  all.courtesies
    .find((c) => c.id === id)
    ?.sentence.map((p) => p.text)
    .join("") ?? id;

/** fittingOf is the first fitting of a kind, or nothing. */
const fittingOf = (all: Courtesies, kind: string) => all.fittings.find((f) => f.kind === kind);

/** commands are all commands, by what they are asked by. */
export const commands = (all: Courtesies): [string, string][] =>
  all.courtesies.filter((c) => c.when === "command" && !c.rule.away).map((c) => [c.id, c.rule.asks?.[0] ?? c.rule.asked?.words?.[0] ?? c.id]);

/** playing are the outputs of draws, points and games: what each is called, and begins as. */
export const playing: { kind: string; label: string; head: string; start: Partial<RuleOutput> }[] = [
  { kind: "draw", label: "open, close or draw a draw", head: "Draw", start: { act: "draw" } },
  { kind: "give", label: "give points of theirs to somebody", head: "Give points", start: {} },
  { kind: "unlisted", label: "keep them off the list of ranks", head: "Keep them off the list of ranks", start: {} },
  { kind: "stone", label: "turn a stone", head: "Turn a stone", start: {} },
  { kind: "race", label: "call a periwinkle race", head: "Periwinkle race", start: {} },
  { kind: "tide", label: "have the room bring in the tide", head: "Bring in the tide", start: {} },
  { kind: "anemone", label: "ask the anemone", head: "Ask the anemone", start: {} },
];

/** starts are the outputs that can be added: what each begins as, and why some cannot be chosen here. */
export function starts(all: Courtesies, when: string): (Choice & { make: () => RuleOutput })[] {
  const player = fittingOf(all, "player");
  const sounds = all.screens.length > 0 || !!player;
  const by = all.screens.length || !player ? {} : { fitting: player.name }; // the overlays, where there are some
  const nothingSounds = "there is no overlay and no player";
  const music = all.fittings.find((f) => f.kind === "player" && ["pause", "go on", "softer"].some((a) => !f.cannot[a]));
  const lamp = fittingOf(all, "lamp");
  const scenes = fittingOf(all, "scenes");
  const person = !when.startsWith("porch.stream.") && when !== "hand";
  const line = when === "arrival" || when === "hello" || when === "command";
  const out: (Choice & { make: () => RuleOutput })[] = [
    { value: "say", label: "say something in chat", make: () => ({ kind: "say" }) },
    {
      value: "answer",
      label: "do what a command does",
      off: commands(all).length ? undefined : "there is no command yet",
      make: () => ({ kind: "answer", of: commands(all)[0]![0] }),
    },
    { value: "along", label: "note who streams along", off: when === "command" ? undefined : "only a command names them", make: () => ({ kind: "along" }) },
    { value: "keep", label: "have a command answer what they write", off: when === "command" ? undefined : "only a command says it", make: () => ({ kind: "keep" }) },
    {
      value: "birthday",
      label: "keep the birthday they write",
      off: when === "command" ? undefined : "only a command says it",
      make: () => ({ kind: "birthday", birthday: "set" }),
    },
    {
      value: "celebrate",
      label: "celebrate a day of theirs",
      off: when === "day" || !person ? "this may be what celebrates" : undefined,
      make: () => ({ kind: "celebrate" }),
    },
    { value: "shout-out", label: "shout them out", off: person || when === "hand" ? undefined : "there is nobody to shout out", make: () => ({ kind: "shout-out" }) },
    { value: "card", label: "show a card", make: () => ({ kind: "card", seconds: 8 }) },
    {
      value: "speak",
      label: "speak words aloud",
      off: sounds ? undefined : nothingSounds,
      make: () => ({ kind: "speak", ...by, voice: player ? player.voices[0] : undefined }),
    },
    { value: "sound", label: "play a sound", off: sounds ? undefined : nothingSounds, make: () => ({ kind: "sound", ...by, media: "" }) },
    { value: "film", label: "show a film", off: sounds ? undefined : nothingSounds, make: () => ({ kind: "film", ...by, media: "" }) },
    { value: "lamp", label: "light a lamp", off: lamp ? undefined : "no lamp is set up", make: () => ({ kind: "lamp", fitting: lamp!.name, colour: "#f2b53c", seconds: 8 }) },
    {
      value: "music",
      label: "work the music",
      off: music ? undefined : player ? Object.values(player.cannot)[0] : "no player is set up",
      make: () => ({ kind: "music", fitting: music!.name, act: ["softer", "pause", "go on"].find((a) => !music!.cannot[a]), seconds: 20 }),
    },
    {
      value: "scene",
      label: "go to a scene",
      off: scenes ? undefined : "no scenes are set up",
      make: () => ({ kind: "scene", fitting: scenes!.name, scene: scenes!.scenes[0], seconds: 0 }),
    },
    ...all.places.map((p) => ({ value: `relay:${p.name}`, label: `post to ${p.title}`, make: () => ({ kind: "relay", place: p.name }) })),
    { value: "permit", label: "permit them for a while", off: person ? undefined : "there is nobody to permit", make: () => ({ kind: "permit", seconds: 300 }) },
    ...playing.map(({ kind, label, start }) => ({ value: kind, label, off: when === "command" ? undefined : "only a command asks for it", make: () => ({ kind, ...start }) })),
    { value: "raise", label: "raise an event of our own", make: () => ({ kind: "raise", event: "" }) },
  ];
  for (const a of all.acts) {
    const able = all.platforms.filter((p) => !a.cannot[p]);
    const off =
      able.length === 0
        ? `no platform can: ${Object.values(a.cannot)[0] ?? "none is set up"}`
        : a.act === "delete line" && !line
          ? "no line of chat comes with this"
          : a.ofPerson && !person
            ? "there is nobody it could be about"
            : undefined;
    out.push({
      value: `act:${a.act}`,
      label: `platform: ${a.act}`,
      off,
      hint: off ? undefined : able.length < all.platforms.length ? able.map(titled).join(", ") : undefined,
      make: () => ({
        kind: "platform",
        act: a.act,
        seconds: a.act === "advert break" ? 30 : a.act.endsWith("chat") ? 60 : undefined,
        on: able.length < all.platforms.length ? able : undefined,
      }),
    });
  }
  return out;
}

/** manner says in a few words how an output is set. */
export function manner(o: RuleOutput, all: Courtesies, alternatives = 0): string {
  const on = o.on?.length ? `on ${o.on.map(titled).join(" and ")}` : "where it happens";
  const says: (string | false | undefined)[] = [
    o.kind === "say" && (o.as ? "as the streamer" : "as the house"),
    (o.kind === "say" || o.kind === "platform") && all.platforms.length > 1 && on,
    o.media || (o.kind === "card" && "no picture"),
    o.scene,
    o.kind === "answer" && (commands(all).find(([id]) => id === o.of)?.[1] ?? "a command that is not there"),
    o.kind === "lamp" && o.how && { flash: "flashing", pulse: "pulsing", run: "through colours" }[o.how],
    o.kind === "music" && (o.act === "softer" ? `softer, to ${o.percent ?? 40} %` : o.act),
    o.voice,
    o.kind === "speak" && o.asks && "once a member allows it",
    o.event,
    (o.kind === "sound" || o.kind === "film" || o.kind === "speak") && `loudness ${o.loud ?? 60}`,
    !!o.seconds && `for ${o.seconds} s`,
    !!o.delaySeconds && `after ${o.delaySeconds} s`,
    (!!o.only || !!o.measure) && "not always",
    alternatives > 1 && `${alternatives} alternatives`,
  ];
  return says.filter(Boolean).join(" · ");
}

/** complete tells whether an output has what it cannot do without. */
export const complete = (o: RuleOutput) =>
  !(o.kind === "relay" && !o.place) && !((o.kind === "sound" || o.kind === "film") && !o.media) && !(o.kind === "raise" && !o.event?.trim()) && !(o.kind === "scene" && !o.scene);
