import { useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Button } from "./Button";
import { Field } from "./Field";

/** Answer answers a note in chat, where its writer is; with that it is done with. */
export function Answer({ event, name, onDone }: { event: number; name: string; onDone: () => void }) {
  const deed = useDeed();
  const [text, setText] = useState("");
  const box = useRef<HTMLInputElement>(null);
  useEffect(() => box.current?.focus(), []); // whoever pressed Answer is about to write
  const send = async () => {
    if (
      text.trim() &&
      (await deed(api.POST("/api/notes/{event}/answer", { params: { path: { event } }, body: { text } }), { stale: [about.notes], say: `Answered ${name} in chat.` }))
    )
      onDone();
  };
  return (
    <form
      className="flex flex-1 gap-2 pt-1"
      onSubmit={(e) => {
        e.preventDefault();
        void send();
      }}
    >
      <Field
        size="s"
        ref={box}
        maxLength={400}
        aria-label={`Answer to ${name}`}
        placeholder={`to ${name}, in chat`}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Escape" && onDone()}
      />
      <Button size="s" type="submit">
        Say it
      </Button>
    </form>
  );
}
