import { useState } from "react";
import { api, type Settings } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Button } from "../kit/Button";
import { Fault, Field } from "../kit/Field";
import { One } from "../kit/One";
import { free, Proof, slug } from "./ChatForm";
import { Line } from "./Line";
import type { Rows } from "./RowsField";
import { useSection } from "./useSection";

export type Place = NonNullable<Settings["places"]>[number];

/** rowsOf takes a body apart, and says nothing where it holds more than texts and lists of them. A list's name ends with []. */
export function rowsOf(body: unknown, at = ""): Rows | undefined {
  if (typeof body === "string") return at ? [[at, body]] : undefined;
  if (Array.isArray(body) && at && body.every((x) => typeof x === "string" && x === x.trim() && x && !x.includes(","))) return [[`${at}[]`, body.join(", ")]];
  if (!body || typeof body !== "object" || Array.isArray(body)) return undefined;
  const out: Rows = [];
  for (const [k, v] of Object.entries(body)) {
    if (k.includes(".") || k.endsWith("[]")) return undefined;
    const rows = rowsOf(v, at ? `${at}.${k}` : k);
    if (!rows) return undefined;
    out.push(...rows);
  }
  return out;
}

/** bodyOf puts rows together again. */
export function bodyOf(rows: Rows): unknown {
  const out: Record<string, unknown> = {};
  for (const [name, words] of rows) {
    const way = name.trim().split(".").filter(Boolean);
    if (!way.length) continue;
    let in_ = out;
    for (const k of way.slice(0, -1)) {
      if (typeof in_[k] !== "object") in_[k] = {};
      in_ = in_[k] as Record<string, unknown>;
    }
    const last = way[way.length - 1]!;
    if (!last.endsWith("[]")) in_[last] = words;
    else
      in_[last.slice(0, -2)] = words
        .split(",")
        .map((w) => w.trim())
        .filter(Boolean);
  }
  return out;
}

const shapes: [string, string, Rows][] = [
  ["text", "a text alone", [["text", "{text}"]]],
  ["message", "a message alone", [["message", "{text}"]]],
  [
    "board",
    "a message with a board under it",
    [
      ["message", "{text}"],
      ["board.heading", "{title}"],
      ["board.line", "{category}"],
      ["board.link", "{link}"],
    ],
  ],
];

/** PlaceForm makes a place for announcements. */
export function PlaceForm({ onMade }: { onMade: (place: string) => void }) {
  const places = useSection("places");
  const deed = useDeed();
  const [made, setMade] = useState({ title: "", url: "", secret: "" });
  const [shape, setShape] = useState(shapes[0]![0]);
  const [fault, setFault] = useState("");
  const list = places.value ?? [];
  const typed = (k: keyof typeof made) => (e: { target: { value: string } }) => setMade({ ...made, [k]: e.target.value });
  const add = async () => {
    const title = made.title.trim();
    const missing = !title
      ? "Say what the place is called."
      : !/^https?:\/\//.test(made.url.trim())
        ? "Paste the address that the place gives for posting; it begins with https://"
        : "";
    setFault(missing);
    if (missing) return;
    const name = free(
      slug(title) || "place",
      list.map((p) => p.name),
    );
    const body = bodyOf(shapes.find((x) => x[0] === shape)![2]);
    if (!(await places.put([...list, { name, title, url: made.url.trim(), body } as Place]))) return;
    if (made.secret) await deed(api.PUT("/api/house/secrets", { body: { name, slot: "secret", value: made.secret } }), { stale: [about.house], fault: setFault });
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
        {(id) => <Field id={id} value={made.title} maxLength={80} onChange={typed("title")} />}
      </Line>
      <Line label="Its address" hint="Paste the one that the place gives for posting.">
        {(id) => <Field id={id} value={made.url} placeholder="https://…" maxLength={2000} onChange={typed("url")} />}
      </Line>
      <Line label="It takes" hint="What each field is called can be changed afterwards.">
        {() => <One label="What it takes" value={shape} list={shapes.map(([v, t]) => [v, t])} onPick={setShape} />}
      </Line>
      <Line label="Signing secret" hint="Only where the place asks for one (Standard Webhooks).">
        {(id) => <Field id={id} type="password" autoComplete="off" value={made.secret} placeholder="whsec_…" onChange={typed("secret")} />}
      </Line>
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
