import type { PlaceKind } from "./kind";
import { talkFields, talkMissing } from "../talk";

export const kind: PlaceKind = {
  name: "xmpp",
  words: "a room of an XMPP server",
  order: 3,
  fresh: { url: "" },
  missing: talkMissing,
  secrets: [{ slot: "password", label: "Password", words: "password", hint: "Of the house's account there." }],
  Fields: talkFields({
    open: "xmpp",
    server: "lowtide.example",
    room: ["Room", "lamp-log@rooms.lowtide.example"],
    account: ["The house's account", "porchlamp@lowtide.example"],
  }),
};
