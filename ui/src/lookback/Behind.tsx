import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { said } from "../api/client";
import { behind } from "../api/queries";
import { Dialog } from "../kit/Dialog";
import { clock, useZone } from "../kit/time";

/** Behind shows the people or the lines behind a figure. */
export function Behind({ stream, of, title, onClose }: { stream: number; of: string; title: string; onClose: () => void }) {
  const q = useQuery(behind(stream, of));
  const zone = useZone();
  const n = (q.data?.people.length ?? 0) + (q.data?.lines.length ?? 0);
  return (
    <Dialog title={title} onClose={onClose}>
      {q.error && <p>{said(q.error)}</p>}
      {!q.data && !q.error && <p>…</p>}
      {q.data && n === 0 && <p className="sub">Nobody, and nothing: the figure is 0.</p>}
      {q.data && q.data.people.length > 0 && (
        <ul className="behind" aria-label={`Behind ${title}`}>
          {q.data.people.map((p) => (
            <li key={p.person}>
              <Link to={`/book?person=${p.person}`}>
                <bdi>{p.name || "somebody"}</bdi>
              </Link>
              <span className="sub">
                {p.lines === 1 ? "1 line" : `${p.lines} lines`}
                {p.because && ` · ${p.because}`}
              </span>
            </li>
          ))}
        </ul>
      )}
      {q.data && q.data.lines.length > 0 && (
        <ul className="behind" aria-label={`Behind ${title}`}>
          {q.data.lines.map((l, i) => (
            <li key={i}>
              <span className="sub">{clock(l.at, zone)}</span>
              <span className="min-w-0 flex-1">
                {l.who && <b>{l.who} </b>}
                <bdi>{l.text}</bdi>
              </span>
              <span className="sub">{l.why}</span>
            </li>
          ))}
        </ul>
      )}
      {q.data && q.data.more > 0 && <p className="sub">and more; the file to keep has all of them</p>}
    </Dialog>
  );
}
