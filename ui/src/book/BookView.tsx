import { useEffect, useRef } from "react";
import { Nowhere } from "../kit/Nowhere";
import { NavLink, Route, Routes, useLocation, useNavigate, useParams } from "react-router";
import { api, ask, said as problem } from "../api/client";
import { toast } from "../kit/toast";
import { BringIn } from "./BringIn";
import { CrewsPage } from "./Crews";
import { Newcomers } from "./Newcomers";
import { Pairs } from "./Pairs";
import { Everyone } from "./People";
import { Raids } from "./Raids";
import { Sheet } from "./Sheet";
import { useSheet } from "./shared";

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
  const everyone = useLocation().pathname === "/book";
  return (
    <main className={open || everyone ? "book" : "book wide"}>
      <h1 className="sr-only">Guest book</h1>
      <section className="panel" aria-label="Guest book">
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
          <Route path="*" element={<Nowhere to="/book" name="the guest book" />} />
        </Routes>
      </section>
      {open ? (
        <Sheet key={open} person={open} onClose={() => show()} />
      ) : everyone ? (
        <section className="panel aside" aria-label="A person">
          <p className="empty">
            <b>Nobody is open.</b> Choose somebody on the left: their whole story stands here, and what you know of them can be written down.
          </p>
        </section>
      ) : null}
    </main>
  );
}

/** OfAccount opens the sheet of whoever has an account. */
function OfAccount() {
  const { account } = useParams();
  const go = useNavigate();
  const asked = useRef("");
  useEffect(() => {
    if (!account || asked.current === account) return;
    asked.current = account;
    ask(api.GET("/api/book/accounts/{account}", { params: { path: { account } } })).then(
      (a) => go(`/book?person=${a.person}`, { replace: true }),
      (p) => {
        toast(problem(p));
        void go("/book", { replace: true });
      },
    );
  }, [account, go]);
  return <p className="empty">…</p>;
}
