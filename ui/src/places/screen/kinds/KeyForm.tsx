import { useQuery } from "@tanstack/react-query";
import { useLayoutEffect, useRef, useState } from "react";
import { media } from "../../../api/queries";
import type { Box } from "../../../overlay/frames";
import { keyer } from "../../../overlay/key";
import { Button } from "../../../kit/Button";
import { Colour, FromShelf, Row, Slide } from "./parts";

type Key = NonNullable<Box["key"]>;

const hint = { there: "Press on the ground in the left picture to pick it.", broken: "It does not play here; choose another film.", coming: "A frame is on its way." };

/** KeyForm sets the colour that is taken out of a film, and shows a frame of one with and without. */
export function KeyForm({ value, onChange }: { value: Key; onChange: (k: Key, keep?: boolean) => void }) {
  const q = useQuery(media);
  const first = q.data?.items.find((m) => m.kind === "film")?.name;
  const [name, setName] = useState<string>();
  const film = name ?? first;
  const video = useRef<HTMLVideoElement>(null);
  const frame = useRef<HTMLCanvasElement>(null);
  const without = useRef<HTMLCanvasElement>(null);
  const [ready, setReady] = useState<{ of: string }>(); // whose frame has come, anew with each
  const [broken, setBroken] = useState<string>();
  const there = ready?.of === film;
  const stands = there ? "there" : broken === film ? "broken" : "coming";
  const label = { there: `A frame of ${film}; press on its ground to take that colour out`, broken: `No frame of ${film}`, coming: `A frame of ${film} is on its way` };
  const key = JSON.stringify(value);
  // Drawn as it is said to be there: a press in between would find an empty picture, and pick nothing.
  useLayoutEffect(() => {
    const v = video.current;
    const c = frame.current;
    if (!there || !v || !c || !v.videoWidth) return;
    [c.width, c.height] = [v.videoWidth, v.videoHeight];
    c.getContext("2d")?.drawImage(v, 0, 0);
    const out = document.createElement("canvas");
    keyer(out, JSON.parse(key) as Key)?.(v);
    if (!without.current || !out.width) return;
    [without.current.width, without.current.height] = [out.width, out.height];
    without.current.getContext("2d")?.drawImage(out, 0, 0);
  }, [ready, there, key]);
  // An empty canvas would give black, and one that still shows the film before, that one's colour.
  const pick = (e: React.MouseEvent<HTMLCanvasElement>) => {
    if (!there) return;
    const c = e.currentTarget;
    const r = c.getBoundingClientRect();
    const at = c.getContext("2d")?.getImageData(Math.floor(((e.clientX - r.left) / r.width) * c.width), Math.floor(((e.clientY - r.top) / r.height) * c.height), 1, 1).data;
    if (at?.[3]) onChange({ ...value, colour: `#${[at[0], at[1], at[2]].map((n) => n!.toString(16).padStart(2, "0")).join("")}` });
  };
  const slide = (of: "tolerance" | "edge" | "spill", words: string, usual: number, most = 60) => (
    <label className="flex items-center gap-1.5">
      <span className="sub w-16 flex-none">{words}</span>
      <Slide label={words} least={1} most={most} value={Math.round(100 * (value[of] ?? usual))} onChange={(n, keep) => onChange({ ...value, [of]: n / 100 }, keep)} />
      <span className="whitespace-nowrap tabular-nums">{Math.round(100 * (value[of] ?? usual))} %</span>
    </label>
  );
  return (
    <Row label="Ground">
      <div className="grid gap-1.5">
        <span className="few">
          <Colour label="The colour that is taken out" value={value.colour} onChange={(colour, keep) => onChange({ ...value, colour }, keep)} />
          {value.colour}
          <FromShelf label="Film to look at" kind="film" none="a film…" value={film} onPick={setName} />
        </span>
        {film && (
          <>
            <video
              key={film}
              ref={video}
              className="hidden"
              muted
              preload="auto"
              src={`/api/media/${encodeURIComponent(film)}`}
              onLoadedData={(e) => (e.currentTarget.currentTime = Math.min(0.5, (e.currentTarget.duration || 1) / 2))}
              onError={() => setBroken(film)}
              onSeeked={() => setReady({ of: film })}
            />
            <span className="grid grid-cols-2 gap-1.5">
              <canvas
                key={film}
                ref={frame}
                className={there ? "w-full cursor-crosshair rounded" : "aspect-video w-full rounded border border-dashed border-text-3"}
                aria-busy={stands === "coming"}
                aria-label={label[stands]}
                onClick={pick}
              />
              <canvas key={`without ${film}`} ref={without} className={`checkers w-full rounded ${there ? "" : "aspect-video"}`} aria-label="The same frame without it" />
            </span>
            <span className="flex items-center gap-1.5">
              <span className="sub">{hint[stands]}</span>
              <Button size="s" look="ghost" onClick={() => video.current && (video.current.currentTime = (video.current.currentTime + 0.4) % (video.current.duration || 1))}>
                Another frame
              </Button>
            </span>
          </>
        )}
        {slide("tolerance", "tolerance", 0.18)}
        {slide("edge", "soft edge", 0.08)}
        {slide("spill", "spill", 0.9, 100)}
      </div>
    </Row>
  );
}
