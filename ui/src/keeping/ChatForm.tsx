import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, profilesOf, type Settings } from "../api/client";
import { useAgain, useDeed } from "../api/deeds";
import { useLive } from "../api/live";
import { about, door as doorOf, house, session } from "../api/queries";
import { Button } from "../kit/Button";
import { Fault, Field, Tick } from "../kit/Field";
import { One } from "../kit/One";
import { titled } from "../kit/words";
import { Copyable, Line } from "./Line";
import { SignIn } from "./SignIn";
import { useSection } from "./useSection";

type Door = NonNullable<Settings["doors"]>[number];

/** slug makes a name for addresses of what somebody typed. */
export const slug = (text: string) =>
  text
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "");

/** free is a name that nothing has yet. */
export const free = (base: string, taken: string[]): string => {
  for (let i = 1; ; i++) {
    const name = i === 1 ? base : `${base}-${i}`;
    if (!taken.includes(name)) return name;
  }
};

/** ChatForm connects the house to a chat: which network, where, which room, as whom. */
export function ChatForm({ asYou, onMade }: { asYou?: boolean; onMade?: (door: string) => void }) {
  const q = useQuery(house);
  const doors = useSection("doors");
  const deed = useDeed();
  const channel = q.data?.settings["channel"] as string | undefined;
  const profiles = profilesOf(q.data).filter((p) => !p.profile.community && !p.profile.social);
  const [on, setOn] = useState<string>();
  const chosen = profiles.find((p) => p.platform === on)?.profile;
  const chat = chosen?.chat;
  const signable = !!chosen?.signIn;
  const [made, setMade] = useState({ platform: "", address: "", tls: undefined as boolean | undefined, room: "", account: "", password: "" });
  const at = made.address || chat?.address || "";
  const tls = made.tls ?? (chat?.address ? !!chat.tls : true);
  const [as, setAs] = useState<"" | "streamer">("");
  const [busy, setBusy] = useState(false);
  const [fault, setFault] = useState("");
  const typed = (k: keyof typeof made) => (e: { target: { value: string } }) => setMade({ ...made, [k]: e.target.value });
  const room = made.room || (channel && channel !== "new-house" ? `#${channel}` : "");
  const connect = async () => {
    const platform = on || slug(made.platform);
    const account = made.account.trim();
    const address = at.trim().replace(/^ircs?:\/\//, "");
    const missing = !platform
      ? "Name the network."
      : !address
        ? "Write where the chat is: host and port."
        : !account
          ? "Write the account the house speaks as."
          : !room
            ? "Write the room."
            : "";
    setFault(missing);
    if (missing) return;
    setBusy(true);
    const list = (doors.value ?? []) as Door[];
    const name = free(
      `${platform}-chat`,
      list.map((d) => d.name),
    );
    const host = /:\d+$/.test(address) ? address : `${address}:${tls ? 6697 : 6667}`;
    const door = { name, kind: "irc", platform, address: host, tls: tls || undefined, room: room.trim(), account, as: as || undefined } as Door;
    // With a password it stays shut until that is kept: the house goes nowhere as nobody.
    let ok = await doors.put([...list, made.password ? { ...door, paused: true } : door]);
    if (ok && made.password) {
      ok =
        (await deed(api.PUT("/api/house/secrets", { body: { name, slot: "password", value: made.password } }), {
          stale: [about.house],
          then: () => undefined,
          fault: setFault,
        }).then(() => true)) && ok;
      ok = await doors.put([...list, door]);
    }
    setBusy(false);
    if (ok) onMade?.(name);
  };
  return (
    <form
      aria-label="Connect a chat"
      onSubmit={(e) => {
        e.preventDefault();
        void connect();
      }}
    >
      <Line label="Network">{() => <One label="Network" value={on ?? "choose…"} list={profiles.map((p) => [p.platform, p.title])} onPick={setOn} />}</Line>
      {on && signable && !asYou && (
        <div className="my-2 rounded-lg border border-line px-3 py-2">
          <SignIn platform={on} moves />
          <p className="sub m-0 pt-1">Or connect its chat by hand:</p>
        </div>
      )}
      {on === "" && (
        <Line label="Called" hint="One word for this network; people who are here are told apart by it.">
          {(id) => <Field id={id} value={made.platform} placeholder="harbour" maxLength={40} onChange={typed("platform")} />}
        </Line>
      )}
      <Line label="Address" hint="Host and port of its chat.">
        {(id) => <Field id={id} value={at} placeholder="chat.example:6697" maxLength={260} onChange={typed("address")} />}
      </Line>
      <Line label="TLS">
        {() => (
          <Tick on={tls} onChange={(tls) => setMade({ ...made, tls })} className="pt-2">
            the way there is encrypted
          </Tick>
        )}
      </Line>
      <Line label="Room">{(id) => <Field id={id} value={room} placeholder="#my_channel" maxLength={200} onChange={typed("room")} />}</Line>
      {asYou && (
        <Line label="It speaks as" hint="Chosen lines may go out as you; everything else goes out as the house.">
          {() => (
            <One
              label="It speaks as"
              value={as}
              list={[
                ["", "the house, under an account of its own"],
                ["streamer", "you, under your own account"],
              ]}
              onPick={(v) => setAs(v as "" | "streamer")}
            />
          )}
        </Line>
      )}
      <Line label="Account" hint={as ? "Yours." : "The house's own account there, not yours."}>
        {(id) => <Field id={id} value={made.account} autoComplete="off" maxLength={60} onChange={typed("account")} />}
      </Line>
      <Line label="Password" hint="Kept under lock and key, sent to this address alone, never shown again. Empty where the account has none.">
        {(id) => <Field id={id} type="password" autoComplete="new-password" value={made.password} maxLength={400} onChange={typed("password")} />}
      </Line>
      {(fault || doors.fault) && <Fault role="alert">{fault || doors.fault?.words}</Fault>}
      <Button look="lit" disabled={busy} className="mt-2">
        {busy ? "Connecting…" : "Connect"}
      </Button>
    </form>
  );
}

/** nearHost finds in a reason the host that the owner may let the house reach. */
export const nearHost = /(\S+) is at \S+, on this machine or a private network/;

/** ChatProof shows by itself that a chat door works: that the house is there, that its line comes back, which rights it has, and how to give the one it lacks. */
export function ChatProof({ door: name }: { door: string }) {
  const live = useLive((s) => s.doors)?.find((d) => d.door === name);
  const page = useQuery(doorOf(name)).data;
  const role = useQuery(session).data?.role;
  const deed = useDeed();
  const again = useAgain();
  const [back, setBack] = useState("");
  const open = live?.state === "open";
  useEffect(() => {
    if (!open) return;
    void deed(api.POST("/api/doors/{door}/check", { params: { path: { door: name } } }), {
      then: (c) => setBack(c.ok ? `A line that the house said to itself came back in ${c.millis} ms.` : (c.reason ?? "no answer")),
      fault: setBack,
    });
  }, [open, name, deed]);
  if (!live) return null;
  const host = nearHost.exec(live.reason ?? "")?.[1];
  return (
    <div className="grid gap-2 py-2" aria-live="polite">
      <Proof ok={open}>
        {open ? `The house is in ${titled(live.platform)}'s chat as ${live.account}.` : live.state === "paused" ? "The door is paused." : live.reason || "Knocking…"}
      </Proof>
      {host && role === "owner" && (
        <p className="m-0 flex flex-wrap items-center gap-2 pl-6">
          <span className="sub">{host} is on this machine or in your own network.</span>
          <Button
            size="s"
            onClick={() =>
              void deed(api.PUT("/api/house/hosts", { body: { host, allow: true } }), {
                stale: [about.house],
                say: `The house may reach ${host} now.`,
                then: () => void again(about.house),
              })
            }
          >
            Let the house reach {host}
          </Button>
        </p>
      )}
      {open && back && <Proof ok={back.startsWith("A line")}>{back}</Proof>}
      {open && (
        <Proof ok={live.maySpeak}>
          {live.maySpeak ? "It may speak." : "It may not speak."}
          {page?.speak && (
            <span className="block pt-1">
              Say this in the room, from your own account: <Copyable text={page.speak} label="the line that lets it speak" />
            </span>
          )}
        </Proof>
      )}
      {open && (
        <Proof ok={live.mayModerate} calm>
          {live.mayModerate ? "It may moderate." : "It may not moderate; greeting needs no such right."}
          {page?.moderate && live.maySpeak && (
            <span className="block pt-1">
              If it shall: <Copyable text={page.moderate} label="the line that lets it moderate" />
            </span>
          )}
        </Proof>
      )}
    </div>
  );
}

/** Proof is a thing that can be seen to be so, or not yet; calm is one that need not be. */
export function Proof({ ok, calm, children }: { ok: boolean; calm?: boolean; children: React.ReactNode }) {
  return (
    <div className="flex items-start gap-3">
      <span className={ok ? "dot mt-1.5" : calm ? "dot mt-1.5 bg-text-3 shadow-none" : "dot bad mt-1.5"} aria-hidden />
      <span className="min-w-0 flex-1">{children}</span>
    </div>
  );
}
