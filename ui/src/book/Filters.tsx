import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api } from "../api/client";
import { useDeed } from "../api/deeds";
import { crews as allCrews, filters, imports } from "../api/queries";
import { Button, Out } from "../kit/Button";
import { Chip } from "../kit/Chip";
import { Field, Tick } from "../kit/Field";
import { Picker } from "../kit/Picker";
import { Pop } from "../kit/Pop";
import { dayBegins, dayEnds, useCalendar, useZone } from "../kit/time";
import { usePlatforms } from "../kit/usePlatforms";
import { titled } from "../kit/words";
import { filterKeys, said, type Filter } from "./filter";

type Set = (changes: Record<string, string | undefined>) => void;

const standings = ["newcomer", "returning", "regular", "long away"];
const seen: [string, number, "since" | "until"][] = [
  ["in the last week", 7, "since"],
  ["in the last month", 30, "since"],
  ["not for a month", 30, "until"],
  ["not for half a year", 182, "until"],
];

/** Filters are the conditions that combine, each a pick-list, and those in force as chips. */
export function Filters({ filter, set }: { filter: Filter; set: Set }) {
  const crews = useQuery(allCrews).data?.crews ?? [];
  const { now, zone } = useCalendar();
  const chips = said(filter, (id) => crews.find((c) => c.id === id)?.name ?? id, zone);
  return (
    <>
      <Picker
        label="Standing"
        value={filter.standing}
        choices={[
          ...standings.map((s) => ({ value: s, label: titled(s) })),
          { value: "fellow", label: "Fellow streamer" },
          { value: "gained", label: "New regulars" },
          { value: "lost", label: "No longer regular" },
        ]}
        onPick={(v) =>
          set(
            v === "fellow" ? { mark: "fellow streamer" } : v === "gained" || v === "lost" ? { [v]: "1", standing: undefined } : { standing: v, gained: undefined, lost: undefined },
          )
        }
      >
        Standing
      </Picker>
      <Picker label="Crew" value={filter.crew} choices={crews.map((c) => ({ value: c.id!, label: c.name, hint: c.people }))} onPick={(crew) => set({ crew })}>
        Crew
      </Picker>
      <Picker
        label="Last seen"
        choices={seen.map(([label], i) => ({ value: String(i), label }))}
        onPick={(i) => {
          const [, days, side] = seen[Number(i)]!;
          set({ since: undefined, until: undefined, [side]: dayBegins(now, -days, zone) });
        }}
      >
        Last seen
      </Picker>
      <More filter={filter} set={set} />
      <Saved />
      {chips.length > 0 && (
        <div className="flex basis-full flex-wrap gap-1.5" role="group" aria-label="Conditions">
          {chips.map((c) => (
            <Chip key={c.key} aria-label={`Take away: ${c.text}`} onClick={() => set({ [c.key]: undefined })}>
              {c.text} <span aria-hidden>×</span>
            </Chip>
          ))}
        </div>
      )}
    </>
  );
}

/** More holds the rarer conditions. */
function More({ filter, set }: { filter: Filter; set: Set }) {
  const zone = useZone();
  const tags = useQuery(imports).data?.tags ?? [];
  const platforms = usePlatforms();
  const flag = (key: "trusted" | "leaveBe" | "birthday" | "unthanked", label: string) => (
    <Tick className="py-1" on={!!filter[key]} onChange={(on) => set({ [key]: on ? "1" : undefined })}>
      {label}
    </Tick>
  );
  return (
    <Pop label="More conditions" className="w-80" align="end" trigger={<Button>More</Button>}>
      <div className="grid grid-cols-2 gap-x-3">
        {flag("birthday", "birthday known")}
        {flag("unthanked", "raid not thanked")}
        {flag("trusted", "trusted")}
        {flag("leaveBe", "left in peace")}
      </div>
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Picker
          label="Role"
          size="s"
          value={filter.role}
          choices={["moderator", "vip", "subscriber", "follower"].map((r) => ({ value: r, label: r === "vip" ? "VIP" : r }))}
          onPick={(role) => set({ role })}
        >
          Role…
        </Picker>
        <Picker label="Platform" size="s" value={filter.platform} choices={platforms.map((p) => ({ value: p, label: titled(p) }))} onPick={(platform) => set({ platform })}>
          Platform…
        </Picker>
        <Picker label="Tag" size="s" value={filter.tag} choices={tags.map((t) => ({ value: t, label: t }))} onPick={(tag) => set({ tag })}>
          Tag…
        </Picker>
      </div>
      <div className="mt-3 flex items-center gap-2">
        <label className="sub" htmlFor="att-from">
          Attended
        </label>
        <Field
          id="att-from"
          size="s"
          className="w-16"
          inputMode="numeric"
          placeholder="from"
          defaultValue={filter.from ?? ""}
          onBlur={(e) => set({ from: number(e.target.value) })}
        />
        <label className="sub" htmlFor="att-to">
          to
        </label>
        <Field id="att-to" size="s" className="w-16" inputMode="numeric" placeholder="any" defaultValue={filter.to ?? ""} onBlur={(e) => set({ to: number(e.target.value) })} />
        <span className="sub">streams</span>
      </div>
      <div className="mt-2 flex items-center gap-2">
        <label className="sub" htmlFor="seen-at">
          Seen on this day or before
        </label>
        <Field id="seen-at" type="date" size="s" className="w-auto" onChange={(e) => set({ at: e.target.value ? dayEnds(e.target.value, zone) : undefined, sort: undefined })} />
      </div>
    </Pop>
  );
}

const number = (s: string) => (/^\d+$/.test(s.trim()) && Number(s) > 0 ? s.trim() : undefined);

/** Saved are filters that were given a name. */
function Saved() {
  const deed = useDeed();
  const [params, setParams] = useSearchParams();
  const [name, setName] = useState("");
  const list = useQuery(filters);
  const now = new URLSearchParams([...params].filter(([k]) => filterKeys.includes(k) || k === "sort")).toString();
  const stale = [filters.queryKey];
  return (
    <Pop label="Saved filters" className="w-72" align="end" trigger={<Button>Saved</Button>}>
      {list.data?.filters.length === 0 && <p className="sub">No filter is saved yet. Narrow the list, name it here, and it is one press away.</p>}
      {list.data?.filters.map((f) => (
        <div key={f.name} className="flex items-center gap-1">
          <button className="pick flex-1 text-left" data-on={f.query === now} onClick={() => setParams(new URLSearchParams(f.query))}>
            {f.name}
          </button>
          <Out
            label={`Forget the filter ${f.name}`}
            onClick={() =>
              void deed(api.DELETE("/api/book/filters/{name}", { params: { path: { name: f.name } } }), {
                stale,
                say: `Forgotten: ${f.name}`,
                undo: () => deed(api.PUT("/api/book/filters", { body: f }), { stale }),
              })
            }
          />
        </div>
      ))}
      {now && (
        <form
          className="mt-2 flex gap-1.5"
          onSubmit={(e) => {
            e.preventDefault();
            const was = list.data?.filters.find((f) => f.name === name.trim());
            void deed(api.PUT("/api/book/filters", { body: { name, query: now } }), {
              stale,
              then: () => setName(""),
              say: was && `${was.name} finds this now.`,
              undo: was && (() => deed(api.PUT("/api/book/filters", { body: was }), { stale })),
            });
          }}
        >
          <Field size="s" aria-label="Name of this filter" placeholder="Name this filter" value={name} onChange={(e) => setName(e.target.value)} required />
          <Button size="s" look="lit">
            Save
          </Button>
        </form>
      )}
    </Pop>
  );
}
