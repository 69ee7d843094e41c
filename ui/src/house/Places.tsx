import { useState } from "react";
import { api, type Settings } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Line } from "../keeping/Line";
import { bodyOf, PlaceForm, PlaceTry, rowsOf, type Place } from "../keeping/PlaceForm";
import { RowsField } from "../keeping/RowsField";
import { useSection } from "../keeping/useSection";
import { Button } from "../kit/Button";
import { Fault, Field, Tick } from "../kit/Field";
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
        const rows = rowsOf(p.body) ?? (p.body == null ? [["text", "{text}"] as [string, string]] : undefined);
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
            <Line label="Address" fault={fault("url")} hint="Another address needs its secret anew.">
              {(id) => <Field id={id} value={p.url} maxLength={2000} placeholder="https://…" onChange={(e) => set({ url: e.target.value })} onBlur={() => void places.save()} />}
            </Line>
            <Line
              label="What is sent"
              fault={fault("body")}
              hint="Fill-ins: text, title, category, link, channel. A name with a dot stands within another; one that ends with [] is a list."
            >
              {() =>
                rows ? (
                  <RowsField label="What is sent" name="Field" words="Words" rows={rows} onChange={(r) => set({ body: bodyOf(r) })} onSave={() => void places.save()} />
                ) : (
                  <p className="sub m-0 pt-2">It holds more than texts, so it stays as the house file has it.</p>
                )
              }
            </Line>
            <Line label="Signing secret">{() => <Secret name={p.name} slot="secret" words="secret" />}</Line>
            <Line label="A post twice" hint="Then a post that may have arrived waits for you instead of being sent again.">
              {() => (
                <Tick className="pt-2" on={!!p.ignoresKeys} onChange={(v) => void places.put(list.map((x, n) => (n === i ? { ...x, ignoresKeys: v || undefined } : x)))}>
                  the place would show it twice
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
