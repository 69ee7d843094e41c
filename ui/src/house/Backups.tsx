import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, sent, type Backup } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, backups, house } from "../api/queries";
import { Button } from "../kit/Button";
import { Dialog } from "../kit/Dialog";
import { Fault, Field } from "../kit/Field";
import { useCalendar } from "../kit/time";
import { Part } from "./Part";

const kinds: Record<string, string> = {
  night: "of the night",
  update: "before an update",
  "by-hand": "by hand",
  before: "before a restore",
  brought: "brought in",
};

const size = (bytes: number) => (bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`);

/** Backups makes backups of the whole house, gives them out, and puts one in the place of the house. */
export function Backups() {
  const q = useQuery(backups);
  const deed = useDeed();
  const calendar = useCalendar();
  const [passphrase, setPassphrase] = useState("");
  const [busy, setBusy] = useState(false);
  const [fault, setFault] = useState("");
  const [chosen, choose] = useState<Backup>();
  const file = useRef<HTMLInputElement>(null);
  const make = async () => {
    setBusy(true);
    await deed(api.POST("/api/backups", { body: { passphrase: passphrase || undefined } }), {
      stale: [about.backups],
      say: "The house is in one file.",
      then: () => (setPassphrase(""), setFault("")),
      fault: setFault,
    });
    setBusy(false);
  };
  return (
    <Part
      label="Backup"
      title={
        <>
          The whole house as <u>one file</u>.
        </>
      }
    >
      {q.data?.none ? (
        <Fault role="alert">{q.data.none}</Fault>
      ) : (
        <>
          <p className="m-0 max-w-[62ch]">
            One is made each night while you are not live, and one before each update. The last seven of each kind are kept in{" "}
            <code className="[overflow-wrap:anywhere]">{q.data?.folder}</code>. A backup holds everything, secrets and their key too: keep it as you would keep the house's keys, or
            give it a passphrase.
          </p>
          <form
            className="my-3 flex flex-wrap items-center gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              void make();
            }}
          >
            <Field
              className="w-64"
              type="password"
              autoComplete="new-password"
              aria-label="A passphrase for the backup"
              placeholder="a passphrase, if you like"
              value={passphrase}
              maxLength={200}
              onChange={(e) => setPassphrase(e.target.value)}
            />
            <Button look="lit" disabled={busy}>
              {busy ? "Writing…" : "Make one now"}
            </Button>
            <input
              ref={file}
              type="file"
              className="hidden"
              aria-label="A backup from elsewhere"
              onChange={(e) => {
                const f = e.target.files?.[0];
                e.target.value = "";
                if (f)
                  void deed(sent<Backup>("/api/backups/file?name=brought", f, { method: "PUT" }), {
                    stale: [about.backups],
                    say: "It is brought in; nothing is restored yet.",
                    fault: setFault,
                  });
              }}
            />
            <Button type="button" onClick={() => file.current?.click()}>
              Bring one in…
            </Button>
          </form>
          {fault && <Fault role="alert">{fault}</Fault>}
          {q.data?.list.map((b) => (
            <div key={b.name} className="thing">
              <div>
                <b>{calendar.fully(b.made)}</b>{" "}
                <span className="sub">
                  {kinds[b.kind] ?? b.kind} · {size(b.bytes)}
                </span>
              </div>
              <span className="flex gap-1.5">
                <Button size="s" asChild>
                  <a href={`/api/backups/file?name=${encodeURIComponent(b.name)}`} download>
                    Save as a file
                  </a>
                </Button>
                <Button size="s" onClick={() => choose(b)}>
                  Restore…
                </Button>
              </span>
            </div>
          ))}
          {q.data?.list.length === 0 && <p className="sub">There are none yet.</p>}
        </>
      )}
      {chosen && <Restore backup={chosen} onClose={() => choose(undefined)} />}
    </Part>
  );
}

/** Restore asks a second word before it puts a backup in the place of the house. */
function Restore({ backup: b, onClose }: { backup: Backup; onClose: () => void }) {
  const deed = useDeed();
  const calendar = useCalendar();
  const channel = useQuery(house).data?.settings["channel"] as string | undefined;
  const [word, setWord] = useState("");
  const [passphrase, setPassphrase] = useState("");
  const [fault, setFault] = useState("");
  const [waiting, setWaiting] = useState(false);
  const go = () =>
    void deed(api.POST("/api/backups/restore", { body: { name: b.name, word, passphrase: passphrase || undefined } }), {
      fault: setFault,
      then: ({ enter }) => {
        setWaiting(true);
        // The house closes, and is back with another database: its page is opened anew.
        let gone = false;
        const look = setInterval(() => {
          void fetch("/readyz").then(
            (r) => {
              gone ||= !r.ok;
              if (!gone || !r.ok) return;
              clearInterval(look);
              location.assign(enter);
            },
            () => (gone = true),
          );
        }, 200);
      },
    });
  return (
    <Dialog title="Put this backup in the place of the house?" onClose={() => !waiting && onClose()}>
      {waiting ? (
        <p className="m-0" role="status">
          The house is being brought back. This page opens again by itself when it is there.
        </p>
      ) : (
        <form
          className="grid gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            go();
          }}
        >
          <p className="m-0">
            The house will be as it was on <b>{calendar.fully(b.made)}</b>. What is there now goes; a backup of it is kept. Everybody signs in anew, and the doors stay shut until
            you say go. Whoever asked to be forgotten since then stays forgotten.
          </p>
          <label className="grid gap-1">
            <span>
              Write the channel's name, <b>{channel}</b>, to say so twice
            </span>
            <Field value={word} maxLength={80} autoComplete="off" onChange={(e) => setWord(e.target.value)} />
          </label>
          <label className="grid gap-1">
            <span>Its passphrase, if it has one</span>
            <Field type="password" autoComplete="off" value={passphrase} maxLength={200} onChange={(e) => setPassphrase(e.target.value)} />
          </label>
          {fault && <Fault role="alert">{fault}</Fault>}
          <div className="flex gap-2">
            <Button look="grave" disabled={!word.trim()}>
              Restore it
            </Button>
            <Button type="button" onClick={onClose}>
              Leave it
            </Button>
          </div>
        </form>
      )}
    </Dialog>
  );
}
