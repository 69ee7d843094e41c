import { useState } from "react";
import { api, type Overlays } from "../../api/client";
import { useDeed } from "../../api/deeds";
import { about } from "../../api/queries";
import { Copyable } from "../../keeping/Line";
import { useSection } from "../../keeping/useSection";
import { Button } from "../../kit/Button";
import { Tick } from "../../kit/Field";
import { One } from "../../kit/One";
import { Pop } from "../../kit/Pop";

const standings = ["newcomer", "returning", "regular", "long away"] as const;

/** Ear is the private page that says softly who arrives: what is worth a word there, and its address. */
export function Ear({ standing }: { standing?: Overlays }) {
  const s = useSection("ear");
  const deed = useDeed();
  const [address, setAddress] = useState("");
  const e = s.value ?? {};
  const put = (part: Partial<NonNullable<typeof e>>) => void s.put({ ...e, ...part });
  const told = e.standings ?? [];
  return (
    <div className="mt-3 border-t border-line px-4 pt-3">
      <h2 className="m-0 text-[15px] font-[650]">In the ear</h2>
      <p className="sub m-0">
        A page for a phone or an earpiece that says softly who arrives. Nobody else hears it.
        {standing?.ear.pages ? ` ${standing.ear.pages} listening.` : ""}
      </p>
      {address && <Copyable text={address} label="the address in the ear" />}
      <span className="flex flex-wrap gap-1.5 pt-1.5">
        <Button
          size="s"
          aria-label={`${standing?.ear.made ? "New address" : "Make its address"}: in the ear`}
          onClick={() => void deed(api.POST("/api/ear/address"), { stale: [about.overlays], then: (x) => setAddress(x.address) })}
        >
          {standing?.ear.made ? "New address" : "Make its address"}
        </Button>
        <Pop label="What is worth a word" width="s" trigger={<Button size="s">What is worth it</Button>}>
          <div className="grid gap-1.5 text-[13px]">
            {standings.map((x) => (
              <Tick key={x} on={told.includes(x)} onChange={(on) => put({ standings: standings.filter((y) => (y === x ? on : told.includes(y))) })}>
                {x === "newcomer" ? "somebody new" : x === "long away" ? "somebody after long away" : `a ${x} viewer`}
              </Tick>
            ))}
            <Tick on={!e.noDays} onChange={(on) => put({ noDays: on ? undefined : true })}>
              somebody whose day it is
            </Tick>
            <Tick on={!e.noFellows} onChange={(on) => put({ noFellows: on ? undefined : true })}>
              a fellow streamer
            </Tick>
            <Tick on={!!e.waiting} onChange={(on) => put({ waiting: on || undefined })}>
              what comes to wait for you
            </Tick>
            {!!standing?.voices.length && (
              <One
                label="Voice in the ear"
                value={e.voice ?? ""}
                list={["", ...standing.voices].map((v): [string, string] => [v, v || "the usual voice"])}
                onPick={(voice) => put({ voice: voice || undefined })}
              />
            )}
          </div>
        </Pop>
      </span>
    </div>
  );
}
