import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Settings } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, door as doorOf, house } from "../api/queries";
import { Button } from "../kit/Button";
import { Fault, Field } from "../kit/Field";
import { Picker } from "../kit/Picker";
import { useCalendar } from "../kit/time";
import { titled } from "../kit/words";
import { free, Proof, slug } from "./ChatForm";
import { Copyable, Line } from "./Line";
import { useSection } from "./useSection";

type Door = NonNullable<Settings["doors"]>[number];

/** HappeningsForm makes a door that follows, raids and the like come in at. */
export function HappeningsForm({ onMade }: { onMade: (door: string) => void }) {
  const doors = useSection("doors");
  const list = (doors.value ?? []) as Door[];
  const platforms = [...new Set(list.filter((d) => d.kind === "irc").map((d) => d.platform))];
  const [platform, setPlatform] = useState<string>();
  const on = platform ?? platforms[0] ?? "";
  const make = async () => {
    const name = free(
      slug(on),
      list.map((d) => d.name),
    );
    if (on && (await doors.put([...list, { name, kind: "inbox", platform: on }]))) onMade(name);
  };
  return (
    <>
      <Line label="Happenings of" hint="Which platform they happen on.">
        {(id) =>
          platforms.length ? (
            <Picker label="Platform" choices={platforms.map((p) => ({ value: p, label: titled(p) }))} value={on} onPick={setPlatform} onNew={(v) => setPlatform(slug(v))}>
              {on ? titled(on) : "choose…"} <span aria-hidden>▾</span>
            </Picker>
          ) : (
            <Field id={id} value={on} placeholder="harbour" maxLength={40} onChange={(e) => setPlatform(slug(e.target.value))} />
          )
        }
      </Line>
      {doors.fault && <Fault role="alert">{doors.fault.words}</Fault>}
      <Button look="lit" disabled={!on} onClick={() => void make()}>
        Make a door
      </Button>
    </>
  );
}

/** HappeningsProof is where events are sent, what they are signed with, and the last one as it was understood. */
export function HappeningsProof({ door: name }: { door: string }) {
  const page = useQuery(doorOf(name)).data;
  const slots = useQuery(house).data?.secrets.find((s) => s.name === name)?.slots ?? [];
  const deed = useDeed();
  const calendar = useCalendar();
  const [secret, setSecret] = useState("");
  if (!page) return null;
  const last = page.came[0];
  return (
    <div className="grid gap-3 py-2" aria-live="polite">
      <div>
        <p className="sub m-0 mb-1">Send events here, as CloudEvents in JSON:</p>
        <Copyable text={page.address} label="the address" />
        {page.outside && <p className="sub m-0 mt-1 text-persimmon">{page.outside}.</p>}
      </div>
      <div>
        <p className="sub m-0 mb-1">Signed as Standard Webhooks with this secret:</p>
        {secret ? (
          <>
            <Copyable text={secret} label="the secret" />
            <p className="sub m-0 mt-1">It is shown this once. Whoever sends must have it now.</p>
          </>
        ) : (
          <span className="flex items-center gap-2">
            {slots.includes("secret") && <span className="sub">A secret is set. It is not shown again.</span>}
            <Button
              size="s"
              onClick={() => void deed(api.POST("/api/house/secrets", { body: { section: "doors", name } }), { stale: [about.house], then: (x) => setSecret(x.secret) })}
            >
              {slots.includes("secret") ? "Make another; the old one is good until the next" : "Make the secret"}
            </Button>
          </span>
        )}
      </div>
      <Proof ok={!!last} calm>
        {last ? (
          <>
            {calendar.fully(last.at)}: <span className="[overflow-wrap:anywhere]">{last.understood?.split(" · {")[0] || last.raw}</span>
          </>
        ) : (
          "Nothing has come in yet. The first event shows here as it is understood."
        )}
      </Proof>
    </div>
  );
}
