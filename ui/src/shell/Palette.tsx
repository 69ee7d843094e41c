import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useFlood, useHush, useSilence } from "../api/deeds";
import { useLive } from "../api/live";
import { found } from "../api/queries";
import { Dialog } from "../kit/Dialog";
import { initials, Lantern, shapeOf, standingOf } from "../kit/drawings/Lantern";
import { fieldLook } from "../kit/Field";
import { applyTheme, theme } from "./theme";

/** Palette finds anything by typing: people, pages, and what can be done at once. */
export default function Palette({ onClose }: { onClose: () => void }) {
  const go = useNavigate();
  const hushed = useLive((s) => s.hush);
  const hush = useHush();
  const silence = useSilence();
  const flooded = useLive((s) => !!s.live.flood);
  const flood = useFlood();
  const [typed, setTyped] = useState("");
  const people = useQuery(found(typed.trim()));
  const acts: [string, () => void][] = [
    ["Porch", () => void go("/")],
    ["Guest book", () => void go("/book")],
    ["Dates: birthdays and anniversaries", () => void go("/dates")],
    ["Crews", () => void go("/book/crews")],
    ["Raids: who came, whom we owe", () => void go("/book/raids")],
    ["Newcomers and who returned", () => void go("/book/newcomers")],
    ["Records that may be one person", () => void go("/book/pairs")],
    ["Bring people in, take them out", () => void go("/book/in")],
    ["Courtesies", () => void go("/courtesies")],
    ["House: channel, zone, how it is reached", () => void go("/house")],
    ["Doors", () => void go("/house/doors")],
    ["Places: what goes where", () => void go("/places")],
    ["Rehearsal: an evening under other settings", () => void go("/rehearsal")],
    ["Look back at a stream", () => void go("/lookback")],
    ["Look back over streams", () => void go("/lookback/over")],
    ["On screen: the overlays", () => void go("/places/screen")],
    ["Deliveries: what went where, and what did not arrive", () => void go("/places/deliveries")],
    ["Add a place", () => void go("/house/places")],
    ["Pace", () => void go("/house/pace")],
    ["Privacy", () => void go("/house/privacy")],
    ["Members", () => void go("/house/members")],
    ["Backup", () => void go("/house/backup")],
    ["Moving in", () => void go("/moving")],
    [hushed ? "Lift hush" : "Hush", () => hush(!hushed)],
    ["Stop the sound on the overlays", silence],
    [flooded ? "Let everybody in again" : "Hold a flood of strangers off", () => flood(!flooded)],
    ["The draw, beside the conversation", () => void go("/", { state: { draw: true } })],
    ["What the guard did, and how it stands", () => void go("/courtesies", { state: { guard: true } })],
    [theme() === "dusk" ? "Theme: Linen" : "Theme: Dusk", () => applyTheme(theme() === "dusk" ? "linen" : "dusk")],
  ];
  const wanted = acts.filter(([name]) => name.toLowerCase().includes(typed.trim().toLowerCase()));
  const pick = (f: () => void) => () => {
    onClose();
    f();
  };
  return (
    <Dialog title="Find anything" quiet place="high" onClose={onClose}>
      <Command shouldFilter={false} label="Find anything">
        <Command.Input className={fieldLook()} placeholder="A person, a page, something to do…" value={typed} onValueChange={setTyped} />
        <Command.List className="scroll mt-1.5 max-h-[50vh]">
          <Command.Empty className="sub px-2.5 py-2">Nothing by that name.</Command.Empty>
          {typed.trim() &&
            people.data?.rows.map((r) => (
              <Command.Item key={r.person} value={`person ${r.person}`} className="pick" onSelect={pick(() => void go(`/book?person=${r.person}`))}>
                <Lantern initials={initials(r.name)} lit={!!r.here} shape={shapeOf(standingOf(r), 0, r.fellow)} size={27} />
                <bdi className="cut flex-1 pl-2">{r.name}</bdi>
                <span className="sub">{r.fellow ? "fellow streamer" : r.standing}</span>
              </Command.Item>
            ))}
          {wanted.map(([name, f]) => (
            <Command.Item key={name} value={name} className="pick" onSelect={pick(f)}>
              {name}
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </Dialog>
  );
}
