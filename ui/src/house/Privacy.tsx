import type { Settings } from "../api/client";
import { Kept, Line } from "../keeping/Line";
import { useSection } from "../keeping/useSection";
import { Fault, Num } from "../kit/Field";
import { Part } from "./Part";
import { Words } from "../keeping/Words";

type Of = NonNullable<Settings["privacy"]>;

const asked: [keyof Of, string, string][] = [
  ["ask", "Asks what is kept", "Words that ask it, one a line; said as the whole line, in any case."],
  ["forget", "Asks to be forgotten", "Likewise."],
  ["confirm", "Confirms it", "The second word, within a minute."],
  ["remember", "Wants to be recorded again", "Said by somebody who was forgotten."],
];
const answered: [keyof Of, string, string][] = [
  ["link", "Told in private", "Fill-ins: name, link. Only where viewers can open links."],
  ["open", "Told in the open", "Where there are no private messages. Fill-ins: name, channel."],
  ["sure", "Asks for the second word", "Fill-ins: name, word."],
  ["gone", "Said once it is done", ""],
];

/** Privacy is what viewers can ask about themselves, in which words, and how long chat is kept. */
export function Privacy() {
  const privacy = useSection("privacy");
  const p = privacy.value ?? { ask: [], forget: [], confirm: [], remember: [], keepDays: 0, link: [], open: [], sure: [], gone: [] };
  const rows = (list: typeof asked) =>
    list.map(([k, label, hint]) => (
      <Line key={k} label={label} hint={hint} fault={privacy.fault?.at.startsWith(`privacy.${k}`) ? privacy.fault.words : undefined}>
        {(id) => <Words id={id} rows={2} list={p[k] as string[]} onSet={(words) => privacy.set({ ...p, [k]: words })} onSave={() => void privacy.save()} />}
      </Line>
    ));
  return (
    <Part
      label="Privacy"
      title={
        <>
          What is <u>kept</u>, and who may ask.
        </>
      }
    >
      <div className="flex flex-wrap items-center gap-2 py-1.5">
        What people say in chat is kept for <Num onBlur={() => void privacy.save()} label="Days" value={p.keepDays} onChange={(n) => privacy.set({ ...p, keepDays: n ?? 0 })} />{" "}
        days. <span className="sub">0 is for ever.</span>
      </div>
      <div className="flex flex-wrap items-center gap-2 py-1.5">
        What went to places is kept for{" "}
        <Num onBlur={() => void privacy.save()} label="Days of what arrived" value={p.deliveredDays || 30} onChange={(n) => privacy.set({ ...p, deliveredDays: n || undefined })} />{" "}
        days, and what did not arrive for{" "}
        <Num
          onBlur={() => void privacy.save()}
          label="Days of what did not arrive"
          value={p.failedDays || 90}
          onChange={(n) => privacy.set({ ...p, failedDays: n || undefined })}
        />
        .
      </div>
      {privacy.fault && <Fault role="alert">{privacy.fault.words}</Fault>}
      <Kept on={privacy.saved} />
      <h2 className="mt-4 mb-1 text-lg">What people say</h2>
      {rows(asked)}
      <h2 className="mt-4 mb-1 text-lg">What the house answers</h2>
      {rows(answered)}
    </Part>
  );
}
