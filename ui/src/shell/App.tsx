import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { Navigate, Route, Routes, useLocation, useNavigate } from "react-router";
import { said, setToken } from "../api/client";
import { follow } from "../api/live";
import { session as whoIsHere } from "../api/queries";
import { Clashes } from "../kit/Clashes";
import { Toasts } from "../kit/Toasts";
import { Ribbon } from "../porch/EveningLine";
import { PorchView } from "../porch/PorchView";
import { SignIn } from "./SignIn";
import { BottomBar, TopBar } from "./TopBar";

const CourtesiesView = lazy(() => import("../courtesies/CourtesiesView"));
const DatesView = lazy(() => import("../dates/DatesView"));
const PlacesView = lazy(() => import("../places/PlacesView"));
const BookView = lazy(() => import("../book/BookView"));
const LookBackView = lazy(() => import("../lookback/LookBackView"));
const RehearsalView = lazy(() => import("../rehearsal/RehearsalView"));
const HouseView = lazy(() => import("../house/HouseView"));
const MovingView = lazy(() => import("../moving/MovingView"));
const Evening = lazy(() => import("../moving/Evening"));
const Palette = lazy(() => import("./Palette"));

export function App() {
  const session = useQuery({
    ...whoIsHere,
    refetchInterval: (q) => (q.state.status === "error" && statusOf(q.state.error) !== 401 ? 2000 : false),
  });
  if (session.isPending) return null;
  if (!session.data && statusOf(session.error) === 401) return <SignIn />;
  if (!session.data) return <Silent why={said(session.error)} />;
  setToken(session.data.token);
  return (
    <House
      member={session.data.member}
      role={session.data.role}
      hasPassword={session.data.hasPassword}
      fresh={!!session.data.movingIn}
      called={session.data.house || "Vivid Porch"}
    />
  );
}

const statusOf = (p: unknown) => (p as { status?: number } | null)?.status;

/** Silent is shown while the house does not say who is there: that is no reason to sign in anew. */
function Silent({ why }: { why: string }) {
  return (
    <main className="grid min-h-dvh place-content-center gap-2 text-center" role="alert">
      <h1 className="text-xl">The house does not answer</h1>
      <p className="sub">{why}</p>
      <p className="sub">It is asked again every two seconds.</p>
    </main>
  );
}

function House({ member, role, hasPassword, fresh, called }: { member: string; role: string; hasPassword: boolean; fresh: boolean; called: string }) {
  useEffect(() => follow(), []);
  const go = useNavigate();
  const begins = useRef(fresh && role === "owner"); // the first sign-in of an empty house leads to moving in, once
  useEffect(() => {
    if (!begins.current) return;
    begins.current = false;
    if (location.pathname === "/") void go("/moving", { replace: true });
  }, [go]);
  const [finding, setFinding] = useState(false);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "k" && role !== "helper") {
        setFinding((v) => !v);
        e.preventDefault();
      }
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [role]);
  const path = useLocation().pathname;
  const porch = path === "/" || path.startsWith("/moving");
  return (
    <div className="shell">
      <TopBar called={called} member={member} role={role} hasPassword={hasPassword} onFind={() => setFinding(true)} />
      {!porch && <Ribbon />}
      <Suspense fallback={<main className="empty">…</main>}>
        <Routes>
          <Route path="/" element={<PorchView />} />
          {role !== "helper" && <Route path="/book/*" element={<BookView />} />}
          {role !== "helper" && <Route path="/dates" element={<DatesView />} />}
          {role !== "helper" && <Route path="/courtesies/:id?/*" element={<CourtesiesView />} />}
          {role !== "helper" && <Route path="/places/*" element={<PlacesView />} />}
          {role !== "helper" && <Route path="/lookback/:stream?" element={<LookBackView />} />}
          {role !== "helper" && <Route path="/rehearsal" element={<RehearsalView />} />}
          {role !== "helper" && <Route path="/house/*" element={<HouseView />} />}
          {role !== "helper" && (
            <Route
              path="/moving/evening"
              element={
                <Evening>
                  <PorchView />
                </Evening>
              }
            />
          )}
          {role !== "helper" && <Route path="/moving/:step?" element={<MovingView />} />}
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </Suspense>
      <BottomBar role={role} />
      {finding && (
        <Suspense>
          <Palette onClose={() => setFinding(false)} />
        </Suspense>
      )}
      <Toasts />
      <Clashes />
    </div>
  );
}
