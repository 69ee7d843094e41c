import { useState } from "react";
import { api } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Button } from "../kit/Button";
import { Fault, Field } from "../kit/Field";
import { One } from "../kit/One";
import { free, Proof, slug } from "./ChatForm";
import { Line } from "./Line";
import { kindOf, placeKinds, type Place } from "./places/kind";
import { useSection } from "./useSection";

/** PlaceForm makes a place. */
export function PlaceForm({ onMade }: { onMade: (place: string) => void }) {
  const places = useSection("places");
  const deed = useDeed();
  const [place, setPlace] = useState<Partial<Place>>(kindOf({}).fresh);
  const [title, setTitle] = useState("");
  const [secrets, setSecrets] = useState<Record<string, string>>({});
  const [fault, setFault] = useState("");
  const list = places.value ?? [];
  const kind = kindOf(place);
  const add = async () => {
    const missing = !title.trim() ? "Say what the place is called." : kind.missing?.(place);
    setFault(missing ?? "");
    if (missing) return;
    const name = free(
      slug(title) || "place",
      list.map((p) => p.name),
    );
    const made = { ...place, name, title: title.trim(), url: place.url?.trim() ?? "", body: place.body ?? null };
    if (!(await places.put([...list, made as Place]))) return;
    for (const { slot } of kind.secrets ?? []) {
      const value = secrets[slot];
      if (value) await deed(api.PUT("/api/house/secrets", { body: { name, slot, value } }), { stale: [about.house], fault: setFault });
    }
    onMade(name);
  };
  return (
    <form
      aria-label="A place"
      onSubmit={(e) => {
        e.preventDefault();
        void add();
      }}
    >
      <Line label="Called" hint="As people say it: News at the community server.">
        {(id) => <Field id={id} value={title} maxLength={80} onChange={(e) => setTitle(e.target.value)} />}
      </Line>
      <Line label="It is">
        {() => (
          <One
            label="What it is"
            value={kind.name}
            list={placeKinds.map((k) => [k.name, k.words])}
            onPick={(name) => {
              const next = placeKinds.find((k) => k.name === name)!;
              setPlace({ ...next.fresh, kind: name === "webhook" ? undefined : name });
            }}
          />
        )}
      </Line>
      <kind.Fields place={place} set={(part) => setPlace({ ...place, ...part })} save={() => undefined} fault={() => undefined} made={false} />
      {kind.secrets?.map((s) => (
        <Line key={s.slot} label={s.label} hint={s.hint}>
          {(id) => (
            <Field
              id={id}
              type="password"
              autoComplete="off"
              value={secrets[s.slot] ?? ""}
              placeholder={s.looks}
              onChange={(e) => setSecrets({ ...secrets, [s.slot]: e.target.value })}
            />
          )}
        </Line>
      ))}
      {(fault || places.fault) && <Fault role="alert">{fault || places.fault?.words}</Fault>}
      <Button look="lit" className="mt-2">
        Add the place
      </Button>
    </form>
  );
}

/** PlaceTry posts to a place at once, marked as a try, and says what came of it. */
export function PlaceTry({ place, onTried }: { place: string; onTried?: () => void }) {
  return (
    <TryNow
      label="Try: post there now"
      arrived="It arrived. Look there: it says that it is a try."
      call={() => api.POST("/api/places/{place}/try", { params: { path: { place } } })}
      onTried={onTried}
    />
  );
}

/** TryNow tries something at once, and says what came of it. */
export function TryNow({ label, arrived, call, onTried }: { label: string; arrived: string; call: () => Promise<{ data?: Tried; error?: unknown }>; onTried?: () => void }) {
  const deed = useDeed();
  const [told, setTold] = useState<Tried>();
  return (
    <div className="grid gap-1.5" aria-live="polite">
      <span>
        <Button
          type="button"
          onClick={() => {
            setTold(undefined);
            void deed(call(), {
              stale: [about.moving],
              then: (x) => {
                setTold(x);
                if (x.ok) onTried?.();
              },
              fault: (why) => setTold({ ok: false, why }),
            });
          }}
        >
          {label}
        </Button>
      </span>
      {told && <Proof ok={told.ok}>{told.ok ? arrived : told.why}</Proof>}
    </div>
  );
}

type Tried = { ok: boolean; why: string };
