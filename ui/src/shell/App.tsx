import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect } from "react";
import { Navigate, Route, Routes } from "react-router";
import { api, ask, setToken } from "../api/client";
import { follow } from "../api/live";
import { Toasts } from "../kit/toast";
import { PorchView } from "../porch/PorchView";
import { SignIn } from "./SignIn";
import { BottomBar, TopBar } from "./TopBar";

const CourtesiesView = lazy(() => import("../courtesies/CourtesiesView"));

export function App() {
  const session = useQuery({ queryKey: ["session"], queryFn: () => ask(api.GET("/api/session")) });
  if (session.isPending) return null;
  if (!session.data) return <SignIn />;
  setToken(session.data.token);
  return <House member={session.data.member} hasPassword={session.data.hasPassword} />;
}

function House({ member, hasPassword }: { member: string; hasPassword: boolean }) {
  useEffect(() => follow(), []);
  return (
    <div className="shell">
      <TopBar member={member} hasPassword={hasPassword} />
      <Suspense fallback={<main className="empty">…</main>}>
        <Routes>
          <Route path="/" element={<PorchView />} />
          <Route path="/courtesies/:id?" element={<CourtesiesView />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </Suspense>
      <BottomBar />
      <Toasts />
    </div>
  );
}
