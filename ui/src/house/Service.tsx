import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Door, type Service } from "../api/client";
import { useDeed } from "../api/deeds";
import { about, door as doorOf, house, session } from "../api/queries";
import { free, nearHost, Proof, slug } from "../keeping/ChatForm";
import { Copyable, Line } from "../keeping/Line";
import { useSection } from "../keeping/useSection";
import { Button } from "../kit/Button";
import { Fault, Field, Num } from "../kit/Field";
import { One } from "../kit/One";
import { RadioGroup } from "../kit/RadioGroup";
import type { Set } from "./doorWords";
import { Secret } from "./Thing";

/** ServiceForm makes a door of another service: one that sends to the house, or one that the house listens to. */
export function ServiceForm({ onMade }: { onMade: (door: string) => void }) {
  const doors = useSection("doors");
  const [called, setCalled] = useState("");
  const [kind, setKind] = useState<"hook" | "listen">("hook");
  const [address, setAddress] = useState("");
  const make = async () => {
    const list = doors.value ?? [];
    const name = free(
      slug(called),
      list.map((d) => d.name),
    );
    const service: Service = kind === "hook" ? { proof: { how: "hmac", header: "X-Signature" } } : { listen: { address: address.trim() } };
    if (slug(called) && (await doors.put([...list, { name, kind, platform: name, service }]))) onMade(name);
  };
  return (
    <form
      aria-label="Another service"
      onSubmit={(e) => {
        e.preventDefault();
        void make();
      }}
    >
      <Line label="Called" hint="One word; whoever it tells of stands under it.">
        {(id) => <Field id={id} value={called} placeholder="the tin" maxLength={40} onChange={(e) => setCalled(e.target.value)} />}
      </Line>
      <Line label="How it tells">
        {() => (
          <RadioGroup
            label="How it tells"
            value={kind}
            onChange={(v) => setKind(v as "hook" | "listen")}
            className="grid gap-2"
            options={[
              { value: "hook", label: "it sends to the house, by a webhook" },
              { value: "listen", label: "the house listens to it" },
            ]}
          />
        )}
      </Line>
      {kind === "listen" && (
        <Line label="Address" hint="A WebSocket (wss://…) or an event stream (https://…).">
          {(id) => <Field id={id} value={address} placeholder="wss://service.example/hear" maxLength={2000} onChange={(e) => setAddress(e.target.value)} />}
        </Line>
      )}
      {doors.fault && <Fault role="alert">{doors.fault.words}</Fault>}
      <Button look="lit" disabled={!slug(called)} className="mt-2">
        Make a door
      </Button>
    </form>
  );
}

/** ServiceProof is where a service sends and with what it proves itself; or whether the house hears it. */
export function ServiceProof({ door: name, live }: { door: string; live?: Door }) {
  const page = useQuery(doorOf(name)).data;
  const role = useQuery(session).data?.role;
  const deed = useDeed();
  const [secret, setSecret] = useState("");
  const slots = useQuery(house).data?.secrets.find((s) => s.name === name)?.slots ?? [];
  if (!page) return null;
  const now = page.door;
  const host = nearHost.exec(live?.reason ?? now.reason ?? "")?.[1];
  if (now.kind === "listen")
    return (
      <div className="grid gap-2 py-2" aria-live="polite">
        <Proof ok={now.state === "open" && !now.reason}>{now.state === "open" ? now.reason || "The house listens." : now.reason || "The way is being opened…"}</Proof>
        {host && role === "owner" && (
          <div className="pl-6">
            <Button
              size="s"
              onClick={() =>
                void deed(api.PUT("/api/house/hosts", { body: { host, allow: true } }), {
                  stale: [about.house],
                  say: `The house may reach ${host} now.`,
                  then: () => void deed(api.POST("/api/doors/{door}/again", { params: { path: { door: name } } })),
                })
              }
            >
              Let the house reach {host}
            </Button>
          </div>
        )}
      </div>
    );
  return (
    <div className="grid gap-3 py-2" aria-live="polite">
      <div>
        <p className="sub m-0 mb-1">The service sends here:</p>
        <Copyable text={page.address} label="the address" />
        {page.outside && <p className="sub m-0 mt-1 text-persimmon">{page.outside}.</p>}
      </div>
      <div>
        <p className="sub m-0 mb-1">With a secret that it shows you, or that you give it:</p>
        {secret ? (
          <>
            <Copyable text={secret} label="the secret" />
            <p className="sub m-0 mt-1">It is shown this once. Whoever sends must have it now.</p>
          </>
        ) : (
          <span className="flex flex-wrap items-center gap-2">
            <Secret name={name} slot="secret" words="secret" />
            <Button
              size="s"
              onClick={() => void deed(api.POST("/api/house/secrets", { body: { section: "doors", name } }), { stale: [about.house], then: (x) => setSecret(x.secret) })}
            >
              {slots.includes("secret") ? "Make another; the old one is good until the next" : "Make one"}
            </Button>
          </span>
        )}
      </div>
      {now.reason && <Proof ok={false}>The last message was refused: {now.reason}.</Proof>}
    </div>
  );
}

/** ServiceSet sets how a service's messages come in. */
export function ServiceSet({
  d,
  change,
  put,
  save,
  fault,
}: {
  d: Set;
  change: (next: Partial<Set>) => void;
  put: (next: Partial<Set>) => void;
  save: () => void;
  fault?: { at: string; words: string };
}) {
  const s: Service = d.service ?? {};
  const p = s.proof ?? {};
  const l = s.listen ?? {};
  const r = s.repeat ?? {};
  const proof = (next: Partial<typeof p>) => ({ service: { ...s, proof: { ...p, ...next } } });
  const listen = (next: Partial<typeof l>) => ({ service: { ...s, listen: { ...l, ...next } } });
  const repeat = (next: Partial<typeof r>) => ({ service: { ...s, repeat: { ...r, ...next } } });
  const wrong = (at: string) => (fault?.at.endsWith(`service.${at}`) ? fault.words : undefined);
  const text = (label: string, value: string | undefined, at: string, set: (v?: string) => Partial<Set>, hint?: string, placeholder?: string) => (
    <Line label={label} hint={hint} fault={wrong(at)}>
      {(id) => <Field id={id} size="s" value={value ?? ""} placeholder={placeholder} maxLength={2000} onChange={(e) => change(set(e.target.value || undefined))} onBlur={save} />}
    </Line>
  );
  return (
    <>
      {d.kind === "hook" && (
        <>
          <Line label="It proves itself by" fault={wrong("proof.how")}>
            {() => (
              <One
                label="It proves itself by"
                value={p.how ?? "webhook"}
                list={[
                  ["hmac", "a signature over the message (HMAC-SHA-256)"],
                  ["token", "a secret word"],
                  ["webhook", "a signature as Standard Webhooks has it"],
                ]}
                onPick={(how) => put(proof({ how: how as "hmac", header: how === "hmac" ? (p.header ?? "X-Signature") : how === "token" ? undefined : p.header }))}
              />
            )}
          </Line>
          {p.how === "hmac" && text("In the header", p.header, "proof.header", (header) => proof({ header }))}
          {p.how === "token" && text("In the header", p.header, "proof.header", (header) => proof({ header }), "Empty where the word stands in the address, behind ?key=")}
          {(p.how === "hmac" || p.how === "token") &&
            text("Behind", p.prefix, "proof.prefix", (prefix) => proof({ prefix }), "What stands before it in the header, if anything: sha256= for one.")}
          {p.how === "hmac" && (
            <>
              <Line label="Written as">
                {() => (
                  <One
                    label="Written as"
                    value={p.encoding ?? "hex"}
                    list={[
                      ["hex", "hexadecimal"],
                      ["base64", "base64"],
                    ]}
                    onPick={(encoding) => put(proof({ encoding: encoding as "hex" }))}
                  />
                )}
              </Line>
              {text(
                "Time in the header",
                p.timeHeader,
                "proof.timeHeader",
                (timeHeader) => proof({ timeHeader }),
                "Where the time of sending is signed too; empty where it is not.",
              )}
              {p.timeHeader && text("Signed is", p.signed, "proof.signed", (signed) => proof({ signed }), undefined, "{time}.{body}")}
              {p.timeHeader && (
                <Line label="Its clock may be off by" fault={wrong("proof.toleranceSeconds")}>
                  {() => (
                    <span className="flex items-center gap-2 pt-1">
                      <Num label="Seconds its clock may be off" value={p.toleranceSeconds ?? 300} onChange={(n) => change(proof({ toleranceSeconds: n }))} onBlur={save} /> seconds
                    </span>
                  )}
                </Line>
              )}
            </>
          )}
        </>
      )}
      {d.kind === "listen" && (
        <>
          {text(
            "Address",
            l.address,
            "listen.address",
            (address) => listen({ address }),
            "wss://… or https://…; {token} is where its token goes. Another address needs the token anew.",
          )}
          <Line label="Token">{() => <Secret name={d.name} slot="token" words="token" />}</Line>
          {text(
            "Greeting",
            l.greeting,
            "listen.greeting",
            (greeting) => listen({ greeting }),
            "What is said once the way is open; {token} is where its token goes. Empty for none.",
          )}
          {text("Kept alive by", l.alive, "listen.alive", (alive) => listen({ alive }), "What is said now and then; empty for the WebSocket's own ping.")}
          <Line label="Every" fault={wrong("listen.aliveSeconds")}>
            {() => (
              <span className="flex items-center gap-2 pt-1">
                <Num label="Seconds between two signs of life" value={l.aliveSeconds ?? 30} onChange={(n) => change(listen({ aliveSeconds: n }))} onBlur={save} /> seconds
              </span>
            )}
          </Line>
        </>
      )}
      {text(
        "A repeat has the same",
        r.at,
        "repeat.at",
        (at) => repeat({ at }),
        "Where the message's own id stands; best pointed at in a message. Empty: the same bytes again.",
        "/id",
      )}
      {!r.at && (
        <Line label="Within" fault={wrong("repeat.seconds")}>
          {() => (
            <span className="flex items-center gap-2 pt-1">
              <Num label="Seconds within which the same is a repeat" value={r.seconds ?? 300} onChange={(n) => change(repeat({ seconds: n }))} onBlur={save} /> seconds
            </span>
          )}
        </Line>
      )}
      {text(
        "Whom it tells of",
        d.platform,
        "platform",
        (platform) => ({ platform: platform ?? d.name }),
        "They stand under this name. A platform's name makes them that platform's people: only the owner says so.",
      )}
    </>
  );
}
