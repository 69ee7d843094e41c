import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, NavLink } from "react-router";
import { api, type Door } from "../api/client";
import { useDeed, useHush } from "../api/deeds";
import { useLive } from "../api/live";
import { about, moving, overlays } from "../api/queries";
import { Button, buttonLook } from "../kit/Button";
import { initials, Lantern } from "../kit/drawings/Lantern";
import { Fault, Field } from "../kit/Field";
import { Pop, Popover } from "../kit/Pop";
import { span, useHouseNow } from "../kit/time";
import { applyTheme, theme } from "./theme";

const views = [
  ["/", "Porch"],
  ["/book", "Guest book"],
  ["/dates", "Dates"],
  ["/courtesies", "Courtesies"],
  ["/places", "Places"],
  ["/rehearsal", "Rehearsal"],
  ["/lookback", "Look back"],
] as const;

/** open lists the views a role may use: a helper has the Porch alone. */
const open = (role: string) => (role === "helper" ? views.slice(0, 1) : views);

export function TopBar({ called, member, role, hasPassword, onFind }: { called: string; member: string; role: string; hasPassword: boolean; onFind: () => void }) {
  const hushed = useLive((s) => s.hush);
  const held = useLive((s) => s.held);
  const link = useLive((s) => s.link);
  const databaseGone = useLive((s) => s.databaseGone);
  const hush = useHush();
  return (
    <>
      <header className="bar">
        <div className="word">
          <Lantern lit size={18} />
          <span className="max-w-56 truncate">
            <bdi>{called}</bdi>
          </span>
        </div>
        <nav className="nav" aria-label="Views">
          {open(role).map(([to, name]) => (
            <NavLink key={to} to={to} end={to === "/"}>
              {name}
            </NavLink>
          ))}
        </nav>
        <div className="right">
          <DoorLamp role={role} />
          {role !== "helper" && (
            <Button look="ghost" className="phone:hidden" onClick={onFind}>
              Find anything <kbd>Ctrl K</kbd>
            </Button>
          )}
          <Button aria-pressed={hushed ?? false} onClick={() => hush(!hushed)}>
            {hushed ? "Lift hush" : "Hush"} <kbd>H</kbd>
          </Button>
          <Member member={member} role={role} hasPassword={hasPassword} />
        </div>
      </header>
      {hushed && (
        <button className="hushed" onClick={() => hush(false)}>
          Hush <span>{held === 1 ? "1 line is held" : `${held} lines are held`} · press to let the house speak again</span>
        </button>
      )}
      {link === "lost" && (
        <div className="lost" role="alert">
          This page has lost the house. It comes back by itself; what you see may be old.
        </div>
      )}
      {databaseGone && (
        <div className="lost" role="alert">
          The database is gone. Nothing is lost: lines wait, and the house speaks again when it is back.
        </div>
      )}
    </>
  );
}

const atHand = ["/", "/book", "/courtesies"];

/** BottomBar is the phone's: the views that are wanted in mid-stream, and the others behind one word. */
export function BottomBar({ role }: { role: string }) {
  const [more, setMore] = useState(false);
  const others = open(role).filter(([to]) => !atHand.includes(to));
  return (
    <nav className="bottom" aria-label="Views, at the bottom">
      {open(role)
        .filter(([to]) => atHand.includes(to))
        .map(([to, name]) => (
          <NavLink key={to} to={to} end={to === "/"}>
            {name}
          </NavLink>
        ))}
      {others.length > 0 && (
        <Pop label="More views" width="s" pad="s" align="end" open={more} onOpenChange={setMore} trigger={<button className="more">more</button>}>
          {others.map(([to, name]) => (
            <NavLink key={to} to={to} className="pick" onClick={() => setMore(false)}>
              {name}
            </NavLink>
          ))}
        </Pop>
      )}
    </nav>
  );
}

/** ill says what is wrong with a door, or nothing. */
function ill(d: Door): string | undefined {
  if (d.state !== "open") return d.reason ?? d.state;
  if (d.kind === "irc" && !d.maySpeak) return d.reason || "the house may not speak there";
  if (d.kind !== "irc" && d.reason) return d.reason;
  return undefined;
}

/** needsSomebody are the kinds in Waiting for you that light the lamp. */
const needsSomebody = new Set(["post", "act", "aside", "settings", "book", "signin"]);

const noDoors: Door[] = [];

/** DoorLamp is the one lamp for all doors and places, with the list behind it. */
function DoorLamp({ role }: { role: string }) {
  const now = useHouseNow(5000);
  const doors = useLive((s) => s.doors) ?? noDoors;
  const back = useLive((s) => s.clockBack) ?? 0; // seconds that the machine's clock lies behind
  const waiting = useLive((s) => s.waiting.filter((w) => needsSomebody.has(w.kind)).length) ?? 0;
  const left = useQuery({ ...moving, enabled: role !== "helper", refetchInterval: 15_000 }).data;
  const todo = left?.left ?? 0;
  const screens = (useQuery({ ...overlays, refetchInterval: 10_000 }).data?.overlays ?? []).filter((o) => o.made);
  const needs = doors.filter(ill).length + waiting + (back > 0 ? 1 : 0);
  return (
    <Pop
      label="Doors"
      align="end"
      trigger={
        <Button look="ghost">
          <span className="inline-flex items-center gap-2">
            <span className={needs ? "dot bad" : "dot"} />
            <span className={needs ? "text-persimmon" : ""}>{needs ? `${needs} ${needs === 1 ? "needs" : "need"} you` : todo ? `${todo} still to do` : "all well"}</span>
          </span>
        </Button>
      }
    >
      {back > 0 && (
        <div className="flex items-center gap-3 py-1.5" role="status">
          <span className="dot bad" />
          <div className="min-w-0 flex-1">
            <b>the clock</b> <span className="sub">went back by {span(back * 1000)}</span>
            <div className="sub">The house goes on from its last moment. Set this machine's clock right.</div>
          </div>
        </div>
      )}
      {doors.map((d) => (
        <DoorRow key={d.door} door={d} now={now} page={role !== "helper"} />
      ))}
      {screens.map((o) => (
        <div key={o.id} className="flex items-center gap-3 py-1.5">
          <span className={o.open ? "dot" : "dot none"} />
          <div className="min-w-0 flex-1">
            <b>{o.title}</b> <span className="sub">overlay</span>
            <div className="sub">
              {o.open ? "open" : o.seen ? `the overlay is not open anywhere; last seen ${span(now - Date.parse(o.seen))} ago` : "the overlay is not open anywhere; not seen yet"}
            </div>
          </div>
        </div>
      ))}
      {todo > 0 && (
        <div className="border-t border-line pt-2">
          <b>Still to do</b> <span className="sub">of moving in</span>
          {left!.steps
            .filter((s) => s.state === "open")
            .map((s) => (
              <div key={s.name}>
                <Popover.Close asChild>
                  <Link className="text-lagoon" to={`/moving/${s.name}`}>
                    {s.proof}
                  </Link>
                </Popover.Close>
              </div>
            ))}
        </div>
      )}
    </Pop>
  );
}

function DoorRow({ door: d, now, page }: { door: Door; now: number; page: boolean }) {
  const [checked, setChecked] = useState("");
  const deed = useDeed();
  const bad = ill(d);
  const rights =
    d.kind === "irc"
      ? `as ${d.account} · ${d.maySpeak ? "may speak" : "may not speak"} · ${d.maySpeak && d.mayModerate ? "may moderate" : "may not moderate"}`
      : d.kind === "inbox"
        ? "signed events"
        : d.kind === "hook"
          ? "another service sends"
          : "another service is listened to";
  return (
    <div className="flex items-center gap-3 py-1.5">
      <span className={bad ? "dot bad" : "dot"} />
      <div className="min-w-0 flex-1">
        {page ? (
          <Popover.Close asChild>
            <Link className="font-bold" to={`/house/doors/${encodeURIComponent(d.door)}`}>
              {d.door}
            </Link>
          </Popover.Close>
        ) : (
          <b>{d.door}</b>
        )}{" "}
        <span className="sub">{rights}</span>
        <div className="sub">
          {bad ?? (d.lastIn ? `last heard ${span(now - Date.parse(d.lastIn))} ago` : "nothing heard yet")}
          {checked && ` · ${checked}`}
        </div>
      </div>
      {d.kind === "irc" && (
        <Button
          size="s"
          onClick={() => {
            setChecked("checking…");
            void deed(api.POST("/api/doors/{door}/check", { params: { path: { door: d.door } } }), {
              then: (c) => setChecked(c.ok ? `came back in ${c.millis} ms` : (c.reason ?? "no answer")),
              fault: setChecked,
            });
          }}
        >
          Check
        </Button>
      )}
    </div>
  );
}

function Member({ member, role, hasPassword }: { member: string; role: string; hasPassword: boolean }) {
  const deed = useDeed();
  const [now, setNow] = useState(theme());
  const [fault, setFault] = useState("");
  return (
    <Pop
      label="Member"
      align="end"
      trigger={
        <Button look="ghost" className="p-1" aria-label={`Member: ${member}`}>
          <Lantern initials={initials(member)} lit size={27} />
        </Button>
      }
    >
      <b>{member}</b> <span className="sub">{role}</span>
      {role !== "helper" && (
        <div className="mt-1.5">
          <Popover.Close asChild>
            <Link className={buttonLook({ size: "s" })} to="/house">
              House
            </Link>
          </Popover.Close>{" "}
          <Popover.Close asChild>
            <Link className={buttonLook({ size: "s" })} to="/house/members">
              {role === "owner" ? "Members" : "Your chat account"}
            </Link>
          </Popover.Close>{" "}
          <Popover.Close asChild>
            <Link className={buttonLook({ size: "s" })} to="/moving">
              Moving in
            </Link>
          </Popover.Close>
        </div>
      )}
      <div className="my-2 flex gap-2">
        {(["dusk", "linen"] as const).map((t) => (
          <Button
            key={t}
            size="s"
            look={now === t ? "lit" : "plain"}
            aria-pressed={now === t}
            onClick={() => {
              applyTheme(t);
              setNow(t);
            }}
          >
            {t === "dusk" ? "Dusk" : "Linen"}
          </Button>
        ))}
      </div>
      <form
        className="grid gap-2 py-2"
        onSubmit={(e) => {
          e.preventDefault();
          const f = new FormData(e.currentTarget);
          void deed(api.PUT("/api/session/password", { body: { password: String(f.get("password")), current: String(f.get("current") ?? "") } }), {
            stale: [about.session],
            say: "The password is set.",
            then: () => setFault(""),
            fault: setFault,
          });
        }}
      >
        {hasPassword && <Field type="password" name="current" placeholder="Current password" aria-label="Current password" autoComplete="current-password" />}
        <Field type="password" name="password" placeholder={hasPassword ? "New password" : "Set a password"} aria-label="New password" autoComplete="new-password" />
        {fault && <Fault>{fault}</Fault>}
        <Button size="s">{hasPassword ? "Change password" : "Set password"}</Button>
      </form>
      <Button size="s" onClick={() => void deed(api.DELETE("/api/session"), { then: () => location.assign("/") })}>
        Sign out
      </Button>
    </Pop>
  );
}
