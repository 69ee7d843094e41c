import { useQuery } from "@tanstack/react-query";
import { NavLink, Route, Routes } from "react-router";
import { session } from "../api/queries";
import { Changes } from "../keeping/Changes";
import { ChannelForm } from "../keeping/ChannelForm";
import { ReachForm } from "../keeping/ReachForm";
import { Nowhere } from "../kit/Nowhere";
import { Backups } from "./Backups";
import { Doors } from "./Doors";
import { Fittings } from "./Fittings";
import { Members } from "./Members";
import { Pace } from "./Pace";
import { Part } from "./Part";
import { Places } from "./Places";
import { Platforms } from "./Platforms";
import { Privacy } from "./Privacy";
import { Standings } from "./Standings";
import "./house.css";

const rooms: [path: string, name: string, tells: string, owner?: boolean][] = [
  ["", "The house", "channel, zone, how it is reached"],
  ["doors", "Doors", "where things come in"],
  ["platforms", "Platforms", "what the house knows of them"],
  ["places", "Places", "where news goes"],
  ["fittings", "Fittings", "lamp, player, scenes"],
  ["pace", "Pace", "how much the house says"],
  ["standings", "Standings", "regulars, never greeted, 29 February"],
  ["privacy", "Privacy", "words, and how long chat is kept"],
  ["members", "Members", "who may sign in, and as whom"],
  ["changes", "Changes", "and how to take them back"],
  ["backup", "Backup", "the whole house as one file", true],
];

/** HouseView is behind the member's lantern: every setting of the house that has no view of its own. */
export default function HouseView() {
  const role = useQuery(session).data?.role ?? "";
  const mine = rooms.filter((r) => !r[3] || role === "owner");
  return (
    <main className="housekeep">
      <nav className="rooms" aria-label="Parts of the house">
        {mine.map(([path, name, tells]) => (
          <NavLink key={path} to={`/house${path && `/${path}`}`} end={!path}>
            <b>{name}</b>
            <span>{tells}</span>
          </NavLink>
        ))}
      </nav>
      <Routes>
        <Route index element={<Whose />} />
        <Route path="doors/*" element={<Doors />} />
        <Route path="platforms/*" element={<Platforms />} />
        <Route path="places" element={<Places />} />
        <Route path="fittings" element={<Fittings />} />
        <Route path="pace" element={<Pace />} />
        <Route path="standings" element={<Standings />} />
        <Route path="privacy" element={<Privacy />} />
        <Route path="members" element={<Members role={role} />} />
        <Route path="changes" element={<Changes />} />
        {role === "owner" && <Route path="backup" element={<Backups />} />}
        <Route path="*" element={<Whose lost />} />
      </Routes>
    </main>
  );
}

/** Whose is the first part: whose house it is, and how it is reached. */
function Whose({ lost }: { lost?: boolean }) {
  return (
    <Part
      label="The house"
      title={
        <>
          Whose <u>house</u> it is, and how it is reached.
        </>
      }
    >
      {lost && <Nowhere name="House" />}
      <ChannelForm />
      <h2 className="mt-6 mb-2 text-lg">How the house is reached</h2>
      <ReachForm />
    </Part>
  );
}
