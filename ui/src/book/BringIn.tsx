import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, type Import } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, importRows, imports } from "../api/queries";
import { Button, Quiet, buttonLook } from "../kit/Button";
import { Fault, Select } from "../kit/Field";
import { Scroll } from "../kit/Panel";
import { RadioGroup } from "../kit/RadioGroup";
import { Tabs } from "../kit/Tabs";
import { useCalendar } from "../kit/time";
import { firstPlatform, usePlatforms } from "../kit/usePlatforms";
import { titled } from "../kit/words";
import { useSheet } from "./sheet";

const kinds = {
  csv: ["CSV", "a heading and a row a person; comma or semicolon"],
  vcf: ["vCard", "contacts of version 4.0, 3.0 or 2.1"],
  jsonl: ["People file", "JSON Lines, as this book goes out; keeps everything"],
  ics: ["Calendar of days", "birthdays and follow dates from an iCalendar file"],
  chatlog: ["Old chat log", "plain text with times, or JSON Lines; becomes people with visits"],
} as const;
type Kind = keyof typeof kinds;

const guess = (name: string): Kind =>
  /\.(vcf|vcard)$/i.test(name) ? "vcf" : /\.(ics|ical)$/i.test(name) ? "ics" : /\.(jsonl|ndjson)$/i.test(name) ? "jsonl" : /\.(log|txt)$/i.test(name) ? "chatlog" : "csv";

/** BringIn takes files in: first what it would do, then, in one go, doing it; and it can be taken back. */
export function BringIn() {
  const deed = useDeed();
  const calendar = useCalendar();
  const platforms = usePlatforms();
  const [kind, setKind] = useState<Kind>("csv");
  const [platform, setPlatform] = useState("");
  const [monthFirst, setMonthFirst] = useState(false);
  const [reading, setReading] = useState(false);
  const [seen, setSeen] = useState<Import>();
  const [fault, setFault] = useState("");
  const file = useRef<HTMLInputElement>(null);
  const past = useQuery(imports);

  const read = async (f: File, as: Kind) => {
    setReading(true);
    setFault("");
    setSeen(undefined);
    const on = platform || (await firstPlatform()); // a file may be chosen before the page knows any
    await deed(
      api.POST("/api/book/imports", {
        params: { query: { format: as, file: f.name, platform: on, monthFirst: monthFirst || undefined } },
        body: f as unknown as string,
        bodySerializer: (b) => b as unknown as BodyInit,
        headers: { "Content-Type": "application/octet-stream" },
      }),
      { stale: [imports.queryKey], then: setSeen, fault: setFault },
    );
    setReading(false);
  };
  const act = (id: number, what: "apply" | "undo" | "drop"): Promise<unknown> =>
    deed(api.POST("/api/book/imports/{id}", { params: { path: { id } }, body: { act: what } }), {
      stale: [about.book],
      then: (im) => setSeen(what === "drop" ? undefined : { ...im, notes: seen?.notes ?? [] }),
      say: what === "apply" ? "Taken in." : what === "undo" ? "Taken back." : "Left out; nothing was changed.",
      undo: what === "apply" ? () => act(id, "undo") : undefined,
    });
  return (
    <Scroll className="px-4 pb-4" label="Bring in and take out">
      <RadioGroup
        label="What kind of file"
        className="grid gap-2 sm:grid-cols-2"
        value={kind}
        onChange={setKind}
        options={(Object.keys(kinds) as Kind[]).map((k) => ({
          value: k,
          name: kinds[k][0],
          label: (
            <>
              <b>{kinds[k][0]}</b>
              <span className="sub block">{kinds[k][1]}</span>
            </>
          ),
        }))}
      />
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <label className="sub" htmlFor="bring-platform">
          Accounts without a platform are on
        </label>
        <Select id="bring-platform" size="s" value={platform || platforms[0]} onChange={(e) => setPlatform(e.target.value)}>
          {platforms.map((p) => (
            <option key={p} value={p}>
              {titled(p)}
            </option>
          ))}
        </Select>
        {kind === "csv" && (
          <label className="sub flex items-center gap-1.5">
            <input type="checkbox" checked={monthFirst} onChange={(e) => setMonthFirst(e.target.checked)} /> in dates of digits the month comes first
          </label>
        )}
        <input
          ref={file}
          type="file"
          className="sr-only"
          aria-label="File to bring in"
          tabIndex={-1}
          onChange={(e) => {
            const f = e.target.files?.[0];
            if (!f) return;
            const as = kind === "csv" ? guess(f.name) : kind;
            setKind(as);
            void read(f, as);
            e.target.value = "";
          }}
        />
        <Button look="lit" className="ml-auto" disabled={reading} onClick={() => file.current?.click()}>
          {reading ? "Reading…" : "Choose a file"}
        </Button>
      </div>
      {fault && <Fault role="alert">{fault}</Fault>}
      {seen && <Preview im={seen} onAct={act} />}
      <h2 className="mt-5 mb-1 font-semibold text-[15px]">Brought in before</h2>
      {past.data?.imports.length === 0 && <p className="sub">Nothing yet.</p>}
      {past.data?.imports
        .filter((im) => im.state !== "dropped" && im.id !== seen?.id)
        .map((im) => (
          <div key={im.id} className="flex items-baseline gap-2 py-1">
            <span className="w-20 text-text-3">{calendar.dated(im.at)}</span>
            <span className="cut flex-1">
              {im.file || "a file"}{" "}
              <span className="sub">
                {{ read: "read, not taken in", applied: "taken in", undone: "taken back", dropped: "" }[im.state]} · {im.new} new, {im.changed} changed, {im.refused} refused
              </span>
            </span>
            {im.state === "read" && (
              <Button size="s" onClick={() => setSeen(im)}>
                Look
              </Button>
            )}
            {im.state === "applied" && (
              <Button size="s" onClick={() => void act(im.id, "undo")}>
                Take back
              </Button>
            )}
          </div>
        ))}
      <h2 className="mt-5 mb-1 font-semibold text-[15px]">Take out</h2>
      <p className="sub pb-1">The whole book as a file. Choose people in Everyone to take out only some.</p>
      <div className="flex gap-1.5">
        {(["csv", "vcf", "jsonl"] as const).map((f) => (
          <a key={f} className={buttonLook()} href={`/api/book/export?format=${f}`} download>
            {kinds[f][0]}
          </a>
        ))}
      </div>
    </Scroll>
  );
}

const verdicts = ["new", "changed", "refused", "unchanged"] as const;

function Preview({ im, onAct }: { im: Import; onAct: (id: number, what: "apply" | "drop" | "undo") => void }) {
  const { show } = useSheet();
  const first = verdicts.find((v) => im[v] > 0) ?? "new";
  const [tab, setTab] = useState<(typeof verdicts)[number]>(im.refused ? "refused" : first);
  const rows = useQuery(importRows(im.id, tab));
  return (
    <div className="mt-3 rounded-lg bg-surface-2 p-3" role="region" aria-label="What it would do" data-testid="preview-import">
      <div className="flex flex-wrap items-center gap-2">
        <b>{im.file || "The file"}</b>
        <span className="sub">
          {im.streams > 0 && `${im.streams} past streams · `}
          {im.crews > 0 && `${im.crews} new crews · `}
          {im.state === "read" ? "nothing is changed yet" : im.state === "applied" ? "taken in" : "taken back"}
        </span>
        <span className="ml-auto flex gap-1.5">
          {im.state === "read" && (
            <>
              <Button size="s" look="ghost" onClick={() => onAct(im.id, "drop")}>
                Leave it
              </Button>
              <Button size="s" look="lit" disabled={im.new + im.changed + im.streams === 0} onClick={() => onAct(im.id, "apply")}>
                Take in {im.new + im.changed}
              </Button>
            </>
          )}
          {im.state === "applied" && (
            <Button size="s" onClick={() => onAct(im.id, "undo")}>
              Take back
            </Button>
          )}
        </span>
      </div>
      {im.notes.map((n, i) => (
        <p key={i} className="sub m-0">
          <bdi>{n}</bdi>
        </p>
      ))}
      <Tabs label="Rows" className="mt-2 flex gap-1" tabs={verdicts.map((v) => ({ value: v, label: `${im[v].toLocaleString("en")} ${v}` }))} value={tab} onChange={setTab} />
      <Scroll label="The rows" className="mt-2 max-h-72">
        <ul className="m-0 list-none p-0 text-[13px]">
          {rows.data?.rows.map((r) => (
            <li key={r.row} className="py-0.5">
              <span className="muted inline-block w-14">row {r.row}</span> <bdi className="font-semibold">{r.name}</bdi> {r.why && <span className="text-persimmon">{r.why}</span>}
              {r.changes?.map((c) => (
                <span key={c.field} className="sub">
                  {" "}
                  · {c.field}: {c.was && <bdi className="line-through">{c.was}</bdi>} <bdi>{c.now}</bdi>
                </span>
              ))}
              {r.person && im.state === "applied" ? (
                <Quiet className="ml-2" onClick={() => show(r.person)}>
                  open
                </Quiet>
              ) : null}
            </li>
          ))}
          {rows.data?.rows.length === 0 && <li className="sub">None.</li>}
          {(rows.data?.rows.length ?? 0) >= 100 && <li className="sub">and more</li>}
        </ul>
      </Scroll>
    </div>
  );
}
