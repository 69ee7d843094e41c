import { useState } from "react";
import { api, type Courtesies } from "../api/client";
import { useOnce } from "../api/deeds";
import { about } from "../api/queries";
import { Button } from "../kit/Button";
import { Fault, Field } from "../kit/Field";
import { useClashes } from "./AskedBy";
import { sentenceOf } from "./outputs";

/** NewCommand makes a command out of a word, which may be known already, and an answer; it is on at once. */
export function NewCommand({ all, word: begun = "", onMade }: { all: Courtesies; word?: string; onMade: (id: string) => void }) {
  const once = useOnce();
  const [word, setWord] = useState(begun);
  const [says, setSays] = useState("");
  const [fault, setFault] = useState("");
  const asks = word.split(/[\s,]+/).filter(Boolean);
  const clashes = useClashes("", asks, []).filter(() => asks.length > 0);
  const make = async () => {
    if (!asks.length || !says.trim()) return;
    const made = await once(() => api.POST("/api/courtesies", { body: { when: "command", slot: "answer", asks, says: says.trim() } }), {
      stale: [about.courtesies],
      fault: setFault,
    });
    if (made) onMade(made.id);
  };
  return (
    <form
      className="mb-1.5 border-b border-line p-2 pb-3"
      aria-label="A new command"
      onSubmit={(e) => {
        e.preventDefault();
        void make();
      }}
    >
      <div className="grid grid-cols-[auto_1fr_auto] items-center gap-1.5">
        <span className="sub">Asked</span>
        <Field size="s" className="col-span-2" aria-label="A word" placeholder="tides" maxLength={80} value={word} onChange={(e) => setWord(e.target.value)} />
        <span className="sub">answer</span>
        <Field size="s" aria-label="An answer" placeholder="High at nine tonight" maxLength={400} value={says} onChange={(e) => setSays(e.target.value)} />
        <Button size="s" look={asks.length && says.trim() ? "lit" : "plain"} type="submit">
          Add
        </Button>
      </div>
      <div role="status">
        {clashes.map((m, i) => (
          <Fault key={i}>
            {m.with.length > 0 ? `“${m.with.map((id) => sentenceOf(all, id)).join("” and “")}”` : m.word || word} {m.what}
          </Fault>
        ))}
        {fault && <Fault>{fault}</Fault>}
      </div>
      <p className="sub px-0.5 pt-1.5">…or a courtesy for another moment:</p>
    </form>
  );
}
