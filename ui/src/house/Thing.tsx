import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, said } from "../api/client";
import { useDeed, useSettingsUndo } from "../api/deeds";
import { about, house, uses } from "../api/queries";
import { Button } from "../kit/Button";
import { Dialog } from "../kit/Dialog";
import { Fault, Field } from "../kit/Field";

type Section = "doors" | "places" | "fittings";
const stale = [about.house, about.courtesies, about.history, about.moving];

/** Secret says whether a secret is kept, and sets or replaces it; it is never shown. */
export function Secret({ name, slot, words }: { name: string; slot: "password" | "token" | "secret" | "secret-old"; words: string }) {
  const kept = useQuery(house)
    .data?.secrets.find((s) => s.name === name)
    ?.slots.includes(slot);
  const deed = useDeed();
  const [typed, setTyped] = useState<string>();
  const [fault, setFault] = useState("");
  if (typed === undefined)
    return (
      <span className="flex items-center gap-2">
        <span className="sub">{kept ? `${words} is kept` : `no ${words}`}</span>
        <Button size="s" type="button" onClick={() => setTyped("")}>
          {kept ? "Replace" : "Set"}
        </Button>
        {kept && (
          <Button
            size="s"
            look="ghost"
            type="button"
            onClick={() => void deed(api.PUT("/api/house/secrets", { body: { name, slot } }), { stale: [about.house], say: `The ${words} is forgotten.` })}
          >
            forget it
          </Button>
        )}
      </span>
    );
  return (
    <form
      className="flex max-w-sm flex-wrap items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void deed(api.PUT("/api/house/secrets", { body: { name, slot, value: typed } }), {
          stale: [about.house],
          say: `The ${words} is kept.`,
          then: () => {
            setTyped(undefined);
            setFault("");
          },
          fault: setFault,
        });
      }}
    >
      <Field size="s" className="w-56" type="password" autoComplete="off" aria-label={`The ${words} of ${name}`} value={typed} onChange={(e) => setTyped(e.target.value)} />
      <Button size="s" look="lit" disabled={!typed}>
        Keep it
      </Button>
      <Button size="s" look="ghost" type="button" onClick={() => setTyped(undefined)}>
        no
      </Button>
      {fault && <Fault role="alert">{fault}</Fault>}
    </form>
  );
}

/** Named renames a thing or takes it away; what courtesies use it is said first. */
export function Named({ section, name, title, onGone }: { section: Section; name: string; title: string; onGone?: (now?: string) => void }) {
  const [asks, setAsks] = useState<"rename" | "away">();
  return (
    <span className="flex gap-1.5">
      <Button size="s" onClick={() => setAsks("rename")}>
        Rename
      </Button>
      <Button size="s" onClick={() => setAsks("away")}>
        Take away
      </Button>
      {asks && <Asks {...{ section, name, title, onGone }} away={asks === "away"} onClose={() => setAsks(undefined)} />}
    </span>
  );
}

function Asks({
  section,
  name,
  title,
  away,
  onClose,
  onGone,
}: {
  section: Section;
  name: string;
  title: string;
  away: boolean;
  onClose: () => void;
  onGone?: (now?: string) => void;
}) {
  const q = useQuery(uses(section, name));
  const list = q.data?.uses;
  const deed = useDeed();
  const undo = useSettingsUndo();
  const [to, setTo] = useState(name);
  const [fault, setFault] = useState("");
  const done = (now?: string) => {
    onClose();
    onGone?.(now);
  };
  const [busy, setBusy] = useState(false);
  const comes = (words: string) => ({ stale, say: words, undo: (x: { version: number }) => undo(x.version), fault: setFault });
  const go = async () => {
    setBusy(true);
    const did = await (away
      ? deed(api.POST("/api/house/takeaway", { body: { section, name } }), comes(`${title} is taken away.`))
      : deed(api.POST("/api/house/rename", { body: { section, name, to } }), comes(`${title} goes by ${to} now.`)));
    setBusy(false);
    if (did) done(away ? undefined : to); // once the page knows it by its new name: what is done next is done to that
  };
  return (
    <Dialog title={away ? `Take ${title} away?` : `Rename ${title}`} onClose={onClose}>
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (!busy) void go();
        }}
      >
        {list?.length ? (
          <div>
            <p className="m-0">{list.length === 1 ? "One courtesy uses it" : `${list.length} courtesies use it`}, and changes with it in the same version:</p>
            <ul className="m-0 pl-5">
              {list.map((u) => (
                <li key={u.courtesy}>
                  {u.says} {away && <span className="sub">{u.all ? "does nothing else: it is switched off, and its words there go" : "goes on without it"}</span>}
                </li>
              ))}
            </ul>
          </div>
        ) : !list ? (
          <p className="m-0">{q.error ? said(q.error) : "Looking up what uses it…"}</p>
        ) : (
          <p className="m-0">No courtesy uses it by its name.{section === "doors" && away ? " What came in here comes in no more." : ""}</p>
        )}
        {!away && <Field aria-label="The new name" value={to} maxLength={60} onChange={(e) => setTo(e.target.value)} />}
        {!away && section === "doors" && <p className="sub m-0">The address that happenings are sent to changes with it.</p>}
        {fault && <Fault role="alert">{fault}</Fault>}
        <div className="flex gap-2">
          <Button look={away ? "grave" : "lit"} disabled={q.isPending || (!away && (!to.trim() || to === name))}>
            {away ? "Take it away" : "Rename it"}
          </Button>
          <Button type="button" onClick={onClose}>
            Leave it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
