import { Command } from "cmdk";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useLive } from "../api/live";
import { initials, Lantern, shapeOf, standingOf } from "../kit/Lantern";
import { useFound } from "../kit/PersonPicker";
import { applyTheme, theme } from "./theme";
import { setHush } from "./TopBar";

/** Palette finds anything by typing: people, pages, and what can be done at once. */
export default function Palette({ onClose }: { onClose: () => void }) {
  const go = useNavigate();
  const live = useLive();
  const [typed, setTyped] = useState("");
  const people = useFound(typed.trim());
  const acts: [string, () => void][] = [
    ["Porch", () => void go("/")],
    ["Guest book", () => void go("/book")],
    ["Crews", () => void go("/book/crews")],
    ["Raids: who came, whom we owe", () => void go("/book/raids")],
    ["Newcomers and who returned", () => void go("/book/newcomers")],
    ["Records that may be one person", () => void go("/book/pairs")],
    ["Bring people in, take them out", () => void go("/book/in")],
    ["Courtesies", () => void go("/courtesies")],
    [live?.hush ? "Lift hush" : "Hush", () => setHush(!live?.hush)],
    [theme() === "dusk" ? "Theme: Linen" : "Theme: Dusk", () => applyTheme(theme() === "dusk" ? "linen" : "dusk")],
  ];
  const wanted = acts.filter(([name]) => name.toLowerCase().includes(typed.trim().toLowerCase()));
  const pick = (f: () => void) => () => {
    onClose();
    f();
  };
  return (
    <Dialog.Root open modal={false} onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <div className="veil" aria-hidden onClick={onClose} />
        <Dialog.Content className="pop palette !p-2" aria-describedby={undefined}>
          <Dialog.Title className="sr-only">Find anything</Dialog.Title>
          <Command shouldFilter={false} label="Find anything">
            <Command.Input className="field" placeholder="A person, a page, something to do…" value={typed} onValueChange={setTyped} autoFocus />
            <Command.List className="scroll mt-1.5 max-h-[50vh]">
              <Command.Empty className="sub px-2.5 py-2">Nothing by that name.</Command.Empty>
              {typed.trim() &&
                people.data?.rows.map((r) => (
                  <Command.Item key={r.person} value={`person ${r.person}`} className="pick" onSelect={pick(() => void go(`/book?person=${r.person}`))}>
                    <Lantern initials={initials(r.name)} lit={!!r.here} shape={shapeOf(standingOf(r), 0, r.fellow)} size={20} />
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
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
