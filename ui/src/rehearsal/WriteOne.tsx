import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, said } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, writtenEvening } from "../api/queries";
import { Button, Out } from "../kit/Button";
import { Area, Fault, Field, Select } from "../kit/Field";
import { Head, Panel, Scroll } from "../kit/Panel";
import { PersonPicker } from "../kit/PersonPicker";
import { asRows, asScript, kinds, type Row } from "./script";

type Props = { name: string; opens?: string; onRehearse: (script: string, called: string) => void; onSaved: (name: string) => void; onClose: () => void };

/** WriteOne writes an evening: a plain list of what happens, by minute, with people of the book or made up; or its script file. */
export function WriteOne(props: Props) {
  const stored = useQuery(writtenEvening(props.name));
  // What an earlier look at it left behind may be older than it: nobody changes that.
  if (props.name && !(stored.data && stored.isFetchedAfterMount)) return <main className="empty">{stored.error ? said(stored.error) : "…"}</main>;
  return <Writer {...props} stored={stored.data} />;
}

const example: Row[] = [
  { minute: 0, kind: "porch.stream.opened", who: "", platform: "", text: "A written evening" },
  { minute: 1, kind: "porch.chat.said", who: "limpet_lena", platform: "", text: "hello everybody" },
];

function Writer({ name: was, stored, opens, onRehearse, onSaved, onClose }: Props & { stored?: { script: string; at: string } }) {
  const [opened] = useState(stored); // as it was when it was opened
  const [name, setName] = useState(was);
  const [start] = useState(() => opens ?? new Date(Math.floor(Date.now() / 3_600_000) * 3_600_000).toISOString());
  const [rows, setRows] = useState<Row[]>(() => (opened && asRows(opened.script)) || example);
  const [script, setScript] = useState(() => (opened && !asRows(opened.script) ? opened.script : undefined)); // it has more than the list can show
  const [fault, setFault] = useState("");
  const deed = useDeed();
  const text = () => script ?? asScript(rows, start);
  const change = (i: number, r: Partial<Row>) => setRows(rows.map((x, k) => (k === i ? { ...x, ...r } : x)));
  const save = () =>
    void deed(api.PUT("/api/rehearsal/evenings/{name}", { params: { path: { name } }, body: { script: text(), ...(opened && { was, seen: opened.at }) } }), {
      stale: [about.rehearsal],
      say: `“${name}” is written down.`,
      then: () => onSaved(name),
      fault: setFault,
    });
  return (
    <main className="flex min-h-0 flex-1 flex-col gap-3 px-5 pt-1 pb-3">
      <header className="flex flex-wrap items-center gap-2">
        <h1 className="m-0 mr-2 text-[20px]">{was ? "Change an evening" : "Write an evening"}</h1>
        <Field className="w-64" placeholder="Its name" aria-label="Its name" value={name} maxLength={60} onChange={(e) => setName(e.target.value)} />
        <Button onClick={() => setScript(script === undefined ? text() : undefined)} disabled={script !== undefined && !asRows(script)}>
          {script === undefined ? "As script file" : "As list"}
        </Button>
        <label className="sub cursor-pointer">
          <span className="link">Bring a script file in</span>
          <input
            type="file"
            accept=".jsonl,.json,.txt"
            className="sr-only"
            onChange={(e) => {
              const f = e.target.files?.[0];
              if (f) void f.text().then(setScript);
            }}
          />
        </label>
        <a className="link text-[12.5px]" download={`${name || "evening"}.jsonl`} href={`data:application/x-ndjson;charset=utf-8,${encodeURIComponent(text())}`}>
          Script file
        </a>
        <span className="ml-auto flex gap-2">
          <Button look="ghost" onClick={onClose}>
            Back
          </Button>
          <Button onClick={() => onRehearse(text(), name)}>Rehearse it</Button>
          <Button look="lit" disabled={!name.trim()} onClick={save}>
            Write it down
          </Button>
        </span>
      </header>
      {fault && <Fault role="alert">{fault}</Fault>}
      <Panel label="What happens" className="flex-1">
        <Head count={script === undefined ? `${rows.length} happenings` : "one event a line, in the order of time"}>What happens</Head>
        {script !== undefined ? (
          <Area className="m-4 flex-1 font-mono text-[12.5px]" aria-label="Script" spellCheck={false} value={script} onChange={(e) => setScript(e.target.value)} />
        ) : (
          <Scroll label="What happens">
            {rows.map((r, i) => (
              <div key={i} className="write-row">
                <label className="flex items-center gap-1">
                  <span className="sr-only">minute</span>
                  <Field
                    type="number"
                    size="s"
                    className="w-20"
                    min={0}
                    step={0.1}
                    value={r.minute}
                    aria-label={`minute of row ${i + 1}`}
                    onChange={(e) => !Number.isNaN(e.target.valueAsNumber) && change(i, { minute: Math.max(0, e.target.valueAsNumber) })}
                  />
                  <span className="sub">min</span>
                </label>
                <Select size="s" aria-label={`what happens in row ${i + 1}`} value={r.kind} onChange={(e) => change(i, { kind: e.target.value as Row["kind"] })}>
                  {Object.entries(kinds).map(([k, v]) => (
                    <option key={k} value={k}>
                      {v.words}
                    </option>
                  ))}
                </Select>
                {kinds[r.kind].who ? (
                  <span className="flex items-center gap-1">
                    <Field
                      size="s"
                      className="w-40"
                      placeholder="who, made up or known"
                      aria-label={`who in row ${i + 1}`}
                      value={r.who}
                      onChange={(e) => change(i, { who: e.target.value, id: undefined })}
                    />
                    <PersonPicker
                      label="Somebody of the book"
                      onPick={(p) => {
                        const [platform = "", id = ""] = [p.account.slice(0, p.account.indexOf(":")), p.account.slice(p.account.indexOf(":") + 1)];
                        change(i, { who: p.name, platform, id });
                      }}
                    >
                      book
                    </PersonPicker>
                  </span>
                ) : (
                  <span />
                )}
                {kinds[r.kind].number ? (
                  <label className="sub flex items-center gap-1">
                    <Field
                      type="number"
                      size="s"
                      className="w-20"
                      min={0}
                      value={r.number ?? 1}
                      aria-label={`${kinds[r.kind].number} of row ${i + 1}`}
                      onChange={(e) => !Number.isNaN(e.target.valueAsNumber) && change(i, { number: Math.max(0, e.target.valueAsNumber) })}
                    />
                    {kinds[r.kind].number}
                  </label>
                ) : (
                  <span />
                )}
                {kinds[r.kind].text ? (
                  <Field
                    size="s"
                    placeholder={kinds[r.kind].text}
                    aria-label={`${kinds[r.kind].text} of row ${i + 1}`}
                    value={r.text ?? ""}
                    onChange={(e) => change(i, { text: e.target.value })}
                  />
                ) : (
                  <span />
                )}
                <Out label={`Take row ${i + 1} out`} onClick={() => setRows(rows.filter((_, k) => k !== i))} />
              </div>
            ))}
            <Button
              size="s"
              className="mx-4 my-2"
              onClick={() => setRows([...rows, { minute: (rows.at(-1)?.minute ?? 0) + 1, kind: "porch.chat.said", who: "", platform: rows.at(-1)?.platform ?? "", text: "" }])}
            >
              Another
            </Button>
          </Scroll>
        )}
      </Panel>
    </main>
  );
}
