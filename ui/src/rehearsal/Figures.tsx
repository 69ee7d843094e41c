import type { RehearsedSide } from "../api/client";
import { Pop } from "../kit/Pop";
import { seconds } from "./rehearsal";

const percent = (v: number) => `${Math.round(v * 100)}%`;

/** Figures sums both sides up: what is above, an arrow, what is below, and two bars of the same measure. */
export function Figures({ above, below }: { above: RehearsedSide; below: RehearsedSide }) {
  const met = below.silent.slice(0, 2);
  return (
    <section aria-label="In sum" className="figures">
      <Figure name="lines said" a={above.lines} b={below.lines} />
      <Figure name="house share" a={above.share} b={below.share} write={percent} />
      <Figure name="longest wait" a={above.longest} b={below.longest} write={seconds} />
      <Figure name="people greeted" a={above.greeted} b={below.greeted} />
      <Figure name="cards on screen" a={above.shown} b={below.shown} />
      <Figure name="most coming up" a={above.queue} b={below.queue} />
      <div className="figure min-w-0 flex-1">
        <span className="sub">met in silence</span>
        <div className="flex min-w-0 items-baseline gap-4 overflow-hidden">
          <b className="whitespace-nowrap">
            {above.silentOf === below.silentOf ? (
              <>
                {below.silentOf} <small>in both</small>
              </>
            ) : (
              <Change a={String(above.silentOf)} b={String(below.silentOf)} />
            )}
          </b>
          {met.map((s) => (
            <span key={s.account} className="min-w-0 leading-tight phone:hidden">
              <span className="cut font-semibold">
                <bdi>{s.name}</bdi>
              </span>
              <span className="sub cut">{s.why}</span>
            </span>
          ))}
          {(below.silentOf > 0 || below.dropped.length > 0) && (
            <Pop label="Met in silence, and what was dropped" width="l" trigger={<button className="link text-[12.5px] whitespace-nowrap">all, and what was dropped</button>}>
              <div className="scroll grid max-h-80 gap-2 text-[13px]">
                {below.silent.map((s) => (
                  <div key={s.account}>
                    <b>
                      <bdi>{s.name}</bdi>
                    </b>{" "}
                    <span className="sub">{s.why}</span>
                  </div>
                ))}
                {below.silentOf > below.silent.length && <span className="sub">and {below.silentOf - below.silent.length} more</span>}
                {below.dropped.map((d) => (
                  <div key={d.why}>
                    <b>{d.count}</b> dropped: <span className="sub">{d.why}</span>
                  </div>
                ))}
              </div>
            </Pop>
          )}
        </div>
      </div>
    </section>
  );
}

function Change({ a, b }: { a: string; b: string }) {
  if (a === b) return <>{b}</>;
  return (
    <>
      <small className="font-medium text-text-2">{a}</small> <span aria-hidden>→</span>
      <span className="sr-only"> becomes </span> {b}
    </>
  );
}

function Figure({ name, a, b, write = String }: { name: string; a: number; b: number; write?: (n: number) => string }) {
  const most = Math.max(a, b) || 1;
  return (
    <div className="figure">
      <span className="sub">{name}</span>
      <b>
        <Change a={write(a)} b={write(b)} />
      </b>
      <i aria-hidden style={{ width: `${(96 * a) / most}%` }} />
      <i aria-hidden className="below" style={{ width: `${(96 * b) / most}%` }} />
    </div>
  );
}
