import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, type KeptMessage, type Makeable, type MadeOf, type Reading } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, messages as kept, triedReading } from "../api/queries";
import { free } from "../keeping/ChatForm";
import { useSection } from "../keeping/useSection";
import { Button } from "../kit/Button";
import { Fault } from "../kit/Field";
import { useCalendar } from "../kit/time";
import { Teach } from "./Teach";
import { gist, ifWords } from "./pointing";

/** Messages is what came in at a door of another service: what was understood, what nobody understands yet, and the readings that do. */
export function Messages({ door }: { door: string }) {
  const page = useQuery(kept(door)).data;
  const readings = useSection("readings");
  const list = (readings.value ?? []) as Reading[];
  const [draft, setDraft] = useState<Reading>();
  const [was, setWas] = useState<string>(); // name of the reading that is changed; none is new
  const [chosen, setChosen] = useState<number>();
  const tried = useQuery(triedReading(door, draft)).data;
  const deed = useDeed();
  const calendar = useCalendar();
  if (!page) return null;
  const words = (type: string) => page.makes.find((m) => m.type === type)?.words ?? type;
  const mine = list.filter((r) => r.doors?.includes(door));
  const waits = page.messages.filter((m) => m.state !== "understood");
  const ready = waits.filter((m) => m.made.some((x) => x.words && !x.field)).length;
  const at = page.messages.find((m) => m.id === chosen) ?? waits[0] ?? page.messages[0];
  const teach = (r?: Reading) => {
    setWas(r?.name);
    setDraft(r ?? { name: free(`${door}-1`, list.map((x) => x.name)), doors: [door], makes: "", if: [], take: {} }); // prettier-ignore
  };
  const keep = async () => {
    if (!draft) return;
    const ok = await readings.put([
      ...list.filter((r) => r.name !== (was ?? draft.name)),
      { ...draft, doors: draft.doors?.includes(door) ? draft.doors : [...(draft.doors ?? []), door] },
    ]);
    if (ok) setDraft(undefined);
  };
  const use = (name: string) => void readings.put(list.map((r) => (r.name === name ? { ...r, doors: [...(r.doors ?? []), door] } : r)));
  const drop = (r: Reading) => void readings.put(list.filter((x) => x !== r));
  const madeOf = (m: KeptMessage) => (draft ? (tried?.messages.find((x) => x.id === m.id)?.made ?? []) : m.made);
  return (
    <section aria-label="What came in">
      <h2 className="mt-4 mb-1 text-lg">How its messages are understood</h2>
      {mine.map((r) => (
        <div key={r.name} className="thing">
          <span>
            Where {ifWords(r)}: <b>{words(r.makes)}</b>. <span className="sub">{r.name}</span>
          </span>
          <span className="flex gap-1.5">
            <Button size="s" onClick={() => teach(r)}>
              Change
            </Button>
            <Button size="s" onClick={() => drop(r)}>
              Take away
            </Button>
          </span>
        </div>
      ))}
      {page.offers.map((name) => (
        <div key={name} className="thing">
          <span>
            The reading <b>{name}</b> fits what came in here.
          </span>
          <Button size="s" look="lit" onClick={() => use(name)}>
            Use it here
          </Button>
        </div>
      ))}
      {mine.length === 0 && page.offers.length === 0 && (
        <p className="sub m-0">
          {page.messages.length
            ? "Nothing understands them yet. Choose a message and say what it is."
            : "Nothing has come in yet. The first message shows here, and waits until you say what it is."}
        </p>
      )}
      <div className="flex flex-wrap gap-2 py-2">
        {page.messages.length > 0 && !draft && (
          <Button look={mine.length ? "plain" : "lit"} onClick={() => teach()}>
            Teach the house a message
          </Button>
        )}
        {ready > 0 && !draft && (
          <Button
            look="lit"
            onClick={() =>
              void deed(api.POST("/api/doors/{door}/messages/take", { params: { path: { door } } }), {
                stale: [about.house],
                say: (x) => `${x.made} taken in, as of when they came.${x.waits ? ` ${x.waits} wait still.` : ""}`,
              })
            }
          >
            Take in {ready === 1 ? "the one that waited" : `the ${ready} that waited`}
          </Button>
        )}
        <Travel door={door} list={list} mine={mine} put={(x) => readings.put(x)} />
      </div>
      {readings.fault && (
        <Fault role="alert">
          {readings.fault.words} <span className="muted">({readings.fault.at})</span>
        </Fault>
      )}
      {at && draft && (
        <Teach
          door={door}
          draft={draft}
          makes={page.makes as Makeable[]}
          message={at}
          onChange={setDraft}
          onKeep={() => void keep()}
          onLeave={() => setDraft(undefined)}
          made={madeOf(at)}
          faults={tried?.faults ?? []}
          tally={tried}
        />
      )}
      <h2 className="mt-4 mb-1 text-lg">What came in</h2>
      {page.fallen.length > 0 && (
        <p className="sub m-0 pb-1">Fell out before anything understood them: {page.fallen.map((f) => `${f.count} on ${calendar.dated(`${f.day}T12:00:00Z`)}`).join(", ")}.</p>
      )}
      {page.messages.map((m) => (
        <Row key={m.id} m={m} made={madeOf(m)} trying={!!draft} on={!!draft && m.id === at?.id} when={calendar.fully(m.at)} onPick={() => setChosen(m.id)} />
      ))}
    </section>
  );
}

/** made says what a reading makes of a message. */
const says = (x: MadeOf) => (x.field ? `${x.field.replace(/^data\./, "")} ${x.remedy}` : x.words);

function Row({ m, made, trying, on, when, onPick }: { m: KeptMessage; made: MadeOf[]; trying: boolean; on: boolean; when: string; onPick: () => void }) {
  const well = made.some((x) => !x.field) || (m.state === "understood" && !trying);
  const later = m.state !== "understood" && !trying && made.some((x) => !x.field) ? "; not taken in yet" : "";
  const state = made.length === 0 ? (trying ? "it does not fit" : "nobody understands it") : made.map(says).join("; ") + later;
  return (
    <details className="border-t border-line py-1.5" open={on || undefined} onToggle={(e) => e.currentTarget.open && onPick()}>
      <summary className="cursor-pointer">
        <span className={`mr-2 inline-block ${well ? "dot" : "dot bad"}`} aria-hidden />
        <span className="sub">{when}</span> {m.state === "understood" && !trying && !made.length ? "understood when it came" : state}
        <span className="sub cut block pl-5">{gist(m.body)}</span>
      </summary>
      <p className="raw m-0">{m.body}</p>
      {m.why && m.state !== "understood" && <p className="sub m-0">It waits: {m.why}.</p>}
    </details>
  );
}

/** Travel gives the door's readings away as one file, and brings others' in: they are offered where they fit. */
function Travel({ door, list, mine, put }: { door: string; list: Reading[]; mine: Reading[]; put: (r: Reading[]) => Promise<boolean> }) {
  const file = useRef<HTMLInputElement>(null);
  const [fault, setFault] = useState("");
  const give = () => {
    const a = document.createElement("a");
    a.href = URL.createObjectURL(new Blob([JSON.stringify({ format: 1, readings: mine.map((r) => ({ ...r, doors: undefined })) }, null, 2) + "\n"], { type: "application/json" }));
    a.download = `${door}.readings.json`;
    a.click();
    URL.revokeObjectURL(a.href);
  };
  const bring = async (f: File | undefined) => {
    if (!f) return;
    setFault("");
    try {
      const x = JSON.parse(await f.text()) as { format?: number; readings?: Reading[] };
      if (x.format !== 1 || !Array.isArray(x.readings)) throw new Error();
      const taken = list.map((r) => r.name);
      const fresh = x.readings.map((r) => {
        const name = free(r.name || door, taken);
        taken.push(name);
        return { ...r, name, doors: [] };
      });
      await put([...list, ...fresh]);
    } catch {
      setFault(`${f.name} is no file of readings. It is JSON with "format": 1 and a list of readings, as its schema says.`);
    }
  };
  return (
    <>
      {mine.length > 0 && <Button onClick={give}>Give its readings away</Button>}
      <input ref={file} type="file" accept="application/json,.json" className="hidden" aria-label="A file of readings" onChange={(e) => void bring(e.target.files?.[0])} />
      <Button onClick={() => file.current?.click()}>Bring readings in</Button>
      {fault && <Fault role="alert">{fault}</Fault>}
    </>
  );
}
