import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import type { Settings } from "../api/client";
import { house } from "../api/queries";
import { Line } from "../keeping/Line";
import { Button } from "../kit/Button";
import { Fault } from "../kit/Field";
import { One } from "../kit/One";
import { GiveAway } from "./GiveAway";

type Fitting = NonNullable<Settings["fittings"]>[number];
type Own = NonNullable<Fitting["own"]>;

/** SpokenTo says how a fitting is spoken to: as this house speaks to anything, by a profile that ships, or by one of its own. */
export function SpokenTo({ f, fault, onChange }: { f: Fitting; fault?: { at: string; words: string }; onChange: (next: Partial<Fitting>) => void }) {
  const known = (useQuery(house).data?.fittings ?? []).filter((p) => p.kind === f.kind);
  const file = useRef<HTMLInputElement>(null);
  const [wrong, setWrong] = useState("");
  const bring = async (from: File | undefined) => {
    if (!from) return;
    setWrong("");
    try {
      const own = JSON.parse(await from.text()) as Own;
      if (typeof own?.name !== "string" || typeof own.does !== "object")
        return setWrong(`${from.name} is no profile of a fitting: "name" or "does" is missing. docs/fittings.md shows one.`);
      onChange({ own, profile: undefined });
    } catch {
      setWrong(`${from.name} is no JSON file. A profile is one JSON file, as docs/fittings.md says.`);
    }
  };
  const chosen = f.own ?? known.find((p) => p.name === f.profile)?.profile;
  const words = wrong || (fault ? `${fault.words}${fault.at.includes(".own.") ? ` (${fault.at.split(".own.")[1]})` : ""}` : undefined);
  return (
    <Line
      label="Spoken to"
      hint={f.own || f.profile ? undefined : "By one request with all there is to tell, as docs/fittings.md says. One that has a tongue of its own needs a profile."}
    >
      {() => (
        <span className="flex flex-wrap items-center gap-1.5">
          <One
            label="How it is spoken to"
            value={f.own ? "\u0000own" : (f.profile ?? "")}
            list={[
              ["", "as the house speaks"],
              ...known.map((p): [string, string] => [p.name, `as ${p.title}`]),
              ...(f.own ? [["\u0000own", `as ${f.own.title || f.own.name}, its own profile`] as [string, string]] : []),
            ]}
            onPick={(v) => v !== "\u0000own" && onChange({ own: undefined, profile: v || undefined })}
          />
          <input
            ref={file}
            type="file"
            accept="application/json,.json"
            className="hidden"
            aria-label={`A profile's file for ${f.title || f.name}`}
            onChange={(e) => void bring(e.target.files?.[0])}
          />
          <Button size="s" type="button" onClick={() => file.current?.click()}>
            Bring a profile in
          </Button>
          {chosen && <GiveAway title={f.title || f.name} name={f.own?.name ?? f.profile ?? f.name} profile={chosen} />}
          {words && (
            <Fault role="alert" className="basis-full">
              {words}
            </Fault>
          )}
        </span>
      )}
    </Line>
  );
}
