import { useState } from "react";
import { api, type EveningRow, type Expected, type RehearsalResult } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Button, Out } from "../kit/Button";
import { Dialog } from "../kit/Dialog";
import { Field, Tick } from "../kit/Field";
import { Picker } from "../kit/Picker";
import { useSentences } from "./sentences";
import type { What } from "./rehearsal";

const counted: [string, string][] = [
  ["lines", "lines said"],
  ["share", "house share, %"],
  ["greeted", "people greeted"],
  ["silent", "met in silence"],
  ["cards", "cards on screen"],
  ["posts", "posts"],
  ["seconds waited", "longest wait, seconds"],
];

/** Keep keeps an evening by a name, with what is expected of it: every line as it goes now, or what must be said, what must not, and how many of what. */
export function Keep({ what, all, result, onClose }: { what: What; all: EveningRow[]; result: RehearsalResult; onClose: () => void }) {
  const called = "evening" in what ? what.evening : "script" in what ? what.called : undefined;
  const [there] = useState(() => all.find((e) => ("stream" in what ? e.kept && e.stream === what.stream : e.name === called))); // as it was when this was opened
  const before = there?.kept ? there : undefined;
  const [name, setName] = useState(there?.name ?? called ?? "");
  const [asNow, setAsNow] = useState(before ? !!before.version : true);
  const [expected, setExpected] = useState<Expected>(before?.expected ?? {});
  const sentences = useSentences();
  const deed = useDeed();
  const save = async () => {
    const of =
      "stream" in what
        ? { stream: what.stream }
        : "dials" in what
          ? { dials: what.dials }
          : "script" in what
            ? { script: what.script }
            : before?.dials
              ? { dials: before.dials }
              : { script: (await api.GET("/api/rehearsal/evenings/{name}", { params: { path: { name: what.evening } } })).data?.script ?? "" };
    void deed(
      api.PUT("/api/rehearsal/evenings/{name}", {
        params: { path: { name } },
        body: { ...of, ...(there?.name === name && { was: name, seen: there.at }), keep: true, asNow, expected },
      }),
      {
        stale: [about.rehearsal],
        say: `“${name}” is kept.`,
        then: onClose,
      },
    );
  };
  const list = (field: "said" | "unsaid", words: string) => (
    <div className="grid gap-1">
      <span className="flex items-center gap-2 text-[13px] font-semibold">
        {words}
        <Picker
          label="Which courtesy"
          size="s"
          choices={sentences.map((s) => ({ value: s.id, label: s.text }))}
          onPick={(courtesy) => setExpected({ ...expected, [field]: [...(expected[field] ?? []), { courtesy }] })}
        >
          Add
        </Picker>
      </span>
      {(expected[field] ?? []).map((l, i) => (
        <span key={i} className="flex items-center gap-2 text-[13px]">
          <span className="cut flex-1">{sentences.find((s) => s.id === l.courtesy)?.text ?? l.courtesy}</span>
          <Field
            size="s"
            className="w-52"
            placeholder="in these words, or any"
            aria-label="In these words"
            value={l.text ?? ""}
            onChange={(e) => setExpected({ ...expected, [field]: expected[field]!.map((x, k) => (k === i ? { ...x, text: e.target.value || undefined } : x)) })}
          />
          <Out label="Take it out" onClick={() => setExpected({ ...expected, [field]: expected[field]!.filter((_, k) => k !== i) })} />
        </span>
      ))}
    </div>
  );
  const bound = (count: string, end: "least" | "most", n?: number) => {
    const range = { ...expected.counts?.[count], [end]: n };
    const counts = { ...expected.counts, [count]: range };
    if (range.least === undefined && range.most === undefined) delete counts[count];
    setExpected({ ...expected, counts });
  };
  const now: Record<string, number | undefined> = {
    lines: result.below.lines,
    share: Math.round(1000 * result.below.share) / 10,
    greeted: result.below.greeted,
    silent: result.below.silentOf,
    cards: result.below.shown,
  };
  return (
    <Dialog title="Keep this evening" onClose={onClose}>
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <label className="grid gap-1 text-[13px]">
          By what name
          <Field value={name} maxLength={60} onChange={(e) => setName(e.target.value)} required />
        </label>
        <Tick on={asNow} onChange={setAsNow}>
          Every line is to go as it goes under the settings in force now
        </Tick>
        {list("said", "Must be said")}
        {list("unsaid", "Must not be said")}
        <div className="grid gap-1">
          <b className="text-[13px]">How many</b>
          {counted.map(([count, words]) => (
            <span key={count} className="flex items-center gap-2 text-[13px]">
              <span className="flex-1">
                {words} {now[count] !== undefined && <span className="sub">now {now[count]}</span>}
              </span>
              {(["least", "most"] as const).map((end) => (
                <Field
                  key={end}
                  type="number"
                  size="s"
                  className="w-24"
                  placeholder={end === "least" ? "at least" : "at most"}
                  aria-label={`${words}, at ${end}`}
                  value={expected.counts?.[count]?.[end] ?? ""}
                  onChange={(e) => bound(count, end, Number.isNaN(e.target.valueAsNumber) ? undefined : e.target.valueAsNumber)}
                />
              ))}
            </span>
          ))}
        </div>
        <span className="sub">
          {"stream" in what ? "It points into the log and copies nobody: whoever is forgotten is gone from it, too." : "It is lived again after each change of the settings."}
        </span>
        <span className="flex justify-end gap-2">
          <Button type="button" look="ghost" onClick={onClose}>
            Not now
          </Button>
          <Button look="lit" type="submit">
            Keep it
          </Button>
        </span>
      </form>
    </Dialog>
  );
}
