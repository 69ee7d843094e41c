import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, said } from "../api/client";
import { toast } from "../kit/toast";

/** Never edits the list of those who are never greeted, one a line. */
export function Never({ list }: { list: string[] }) {
  const client = useQueryClient();
  const [text, setText] = useState(list.join("\n"));
  const [note, setNote] = useState("");
  const save = () =>
    ask(api.PUT("/api/settings/never", { body: { never: text.split(/[\n,]+/) } })).then(
      () => {
        setNote("in force");
        void client.invalidateQueries({ queryKey: ["courtesies"] });
      },
      (p) => toast(said(p)),
    );
  return (
    <section className="panel col-span-2" aria-label="Those never greeted">
      <div className="ed">
        <p className="sent">
          Never greet <u>these accounts</u>.
        </p>
        <p className="sub mb-2">One a line, by login, with or without @. The streamer and the house's own accounts are never greeted anyway.</p>
        <textarea
          className="field max-w-md"
          rows={10}
          aria-label="Never greeted"
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            setNote("");
          }}
          onBlur={() => void save()}
        />
        <p className="sub mt-2 text-(--fern)" role="status">
          {note}
        </p>
      </div>
    </section>
  );
}
