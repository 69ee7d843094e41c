import { useState } from "react";
import { api, type Settings } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Line } from "../keeping/Line";
import { PlaceForm, PlaceTry } from "../keeping/PlaceForm";
import { kindOf, type Place } from "../keeping/places/kind";
import { useSection } from "../keeping/useSection";
import { Button } from "../kit/Button";
import { Fault, Field, Num, Tick } from "../kit/Field";
import { Part } from "./Part";
import { Named, Secret } from "./Thing";

/** Places are where the house speaks outside chat. */
export function Places() {
  const places = useSection("places");
  const announces = useSection("courtesies").value ?? [];
  const deed = useDeed();
  const [adding, setAdding] = useState(false);
  const list = places.value ?? [];
  return (
    <Part
      label="Places"
      title={
        <>
          Where the news <u>goes</u>.
        </>
      }
    >
      {list.map((p, i) => {
        const set = (next: Partial<Place>) => places.set(list.map((x, n) => (n === i ? { ...x, ...next } : x)));
        const kind = kindOf(p);
        const fault = (k: string) => (places.fault?.at === `places.${i}.${k}` ? places.fault.words : undefined);
        const said = announces.some((c) => c.on && c.when === "porch.stream.opened" && posts(c, p.name));
        return (
          <section key={p.name} aria-label={p.title || p.name} className="border-t border-line py-3">
            <div className="flex flex-wrap items-center gap-2">
              <h2 className="m-0 mr-auto text-lg">{p.title || p.name}</h2>
              <Named section="places" name={p.name} title={p.title || p.name} />
            </div>
            <Line label="Called">
              {(id) => <Field id={id} value={p.title} maxLength={80} onChange={(e) => set({ title: e.target.value })} onBlur={() => void places.save()} />}
            </Line>
            <kind.Fields
              place={p}
              made
              fault={fault}
              set={(part, now) => (now ? void places.put(list.map((x, n) => (n === i ? { ...x, ...part } : x))) : set(part))}
              save={() => void places.save()}
            />
            {kind.secrets?.map((s) => (
              <Line key={s.slot} label={s.label} hint={s.hint}>
                {() => <Secret name={p.name} slot={s.slot} words={s.words} />}
              </Line>
            ))}
            <Line label="Its limits" fault={fault("perMinute") ?? fault("letters")}>
              {() => (
                <span className="flex flex-wrap items-center gap-2 pt-1">
                  <Num label="Posts a minute" value={p.perMinute} onChange={(n) => set({ perMinute: n })} onBlur={() => void places.save()} /> posts a minute,
                  <Num label="Letters in a text" value={p.letters} onChange={(n) => set({ letters: n })} onBlur={() => void places.save()} /> letters in a text
                  <span className="sub">nothing is no limit</span>
                </span>
              )}
            </Line>
            <Line label="Links">
              {() => (
                <Tick className="pt-2" on={!!p.noLinks} onChange={(v) => void places.put(list.map((x, n) => (n === i ? { ...x, noLinks: v || undefined } : x)))}>
                  in viewers&apos; words lead nowhere
                </Tick>
              )}
            </Line>
            <Line label="For now" hint="What goes there waits, and goes on in its order afterwards.">
              {() => (
                <Tick className="pt-2" on={!!p.paused} onChange={(v) => void places.put(list.map((x, n) => (n === i ? { ...x, paused: v || undefined } : x)))}>
                  nothing is posted there
                </Tick>
              )}
            </Line>
            <Line label="The opening of the stream">
              {() =>
                said ? (
                  <span className="block pt-2">is announced here.</span>
                ) : (
                  <Button
                    size="s"
                    className="mt-1.5"
                    onClick={() =>
                      void deed(api.POST("/api/places/{place}/announce", { params: { path: { place: p.name } } }), {
                        stale: [about.house, about.courtesies, about.history],
                        say: "It is announced here from now on.",
                      })
                    }
                  >
                    Announce it here
                  </Button>
                )
              }
            </Line>
            <PlaceTry place={p.name} />
          </section>
        );
      })}
      {list.length === 0 && <p className="sub">There are no places yet.</p>}
      {places.fault && <Fault role="alert">{places.fault.words}</Fault>}
      <div className="my-3">
        <Button on={adding} onClick={() => setAdding(!adding)}>
          Add a place
        </Button>
      </div>
      {adding && <PlaceForm onMade={() => setAdding(false)} />}
    </Part>
  );
}

type Courtesy = NonNullable<Settings["courtesies"]>[number];
const posts = (c: Courtesy, place: string) => (c.do as unknown as { place?: string }[]).some((o) => o.place === place);
