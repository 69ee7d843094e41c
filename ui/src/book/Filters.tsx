import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, ask, said as problem } from "../api/client";
import { useLive } from "../api/live";
import { Picker } from "../kit/Picker";
import { toast } from "../kit/toast";
import { useCrews } from "./shared";
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
  const crews = useCrews().data?.crews ?? [];
  const chips = said(filter, (id) => crews.find((c) => c.id === id)?.name ?? id);
  return (
    <>
      <Picker
        label="Standing"
        value={filter.standing}
        choices={[
          ...standings.map((s) => ({ value: s, label: s[0]!.toUpperCase() + s.slice(1) })),
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
          const day = new Date(Date.now() - days * 86_400_000).toISOString().slice(0, 10) + "T00:00:00Z";
          set({ since: undefined, until: undefined, [side]: day });
        }}
      >
        Last seen
      </Picker>
      <More filter={filter} set={set} />
      <Saved />
      {chips.length > 0 && (
        <div className="flex basis-full flex-wrap gap-1.5" role="group" aria-label="Conditions">
          {chips.map((c) => (
            <button key={c.key} className="cond" aria-label={`Take away: ${c.text}`} onClick={() => set({ [c.key]: undefined })}>
              {c.text} <span aria-hidden>×</span>
            </button>
          ))}
        </div>
      )}
    </>
  );
}

/** More holds the rarer conditions. */
function More({ filter, set }: { filter: Filter; set: Set }) {
  const live = useLive();
  const tags = useQuery({ queryKey: ["book", "imports"], queryFn: () => ask(api.GET("/api/book/imports")) }).data?.tags ?? [];
  const platforms = [...new Set(live?.doors.map((d) => d.platform) ?? [])];
  const flag = (key: "trusted" | "leaveBe" | "birthday" | "unthanked", label: string) => (
    <label className="flex items-center gap-2 py-1">
      <input type="checkbox" checked={!!filter[key]} onChange={(e) => set({ [key]: e.target.checked ? "1" : undefined })} /> {label}
    </label>
  );
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="btn">More</button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="pop !w-80" align="end" sideOffset={5} aria-label="More conditions">
          <div className="grid grid-cols-2 gap-x-3">
            {flag("birthday", "birthday known")}
            {flag("unthanked", "raid not thanked")}
            {flag("trusted", "trusted")}
            {flag("leaveBe", "left in peace")}
          </div>
          <div className="mt-2 flex flex-wrap gap-1.5">
            <Picker
              label="Role"
              className="btn s"
              value={filter.role}
              choices={["moderator", "vip", "subscriber", "follower"].map((r) => ({ value: r, label: r === "vip" ? "VIP" : r }))}
              onPick={(role) => set({ role })}
            >
              Role…
            </Picker>
            <Picker
              label="Platform"
              className="btn s"
              value={filter.platform}
              choices={platforms.map((p) => ({ value: p, label: p[0]!.toUpperCase() + p.slice(1) }))}
              onPick={(platform) => set({ platform })}
            >
              Platform…
            </Picker>
            <Picker label="Tag" className="btn s" value={filter.tag} choices={tags.map((t) => ({ value: t, label: t }))} onPick={(tag) => set({ tag })}>
              Tag…
            </Picker>
          </div>
          <div className="mt-3 flex items-center gap-2">
            <label className="sub" htmlFor="att-from">
              Attended
            </label>
            <input
              id="att-from"
              className="field !w-16 !px-2 !py-1"
              inputMode="numeric"
              placeholder="from"
              defaultValue={filter.from ?? ""}
              onBlur={(e) => set({ from: number(e.target.value) })}
            />
            <label className="sub" htmlFor="att-to">
              to
            </label>
            <input
              id="att-to"
              className="field !w-16 !px-2 !py-1"
              inputMode="numeric"
              placeholder="any"
              defaultValue={filter.to ?? ""}
              onBlur={(e) => set({ to: number(e.target.value) })}
            />
            <span className="sub">streams</span>
          </div>
          <div className="mt-2 flex items-center gap-2">
            <label className="sub" htmlFor="seen-at">
              Seen on this day or before
            </label>
            <input
              id="seen-at"
              type="date"
              className="field !w-auto !px-2 !py-1"
              onChange={(e) => set({ at: e.target.value ? e.target.value + "T23:59:59Z" : undefined, sort: undefined })}
            />
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const number = (s: string) => (/^\d+$/.test(s.trim()) && Number(s) > 0 ? s.trim() : undefined);

/** Saved are filters that were given a name. */
function Saved() {
  const client = useQueryClient();
  const [params, setParams] = useSearchParams();
  const [name, setName] = useState("");
  const list = useQuery({ queryKey: ["book", "filters"], queryFn: () => ask(api.GET("/api/book/filters")) });
  const now = new URLSearchParams([...params].filter(([k]) => filterKeys.includes(k) || k === "sort")).toString();
  const again = () => client.invalidateQueries({ queryKey: ["book", "filters"] });
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button className="btn">Saved</button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="pop !w-72" align="end" sideOffset={5} aria-label="Saved filters">
          {list.data?.filters.length === 0 && <p className="sub">No filter is saved yet. Narrow the list, name it here, and it is one press away.</p>}
          {list.data?.filters.map((f) => (
            <div key={f.name} className="flex items-center gap-1">
              <button className="pick flex-1 text-left" data-on={f.query === now} onClick={() => setParams(new URLSearchParams(f.query))}>
                {f.name}
              </button>
              <button
                className="btn s ghost"
                aria-label={`Forget the filter ${f.name}`}
                onClick={() => {
                  const back = () => ask(api.PUT("/api/book/filters", { body: f })).then(again);
                  ask(api.DELETE("/api/book/filters/{name}", { params: { path: { name: f.name } } })).then(
                    () => {
                      void again();
                      toast(`Forgotten: ${f.name}`, { label: "Undo", act: () => void back() });
                    },
                    (p) => toast(problem(p)),
                  );
                }}
              >
                ×
              </button>
            </div>
          ))}
          {now && (
            <form
              className="mt-2 flex gap-1.5"
              onSubmit={(e) => {
                e.preventDefault();
                ask(api.PUT("/api/book/filters", { body: { name, query: now } })).then(
                  () => {
                    setName("");
                    void again();
                  },
                  (p) => toast(problem(p)),
                );
              }}
            >
              <input className="field !py-1" aria-label="Name of this filter" placeholder="Name this filter" value={name} onChange={(e) => setName(e.target.value)} required />
              <button className="btn s lit">Save</button>
            </form>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
