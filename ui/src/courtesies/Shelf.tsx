import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, sent } from "../api/client";
import { useDeed } from "../api/deeds";
import { media } from "../api/queries";
import { Button, buttonLook, Out } from "../kit/Button";
import { Dialog } from "../kit/Dialog";
import { Fault } from "../kit/Field";
import { TryOnScreen } from "../onscreen/TryOnScreen";
import { Empty, Panel, Scroll } from "../kit/Panel";

const size = (n: number) => (n > 999_999 ? `${(n / 1e6).toFixed(1)} MB` : `${Math.max(1, Math.round(n / 1000))} kB`);

/** Shelf keeps pictures, sounds and films; what each is, is read from the file. */
export function Shelf() {
  const deed = useDeed();
  const q = useQuery(media);
  const [fault, setFault] = useState("");
  const [tries, setTries] = useState<{ name: string; kind: string }>();
  const put = async (files: FileList | null) => {
    setFault("");
    for (const f of files ?? []) {
      if (q.data && f.size > q.data.most) {
        setFault(`${f.name} has ${size(f.size)}; a file on the shelf has at most ${size(q.data.most)}.`);
        continue;
      }
      await deed(sent(`/api/media?name=${encodeURIComponent(f.name)}`, f), { stale: [media.queryKey], fault: (words) => setFault(`${f.name}: ${words}`) });
    }
  };
  return (
    <Panel className="col-span-2" label="The shelf">
      <Scroll className="ed" label="On the shelf">
        <p className="sent">Pictures, sounds and films</p>
        <label className={buttonLook({ look: "lit", className: "inline-block" })}>
          Put files here…
          <input className="sr-only" type="file" multiple aria-label="Files for the shelf" onChange={(e) => void put(e.target.files)} />
        </label>
        {fault && <Fault role="alert">{fault}</Fault>}
        <div className="mt-3 grid grid-cols-[repeat(auto-fill,minmax(170px,1fr))] gap-2.5">
          {q.data?.items.map((m) => (
            <figure key={m.name} className="bub m-0" data-medium={m.name}>
              <div className="grid h-24 place-items-center">
                {m.kind === "picture" ? (
                  <img src={`/api/media/${encodeURIComponent(m.name)}`} alt={m.name} className="max-h-24 max-w-full" />
                ) : m.kind === "sound" ? (
                  // eslint-disable-next-line jsx-a11y/media-has-caption -- a sound of the streamer's own; the shelf keeps no captions
                  <audio controls preload="none" className="w-full" src={`/api/media/${encodeURIComponent(m.name)}`} aria-label={m.name} />
                ) : (
                  // eslint-disable-next-line jsx-a11y/media-has-caption -- as above
                  <video controls preload="metadata" className="max-h-24 max-w-full" src={`/api/media/${encodeURIComponent(m.name)}`} aria-label={m.name} />
                )}
              </div>
              <figcaption>
                <b className="cut block" title={m.name}>
                  {m.name}
                </b>
                <span className="sub">
                  {m.kind} · {m.width ? `${m.width} × ${m.height} · ` : ""}
                  {m.seconds ? `${m.seconds.toFixed(1)} s · ` : ""}
                  {size(m.bytes)}
                </span>
                <Button size="s" look="ghost" aria-label={`Try ${m.name} on screen`} onClick={() => setTries(m)}>
                  Try on screen
                </Button>
                <Out
                  className="float-right"
                  label={`Take ${m.name} off the shelf`}
                  onClick={() =>
                    void deed(api.DELETE("/api/media/{name}", { params: { path: { name: m.name } } }), {
                      stale: [media.queryKey],
                      say: `${m.name} is off the shelf.`,
                      undo: () => deed(api.POST("/api/media/{name}/back", { params: { path: { name: m.name } } }), { stale: [media.queryKey] }),
                    })
                  }
                />
              </figcaption>
            </figure>
          ))}
        </div>
        {tries && (
          <Dialog title={`${tries.name}, on screen`} onClose={() => setTries(undefined)}>
            <div className="mt-3">
              <TryOnScreen
                what={() => ({ medium: tries.name })}
                fits={(o) => tries.kind === "sound" || !!o.boxes?.some((b) => !b.off && b.kind === (tries.kind === "film" ? "film" : "cards"))}
              />
            </div>
          </Dialog>
        )}
        {q.data?.items.length === 0 && <Empty className="px-0">Nothing is on the shelf yet. Cards can show a picture from here, and players play sounds and films.</Empty>}
      </Scroll>
    </Panel>
  );
}
