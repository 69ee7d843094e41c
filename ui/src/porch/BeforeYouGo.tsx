import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type OnwardTo } from "../api/client";
import { useDeed } from "../api/deeds";
import { useLive } from "../api/live";
import { about, onward } from "../api/queries";
import { Button } from "../kit/Button";
import { Shape } from "../kit/drawings/Lantern";
import { Pop } from "../kit/Pop";
import { titled } from "../kit/words";

/** BeforeYouGo stands among what waits once the stream nears its usual end: three to whom it could go on. */
export function BeforeYouGo() {
  const on = useLive((s) => s.live.on) ?? false;
  const q = useQuery({ ...onward(false), enabled: on });
  if (!on || !q.data?.near || q.data.to.length === 0) return null;
  return (
    <section className="away" aria-label="Before you go">
      <h3 className="m-0 text-[15px]">
        Before you go <span className="sub">to whom everybody could go on</span>
      </h3>
      <Onward to={q.data.to} />
    </section>
  );
}

/** GoOn offers the same whenever it is asked for. */
export function GoOn() {
  const [open, setOpen] = useState(false);
  const q = useQuery({ ...onward(true), enabled: open });
  return (
    <Pop label="Before you go" width="l" align="end" open={open} onOpenChange={setOpen} trigger={<Button size="s">Before you go…</Button>}>
      <p className="pb-1.5">
        <b>Before you go</b> <span className="sub">to whom everybody could go on</span>
      </p>
      {!q.data && <p className="sub">Asking who is live…</p>}
      {q.data?.to.length === 0 && <p className="sub">Nobody you know is live or usually is at this hour, and nothing is owed. Fellow streamers of the guest book stand here.</p>}
      {q.data && <Onward to={q.data.to} onGone={() => setOpen(false)} />}
    </Pop>
  );
}

function Onward({ to, onGone }: { to: OnwardTo[]; onGone?: () => void }) {
  const deed = useDeed();
  const go = (x: OnwardTo) =>
    void deed(api.POST("/api/desk/act", { body: { act: "raid", platform: x.platform, account: x.account, login: x.login } }), {
      stale: [about.book, about.log],
      say: x.cannot ? `Kept as your raid on ${x.name}.` : `${titled(x.platform)} is asked to send everybody on to ${x.name}.`,
      then: onGone,
    });
  return (
    <>
      {to.map((x, i) => (
        <div key={x.account} className="wt">
          <Shape name="sail" size={14} className="mt-1 self-start text-lagoon" />
          <div className="min-w-0 flex-1">
            <Link to={`/book/of/${encodeURIComponent(x.account)}`} className="cut font-semibold">
              <bdi>{x.name}</bdi>
            </Link>
            <ul className="sub m-0 list-none p-0">
              {x.why.map((w) => (
                <li key={w} className={x.live && w.startsWith("live") ? "text-fern" : undefined}>
                  {w}
                </li>
              ))}
              {x.cannot && <li>{x.cannot}; send them yourself, and press to keep it</li>}
            </ul>
          </div>
          <Button size="s" look={x.live && i === 0 ? "lit" : "plain"} aria-label={`Go on to ${x.name}`} onClick={() => go(x)}>
            Go on there
          </Button>
        </div>
      ))}
    </>
  );
}
