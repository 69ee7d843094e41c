import { useState } from "react";
import { Quiet } from "../../kit/Button";
import { Area, Fault, Field, Tick } from "../../kit/Field";
import { One } from "../../kit/One";
import { bodyOf, rowsOf, shapes } from "../body";
import { Line } from "../Line";
import { RowsField, type Rows } from "../RowsField";
import type { Form, PlaceKind } from "./kind";

const sameAs = (body: unknown) => shapes.find(([, , rows]) => JSON.stringify(bodyOf(rows)) === JSON.stringify(body ?? bodyOf(shapes[0]![2])))?.[0] ?? shapes[0]![0];

function Fields({ place, set, save, fault, made }: Form) {
  const rows = rowsOf(place.body) ?? (place.body == null ? [["text", "{text}"] as [string, string]] : undefined);
  const [free, setFree] = useState(false);
  const [headers, setHeaders] = useState<Rows>(Object.entries(place.headers ?? {}));
  const keep = (rows: Rows) => set({ headers: Object.fromEntries(rows.map(([k, v]): [string, string] => [k.trim(), v.trim()]).filter(([k]) => k)) }, true);
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
              rows && !free ? (
                <>
                  <RowsField label="What is sent" name="Field" words="Words" rows={rows} onChange={(r) => set({ body: bodyOf(r) })} onSave={save} />
                  <Quiet type="button" onClick={() => setFree(true)}>
                    Write it as JSON
                  </Quiet>
                </>
              ) : (
                <Json body={place.body} onBody={(body) => set({ body }, true)} onRows={rows && (() => setFree(false))} />
              )
            }
          </Line>
          <Line label="Headers" fault={fault("headers")} hint="Besides those of the post itself. {token} stands for the token below.">
            {() => (
              <RowsField
                label="Headers"
                name="Header"
                words="Value"
                rows={headers}
                onChange={(rows) => {
                  setHeaders(rows);
                  if (rows.length < headers.length) keep(rows);
                }}
                onSave={() => keep(headers)}
              />
            )}
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

/** Json is a body as it is sent, whatever it holds; its texts are wordings. */
function Json({ body, onBody, onRows }: { body: unknown; onBody: (body: unknown) => void; onRows?: () => void }) {
  const [typed, setTyped] = useState<string>();
  const [fault, setFault] = useState("");
  return (
    <>
      <Area
        aria-label="The body as JSON"
        aria-invalid={!!fault}
        className="font-mono text-[13px]"
        rows={8}
        spellCheck={false}
        value={typed ?? JSON.stringify(body, null, 2)}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => {
          if (typed === undefined) return;
          try {
            onBody(JSON.parse(typed));
            setTyped(undefined);
            setFault("");
          } catch (e) {
            setFault(`This is not JSON yet: ${(e as Error).message}`);
          }
        }}
      />
      {fault && <Fault role="alert">{fault}</Fault>}
      {onRows && (
        <Quiet type="button" onClick={onRows}>
          Write it as fields
        </Quiet>
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
  secrets: [
    { slot: "secret", label: "Signing secret", words: "secret", hint: "Only where the place asks for one (Standard Webhooks).", looks: "whsec_…" },
    { slot: "token", label: "Token", words: "token", hint: "Stands for {token} in a header; only where the place asks for one." },
  ],
  Fields,
};
