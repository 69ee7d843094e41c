import { useEffect, useRef, useState } from "react";
import { api, based } from "../api/client";
import { useAgain, useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Area } from "../kit/Field";
import { Panel } from "../kit/Panel";

/** Never edits the list of those who are never greeted, one a line. */
export function Never({ list, version }: { list: string[]; version: number }) {
  const again = useAgain();
  const deed = useDeed();
  const [text, setText] = useState(list.join("\n"));
  const [note, setNote] = useState("");
  const base = useRef(version); // what stands here was made of this version
  const typed = useRef(false);
  useEffect(() => {
    if (typed.current) return;
    base.current = version;
    setText(list.join("\n"));
  }, [version, list]);
  const shown = () => {
    typed.current = false;
    return again(about.courtesies);
  };
  const save = (on = base.current): void => {
    if (!typed.current) return;
    void deed(api.PUT("/api/settings/never", { body: { never: text.split(/[\n,]+/) }, ...based(on) }), {
      stale: [about.courtesies],
      then: () => {
        typed.current = false;
        setNote("in force");
      },
      clash: { mine: save, theirs: shown },
    });
  };
  return (
    <Panel className="col-span-2" label="Those never greeted">
      <div className="ed">
        <p className="sent">
          Never greet <u>these accounts</u>.
        </p>
        <p className="sub mb-2">One a line, by login, with or without @. The streamer and the house's own accounts are never greeted anyway.</p>
        <Area
          className="max-w-md"
          rows={10}
          aria-label="Never greeted"
          value={text}
          onChange={(e) => {
            typed.current = true;
            setText(e.target.value);
            setNote("");
          }}
          onBlur={() => save()}
        />
        <p className="sub mt-2 text-fern" role="status">
          {note}
        </p>
      </div>
    </Panel>
  );
}
