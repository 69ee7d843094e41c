import { useQuery } from "@tanstack/react-query";
import { Link, NavLink, Route, Routes } from "react-router";
import { said, type PlaceStanding } from "../api/client";
import { useLive } from "../api/live";
import { places } from "../api/queries";
import { buttonLook } from "../kit/Button";
import { Board } from "./Board";
import { Bookmarks } from "./Bookmarks";
import { Deliveries } from "./Deliveries";
import { Notes } from "./Notes";
import OnScreen from "./screen/OnScreen";
import "./places.css";

const tabs = [
  ["", "What goes where"],
  ["screen", "On screen"],
  ["deliveries", "Deliveries"],
  ["notes", "Notes"],
  ["bookmarks", "Bookmarks"],
] as const;

/** PlacesView is what of all that happens goes where, and what became of it. */
export default function PlacesView() {
  const q = useQuery(places);
  const open = useLive((s) => s.waiting.filter((w) => w.kind === "note").length) ?? 0;
  if (!q.data) return <main className="empty">{q.error ? said(q.error) : "…"}</main>;
  const all = q.data.places;
  const sum = (of: (p: PlaceStanding) => number) => all.reduce((n, p) => n + of(p), 0);
  const [waits, bad] = [sum((p) => p.waiting), sum((p) => p.bad)];
  return (
    <main className="places">
      <h1 className="sr-only">Places</h1>
      <div className="flex flex-wrap items-center gap-2">
        <nav className="flex flex-wrap gap-2" aria-label="Of places">
          {tabs.map(([to, name]) => (
            <NavLink key={to} to={`/places${to && `/${to}`}`} end className={({ isActive }) => buttonLook({ look: isActive ? "plain" : "ghost", on: isActive })}>
              {name}
              {to === "notes" && open > 0 && ` ${open}`}
            </NavLink>
          ))}
          <Link to="/house/doors" className={buttonLook({ look: "ghost" })}>
            Doors
          </Link>
        </nav>
        <span className="sub ml-auto" role="status">
          Lately {sum((p) => p.tonight)} went{waits > 0 && `, ${waits} ${waits === 1 ? "waits" : "wait"}`}
          {bad > 0 && (
            <>
              ,{" "}
              <Link to="/places/deliveries?bad=1" className="text-persimmon">
                {bad} did not arrive
              </Link>
            </>
          )}
        </span>
        <Link to="/house/places" className={buttonLook({ size: "s" })}>
          Add a place
        </Link>
      </div>
      <Routes>
        <Route path="" element={<Board v={q.data} />} />
        <Route path="deliveries" element={<Deliveries v={q.data} />} />
        <Route path="screen" element={<OnScreen />} />
        <Route path="notes" element={<Notes />} />
        <Route path="bookmarks" element={<Bookmarks />} />
      </Routes>
    </main>
  );
}
