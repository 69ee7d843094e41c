import { useRef, useState, type KeyboardEvent } from "react";
import { Link } from "react-router";
import { api, type HappeningRow, type PlacesView, type PlaceStanding } from "../api/client";
import { useDeed, useSettingsUndo } from "../api/deeds";
import { about } from "../api/queries";
import { Button, Quiet } from "../kit/Button";
import { Empty, Panel, Scroll } from "../kit/Panel";
import { span, useHouseNow, useZone } from "../kit/time";
import { goes, lately, named, relayOf, rows, stands } from "./places";
import { Bead } from "./Bead";
import { RelayPanel, usePause } from "./Relay";

/** Board is the happenings by the places: ropes hang from each place's lamp, and what goes there are beads on them. */
export function Board({ v }: { v: PlacesView }) {
  const [all, setAll] = useState(false);
  const [at, setAt] = useState<[when: string, place: string]>();
  const [shown, more] = rows(v, all);
  const grid = useRef<HTMLTableElement>(null);
  const deed = useDeed();
  const undo = useSettingsUndo();
  const pause = usePause();
  if (v.places.length === 0)
    return (
      <Panel label="What goes where">
        <Empty>
          <b>Nothing goes anywhere yet.</b> <Link to="/house/places">Add a place</Link> first: a landing of your community’s server, say.
        </Empty>
      </Panel>
    );
  const chosen = at && relayOf(v, ...at);
  const press = async (h: HappeningRow, p: PlaceStanding) => {
    setAt([h.when, p.name]);
    if (relayOf(v, h.when, p.name)) return;
    await deed(api.POST("/api/places/{place}/relays", { params: { path: { place: p.name } }, body: { when: h.when } }), {
      stale: [about.places, about.courtesies],
      say: `${named(h)} goes to ${p.title} from now on.`,
      undo: (made) => undo(made.version),
    });
  };
  // Arrows walk along the beads; the one that has the focus keeps it while the picture changes.
  const onKey = (e: KeyboardEvent, row: number, col: number) => {
    const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[e.key];
    if (step) {
      e.preventDefault();
      grid.current?.querySelector<HTMLElement>(`[data-bead="${row + step[0]!} ${col + step[1]!}"]`)?.focus();
    } else if (e.key.toLowerCase() === "p") {
      const r = relayOf(v, shown[row]!.when, v.places[col]!.name);
      if (r) void pause(r);
    }
  };
  return (
    <div className="ropes">
      <Panel label="What goes where">
        <Scroll label="Happenings by places" className="px-4 pb-2">
          <table ref={grid} className="beads">
            <thead>
              <tr>
                <th scope="col">
                  <b className="font-display text-[15px]">
                    {v.relays.length} {v.relays.length === 1 ? "relay" : "relays"}, {v.places.length} {v.places.length === 1 ? "place" : "places"}
                  </b>
                  <Legend />
                </th>
                {v.places.map((p) => (
                  <PlaceHead key={p.name} p={p} />
                ))}
              </tr>
            </thead>
            <tbody>
              {shown.map((h, row) => (
                <tr key={h.when} className={shown[row - 1] && shown[row - 1]!.lane !== h.lane ? "parted" : undefined} data-chosen={at?.[0] === h.when || undefined}>
                  <th scope="row">
                    {named(h)}
                    <span className="sub tabular-nums">{h.tonight || "–"}</span>
                  </th>
                  {v.places.map((p, col) => {
                    const r = relayOf(v, h.when, p.name);
                    const how = goes(r);
                    return (
                      <td key={p.name} data-waits={p.health === "waits" || undefined}>
                        <button
                          className="bead-at"
                          data-bead={`${row} ${col}`}
                          aria-pressed={at?.[0] === h.when && at[1] === p.name}
                          aria-label={`${named(h)} to ${p.title}: ${how === "not" ? "nothing goes there; press to post it" : how}${r?.note ? `, ${r.note}` : ""}`}
                          onClick={() => void press(h, p)}
                          onKeyDown={(e) => onKey(e, row, col)}
                        >
                          <Bead how={how} />
                        </button>
                        {r && (r.waits > 0 || r.note) && <span className="sub">{r.waits > 0 ? `${r.waits} ${r.waits === 1 ? "waits" : "wait"}` : r.note}</span>}
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </Scroll>
        <p className="sub m-0 flex flex-wrap items-center gap-x-4 px-4 pt-1 pb-3">
          {(more > 0 || all) && <Quiet onClick={() => setAll(!all)}>{all ? "Fewer happenings" : `${more} more happenings`}</Quiet>}
          <span className="ml-auto phone:hidden">
            <kbd>←</kbd> <kbd>↑</kbd> <kbd>→</kbd> <kbd>↓</kbd> walk, <kbd>Enter</kbd> set, <kbd>P</kbd> pause
          </span>
        </p>
      </Panel>
      <RelayPanel key={at?.join(" ")} v={v} at={at} relay={chosen} />
    </div>
  );
}

function Legend() {
  return (
    <ul className="legend" aria-label="What the beads say">
      {(["at once", "gathered", "paused"] as const).map((how) => (
        <li key={how}>
          <Bead how={how} /> {how === "gathered" ? "gathered into one" : how}
        </li>
      ))}
    </ul>
  );
}

/** PlaceHead is a place at the head of its rope: how it stands, and its lamp. */
function PlaceHead({ p }: { p: PlaceStanding }) {
  const now = useHouseNow(1000);
  const zone = useZone();
  const deed = useDeed();
  const again = p.next ? Math.max(0, Date.parse(p.next) - now) : 0;
  return (
    <th scope="col" data-place={p.name}>
      <b className="block max-w-32 truncate text-[14px]" title={p.title}>
        <bdi>{p.title}</bdi>
      </b>
      <span className="sub block">{lately(p, now, zone)}</span>
      <span className="sub block">{stands(p)}</span>
      {p.says && <span className={p.health === "trouble" ? "block max-w-40 text-[12px] text-persimmon" : "sub block max-w-40 font-[650]"}>{p.says}</span>}
      {p.next && <span className="sub block">{again > 0 ? `again in ${span(again)}` : "is being tried"}</span>}
      <span className="mt-1 flex items-center gap-2">
        <Lamp p={p} />
        <Button
          size="s"
          aria-label={`Try ${p.title}`}
          onClick={() =>
            void deed(api.POST("/api/places/{place}/try", { params: { path: { place: p.name } } }), {
              stale: [about.places],
              say: (r) => (r.ok ? `A try arrived at ${p.title}.` : r.why || "It did not arrive."),
            })
          }
        >
          Try
        </Button>
      </span>
    </th>
  );
}

/** Lamp is a place's health: its shape says it too. */
function Lamp({ p }: { p: PlaceStanding }) {
  const words = { well: "well", waits: "mends itself", trouble: "needs you", paused: "paused", unset: "not set up" }[p.health];
  return (
    <svg className="lamp" viewBox="0 0 16 16" role="img" aria-label={words} data-health={p.health}>
      {p.health === "trouble" ? <path d="M8 2l6 6-6 6-6-6z" /> : <circle cx="8" cy="8" r={p.health === "well" ? 4.5 : 5.5} />}
    </svg>
  );
}
