import type { PlaceKind } from "./kind";
import { talkFields, talkMissing } from "../talk";

export const kind: PlaceKind = {
  name: "irc",
  words: "a channel of an IRC network",
  order: 2,
  fresh: { url: "" },
  missing: talkMissing,
  secrets: [{ slot: "password", label: "Password", words: "password", hint: "Only where the nick is registered." }],
  Fields: talkFields({ open: "irc", server: "irc.lowtide.example", room: ["Channel", "#lamp-log"], account: ["The house's nick", "porchlamp"] }),
};
