import { zodResolver } from "@hookform/resolvers/zod";
import { useQuery } from "@tanstack/react-query";
import type { KeyboardEvent, ReactNode } from "react";
import { useForm } from "react-hook-form";
import { z } from "zod";
import type { BookEdit, BookSheet } from "../api/client";
import { crews as allCrews, imports } from "../api/queries";
import { Chip } from "../kit/Chip";
import { Tick } from "../kit/Field";
import { Picker } from "../kit/Picker";
import { Fact } from "./Fact";

const text = z.string().max(8000);

/** What is known by hand of somebody, by its shape alone: whether a birthday is one, the house says. */
const shape = z.object({
  sayAs: text,
  pronouns: text,
  birthday: text,
  zone: text,
  note: text,
  hideDay: z.boolean(),
  leaveBe: z.boolean(),
  trusted: z.boolean(),
  fellow: z.boolean(),
});
type Hand = z.infer<typeof shape>;
type Written = "sayAs" | "pronouns" | "birthday" | "zone" | "note";

const handOf = (h: BookSheet["hand"]): Hand => ({
  sayAs: h.sayAs ?? "",
  pronouns: h.pronouns ?? "",
  birthday: h.birthday ?? "",
  zone: h.zone ?? "",
  note: h.note ?? "",
  hideDay: !!h.hideDay,
  leaveBe: !!h.leaveBe,
  trusted: !!h.trusted,
  fellow: !!h.fellow,
});

/** ByHand is what members know of somebody, written in place: a field is saved when it is left, and taken back with Escape. */
export function ByHand({ s, save }: { s: BookSheet; save: (e: Omit<BookEdit, "persons">) => Promise<unknown> }) {
  const crews = useQuery(allCrews).data?.crews ?? [];
  const { register, getFieldState, getValues, resetField, trigger, watch } = useForm<Hand>({
    resolver: zodResolver(shape),
    values: handOf(s.hand),
    resetOptions: { keepDirtyValues: true }, // what is being written stays when something else came in
  });
  const keep = async (name: Written) => {
    if (!getFieldState(name).isDirty || !(await trigger(name))) return resetField(name);
    const value = getValues(name);
    const done = await save({ set: { [name]: value } });
    resetField(name, done ? { defaultValue: value } : undefined);
  };
  const onKey = (name: Written, long: boolean) => (e: KeyboardEvent<HTMLElement>) => {
    if (e.key === "Escape") resetField(name);
    if (e.key === "Escape" || (e.key === "Enter" && !long)) e.currentTarget.blur();
  };
  const props = (name: Written, label: string, placeholder: string, long = false) => ({
    className: "write",
    "aria-label": label,
    placeholder,
    onKeyDown: onKey(name, long),
    ...register(name, { onBlur: () => keep(name) }),
  });
  const line = (name: Written, label: string, placeholder = "–", after = "") => (
    <Fact name={label} className="flex items-baseline">
      <input {...props(name, label, placeholder)} />
      {after && <span className="sub whitespace-nowrap">{after}</span>}
    </Fact>
  );
  const tick = (name: "hideDay" | "leaveBe" | "trusted" | "fellow", words: string) => (
    <Tick on={watch(name)} onChange={(on) => void save({ set: { [name]: on } })}>
      {words}
    </Tick>
  );
  const { crews: inCrews, tags } = s.row;
  return (
    <dl className="kv border-t border-line pt-2">
      {line("sayAs", "Say it as", "how the name is spoken")}
      {line("pronouns", "Pronouns")}
      {line("birthday", "Birthday", "not known", s.birthday ? (s.birthdayIn ? ` in ${s.birthdayIn} days` : " today") : "")}
      {line("zone", "Time zone", "the channel’s")}
      <Fact name="Crews">
        <Tokens
          items={inCrews.map((id) => ({ id, name: crews.find((c) => c.id === id)?.name ?? id }))}
          onDrop={(id) => void save({ dropCrews: [id] })}
          add={
            <Picker
              label="Add to a crew"
              size="s"
              look="ghost"
              choices={crews.filter((c) => !inCrews.includes(c.id!)).map((c) => ({ value: c.id!, label: c.name }))}
              onPick={(c) => void save({ addCrews: [c] })}
            >
              + crew
            </Picker>
          }
        />
      </Fact>
      <Fact name="Tags">
        <Tokens items={tags.map((t) => ({ id: t, name: t }))} onDrop={(t) => void save({ dropTags: [t] })} add={<NewTag has={tags} onAdd={(t) => void save({ addTags: [t] })} />} />
      </Fact>
      <Fact name="By hand">
        <div className="flex flex-wrap gap-x-4">
          {tick("hideDay", "birthday told to nobody")}
          {tick("leaveBe", "leave me be")}
          {tick("trusted", "trusted")}
          {tick("fellow", "fellow streamer")}
        </div>
      </Fact>
      <Fact name="Note" className="flex items-baseline">
        <textarea rows={2} {...props("note", "Note", "only you see this", true)} />
      </Fact>
    </dl>
  );
}

function Tokens({ items, onDrop, add }: { items: { id: string; name: string }[]; onDrop: (id: string) => void; add: ReactNode }) {
  return (
    <div className="flex flex-wrap items-center gap-1">
      {items.map((x) => (
        <Chip key={x.id} aria-label={`Take away: ${x.name}`} onClick={() => onDrop(x.id)}>
          {x.name} <span aria-hidden>×</span>
        </Chip>
      ))}
      {add}
    </div>
  );
}

function NewTag({ has, onAdd }: { has: string[]; onAdd: (t: string) => void }) {
  const tags = useQuery(imports).data?.tags ?? [];
  return (
    <Picker label="Add a tag" size="s" look="ghost" choices={tags.filter((t) => !has.includes(t)).map((t) => ({ value: t, label: t }))} onPick={onAdd} onNew={onAdd}>
      + tag
    </Picker>
  );
}
