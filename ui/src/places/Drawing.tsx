import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api, ask, type RelayView, type RuleOutput } from "../api/client";
import { Field, Tick } from "../kit/Field";
import { One } from "../kit/One";

type Of = NonNullable<RuleOutput["drawing"]>;

/** A name that is hard to place, to try a picture with. */
const hard = "the_lighthouse_keepers_daughter_of_the_northern_pier";

/** What stands in a picture to begin with, behind the name. */
const first = "is here for the first time. Pull up a crate.";

/** lookOf is where the picture is drawn as it would be. */
const lookOf = (when: string, d: Of, name: string) =>
  `/api/drawing?${new URLSearchParams(Object.entries({ when, name, ...d }).flatMap(([k, v]): [string, string][] => (v ? [[k, v]] : []))).toString()}`;

/** Drawing sets the picture that is drawn for whoever a post is about, and shows it as it would be. */
export function Drawing({ r, set }: { r: RelayView; set: (part: Partial<RuleOutput>) => void }) {
  const d = r.drawing;
  const [words, setWords] = useState(d?.wording ?? "");
  const [name, setName] = useState(hard);
  const look = useDeferredValue(d && lookOf(r.when, { ...d, wording: words }, name));
  const shelf = useQuery({ queryKey: ["media"], queryFn: ({ signal }) => ask(api.GET("/api/media", { signal })), enabled: !!d, staleTime: 30_000 }).data;
  const put = (part: Partial<Of>) => set({ drawing: { ...d, ...part } });
  const choices = (key: "ground" | "frame" | "at", label: string, list: [string, string][]) => (
    <One label={label} value={d?.[key] ?? list[0]![0]} list={list} onPick={(v) => put({ [key]: v })} />
  );
  const pictures = (shelf?.items ?? []).filter((m) => m.kind === "picture").map((m): [string, string] => [m.name, m.name]);
  return (
    <>
      <Tick
        on={!!d}
        onChange={(on) => {
          setWords(on ? first : "");
          set({ drawing: on ? { wording: first } : undefined });
        }}
      >
        drawn for them, with their own picture
      </Tick>
      {d && (
        <div className="grid gap-1.5 pt-1.5">
          {look && <img className="block w-full rounded-lg border border-line" alt={`As it would be drawn for ${name}`} src={look} />}
          <Field size="xs" aria-label="Tried with the name" value={name} maxLength={200} onChange={(e) => setName(e.target.value)} />
          <Field
            size="xs"
            aria-label="The words in it"
            placeholder="no words"
            value={words}
            maxLength={400}
            onChange={(e) => setWords(e.target.value)}
            onBlur={() => words !== (d.wording ?? "") && put({ wording: words || undefined })}
          />
          <span className="flex flex-wrap gap-1.5">
            {choices("ground", "Its ground", [
              ["dusk", "dusk"],
              ["linen", "linen"],
              ["tide", "tide"],
            ])}
            {choices("frame", "Its frame", [
              ["cord", "hung by a cord"],
              ["board", "words on a board"],
              ["none", "no frame"],
            ])}
            {choices("at", "Where the lantern hangs", [
              ["left", "at the left"],
              ["middle", "in the middle"],
              ["right", "at the right"],
            ])}
            {pictures.length > 0 && (
              <One
                label="A picture behind it"
                value={d.picture ?? ""}
                list={[["", "no picture behind"], ...pictures]}
                onPick={(picture) => put({ picture: picture || undefined })}
              />
            )}
          </span>
        </div>
      )}
    </>
  );
}
