import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type BookSheet } from "../api/client";
import { useDeed, usePart } from "../api/deeds";
import { about, found as foundFor } from "../api/queries";
import { Button, buttonLook } from "../kit/Button";
import { Picker } from "../kit/Picker";
import { span, useCalendar } from "../kit/time";
import { titled } from "../kit/words";
import { useSheet } from "./sheet";

/** Records shows accounts and merged records, and merges, parts and forgets. */
export function Records({ s }: { s: BookSheet }) {
  const deed = useDeed();
  const part = usePart();
  const { show } = useSheet();
  const calendar = useCalendar();
  const [typed, setTyped] = useState("");
  const [sure, setSure] = useState(false);
  const found = useQuery(foundFor(typed));
  const stale = [about.book];
  const merge = (gone: number, name: string) =>
    deed(api.POST("/api/book/merge", { body: { kept: s.row.person, gone } }), {
      stale,
      say: `${name} is found here now.`,
      undo: () => part(gone, `${name} is a record of its own again.`),
    });
  return (
    <div className="border-t border-line px-4 py-3">
      <h3 className="mb-1 font-semibold">Accounts</h3>
      {s.accounts.map((a) => (
        <div key={a.key} className="py-1">
          <b className="font-semibold">{titled(a.platform)}</b> <bdi>{a.login || a.key}</bdi>
          {a.provisional && <span className="sub"> · known by login only</span>}
          {a.nick && <span className="sub"> · known by nick only: nobody vouches for it</span>}
          <div className="sub">
            {a.lines} lines · {a.followed ? `follows since ${calendar.dated(a.followed)}` : "does not follow"}
            {a.lastSeen && Date.parse(a.lastSeen) > 0 && ` · last heard ${span(calendar.now - Date.parse(a.lastSeen))} ago`}
            {a.was.length > 0 && (
              <>
                {" "}
                · was <bdi>{a.was.join(", ")}</bdi>
              </>
            )}
          </div>
        </div>
      ))}
      {s.merged.map((m) => (
        <div key={m.record} className="flex items-center gap-2 py-1">
          <span className="flex-1">
            merged: <bdi>{m.name || `record ${m.record}`}</bdi>
          </span>
          <Button size="s" onClick={() => void part(m.record, `${m.name} is a record of its own again.`)}>
            Part
          </Button>
        </div>
      ))}
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Picker
          label="Merge with"
          size="s"
          onSearch={setTyped}
          choices={(found.data?.rows ?? []).filter((x) => x.person !== s.row.person).map((x) => ({ value: String(x.person), label: x.name, hint: x.platforms.join(", ") }))}
          onPick={(v) => void merge(Number(v), found.data?.rows.find((x) => x.person === Number(v))?.name ?? "")}
        >
          Merge with…
        </Picker>
        <a className={buttonLook({ size: "s" })} href={`/api/book/people/${s.row.person}/kept`} download>
          All that is kept
        </a>
        {sure ? (
          <>
            <Button
              size="s"
              look="grave"
              onClick={() =>
                void deed(api.POST("/api/book/people/{person}/forget", { params: { path: { person: s.row.person } } }), {
                  stale,
                  then: () => show(),
                  say: "Forgotten. Counts of past streams stay, without a name.",
                })
              }
            >
              Forget for good
            </Button>
            <Button size="s" look="ghost" onClick={() => setSure(false)}>
              Keep
            </Button>
          </>
        ) : (
          <Button size="s" look="ghost" onClick={() => setSure(true)}>
            Forget…
          </Button>
        )}
      </div>
      {sure && <p className="sub mt-1">This cannot be undone: names, notes, dates and lines go, and the accounts are not recorded again unless they ask for it in chat.</p>}
    </div>
  );
}
