import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { Who } from "../api/client";
import { crews as allCrews, whom } from "../api/queries";
import { Button, Out, Toggle } from "../kit/Button";
import { Field, Num, Tick } from "../kit/Field";
import { glance, One } from "../kit/One";
import { PersonPicker } from "../kit/PersonPicker";
import { Picker } from "../kit/Picker";
import { useCalendar } from "../kit/time";
import { conditions, dayKinds, dayWhens, filled, marks, roles, standings, weekdays } from "./conditions";

type Props = {
  who: Who;
  onChange: (w: Who) => void;
  platforms: string[];
  nameOf: (account: string) => string;
  learn: (account: string, name: string) => void;
  fields: string[];
  command?: boolean;
};

/** WhoForm shows every condition as a line that can be changed or taken out. Within it, "or one of" and "but not" hold whos of their own. */
export function WhoForm(p: Props & { inner?: boolean }) {
  const { who, onChange, inner } = p;
  const crews = useQuery(allCrews).data?.crews ?? [];
  const calendar = useCalendar();
  const without = (key: keyof Who) => {
    const next = { ...who };
    delete next[key];
    onChange(next);
  };
  const set = (part: Partial<Who>) => onChange({ ...who, ...part });
  const free = conditions.filter((c) => who[c.key] === undefined && (c.key !== "nobody" || (p.command && !inner)));
  return (
    <div className="min-w-0">
      {conditions
        .filter((c) => who[c.key] !== undefined)
        .map((c) => (
          <Line key={c.key} label={c.label} onOut={() => without(c.key)}>
            <Value at={c.key} set={set} crews={crews.map((k) => ({ id: k.id!, name: k.name }))} {...p} />
          </Line>
        ))}
      {Object.entries(who.fields ?? {}).map(([k, v]) => (
        <Line
          key={k}
          label={k}
          onOut={() => {
            const fields = { ...who.fields };
            delete fields[k];
            set({ fields: Object.keys(fields).length ? fields : undefined });
          }}
        >
          <Field size="s" aria-label={k} value={v} onChange={(e) => set({ fields: { ...who.fields, [k]: e.target.value } })} />
        </Line>
      ))}
      {(["any", "not"] as const).map((kind) =>
        who[kind]?.map((w, i) => (
          <div key={`${kind}${i}`} className="my-1.5 border-l-2 border-line pl-2.5" role="group" aria-label={kind === "any" ? `either ${i + 1}` : `but not ${i + 1}`}>
            <div className="flex items-center gap-2">
              <b className="flex-1">{kind === "not" ? "but not" : i ? "or" : "either"}</b>
              <Out
                label={`Take ${kind === "any" ? "this branch" : "this exception"} out`}
                onClick={() => {
                  const rest = who[kind]!.filter((_, k) => k !== i);
                  if (rest.length) set({ [kind]: rest });
                  else without(kind);
                }}
              />
            </div>
            <WhoForm {...p} inner who={w} onChange={(x) => set({ [kind]: who[kind]!.map((y, k) => (k === i ? x : y)) })} />
          </div>
        )),
      )}
      <div className="mt-1 flex flex-wrap gap-1.5">
        <Picker
          label="A condition"
          size="s"
          choices={[
            ...free.map((c) => ({ value: c.key as string, label: c.label })),
            ...p.fields.filter((f) => who.fields?.[f] === undefined).map((f) => ({ value: `field:${f}`, label: f })),
          ]}
          onPick={(k) => {
            if (k.startsWith("field:")) return set({ fields: { ...who.fields, [k.slice(6)]: "" } });
            set(
              conditions
                .find((c) => c.key === k)!
                .start(
                  crews.map((x) => x.id!),
                  calendar.today(),
                ),
            );
          }}
          onNew={p.fields.includes("event") ? (k) => set({ fields: { ...who.fields, [k]: "" } }) : undefined}
        >
          {inner || Object.keys(who).length ? "And…" : "Anyone. Narrow it…"}
        </Picker>
        {!inner && (
          <>
            <Button size="s" look="ghost" onClick={() => set({ any: [...(who.any ?? []), {}] })}>
              Either… or
            </Button>
            <Button size="s" look="ghost" onClick={() => set({ not: [...(who.not ?? []), {}] })}>
              But not…
            </Button>
          </>
        )}
      </div>
      {!inner && <Whom who={who} />}
    </div>
  );
}

/** Whom tells how many people of the guest book a who is about; of anyone nothing need be said. */
function Whom({ who }: { who: Who }) {
  const counted = Object.keys(who).length > 0 && !who.nobody && filled(who);
  const q = useQuery({ ...whom(who), enabled: counted });
  if (!counted || !q.data) return null;
  const { people, lately, more, atMost } = q.data;
  return (
    <p className="sub pt-1" data-testid="whom">
      {people === 0
        ? "Nobody in the guest book yet."
        : `${atMost ? "At most " : ""}${people.toLocaleString("en")}${more ? " and more" : ""} ${people === 1 ? "person" : "people"}${more ? "" : `, ${lately} of them here in the last ten streams`}`}
    </p>
  );
}

function Line({ label, onOut, children }: { label: string; onOut: () => void; children: ReactNode }) {
  return (
    <div className="flex min-h-8 items-center gap-2">
      <span className="sub w-28 flex-none">{label}</span>
      <div className="flex min-w-0 flex-1 flex-wrap items-center gap-1.5">{children}</div>
      <Out label={`Take out: ${label}`} onClick={onOut} />
    </div>
  );
}

function Value({ at, who, set, crews, platforms, nameOf, learn }: Props & { at: keyof Who; set: (w: Partial<Who>) => void; crews: { id: string; name: string }[] }) {
  switch (at) {
    case "account":
      return (
        <PersonPicker
          label="Which person"
          onPick={(x) => {
            learn(x.account, x.name);
            set({ account: x.account });
          }}
        >
          {who.account ? nameOf(who.account) : "Whom…"}
        </PersonPicker>
      );
    case "crews":
      return (
        <>
          {who.crews!.of.length > 1 && (
            <One
              label="How many of them"
              value={who.crews!.in ?? "all"}
              list={[
                ["all", "in all of"],
                ["one", "in exactly one of"],
                ["any", "in any of"],
              ]}
              onPick={(v) => set({ crews: { ...who.crews!, in: v } })}
            />
          )}
          {crews.map((k) => {
            const on = who.crews!.of.includes(k.id);
            if (!on && crews.length > glance) return null;
            return (
              <Toggle key={k.id} size="s" on={on} onClick={() => set({ crews: { ...who.crews!, of: on ? who.crews!.of.filter((x) => x !== k.id) : [...who.crews!.of, k.id] } })}>
                {k.name}
              </Toggle>
            );
          })}
          {crews.length > glance && (
            <Picker
              label="Which crew"
              size="s"
              look="ghost"
              choices={crews.filter((k) => !who.crews!.of.includes(k.id)).map((k) => ({ value: k.id, label: k.name }))}
              onPick={(k) => set({ crews: { ...who.crews!, of: [...who.crews!.of, k] } })}
            >
              Another crew…
            </Picker>
          )}
          {crews.length === 0 && <span className="sub">no crew is in the guest book yet</span>}
        </>
      );
    case "nobody":
      return <span>may ask; it is for courtesies to say</span>;
    case "trusted":
      return <span>given by hand</span>;
    case "mark":
    case "role":
    case "standing":
    case "platform": {
      const list = { mark: marks, role: roles, standing: standings, platform: platforms }[at];
      return (
        <>
          <One label={at} value={who[at] ?? ""} list={list.map((x) => [x, x === "vip" ? "VIP" : x])} onPick={(v) => set({ [at]: v })} />
          {at === "role" && (
            <Tick className="sub" on={!!who.orAbove} onChange={(on) => set({ orAbove: on || undefined })}>
              or above
            </Tick>
          )}
        </>
      );
    }
    case "tag":
      return <Field size="s" aria-label="Tag" value={who.tag} onChange={(e) => set({ tag: e.target.value })} />;
    case "date": {
      const d = who.date!;
      return (
        <>
          <One label="Which day" value={d.of ?? ""} list={dayKinds} onPick={(of) => set({ date: { ...d, of: of || undefined } })} />
          <One
            label="When it is"
            value={d.when}
            list={dayWhens.filter(([w]) => (d.of !== "round number" && d.of !== "channel") || w === "today")}
            onPick={(when) => set({ date: { ...d, when, days: when === "within" ? (d.days ?? 7) : undefined } })}
          />
          {d.when === "within" && <Num label="Days ahead" value={d.days} onChange={(days) => set({ date: { ...d, days: Math.max(0, Math.round(days ?? 0)) } })} />}
          <span className="sub">exactly</span>
          <Num label="How many years or streams" value={d.years || undefined} onChange={(years) => set({ date: { ...d, years: years ? Math.round(years) : undefined } })} />
        </>
      );
    }
    case "attended":
      return (
        <>
          at least <Num label="Streams" value={who.attended} onChange={(attended) => set({ attended: Math.max(1, Math.round(attended ?? 1)) })} /> with tonight
        </>
      );
    case "days":
      return weekdays.map((d) => {
        const on = who.days!.includes(d);
        return (
          <Toggle key={d} size="s" on={on} aria-label={d} onClick={() => set({ days: weekdays.filter((x) => (x === d ? !on : who.days!.includes(x))) })}>
            {d.slice(0, 2)}
          </Toggle>
        );
      });
    case "hours":
      return (
        <>
          <Field size="s" className="w-auto" type="time" aria-label="From" value={who.hours!.from} onChange={(e) => set({ hours: { ...who.hours!, from: e.target.value } })} /> to{" "}
          <Field size="s" className="w-auto" type="time" aria-label="To" value={who.hours!.to} onChange={(e) => set({ hours: { ...who.hours!, to: e.target.value } })} />
        </>
      );
    case "since":
    case "until":
      return <Field size="s" className="w-auto" type="date" aria-label={at} value={who[at]} onChange={(e) => set({ [at]: e.target.value })} />;
  }
  return null;
}
