import { useState } from "react";
import { api, type Settings } from "../api/client";
import { free, slug } from "../keeping/ChatForm";
import { Line } from "../keeping/Line";
import { TryNow } from "../keeping/PlaceForm";
import { useSection } from "../keeping/useSection";
import { Button } from "../kit/Button";
import { Area, Fault, Field } from "../kit/Field";
import { One } from "../kit/One";
import { Part } from "./Part";
import { SpokenTo } from "./SpokenTo";
import { Named, Secret } from "./Thing";

type Fitting = NonNullable<Settings["fittings"]>[number];

const kinds: [Fitting["kind"], string][] = [
  ["lamp", "a lamp"],
  ["player", "a player"],
  ["scenes", "scenes of the streaming software"],
];

const lines = (text: string) =>
  text
    .split("\n")
    .map((x) => x.trim())
    .filter(Boolean);

/** Fittings are what the house works beside chat. */
export function Fittings() {
  const fittings = useSection("fittings");
  const [kind, setKind] = useState<Fitting["kind"]>("lamp");
  const [title, setTitle] = useState("");
  const list = fittings.value ?? [];
  return (
    <Part
      label="Fittings"
      title={
        <>
          What the house <u>works</u> beside chat.
        </>
      }
    >
      {list.map((f, i) => {
        const set = (next: Partial<Fitting>) => fittings.set(list.map((x, n) => (n === i ? { ...x, ...next } : x)));
        return (
          <section key={f.name} aria-label={f.title || f.name} className="border-t border-line py-3">
            <div className="flex flex-wrap items-center gap-2">
              <h2 className="m-0 mr-auto text-lg">
                {f.title || f.name} <span className="sub">{kinds.find((k) => k[0] === f.kind)?.[1]}</span>
              </h2>
              <Named section="fittings" name={f.name} title={f.title || f.name} />
            </div>
            <Line label="Called">
              {(id) => <Field id={id} value={f.title} maxLength={80} onChange={(e) => set({ title: e.target.value })} onBlur={() => void fittings.save()} />}
            </Line>
            <Line
              label="Address"
              fault={fittings.fault?.at === `fittings.${i}.url` ? fittings.fault.words : undefined}
              hint="One in your own network must be let be reached, under Doors."
            >
              {(id) => (
                <Field
                  id={id}
                  value={f.url}
                  maxLength={2000}
                  placeholder="http://lamp.local/…"
                  onChange={(e) => set({ url: e.target.value })}
                  onBlur={() => void fittings.save()}
                />
              )}
            </Line>
            <SpokenTo
              f={f}
              fault={fittings.fault && (fittings.fault.at.startsWith(`fittings.${i}.own`) || fittings.fault.at === `fittings.${i}.profile`) ? fittings.fault : undefined}
              onChange={(next) => void fittings.put(list.map((x, n) => (n === i ? { ...x, ...next } : x)))}
            />
            {f.kind === "scenes" && (
              <Line label="Scenes" hint="One a line, as the software calls them.">
                {(id) => (
                  <Area
                    id={id}
                    rows={3}
                    value={(f.scenes ?? []).join("\n")}
                    onChange={(e) => set({ scenes: e.target.value.split("\n") })}
                    onBlur={(e) => (set({ scenes: lines(e.target.value) }), void fittings.save())}
                  />
                )}
              </Line>
            )}
            {f.kind === "player" && (
              <Line label="Voices" hint="One a line; those it can speak in.">
                {(id) => (
                  <Area
                    id={id}
                    rows={2}
                    value={(f.voices ?? []).join("\n")}
                    onChange={(e) => set({ voices: e.target.value.split("\n") })}
                    onBlur={(e) => (set({ voices: lines(e.target.value) }), void fittings.save())}
                  />
                )}
              </Line>
            )}
            <Line label={f.own || f.profile ? "Its secret" : "Signing secret"}>{() => <Secret name={f.name} slot="secret" words="secret" />}</Line>
            <TryNow label="Try it now" arrived="It was told, and answered." call={() => api.POST("/api/fittings/{fitting}/try", { params: { path: { fitting: f.name } } })} />
          </section>
        );
      })}
      {fittings.fault && <Fault role="alert">{fittings.fault.words}</Fault>}
      <form
        className="mt-3 flex flex-wrap items-center gap-2 border-t border-line pt-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (title.trim())
            void fittings
              .put([
                ...list,
                {
                  name: free(
                    slug(title) || kind,
                    list.map((f) => f.name),
                  ),
                  title: title.trim(),
                  kind,
                  url: "",
                },
              ])
              .then((ok) => ok && setTitle(""));
        }}
      >
        <One label="Kind of fitting" value={kind} list={kinds} onPick={(v) => setKind(v as Fitting["kind"])} />
        <Field className="w-56" aria-label="What the fitting is called" placeholder="the bench lamp" maxLength={60} value={title} onChange={(e) => setTitle(e.target.value)} />
        <Button look="lit" disabled={!title.trim()}>
          Add it
        </Button>
      </form>
    </Part>
  );
}
