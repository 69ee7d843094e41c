import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, said } from "../api/client";
import { toast } from "../kit/toast";

/** History lists the last versions of the settings; any of them can be taken back. */
export function History() {
  const client = useQueryClient();
  const q = useQuery({ queryKey: ["history"], queryFn: () => ask(api.GET("/api/settings/history")), staleTime: 0 });
  const undo = (version: number) =>
    ask(api.POST("/api/settings/undo", { body: { version } })).then(
      () => client.invalidateQueries(),
      (p) => toast(said(p)),
    );
  return (
    <section className="panel col-span-2" aria-label="What was changed">
      <div className="ed">
        <p className="sent">
          What was <u>changed</u>, newest first.
        </p>
        {q.data?.map((v) => (
          <div key={v.version} className="row !grid-cols-[64px_1fr_auto]">
            <span>{v.version}</span>
            <div>
              {v.what}
              <div className="sub">
                {new Date(v.at).toLocaleString("en-GB")}
                {v.member && ` · ${v.member}`}
              </div>
            </div>
            {v.version > 1 && (
              <button className="btn s" onClick={() => void undo(v.version)}>
                Undo
              </button>
            )}
          </div>
        ))}
      </div>
    </section>
  );
}
