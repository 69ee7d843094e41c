import { useState } from "react";
import { api, type EveningRow, type RehearsalResult, type Rehearsals } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { Button, Out } from "../kit/Button";
import { KeptEvenings } from "../kit/KeptEvenings";
import { Head, Panel, Scroll } from "../kit/Panel";
import { useCalendar } from "../kit/time";
import { DialsBoard } from "./DialsBoard";
import { Keep } from "./Keep";
import type { What } from "./rehearsal";

type Props = {
  all: Rehearsals;
  what: What;
  result?: RehearsalResult;
  onChoose: (w: What) => void;
  onWrite: (name: string) => void;
  onShow: (evening: string, version?: number) => void;
};

/** EveningList is what can be lived: written evenings, recorded streams, and dials for one that never was; and how the kept ones go. */
export function EveningList({ all, what, result, onChoose, onWrite, onShow }: Props) {
  const calendar = useCalendar();
  const [more, setMore] = useState(false);
  const [keeping, setKeeping] = useState(false);
  const deed = useDeed();
  const mine = all.written.filter((e) => e.kind !== "recorded");
  const kept = all.written.filter((e) => e.kept);
  const keptOf = (stream: number) => all.written.find((e) => e.kept && e.stream === stream);
  const recorded = more ? all.recorded : all.recorded.slice(0, 4);
  const drop = (name: string) =>
    void deed(api.DELETE("/api/rehearsal/evenings/{name}", { params: { path: { name } } }), {
      stale: [about.rehearsal],
      say: `“${name}” is taken away.`,
      undo: () => deed(api.POST("/api/rehearsal/evenings/{name}/back", { params: { path: { name } } }), { stale: [about.rehearsal] }),
    });
  const off = kept.filter((e) => e.went && !e.went.well);
  return (
    <Panel label="The evening">
      <Head
        end={
          <Button size="s" onClick={() => onWrite("")}>
            Write one
          </Button>
        }
      >
        The evening
      </Head>
      <Scroll label="Evenings to rehearse">
        <Rule>Written</Rule>
        {mine.length === 0 && <p className="sub m-0 px-4 py-1">None yet. Write one, or keep one by dials.</p>}
        {mine.map((e) => (
          <div key={e.name} className="evening-row" data-on={"evening" in what && what.evening === e.name}>
            <button className="cut flex-1 text-left" onClick={() => onChoose({ evening: e.name })}>
              <bdi>{e.name}</bdi>
            </button>
            {e.kept && <Holds e={e} />}
            {e.kind === "written" && (
              <Button size="s" look="ghost" aria-label={`Change ${e.name}`} onClick={() => onWrite(e.name)}>
                change
              </Button>
            )}
            <Out label={`Take ${e.name} away`} onClick={() => drop(e.name)} />
          </div>
        ))}
        <Rule
          end={
            all.recorded.length > 4 && (
              <button className="link text-[12.5px]" onClick={() => setMore(!more)}>
                {more ? "fewer" : `all ${all.recorded.length}`}
              </button>
            )
          }
        >
          Recorded
        </Rule>
        {all.recorded.length === 0 && <p className="sub m-0 px-4 py-1">No stream is over yet. After the first one it can be lived again here.</p>}
        {recorded.map((r) => {
          const k = keptOf(r.stream);
          return (
            <button
              key={r.stream}
              className="evening-row text-left"
              data-on={"stream" in what && what.stream === r.stream}
              disabled={r.gone}
              title={r.gone ? "What was said in it is not kept any more, or it was brought in from a file" : undefined}
              onClick={() => onChoose({ stream: r.stream })}
            >
              <b className="w-14 flex-none">{calendar.dated(r.opened)}</b>
              <span className="cut flex-1">{r.title || `Stream ${r.stream}`}</span>
              {k && <Holds e={k} />}
              {r.gone && <span className="sub">not kept</span>}
            </button>
          );
        })}
        <Rule>What if</Rule>
        <DialsBoard usual={all.usual} learned={all.learned} dials={"dials" in what ? what.dials : undefined} onDials={(dials) => onChoose({ dials })} />
      </Scroll>
      <footer className="grid flex-none gap-2 border-t border-line px-4 py-3">
        <KeptEvenings />
        {off.map((e) => (
          <div key={e.name} className="grid gap-1 text-[13px]">
            <span>
              <b>
                <bdi>{e.name}</bdi>
              </b>{" "}
              {wentWords(e)}
            </span>
            <span className="flex gap-2 empty:hidden">
              {e.went?.why ? (
                <Button size="s" onClick={() => drop(e.name)}>
                  Take it away
                </Button>
              ) : null}
              <Button size="s" className={e.went?.why ? "hidden" : undefined} onClick={() => onShow(e.name, e.version)}>
                Show what differs
              </Button>
              <Button
                size="s"
                look="ghost"
                className={e.went?.why ? "hidden" : undefined}
                onClick={() =>
                  void deed(api.POST("/api/rehearsal/evenings/{name}/should", { params: { path: { name: e.name } } }), {
                    stale: [about.rehearsal],
                    say: `“${e.name}” goes as it should from now on.`,
                  })
                }
              >
                It is right so
              </Button>
            </span>
          </div>
        ))}
        {result && (
          <Button onClick={() => setKeeping(true)} className="justify-self-start">
            Keep this evening
          </Button>
        )}
      </footer>
      {keeping && <Keep what={what} all={all.written} result={result!} onClose={() => setKeeping(false)} />}
    </Panel>
  );
}

function Rule({ children, end }: { children: React.ReactNode; end?: React.ReactNode }) {
  return (
    <h3 className="evening-rule">
      <span>{children}</span>
      <i aria-hidden />
      {end}
    </h3>
  );
}

/** Holds says how a kept evening goes, by shape and word. */
function Holds({ e }: { e: EveningRow }) {
  if (!e.went) return <span className="sub">kept</span>;
  return e.went.well ? <span className="text-[12.5px] text-fern">✓ kept</span> : <span className="text-[12.5px] text-persimmon">◆ otherwise</span>;
}

function wentWords(e: EveningRow): string {
  const w = e.went;
  if (!w) return "is not lived yet";
  if (w.well) return "goes as it should";
  if (w.why) return `cannot be lived: ${w.why}`;
  const parts = [
    w.otherwise && (w.otherwise === 1 ? "1 line goes otherwise" : `${w.otherwise} lines go otherwise`),
    w.missed.length && (w.missed.length === 1 ? w.missed[0] : `${w.missed.length} of what is expected is missed, the first: ${w.missed[0]}`),
  ].filter(Boolean);
  return `does not go as it should: ${parts.join("; ")}`;
}
