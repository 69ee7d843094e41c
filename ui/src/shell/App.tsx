import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useState } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
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
const BookView = lazy(() => import("../book/BookView"));
const MembersView = lazy(() => import("./MembersView"));
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
  return <House member={session.data.member} role={session.data.role} hasPassword={session.data.hasPassword} />;
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

function House({ member, role, hasPassword }: { member: string; role: string; hasPassword: boolean }) {
  useEffect(() => follow(), []);
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
  const porch = useLocation().pathname === "/";
  return (
    <div className="shell">
      <TopBar member={member} role={role} hasPassword={hasPassword} onFind={() => setFinding(true)} />
      {!porch && <Ribbon />}
      <Suspense fallback={<main className="empty">…</main>}>
        <Routes>
          <Route path="/" element={<PorchView />} />
          {role !== "helper" && <Route path="/book/*" element={<BookView />} />}
          {role !== "helper" && <Route path="/courtesies/:id?/*" element={<CourtesiesView />} />}
          {role !== "helper" && <Route path="/members/*" element={<MembersView role={role} />} />}
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
