import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, based, said, sent, type Courtesies } from "../api/client";
import { useDeed, useSettingsUndo } from "../api/deeds";
import { about, crews as allCrews, fileLook } from "../api/queries";
import type { components } from "../api/schema.gen";
import { Button, buttonLook } from "../kit/Button";
import { Fault, faultLook } from "../kit/Field";
import { Panel, Scroll } from "../kit/Panel";

const sayings: Record<string, string> = {
  channel: "channel name",
  zone: "time zone",
  seed: "seed of chance",
  graceSeconds: "grace time",
  pace: "pace",
  never: "never greeted",
  doors: "doors",
  places: "places",
  courtesies: "courtesies",
  joined: "joined lines",
  standings: "standings",
  leapDay: "29 February",
  privacy: "privacy",
  hello: "hello words",
  alsoOn: "a second platform",
  announcing: "announcements",
  unclear: "words that ask back",
  fittings: "fittings",
  fillIns: "own fill-ins",
  own: "described events",
  emotes: "emotes",
  crews: "crews and who is in them",
};

/** kindOf are the sections whose things lead somewhere; of another channel's file they are taken one by one. */
const kindOf: Record<string, string> = { doors: "door", places: "place", fittings: "fitting" };

type Bundled = components["schemas"]["BundledMedium"];

/** A file that was chosen: its house file, and the ZIP it came in when media are with it. */
type Chosen = { name: string; text: string; zip?: File; media: Bundled[] };

const onShelf: Record<Bundled["shelf"], string> = { lacking: "new on the shelf", same: "on the shelf already", other: "takes the place of the one on the shelf" };

async function read(f: File): Promise<Chosen> {
  if (!/\.zip$/i.test(f.name)) return { name: f.name, text: await f.text(), media: [] };
  const got = await ask(sent<components["schemas"]["Bundle"]>("/api/settings/bundle", f, { type: "application/zip" }));
  return { name: f.name, text: got.file, zip: f, media: got.media };
}

/** HouseFile takes all settings out as one file, and brings a file in: what it would change first, then in one go. */
export function HouseFile({ all }: { all: Courtesies }) {
  const deed = useDeed();
  const undo = useSettingsUndo();
  const crews = useQuery(allCrews).data?.crews ?? [];
  const [file, setFile] = useState<Chosen>();
  const [unread, setUnread] = useState("");
  const [sections, setSections] = useState<string[]>();
  const [whole, setWhole] = useState(false);
  const [keepName, setKeepName] = useState(false);
  const [withMedia, setWithMedia] = useState(false);
  const body = { file: file?.text ?? "", sections, whole, keepName, along: file?.media.map((m) => m.name) };
  const out = withMedia ? "/api/settings/bundle" : "/api/settings/file";
  const q = useQuery(fileLook(all.version, body));
  const look = file && !q.error ? q.data : undefined;
  const put = (zip?: File) => {
    if (!zip) return api.PUT("/api/settings/file", { body, ...based(all.version) });
    const query = new URLSearchParams({ whole: String(whole), keepName: String(keepName) });
    if (sections) query.set("sections", sections.join(","));
    return sent<components["schemas"]["InForce"]>(`/api/settings/bundle?${query}`, zip, { method: "PUT", type: "application/zip" });
  };
  const take = () =>
    deed<{ version: number }>(put(file?.zip), {
      stale: [about.all],
      then: () => {
        setFile((now) => (now === file ? undefined : now)); // another may have been chosen meanwhile
        setSections(undefined);
      },
      say: "Taken in",
      undo: look?.differences.length ? ({ version }) => undo(version) : undefined, // what came onto the shelf alone stays there
    });
  return (
    <Panel className="col-span-2" label="The house file">
      <Scroll className="ed" label="The house file, out and in">
        <p className="sent">
          All settings as <u>one file</u>, out and in.
        </p>
        <div className="row">
          <span>Out</span>
          <div className="flex flex-wrap gap-1.5">
            <a className={buttonLook()} href={out} download>
              The whole house
            </a>
            {crews.map((k) => (
              <a key={k.id} className={buttonLook()} href={`${out}?crew=${encodeURIComponent(k.id!)}`} download>
                {k.name} and what is for it
              </a>
            ))}
            <label className="sub flex items-center gap-1">
              <input type="checkbox" checked={withMedia} onChange={(e) => setWithMedia(e.target.checked)} /> with pictures, sounds and films, as a ZIP
            </label>
          </div>
        </div>
        <div className="row">
          <span>In</span>
          <div>
            <input
              type="file"
              className="sub file:mr-3 file:cursor-pointer file:rounded-lg file:border file:border-solid file:border-line file:bg-surface-2 file:px-3 file:py-1.5 file:text-text"
              accept=".json,application/json,.zip,application/zip"
              aria-label="House file to bring in"
              onChange={async (e) => {
                const f = e.target.files?.[0];
                setSections(undefined);
                setUnread("");
                setFile(undefined);
                if (!f) return;
                e.target.value = "";
                await read(f).then(setFile, (p) => setUnread(`${f.name}: ${said(p)}`));
              }}
            />
            {unread && <Fault role="alert">{unread}</Fault>}
            {file && q.error && (
              <Fault role="alert">
                {file.name}: {said(q.error)}
              </Fault>
            )}
            {look && (
              <div data-testid="house-file">
                <p className="py-2">
                  <bdi>{file!.name}</bdi> {look.channel && <span className="sub">made on {look.channel}</span>} ·{" "}
                  <b>{look.differences.length === 1 ? "1 field" : `${look.differences.length} fields`} would change</b>
                  <span className="sub"> · nothing is changed yet</span>
                </p>
                <div className="flex flex-wrap gap-x-3 gap-y-1 pb-2">
                  {look.holds
                    .filter((s) => !look.other || !kindOf[s])
                    .map((s) => (
                      <label key={s} className="sub flex items-center gap-1">
                        <input
                          type="checkbox"
                          checked={look.sections.includes(s)}
                          onChange={(e) => setSections(e.target.checked ? [...look.sections, s] : look.sections.filter((x) => x !== s))}
                        />
                        {sayings[s] ?? s}
                      </label>
                    ))}
                </div>
                <label className="sub flex items-center gap-1">
                  <input type="checkbox" checked={whole} onChange={(e) => setWhole(e.target.checked)} /> what the file does not hold goes
                </label>
                {look.other && (
                  <label className="sub flex items-center gap-1">
                    <input type="checkbox" checked={!keepName} onChange={(e) => setKeepName(!e.target.checked)} /> put this channel's name where {look.channel} stands
                  </label>
                )}
                {look.other &&
                  look.leads
                    .filter((l) => l.address)
                    .map((l) => (
                      <label key={l.section + l.name} className="sub flex items-center gap-1 [overflow-wrap:anywhere]">
                        <input
                          type="checkbox"
                          checked={look.sections.includes(`${l.section}/${l.name}`)}
                          onChange={(e) => {
                            const s = `${l.section}/${l.name}`;
                            setSections(e.target.checked ? [...look.sections, s] : look.sections.filter((x) => x !== s));
                          }}
                        />
                        <span>
                          the {kindOf[l.section]} <b>{l.name}</b>, which leads to <bdi>{l.address}</bdi>
                        </span>
                      </label>
                    ))}
                {file!.media.map((m) => (
                  <p key={m.name} className="sub">
                    <bdi>{m.name}</bdi>, {m.kind} of {Math.ceil(m.bytes / 1024)} kB: {onShelf[m.shelf]}
                  </p>
                ))}
                {look.missing.map((m) => (
                  <Fault key={m}>{m}</Fault>
                ))}
                {look.faults.map((f, i) => (
                  <Fault key={i}>
                    {f.at}: {f.what}; {f.remedy}
                  </Fault>
                ))}
                <div className="py-2">
                  <Button
                    look="lit"
                    disabled={look.faults.length > 0 || (look.differences.length === 0 && !file!.media.some((m) => m.shelf !== "same"))}
                    onClick={() => void take()}
                  >
                    Take it in
                  </Button>
                </div>
                {look.differences.slice(0, 200).map((d) => (
                  <div key={d.at} className="border-t border-line py-1.5 [overflow-wrap:anywhere]">
                    <b>{d.at}</b>
                    {d.before && (
                      <div className="sub">
                        was <bdi>{d.before.slice(0, 300)}</bdi>
                      </div>
                    )}
                    <div>{d.after ? <bdi>{d.after.slice(0, 300)}</bdi> : <span className={faultLook()}>goes</span>}</div>
                  </div>
                ))}
              </div>
            )}
          </div>
        </div>
      </Scroll>
    </Panel>
  );
}
