import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import QRCode from "react-qr-code";
import { api } from "../api/client";
import { useDeed } from "../api/deeds";
import { house, session } from "../api/queries";
import { Button } from "../kit/Button";
import { Fault, Field } from "../kit/Field";
import { RadioGroup } from "../kit/RadioGroup";
import { Copyable } from "./Line";
import { useSection } from "./useSection";

const ways = [
  { value: "here", label: "From here only", says: "This machine alone. Nothing of the house can be opened from elsewhere." },
  { value: "home", label: "In the home network", says: "This machine, and your phone beside it, encrypted with the house's own certificate." },
  { value: "public", label: "From anywhere", says: "At an address of your own, behind a reverse proxy. Only so can viewers open links, and platforms send what happens." },
] as const;

/** ReachForm asks and shows how the house is reached, and signs the phone in. */
export function ReachForm() {
  const q = useQuery(house);
  const owner = useQuery(session).data?.role === "owner";
  const reach = useSection("reach");
  const [choosing, setChoosing] = useState<string>();
  const at = q.data?.reached;
  if (!at) return null;
  const how = choosing ?? reach.value?.how ?? at.how;
  const off = at.fixed || !owner;
  return (
    <div className="grid max-w-xl gap-3">
      <fieldset disabled={off} className="m-0 border-0 p-0">
        <legend className="sr-only">How the house is reached</legend>
        <RadioGroup
          label="How the house is reached"
          className="grid gap-2"
          value={how}
          onChange={(v) => {
            if (off) return;
            setChoosing(v);
            if (v !== "public") void reach.put({ how: v as "here" | "home" }).then(() => setChoosing(undefined));
          }}
          options={ways.map((w) => ({
            value: w.value,
            label: (
              <span className="grid gap-0.5">
                <b>{w.label}</b>
                <span className="sub">{w.says}</span>
              </span>
            ),
          }))}
        />
      </fieldset>
      {at.fixed && <p className="sub m-0">It was said when the house was started (PORCH_PUBLIC), so it is changed there.</p>}
      {!owner && <p className="sub m-0">Only the owner changes this.</p>}
      {how === "public" && (
        <div className="grid gap-1">
          <label htmlFor="reach-address" className="text-text-2">
            The public address
          </label>
          <Field
            id="reach-address"
            disabled={off}
            value={reach.value?.how === "public" ? (reach.value.address ?? "") : ""}
            placeholder="https://porch.example"
            onChange={(e) => reach.set({ how: "public", address: e.target.value.trim() })}
            onBlur={() => void reach.save().then((ok) => ok && setChoosing(undefined))}
            onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
          />
          <p className="sub m-0">How to put the house behind a reverse proxy stands in docs/running.md.</p>
        </div>
      )}
      {reach.fault && <Fault role="alert">{reach.fault.words}</Fault>}
      {at.closed && (
        <p className="sub m-0">
          So viewers are offered no links, since {at.closed}. The list of what they can ask goes out as a file:{" "}
          <a className="text-lagoon" href="/api/house/asks" download>
            what-you-can-ask.html
          </a>
        </p>
      )}
      {at.how === "home" && <AtHome addresses={at.addresses} fingerprint={at.fingerprint} trouble={at.trouble} />}
    </div>
  );
}

/** AtHome shows the code that a phone scans. */
function AtHome({ addresses, fingerprint, trouble }: { addresses: string[]; fingerprint?: string; trouble?: string }) {
  const deed = useDeed();
  const [link, setLink] = useState("");
  if (trouble) return <Fault role="alert">{trouble}</Fault>;
  return (
    <div className="grid gap-2" aria-live="polite">
      <p className="m-0">
        In your network the house is at{" "}
        {addresses.map((a) => (
          <Copyable key={a} text={a} label="the address at home" />
        ))}
      </p>
      {link ? (
        <div className="flex flex-wrap items-start gap-4">
          <div className="rounded-lg bg-white p-3" role="img" aria-label="A code for the phone to scan">
            <QRCode value={link} size={168} />
          </div>
          <div className="sub max-w-[34ch]">
            Scan it with the phone. It signs you in there once, within ten minutes. The phone warns that it does not know who made the certificate: you did. What it shows must be
            <code className="mt-1 block [overflow-wrap:anywhere]">{fingerprint}</code>
          </div>
        </div>
      ) : (
        <span>
          <Button onClick={() => void deed(api.POST("/api/house/phone"), { then: (x) => setLink(x.link) })}>Show the code for my phone</Button>
        </span>
      )}
    </div>
  );
}
