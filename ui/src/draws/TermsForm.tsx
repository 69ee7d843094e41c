import { useState } from "react";
import type { Terms } from "../api/client";
import { Quiet } from "../kit/Button";
import { Area, Field, Num, Tick } from "../kit/Field";
import { RadioGroup } from "../kit/RadioGroup";
import { usePlatforms } from "../kit/usePlatforms";
import { WhoForm } from "../whom/WhoForm";
import { inWay, ways } from "./terms";

/** TermsForm is what is drawn, and how. */
export function TermsForm({ terms: t, onChange }: { terms: Terms; onChange: (t: Terms) => void }) {
  const set = (part: Partial<Terms>) => onChange({ ...t, ...part });
  const platforms = usePlatforms();
  const [names, setNames] = useState<Record<string, string>>({});
  const [narrow, setNarrow] = useState(!!t.who);
  return (
    <div className="flex flex-col gap-2.5">
      <label className="block">
        <b>What is to be won</b> <span className="sub">one winner a line</span>
        <Area
          className="mt-1"
          size="s"
          rows={Math.min(4, Math.max(1, t.prizes.length))}
          aria-label="Prizes, one a line"
          placeholder="a print of the kelp bed"
          value={t.prizes.join("\n")}
          onChange={(e) => set({ prizes: e.target.value.split("\n") })}
        />
      </label>
      <RadioGroup
        label="How it is won"
        className="grid grid-cols-2 gap-1.5"
        value={t.way}
        onChange={(way) => onChange(inWay(t, way))}
        options={ways.map((w) => ({
          value: w.value,
          label: <b className="block text-[13px] leading-tight">{w.label}</b>,
        }))}
      />
      <p className="sub -mt-1.5 mb-0">{ways.find((w) => w.value === t.way)?.hint}</p>
      {t.way === "word" && (
        <label className="flex items-center gap-2">
          The word
          <Field size="xs" className="w-32" aria-label="The word that enters" value={t.word ?? ""} onChange={(e) => set({ word: e.target.value.trim() })} />
        </label>
      )}
      {t.way === "lately" && (
        <label className="flex items-center gap-2">
          Spoke within <Num label="Minutes within which they spoke" value={t.minutes} onChange={(minutes) => set({ minutes })} /> minutes before it closes
        </label>
      )}
      {t.way === "answer" && <Answers t={t} set={set} />}
      {t.way === "number" && <Guesses t={t} set={set} />}
      {narrow ? (
        <div>
          <b>Who may win</b>
          <WhoForm
            who={t.who ?? {}}
            onChange={(who) => set({ who })}
            platforms={platforms}
            fields={[]}
            nameOf={(a) => names[a] ?? a}
            learn={(a, n) => setNames((m) => ({ ...m, [a]: n }))}
          />
        </div>
      ) : (
        <p className="m-0">
          Anyone may win. <Quiet onClick={() => setNarrow(true)}>Only some…</Quiet>
        </p>
      )}
      <div className="flex flex-col gap-1 text-[13px]">
        {t.way !== "answer" && (
          <span className="flex flex-wrap items-center gap-1.5">
            speaks up within <Num label="Seconds to speak up" value={t.claimSeconds} onChange={(claimSeconds) => set({ claimSeconds })} /> seconds
          </span>
        )}
        <span className="flex flex-wrap items-center gap-1.5">
          closes by itself in <Num label="Minutes until it closes" value={t.closeMinutes} onChange={(closeMinutes) => set({ closeMinutes })} /> minutes
        </span>
        <span className="flex flex-wrap items-center gap-1.5">
          reminds every <Num label="Minutes between reminders" value={t.remindMinutes} onChange={(remindMinutes) => set({ remindMinutes })} /> minutes
        </span>
        <span className="flex flex-wrap items-center gap-1.5">
          not who won the last <Num label="Draws that winners wait" value={t.rest} onChange={(rest) => set({ rest })} /> draws
        </span>
      </div>
    </div>
  );
}

type Part = { t: Terms; set: (part: Partial<Terms>) => void };

function Ask({ t, set, label, hint }: Part & { label: string; hint: string }) {
  return (
    <label className="block">
      {label}
      <Field size="s" className="mt-1" aria-label={label} placeholder={hint} value={t.ask ?? ""} onChange={(e) => set({ ask: e.target.value })} />
    </label>
  );
}

function Hint({ t, set }: Part) {
  return (
    <span className="flex flex-wrap items-center gap-1.5 text-[13px]">
      <Field size="xs" className="min-w-0 flex-1" aria-label="A hint" placeholder="a hint, if you like" value={t.hint ?? ""} onChange={(e) => set({ hint: e.target.value })} />
      after <Num label="Minutes until the hint" value={t.hintMinutes} onChange={(hintMinutes) => set({ hintMinutes })} /> minutes
    </span>
  );
}

function Answers({ t, set }: Part) {
  return (
    <div className="flex flex-col gap-2">
      <Ask t={t} set={set} label="The question" hint="What has five arms and runs?" />
      <label className="block">
        What is right <span className="sub">one answer a line</span>
        <Area
          size="s"
          className="mt-1"
          rows={Math.min(4, Math.max(2, t.answers?.length ?? 1))}
          aria-label="Right answers, one a line"
          placeholder="brittle star"
          value={(t.answers ?? []).join("\n")}
          onChange={(e) => set({ answers: e.target.value.split("\n") })}
        />
      </label>
      <Tick on={!!t.loose} onChange={(loose) => set({ loose })}>
        slips of spelling do not matter
      </Tick>
      <Hint t={t} set={set} />
    </div>
  );
}

function Guesses({ t, set }: Part) {
  return (
    <div className="flex flex-col gap-2">
      <Ask t={t} set={set} label="What is counted" hint="How many barnacles are on the big stone?" />
      <span className="flex flex-wrap items-center gap-1.5">
        from <Num label="Lowest number" value={t.from} onChange={(from) => set({ from })} /> to <Num label="Highest number" value={t.to} onChange={(to) => set({ to })} />, it is{" "}
        <Num label="The number; nothing leaves it to chance" value={t.number} onChange={(number) => set({ number })} />
        <span className="sub">{t.number === undefined ? "left to chance" : ""}</span>
      </span>
      <span className="flex flex-wrap items-center gap-1.5">
        <Num label="Guesses for each person" value={t.guesses} onChange={(guesses) => set({ guesses })} /> {t.guesses === 1 ? "guess" : "guesses"} each
        <Tick on={!!t.exact} onChange={(exact) => set({ exact })}>
          only the very number wins
        </Tick>
      </span>
      <Hint t={t} set={set} />
    </div>
  );
}
