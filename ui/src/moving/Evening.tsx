import { useQuery } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore, type ReactNode } from "react";
import { Link } from "react-router";
import type { ShownEvening } from "../api/client";
import { play } from "../api/live";
import { madeUp } from "../api/madeUp";
import { evening } from "../api/queries";
import { Button, buttonLook } from "../kit/Button";

/** Evening plays a minute of a made-up evening on the real Porch, which is its child. Nothing of it leaves the page. */
export default function Evening({ children }: { children: ReactNode }) {
  const q = useQuery({ ...evening, refetchOnWindowFocus: false, refetchOnReconnect: false });
  if (!q.data) return null;
  return (
    <Playing key={q.data.whole.now} evening={q.data} onAgain={() => void q.refetch()}>
      {children}
    </Playing>
  );
}

function Playing({ evening: e, onAgain, children }: { evening: ShownEvening; onAgain: () => void; children: ReactNode }) {
  const [over, setOver] = useState(false);
  const plays = useSyncExternalStore(madeUp.subscribe, madeUp.current);
  useEffect(() => {
    const end = play(e);
    const timer = setTimeout(() => setOver(true), e.millis);
    return () => {
      clearTimeout(timer);
      end();
    };
  }, [e]);
  return (
    <>
      <div className="showing" role="status">
        <b>A made-up evening.</b> <span>{over ? "That was a minute of it. Your own begins with moving in." : "A minute of it, in your words; nothing is said anywhere."}</span>
        <span className="ml-auto flex gap-2">
          {over && (
            <Button size="s" onClick={onAgain}>
              Again
            </Button>
          )}
          <Link className={buttonLook({ size: "s", look: "lit" })} to="/moving/channel">
            Move in
          </Link>
        </span>
      </div>
      {plays && children}
    </>
  );
}
