import { Field, Tick } from "../../kit/Field";
import { One } from "../../kit/One";
import { bodyOf, rowsOf, shapes } from "../body";
import { Line } from "../Line";
import { RowsField } from "../RowsField";
import type { Form, PlaceKind } from "./kind";

const sameAs = (body: unknown) => shapes.find(([, , rows]) => JSON.stringify(bodyOf(rows)) === JSON.stringify(body ?? bodyOf(shapes[0]![2])))?.[0] ?? shapes[0]![0];

function Fields({ place, set, save, fault, made }: Form) {
  const rows = rowsOf(place.body) ?? (place.body == null ? [["text", "{text}"] as [string, string]] : undefined);
  return (
    <>
      <Line
        label={made ? "Address" : "Its address"}
        fault={fault("url")}
        hint={made ? "Another address needs its secret anew." : "Paste the one that the place gives for posting."}
      >
        {(id) => <Field id={id} value={place.url ?? ""} maxLength={2000} placeholder="https://…" onChange={(e) => set({ url: e.target.value })} onBlur={save} />}
      </Line>
      {!made ? (
        <Line label="It takes" hint="What each field is called can be changed afterwards.">
          {() => (
            <One label="What it takes" value={sameAs(place.body)} list={shapes.map(([v, t]) => [v, t])} onPick={(v) => set({ body: bodyOf(shapes.find((x) => x[0] === v)![2]) })} />
          )}
        </Line>
      ) : (
        <>
          <Line
            label="What is sent"
            fault={fault("body")}
            hint="Fill-ins: text, title, category, link, channel. A name with a dot stands within another; one that ends with [] is a list."
          >
            {() =>
              rows ? (
                <RowsField label="What is sent" name="Field" words="Words" rows={rows} onChange={(r) => set({ body: bodyOf(r) })} onSave={save} />
              ) : (
                <p className="sub m-0 pt-2">It holds more than texts, so it stays as the house file has it.</p>
              )
            }
          </Line>
          <Line label="A post twice" hint="Then a post that may have arrived waits for you instead of being sent again.">
            {() => (
              <Tick className="pt-2" on={!!place.ignoresKeys} onChange={(v) => set({ ignoresKeys: v || undefined }, true)}>
                the place would show it twice
              </Tick>
            )}
          </Line>
        </>
      )}
    </>
  );
}

export const kind: PlaceKind = {
  name: "webhook",
  words: "an address to post to",
  order: 1,
  fresh: { body: bodyOf(shapes[0]![2]) },
  missing: (p) => (/^https?:\/\//.test(p.url?.trim() ?? "") ? undefined : "Paste the address that the place gives for posting; it begins with https://"),
  secret: true,
  Fields,
};
