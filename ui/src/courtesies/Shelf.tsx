import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, said, token } from "../api/client";
import { toast } from "../kit/toast";

const size = (n: number) => (n > 999_999 ? `${(n / 1e6).toFixed(1)} MB` : `${Math.max(1, Math.round(n / 1000))} kB`);

/** Shelf keeps pictures, sounds and films; what each is, is read from the file. */
export function Shelf() {
  const client = useQueryClient();
  const q = useQuery({ queryKey: ["media"], queryFn: () => ask(api.GET("/api/media")) });
  const [fault, setFault] = useState("");
  const again = () => client.invalidateQueries({ queryKey: ["media"] });
  const put = async (files: FileList | null) => {
    setFault("");
    for (const f of files ?? []) {
      if (q.data && f.size > q.data.most) {
        setFault(`${f.name} has ${size(f.size)}; a file on the shelf has at most ${size(q.data.most)}.`);
        continue;
      }
      const res = await fetch(`/api/media?name=${encodeURIComponent(f.name)}`, {
        method: "POST",
        headers: { "X-Porch-Token": token(), "Content-Type": "application/octet-stream" },
        body: f,
      });
      if (!res.ok) setFault(`${f.name}: ${said(await res.json().catch(() => undefined))}`);
    }
    await again();
  };
  return (
    <section className="panel col-span-2" aria-label="The shelf">
      <div className="scroll ed" tabIndex={0} role="group" aria-label="On the shelf">
        <p className="sent">Pictures, sounds and films</p>
        <label className="btn lit inline-block">
          Put files here…
          <input className="sr-only" type="file" multiple aria-label="Files for the shelf" onChange={(e) => void put(e.target.files)} />
        </label>
        {fault && (
          <p className="flt" role="alert">
            {fault}
          </p>
        )}
        <div className="mt-3 grid grid-cols-[repeat(auto-fill,minmax(170px,1fr))] gap-2.5">
          {q.data?.items.map((m) => (
            <figure key={m.name} className="bub m-0" data-medium={m.name}>
              <div className="grid h-24 place-items-center">
                {m.kind === "picture" ? (
                  <img src={`/api/media/${encodeURIComponent(m.name)}`} alt={m.name} className="max-h-24 max-w-full" />
                ) : m.kind === "sound" ? (
                  <audio controls preload="none" className="w-full" src={`/api/media/${encodeURIComponent(m.name)}`} aria-label={m.name} />
                ) : (
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
                <button
                  className="btn s ghost float-right"
                  aria-label={`Take ${m.name} off the shelf`}
                  onClick={() =>
                    ask(api.DELETE("/api/media/{name}", { params: { path: { name: m.name } } })).then(
                      () => void again(),
                      (p) => toast(said(p)),
                    )
                  }
                >
                  ×
                </button>
              </figcaption>
            </figure>
          ))}
        </div>
        {q.data?.items.length === 0 && <p className="empty !px-0">Nothing is on the shelf yet. Cards can show a picture from here, and players play sounds and films.</p>}
      </div>
    </section>
  );
}
