import { Field, Tick } from "../../kit/Field";
import { Line } from "../Line";
import type { Form, PlaceKind } from "./kind";

function Fields({ place, set, save, fault }: Form) {
  return (
    <>
      <Line label="Its name" fault={fault("file")} hint="It stands in the house's own folder of files.">
        {(id) => <Field id={id} value={place.file ?? ""} maxLength={70} placeholder="evening.jsonl" onChange={(e) => set({ file: e.target.value })} onBlur={save} />}
      </Line>
      <Line label="Each line" fault={fault("each")} hint="Words with {text}, {now, time, short} and {channel}; nothing is a JSON record a line.">
        {(id) => <Field id={id} value={place.each ?? ""} maxLength={400} placeholder="a JSON record" onChange={(e) => set({ each: e.target.value || undefined })} onBlur={save} />}
      </Line>
      <Line label="A file">
        {() => (
          <Tick className="pt-2" on={!!place.byStream} onChange={(v) => set({ byStream: v || undefined }, true)}>
            of its own for each stream
          </Tick>
        )}
      </Line>
    </>
  );
}

export const kind: PlaceKind = {
  name: "file",
  words: "a file in the house",
  order: 5,
  fresh: { url: "", file: "evening.jsonl" },
  missing: (p) => (p.file?.trim() ? undefined : "Say what the file is called."),
  Fields,
};
