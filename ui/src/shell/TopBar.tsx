import { Popover } from "radix-ui";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, NavLink } from "react-router";
import { api, ask, said, type Door } from "../api/client";
import { useLive } from "../api/live";
import { initials, Lantern } from "../kit/Lantern";
import { span, useNow } from "../kit/time";
import { toast } from "../kit/toast";
import { applyTheme, theme } from "./theme";

const views = [
  ["/", "Porch"],
  ["/book", "Guest book"],
  ["/courtesies", "Courtesies"],
] as const;

/** setHush holds all automatic lines, or lets them go on. */
export function setHush(on: boolean) {
  ask(api.POST("/api/desk/hush", { body: { on } })).catch((p) => toast(said(p)));
}

/** open lists the views a role may use: a helper has the Porch alone. */
const open = (role: string) => (role === "helper" ? views.slice(0, 1) : views);

export function TopBar({ member, role, hasPassword, onFind }: { member: string; role: string; hasPassword: boolean; onFind: () => void }) {
  const live = useLive();
  return (
    <>
      <header className="bar">
        <div className="word">
          <Lantern lit size={18} />
          <span>Vivid Porch</span>
        </div>
        <nav className="nav" aria-label="Views">
          {open(role).map(([to, name]) => (
            <NavLink key={to} to={to} end={to === "/"}>
              {name}
            </NavLink>
          ))}
        </nav>
        <div className="right">
          <DoorLamp />
          {role !== "helper" && (
            <button className="btn ghost opt" onClick={onFind}>
              Find anything <kbd>Ctrl K</kbd>
            </button>
          )}
          <button className="btn" aria-pressed={live?.hush ?? false} onClick={() => setHush(!live?.hush)}>
            {live?.hush ? "Lift hush" : "Hush"} <kbd>H</kbd>
          </button>
          <Member member={member} role={role} hasPassword={hasPassword} />
        </div>
      </header>
      {live?.hush && (
        <button className="hushed" onClick={() => setHush(false)}>
          Hush <span>{live.held === 1 ? "1 line is held" : `${live.held} lines are held`} · press to let the house speak again</span>
        </button>
      )}
      {live?.link === "lost" && (
        <div className="lost" role="alert">
          This page has lost the house. It comes back by itself; what you see may be old.
        </div>
      )}
      {live?.databaseGone && (
        <div className="lost" role="alert">
          The database is gone. Nothing is lost: lines wait, and the house speaks again when it is back.
        </div>
      )}
    </>
  );
}

export function BottomBar({ role }: { role: string }) {
  return (
    <nav className="bottom" aria-label="Views, at the bottom">
      {open(role).map(([to, name]) => (
        <NavLink key={to} to={to} end={to === "/"}>
          {name}
        </NavLink>
      ))}
    </nav>
  );
}

/** ill says what is wrong with a door, or nothing. */
function ill(d: Door): string | undefined {
  if (d.state !== "open") return d.reason ?? d.state;
  if (d.kind === "irc" && !d.maySpeak) return d.reason || "the house may not speak there";
  return undefined;
}

/** needsSomebody are the kinds in Waiting for you that light the lamp. */
const needsSomebody = new Set(["post", "act", "aside", "settings", "book"]);

/** DoorLamp is the one lamp for all doors and places, with the list behind it. */
function DoorLamp() {
  const live = useLive();
  const now = useNow(5000, live?.skew);
  const doors = live?.doors ?? [];
  const back = live?.clockBack ?? 0; // seconds that the machine's clock lies behind
  const needs = doors.filter(ill).length + (live?.waiting ?? []).filter((w) => needsSomebody.has(w.kind)).length + (back > 0 ? 1 : 0);
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="btn ghost">
          <span className="inline-flex items-center gap-2">
            <span className={needs ? "dot bad" : "dot"} />
            <span className={needs ? "text-(--persimmon)" : ""}>{needs ? `${needs} ${needs === 1 ? "needs" : "need"} you` : "all well"}</span>
          </span>
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="pop" align="end" sideOffset={6} aria-label="Doors">
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
            <DoorRow key={d.door} door={d} now={now} />
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function DoorRow({ door: d, now }: { door: Door; now: number }) {
  const [checked, setChecked] = useState("");
  const bad = ill(d);
  const rights =
    d.kind === "irc" ? `as ${d.account} · ${d.maySpeak ? "may speak" : "may not speak"} · ${d.maySpeak && d.mayModerate ? "may moderate" : "may not moderate"}` : "signed events";
  return (
    <div className="flex items-center gap-3 py-1.5">
      <span className={bad ? "dot bad" : "dot"} />
      <div className="min-w-0 flex-1">
        <b>{d.door}</b> <span className="sub">{rights}</span>
        <div className="sub">
          {bad ?? (d.lastIn ? `last heard ${span(now - Date.parse(d.lastIn))} ago` : "nothing heard yet")}
          {checked && ` · ${checked}`}
        </div>
      </div>
      {d.kind === "irc" && (
        <button
          className="btn s"
          onClick={() => {
            setChecked("checking…");
            ask(api.POST("/api/doors/{door}/check", { params: { path: { door: d.door } } })).then(
              (c) => setChecked(c.ok ? `came back in ${c.millis} ms` : (c.reason ?? "no answer")),
              (p) => setChecked(said(p)),
            );
          }}
        >
          Check
        </button>
      )}
    </div>
  );
}

function Member({ member, role, hasPassword }: { member: string; role: string; hasPassword: boolean }) {
  const client = useQueryClient();
  const [now, setNow] = useState(theme());
  const [fault, setFault] = useState("");
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="btn ghost !p-1" aria-label={`Member: ${member}`}>
          <Lantern initials={initials(member)} lit size={22} />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="pop" align="end" sideOffset={6} aria-label="Member">
          <b>{member}</b> <span className="sub">{role}</span>
          {role !== "helper" && (
            <div className="mt-1.5">
              <Popover.Close asChild>
                <Link className="btn s" to="/members">
                  {role === "owner" ? "Members" : "Your chat account"}
                </Link>
              </Popover.Close>
            </div>
          )}
          <div className="my-2 flex gap-2">
            {(["dusk", "linen"] as const).map((t) => (
              <button
                key={t}
                className={now === t ? "btn s lit" : "btn s"}
                aria-pressed={now === t}
                onClick={() => {
                  applyTheme(t);
                  setNow(t);
                }}
              >
                {t === "dusk" ? "Dusk" : "Linen"}
              </button>
            ))}
          </div>
          <form
            className="grid gap-2 py-2"
            onSubmit={(e) => {
              e.preventDefault();
              const f = new FormData(e.currentTarget);
              ask(api.PUT("/api/session/password", { body: { password: String(f.get("password")), current: String(f.get("current") ?? "") } })).then(
                () => {
                  setFault("");
                  toast("The password is set.");
                  client.invalidateQueries({ queryKey: ["session"] });
                },
                (p) => setFault(said(p)),
              );
            }}
          >
            {hasPassword && <input className="field" type="password" name="current" placeholder="Current password" aria-label="Current password" autoComplete="current-password" />}
            <input
              className="field"
              type="password"
              name="password"
              placeholder={hasPassword ? "New password" : "Set a password"}
              aria-label="New password"
              autoComplete="new-password"
            />
            {fault && <p className="flt">{fault}</p>}
            <button className="btn s">{hasPassword ? "Change password" : "Set password"}</button>
          </form>
          <button className="btn s" onClick={() => ask(api.DELETE("/api/session")).then(() => location.assign("/"))}>
            Sign out
          </button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
