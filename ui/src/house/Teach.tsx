import type { KeptMessage, MadeOf, Makeable, Reading } from "../api/client";
import { useSection } from "../keeping/useSection";
import { Button, Out } from "../kit/Button";
import { Fault, Field, Tick } from "../kit/Field";
import { Picker } from "../kit/Picker";
import { fieldWords, pathWords, plainly, valueAt, type Json } from "./pointing";
import { Tree, type Says } from "./Tree";

type Fault_ = { at: string; what: string; remedy: string };

/** Teach makes a reading by pointing: what a message is, and where in it stands what. What it makes of everything kept is shown beside each. */
export function Teach({
  door,
  draft,
  makes,
  message,
  made,
  faults,
  tally,
  onChange,
  onKeep,
  onLeave,
}: {
  door: string;
  draft: Reading;
  makes: Makeable[];
  message: KeptMessage;
  made: MadeOf[];
  faults: Fault_[];
  tally?: { makes: number; of: number };
  onChange: (r: Reading) => void;
  onKeep: () => void;
  onLeave: () => void;
}) {
  const doors = useSection("doors");
  const d = doors.value?.find((x) => x.name === door);
  const repeat = d?.service?.repeat?.at;
  const tree = JSON.parse(message.body) as Json;
  const kind = makes.find((m) => m.type === draft.makes);
  const take = (field: string, next: Reading["take"][string] | undefined) => {
    const rest = Object.fromEntries(Object.entries(draft.take).filter(([k]) => k !== field));
    onChange({ ...draft, take: next ? { ...rest, [field]: next } : rest });
  };
  const marks = new Map<string, string>();
  const mark = (at: string, words: string) => marks.set(at, marks.has(at) ? `${marks.get(at)}, ${words}` : `= ${words}`);
  for (const [field, t] of Object.entries(draft.take)) if (t.at) mark(t.at, fieldWords(field));
  for (const c of draft.if ?? []) mark(c.at, "only when");
  if (repeat) mark(repeat, "its own id");
  const says = (at: string, value: Json): Says => {
    const text = plainly(value);
    const key = at.split("/").pop() ?? "";
    const out: Says = [];
    if (text !== undefined) {
      out.push({ label: `Only when it is “${text.length > 40 ? `${text.slice(0, 38)}…` : text}”`, act: () => onChange({ ...draft, if: [...(draft.if ?? []).filter((c) => c.at !== at), { at, how: "is", is: text }] }) }); // prettier-ignore
    }
    out.push({ label: "Only when it is there", act: () => onChange({ ...draft, if: [...(draft.if ?? []).filter((c) => c.at !== at), { at, how: "is there" }] }) });
    for (const f of kind?.fields ?? []) {
      if (text === undefined && value !== null) continue;
      out.push({ label: `It is ${fieldWords(f.name)}`, act: () => take(f.name, { at, is: draft.take[f.name]?.is }) });
      if (f.kind === "amount") out.push({ label: `It is ${fieldWords(f.name)}, in hundredths`, act: () => take(f.name, { at, cents: true }) });
    }
    if (draft.makes === "porch.other" && text !== undefined) out.push({ label: `It is a field, ${key}`, act: () => take(`fields.${key}`, { at }) });
    out.push({ label: "It is the message's own id", hint: "a repeat is not taken twice", act: () => void doors.put(doors.value!.map((x) => (x.name === door ? { ...x, service: { ...x.service, repeat: { at } } } : x))) }); // prettier-ignore
    return out;
  };
  const still = kind?.fields.filter((f) => !draft.take[f.name]) ?? [];
  const wrong = made.filter((x) => x.reading === draft.name && x.field);
  return (
    <section className="teach" aria-label="Teach the house a message">
      <div className="flex flex-wrap items-center gap-2">
        <span>This message is</span>
        <Picker label="What it is" value={draft.makes} choices={makes.map((m) => ({ value: m.type, label: m.words }))} onPick={(makes) => onChange({ ...draft, makes })}>
          {kind?.words ?? "choose what it is"} <span aria-hidden>▾</span>
        </Picker>
        <span className="sub">{kind ? "Click a value in it and say what it is." : ""}</span>
      </div>
      <div className="teaching">
        <Tree message={tree} marks={marks} says={says} />
        <div className="grid content-start gap-1">
          {(draft.if ?? []).map((c, i) => (
            <div key={c.at} className="flex items-center gap-2">
              <span className="flex-1">
                Only when <b>{pathWords(c.at)}</b> {c.how}
                {c.how === "is" && ` “${c.is}”`}
              </span>
              <Out label={`Take the condition on ${pathWords(c.at)} out`} onClick={() => onChange({ ...draft, if: draft.if!.filter((_, n) => n !== i) })} />
            </div>
          ))}
          {Object.entries(draft.take).map(([field, t]) => (
            <div key={field} className="flex flex-wrap items-center gap-2">
              <span className="flex-1">
                <span className="capitalize-first">{fieldWords(field)}</span>
                {t.at !== undefined && (
                  <>
                    {" "}
                    is <b>{pathWords(t.at)}</b> <bdi className="sub">{plainly(valueAt(tree, t.at)) ?? "nothing here"}</bdi>
                  </>
                )}
                {t.at === undefined && " is always"}
              </span>
              {t.at === undefined && (
                <Field
                  size="xs"
                  className="w-28"
                  aria-label={`What ${fieldWords(field)} always is`}
                  value={t.is ?? ""}
                  maxLength={400}
                  onChange={(e) => take(field, { is: e.target.value })}
                />
              )}
              {kind?.fields.find((f) => f.name === field)?.kind === "amount" && t.at !== undefined && (
                <Tick on={!!t.cents} onChange={(cents) => take(field, { ...t, cents: cents || undefined })}>
                  in hundredths
                </Tick>
              )}
              <Out label={`Take ${fieldWords(field)} out`} onClick={() => take(field, undefined)} />
            </div>
          ))}
          {kind && still.length > 0 && (
            <div className="flex flex-wrap items-center gap-2">
              <Picker
                label="What is always the same"
                size="s"
                look="ghost"
                choices={still.map((f) => ({ value: f.name, label: fieldWords(f.name) }))}
                onPick={(f) => take(f, { is: "" })}
              >
                Something is always the same…
              </Picker>
            </div>
          )}
          {kind &&
            (wrong.length > 0 ? (
              wrong.map((x) => (
                <Fault key={x.field}>
                  {missing(draft, x.field ?? "")
                    ? `It lacks ${fieldWords(fieldOf(x.field))}: point at it, or say what it always is.`
                    : `${fieldWords(fieldOf(x.field))}: ${x.remedy}`}
                </Fault>
              ))
            ) : made.some((x) => x.reading === draft.name) ? (
              <p className="m-0 text-fern" role="status">
                {made.find((x) => x.reading === draft.name)?.words}
              </p>
            ) : (
              <p className="sub m-0">Of this message it makes nothing: a condition does not hold.</p>
            ))}
          {faults.map((f) => (
            <Fault key={f.at} role="alert">
              {f.at} {f.what}: {f.remedy}
            </Fault>
          ))}
        </div>
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <Button look="lit" disabled={!kind || faults.length > 0} onClick={onKeep}>
          Keep this reading
        </Button>
        <Button onClick={onLeave}>Leave it</Button>
        <Field size="s" className="w-40" aria-label="What the reading is called" value={draft.name} maxLength={60} onChange={(e) => onChange({ ...draft, name: e.target.value })} />
        <span className="sub">
          {tally ? `It makes something of ${tally.makes} of the ${tally.of} messages kept; each stands below.` : "What it makes of each message stands below."}
        </span>
      </div>
    </section>
  );
}

/** fieldOf is the field that a fault is at, as a reading names it. */
const fieldOf = (at = "") => at.replace(/^data\./, "").replace(/^person$|^person\.platform$/, "person.id");

/** missing reports whether nothing was said of a field that is at fault. */
const missing = (r: Reading, at: string) => !r.take[fieldOf(at)] && !(at.startsWith("data.person") && (r.take["person.name"] || r.take["person.login"]));
