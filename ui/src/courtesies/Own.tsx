import { zodResolver } from "@hookform/resolvers/zod";
import { hashKey, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { Controller, useFieldArray, useForm, useWatch, type Control } from "react-hook-form";
import { z } from "zod";
import { api, based, type Courtesies, type OwnParts } from "../api/client";
import { useAgain, useDeed } from "../api/deeds";
import { about, fetched, seen as seenLately } from "../api/queries";
import { Button, Out, Toggle } from "../kit/Button";
import { Area, Fault, faultLook, Field, Num } from "../kit/Field";
import { One } from "../kit/One";
import { Panel, Scroll } from "../kit/Panel";
import { useCalendar } from "../kit/time";
import { titled } from "../kit/words";

type FillIn = OwnParts["fillIns"][number];

const enactAfter = 600; // ms of quiet until a change comes into force

const kinds: [string, string][] = [
  ["dice", "a dice"],
  ["last", "who came last"],
  ["clock", "a time elsewhere"],
  ["list", "one of a list"],
  ["fetched", "a text from outside"],
];

/** begins is what each kind of fill-in starts as. */
const begins: Record<string, Omit<FillIn, "name">> = {
  dice: { kind: "dice", from: 1, to: 6 },
  last: { kind: "last", who: "followers", most: 5 },
  clock: { kind: "clock", zone: "Europe/Lisbon" },
  list: { kind: "list", list: ["a limpet"] },
  fetched: { kind: "fetched", address: "https://", everySeconds: 300 },
};

const whole = z.number({ error: "wants a number" }).int({ error: "wants a whole number" }).optional();

/** What stands in the form, by its shape alone: what is wrong with it for the job, the house says. */
export const ownShape = z.object({
  fillIns: z.array(
    z.object({
      name: z.string(),
      kind: z.string(),
      from: whole,
      to: whole,
      who: z.string().optional(),
      most: whole,
      zone: z.string().optional(),
      list: z.array(z.string()).optional(),
      address: z.string().optional(),
      pointer: z.string().optional(),
      everySeconds: whole,
    }),
  ),
  emotes: z.array(z.object({ word: z.string(), platforms: z.array(z.string()) })),
  events: z.array(z.object({ event: z.string(), fields: z.record(z.string(), z.string()) })),
});

/** lines are a text's lines, without those that say nothing. */
const lines = (text: string) =>
  text
    .split("\n")
    .map((x) => x.trim())
    .filter(Boolean);

/** fieldsIn reads the fields of an event, a name and an example a line. */
export function fieldsIn(text: string): Record<string, string> {
  const out: Record<string, string> = {};
  for (const line of lines(text)) {
    const m = /^(\w+)\s*:\s*(.*)$/.exec(line);
    if (m) out[m[1]!] = m[2]!;
  }
  return out;
}

/** fresh is a name that is not taken yet. */
const fresh = <T,>(base: string, list: T[], nameOf: (x: T) => string): string => {
  for (let i = 1; ; i++) {
    const name = i === 1 ? base : base + i;
    if (!list.some((x) => nameOf(x) === name)) return name;
  }
};

/** Own is where the channel's own fill-ins, its emotes and other services' events are described; wordings then refer to them by name. */
export function Own({ all }: { all: Courtesies }) {
  const again = useAgain();
  const deed = useDeed();
  const form = useForm<OwnParts>({ resolver: zodResolver(ownShape), defaultValues: all.own });
  const { control, register, setValue, getValues, reset } = form;
  const [fault, setFault] = useState("");
  const timer = useRef<number>(undefined);
  const base = useRef(all.version); // what stands here was made of this version
  const edits = useRef(0); // since it came from the house
  useEffect(() => {
    if (edits.current > 0) return;
    base.current = all.version;
    if (hashKey([getValues()]) !== hashKey([all.own])) reset(all.own); // the same stays as it is, under the hand
  }, [all.version, all.own, getValues, reset]);

  const theirs = () => {
    edits.current = 0;
    setFault("");
    return again(about.courtesies);
  };
  const put = (next: OwnParts, on: number): Promise<unknown> => {
    const mine = edits.current;
    return deed(api.PUT("/api/settings/own", { body: next, ...based(on) }), {
      stale: [about.courtesies],
      then: () => {
        if (edits.current === mine) edits.current = 0;
        setFault("");
      },
      fault: (words, p) => {
        const f = (p as { faults?: { at: string; what: string; remedy: string }[] }).faults?.[0];
        setFault(`Not in force yet: ${f ? `${f.at} ${f.what}; ${f.remedy}` : words}`);
      },
      clash: { mine: (v) => put(next, v), theirs },
    });
  };
  const enact = () =>
    void form.handleSubmit(
      (next) => put(next, base.current),
      () => setFault("Not in force yet: a number is missing."),
    )();
  const typed = () => {
    edits.current++;
    clearTimeout(timer.current);
    timer.current = window.setTimeout(enact, enactAfter);
  };

  const fillIns = useFieldArray({ control, name: "fillIns" });
  const emotes = useFieldArray({ control, name: "emotes" });
  const events = useFieldArray({ control, name: "events" });
  const known = useWatch({ control, name: "events" });
  const seen = useQuery(seenLately).data?.events ?? [];
  const lately = seen.filter((e) => !known.some((o) => o.event.toLowerCase() === e.event.toLowerCase()));
  const change = (f: () => void) => {
    f();
    typed();
  };
  return (
    <Panel className="col-span-2" label="Fill-ins, emotes and events of our own">
      <Scroll className="ed" label="Of our own">
        <form onInput={typed} onSubmit={(e) => e.preventDefault()}>
          <p className="sent">Fill-ins, emotes and events of our own</p>
          <p className="sub pb-2" role="status">
            {fault ? <span className={faultLook()}>{fault}</span> : "In force as you write. Made once here, used in wordings by name."}
          </p>
          <div className="row">
            <span>Fill-ins</span>
            <div>
              {fillIns.fields.map((f, i) => (
                <Line key={f.id} onOut={() => change(() => fillIns.remove(i))} what={`fill-in ${f.name}`}>
                  <Field size="s" className="w-36" aria-label={`Name of fill-in ${i + 1}`} {...register(`fillIns.${i}.name`)} />
                  <Controller
                    control={control}
                    name={`fillIns.${i}.kind`}
                    render={({ field }) => (
                      <One
                        label={`Kind of fill-in ${i + 1}`}
                        value={field.value}
                        list={kinds}
                        onPick={(kind) => change(() => fillIns.update(i, { name: getValues(`fillIns.${i}.name`), ...begins[kind]! }))}
                      />
                    )}
                  />
                  <Settings i={i} control={control} typed={typed} />
                </Line>
              ))}
              <Button
                size="s"
                type="button"
                onClick={() =>
                  change(() =>
                    fillIns.append({
                      name: fresh("dice", getValues("fillIns"), (f) => f.name),
                      kind: "dice",
                      from: 1,
                      to: 20,
                    }),
                  )
                }
              >
                A new fill-in
              </Button>
            </div>
          </div>
          <div className="row">
            <span>Emotes</span>
            <div>
              {emotes.fields.map((e, i) => (
                <Line key={e.id} onOut={() => change(() => emotes.remove(i))} what={`emote ${e.word}`}>
                  <Field size="s" className="w-44" aria-label={`Emote ${i + 1}`} {...register(`emotes.${i}.word`, { setValueAs: (v: string) => v.trim() })} />
                  <span className="sub">a picture on</span>
                  <Controller
                    control={control}
                    name={`emotes.${i}.platforms`}
                    render={({ field }) => (
                      <>
                        {all.platforms.map((p) => {
                          const on = field.value.includes(p);
                          return (
                            <Toggle
                              key={p}
                              size="s"
                              type="button"
                              on={on}
                              onClick={() => change(() => field.onChange(on ? field.value.filter((y) => y !== p) : [...field.value, p]))}
                            >
                              {titled(p)}
                            </Toggle>
                          );
                        })}
                      </>
                    )}
                  />
                </Line>
              ))}
              <Button
                size="s"
                type="button"
                onClick={() =>
                  change(() =>
                    emotes.append({
                      word: fresh("tidepoolNew", getValues("emotes"), (e) => e.word),
                      platforms: all.platforms,
                    }),
                  )
                }
              >
                A new emote
              </Button>
            </div>
          </div>
          <div className="row">
            <span>Events</span>
            <div>
              <p className="sub pb-1">What other services send, with an example for each field; a field whose example is a number is a number.</p>
              {events.fields.map((e, i) => (
                <Line key={e.id} onOut={() => change(() => events.remove(i))} what={`event ${e.event}`}>
                  <Field size="s" className="w-44" aria-label={`Event ${i + 1}`} {...register(`events.${i}.event`)} />
                  <Area
                    size="s"
                    className="min-h-14"
                    aria-label={`Fields of event ${i + 1}, name and example`}
                    defaultValue={Object.entries(e.fields)
                      .map(([k, v]) => `${k}: ${v}`)
                      .join("\n")}
                    onInput={(ev) => ev.stopPropagation()}
                    onBlur={(ev) => change(() => setValue(`events.${i}.fields`, fieldsIn(ev.target.value)))}
                  />
                </Line>
              ))}
              <Button
                size="s"
                type="button"
                onClick={() =>
                  change(() =>
                    events.append({
                      event: fresh("tide.turned", getValues("events"), (e) => e.event),
                      fields: { height: "3.2" },
                    }),
                  )
                }
              >
                A new event
              </Button>
              {lately.length > 0 && (
                <div className="pt-3" role="group" aria-label="Came in lately">
                  <p className="sub pb-1">Came in lately, and not described yet:</p>
                  {lately.map((e) => (
                    <Button key={e.event} size="s" type="button" className="mr-1.5 mb-1.5" onClick={() => change(() => events.append(e))}>
                      <bdi>{e.event}</bdi>
                      <span className="sub"> {Object.keys(e.fields).join(", ") || "no fields"}</span>
                    </Button>
                  ))}
                </div>
              )}
            </div>
          </div>
        </form>
      </Scroll>
    </Panel>
  );
}

const whose = ["followers", "subscribers", "gifters", "tippers", "raiders"];

/** Settings are what one kind of fill-in has and others have not. */
function Settings({ i, control, typed }: { i: number; control: Control<OwnParts>; typed: () => void }) {
  const kind = useWatch({ control, name: `fillIns.${i}.kind` });
  const name = useWatch({ control, name: `fillIns.${i}.name` });
  const number = (at: "from" | "to" | "most" | "everySeconds", label: string) => (
    <Controller
      control={control}
      name={`fillIns.${i}.${at}`}
      render={({ field }) => <Num label={label} value={field.value} onChange={(n) => field.onChange(n === undefined ? undefined : Math.round(n))} />}
    />
  );
  switch (kind) {
    case "dice":
      return (
        <>
          {number("from", "From")} to {number("to", "To")}
        </>
      );
    case "last":
      return (
        <>
          the last {number("most", "How many")}
          <Controller
            control={control}
            name={`fillIns.${i}.who`}
            render={({ field }) => (
              <One
                label="Of whom"
                value={field.value ?? ""}
                list={whose.map((x) => [x, x])}
                onPick={(v) => {
                  field.onChange(v);
                  typed();
                }}
              />
            )}
          />
        </>
      );
    case "clock":
      return (
        <Controller
          control={control}
          name={`fillIns.${i}.zone`}
          render={({ field }) => <Field size="s" className="w-52" aria-label="Time zone" {...field} value={field.value ?? ""} />}
        />
      );
    case "fetched":
      return (
        <span className="flex flex-wrap items-center gap-1.5">
          <Controller
            control={control}
            name={`fillIns.${i}.address`}
            render={({ field }) => <Field size="s" className="w-72" aria-label="Address of the text" placeholder="https://…" {...field} value={field.value ?? ""} />}
          />
          <Controller
            control={control}
            name={`fillIns.${i}.pointer`}
            render={({ field }) => (
              <Field
                size="s"
                className="w-32"
                aria-label="Where in its JSON"
                placeholder="all of it"
                {...field}
                value={field.value ?? ""}
                onChange={(e) => field.onChange(e.target.value || undefined)}
              />
            )}
          />
          every {number("everySeconds", "Seconds between fetches")} s
          <Fetched name={name} />
        </span>
      );
    case "list":
      return (
        <Controller
          control={control}
          name={`fillIns.${i}.list`}
          render={({ field }) => (
            <Area
              size="s"
              className="min-h-16"
              aria-label="One a line"
              value={(field.value ?? []).join("\n")}
              onChange={(e) => field.onChange(e.target.value.split("\n"))}
              onBlur={(e) => field.onChange(lines(e.target.value))}
            />
          )}
        />
      );
  }
  return null;
}

function Line({ children, onOut, what }: { children: ReactNode; onOut: () => void; what: string }) {
  return (
    <div className="flex items-start gap-1.5 pb-2">
      <div className="flex min-w-0 flex-1 flex-wrap items-center gap-1.5">{children}</div>
      <Out type="button" label={`Take out: ${what}`} onClick={onOut} />
    </div>
  );
}

/** Fetched is how a text from outside stands: what it says now, or why there is no newer one. */
function Fetched({ name }: { name: string }) {
  const calendar = useCalendar();
  const is = useQuery(fetched).data?.find((x) => x.name === name);
  if (!is) return null;
  return (
    <span className="basis-full">
      {is.why && <Fault role="status">Not fetched: {is.why}.</Fault>}
      {is.at && (
        <span className="sub">
          {is.why ? "The last good one" : "Now"}: “<bdi>{is.text}</bdi>” · {calendar.fully(is.at)}
        </span>
      )}
    </span>
  );
}
