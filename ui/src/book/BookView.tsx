import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { NavLink, Route, Routes, useLocation, useNavigate, useParams } from "react-router";
import { said as problem } from "../api/client";
import { ofAccount } from "../api/queries";
import { toast } from "../api/toast";
import { Nowhere } from "../kit/Nowhere";
import { Empty, Panel } from "../kit/Panel";
import { BringIn } from "./BringIn";
import { CrewsPage } from "./Crews";
import { Newcomers } from "./Newcomers";
import { Pairs } from "./Pairs";
import { Everyone } from "./People";
import { Raids } from "./Raids";
import { Sheet } from "./Sheet";
import { useSheet } from "./sheet";
import "./book.css";

const pages = [
  ["/book", "Everyone"],
  ["/book/crews", "Crews"],
  ["/book/raids", "Raids"],
  ["/book/newcomers", "Newcomers"],
  ["/book/pairs", "One person?"],
  ["/book/in", "Bring in"],
] as const;

export default function BookView() {
  const { open, show } = useSheet();
  const here = useLocation().pathname;
  const everyone = !pages.slice(1).some(([to]) => to === here); // its first page, also at an address that leads nowhere
  return (
    <main className={open || everyone ? "book" : "book wide"}>
      <h1 className="sr-only">Guest book</h1>
      <Panel label="Guest book">
        <nav className="pages" aria-label="Pages of the guest book">
          {pages.map(([to, name]) => (
            <NavLink key={to} to={to} end>
              {name}
            </NavLink>
          ))}
        </nav>
        <Routes>
          <Route index element={<Everyone />} />
          <Route path="crews" element={<CrewsPage />} />
          <Route path="raids" element={<Raids />} />
          <Route path="newcomers" element={<Newcomers />} />
          <Route path="pairs" element={<Pairs />} />
          <Route path="in" element={<BringIn />} />
          <Route path="of/:account" element={<OfAccount />} />
          <Route
            path="*"
            element={
              <>
                <Nowhere name="the guest book" />
                <Everyone />
              </>
            }
          />
        </Routes>
      </Panel>
      {open ? (
        <Sheet key={open} person={open} onClose={() => show()} />
      ) : everyone ? (
        <Panel className="aside" label="A person">
          <Empty>
            <b>Nobody is open.</b> Choose somebody on the left: their whole story stands here, and what you know of them can be written down.
          </Empty>
        </Panel>
      ) : null}
    </main>
  );
}

/** OfAccount opens the sheet of whoever has an account. */
function OfAccount() {
  const { account = "" } = useParams();
  const go = useNavigate();
  const { data, error } = useQuery(ofAccount(account));
  useEffect(() => {
    if (error) toast(problem(error));
    if (data || error) void go(data ? `/book?person=${data.person}` : "/book", { replace: true });
  }, [data, error, go]);
  return <Empty>…</Empty>;
}
