import { useState } from "react";
import type { Box, Overlay } from "../../overlay/frames";
import { api, type Overlays as Standing } from "../../api/client";
import { useDeed } from "../../api/deeds";
import { about } from "../../api/queries";
import { Copyable } from "../../keeping/Line";
import { Button, Out } from "../../kit/Button";
import { Field, Select } from "../../kit/Field";
import { Head, Panel, Scroll } from "../../kit/Panel";
import { Pop } from "../../kit/Pop";
import { Switch } from "../../kit/Switch";
import { useHouseNow, useZone, when } from "../../kit/time";
import { Ear } from "./Ear";
import { Glyph } from "./Glyph";

/** Sizes that streaming software has, by what people call them. */
const sizes: [string, number, number][] = [
  ["16 : 9", 1920, 1080],
  ["9 : 16, upright", 1080, 1920],
  ["4 : 3", 1440, 1080],
];

/** titleOf is what a box is called. */
export const titleOf = (b: Box) => b.title || b.kind.charAt(0).toUpperCase() + b.kind.slice(1);

/** free is an id that nothing has. */
const free = (id: string, taken: string[]) => {
  for (let i = 1; ; i++) {
    const name = i === 1 ? id : `${id}-${i}`;
    if (!taken.includes(name)) return name;
  }
};

/** Overlays are the overlays, and what stands on the chosen one. */
export function Overlays({
  all,
  at,
  known,
  standing,
  boxId,
  onChoose,
  onBox,
  put,
  change,
}: {
  all: Overlay[];
  at: number;
  /** known is whether the settings have come: what is not there until then may be. */
  known: boolean;
  standing?: Standing;
  boxId?: string;
  onChoose: (id: string) => void;
  onBox: (id: string) => void;
  put: (next: Overlay[]) => Promise<boolean>;
  change: (part: Partial<Overlay>) => Promise<boolean>;
}) {
  const o = all[at];
  const boxes = o?.boxes ?? [];
  const make = async () => {
    const id = free(
      "overlay",
      all.map((x) => x.id),
    );
    const start = (standing?.kinds ?? []).filter((k) => ["cards", "film", "chat lines"].includes(k.kind)).map((k) => k.start as unknown as Box);
    if (await put([...all, { id, title: `Overlay ${all.length + 1}`, wide: 1920, high: 1080, boxes: start.reverse() }])) onChoose(id);
  };
  const on = (kind: string) => {
    const start = standing?.kinds.find((k) => k.kind === kind)?.start as unknown as Box | undefined;
    if (!start) return;
    const id = free(
      start.id,
      boxes.map((b) => b.id),
    );
    void change({ boxes: [...boxes, { ...start, id }] });
    onBox(id);
  };
  const move = (i: number, by: number) => {
    const next = [...boxes];
    const [b] = next.splice(i, 1);
    next.splice(i + by, 0, b!);
    void change({ boxes: next });
  };
  return (
    <Panel label="Overlays">
      <Head
        count={all.length}
        end={
          <Button size="s" disabled={!known || !standing} onClick={() => void make()}>
            New
          </Button>
        }
      >
        Overlays
      </Head>
      <Scroll label="All overlays, and what is on the chosen one" className="pb-3">
        {all.map((x, i) => (
          <One
            key={x.id}
            o={x}
            chosen={i === at}
            standing={standing?.overlays.find((s) => s.id === x.id)}
            onChoose={() => onChoose(x.id)}
            change={change}
            drop={() => void put(all.filter((y) => y !== x))}
          />
        ))}
        {o && (
          <>
            <div className="mt-2 flex items-baseline gap-2 border-t border-line px-4 pt-3 pb-1">
              <h2 className="m-0 text-[15px] font-[650]">On it</h2>
              <span className="text-[13px] text-text-3">front to back</span>
              <Pop
                label="What is put on it"
                width="s"
                pad="s"
                trigger={
                  <Button size="s" className="ml-auto">
                    Put on
                  </Button>
                }
              >
                <div className="grid">
                  {standing?.kinds.map((k) => (
                    <Button key={k.kind} look="ghost" className="flex items-center gap-2 text-left" onClick={() => on(k.kind)}>
                      <Glyph kind={k.kind} /> {k.title}
                    </Button>
                  ))}
                </div>
              </Pop>
            </div>
            <ul className="m-0 list-none p-0" aria-label="Boxes, front to back">
              {[...boxes.entries()].reverse().map(([i, b]) => (
                <li key={b.id} className="box-row" data-chosen={b.id === boxId || undefined}>
                  <button className="name" onClick={() => onBox(b.id)} aria-current={b.id === boxId || undefined}>
                    <Glyph kind={b.kind} /> <span className="cut">{titleOf(b)}</span>
                  </button>
                  {b.id === boxId && (
                    <span className="flex">
                      <Button size="s" look="ghost" aria-label={`Bring ${titleOf(b)} forward`} disabled={i === boxes.length - 1} onClick={() => move(i, 1)}>
                        ↑
                      </Button>
                      <Button size="s" look="ghost" aria-label={`Send ${titleOf(b)} back`} disabled={i === 0} onClick={() => move(i, -1)}>
                        ↓
                      </Button>
                      <Out label={`Take ${titleOf(b)} off`} onClick={() => void change({ boxes: boxes.filter((x) => x !== b) })} />
                    </span>
                  )}
                  <Switch
                    label={`${titleOf(b)} is shown`}
                    on={!b.off}
                    onChange={(shown) => void change({ boxes: boxes.map((x) => (x === b ? { ...x, off: shown ? undefined : true } : x)) })}
                  />
                </li>
              ))}
            </ul>
          </>
        )}
        <Ear standing={standing} />
      </Scroll>
    </Panel>
  );
}

function One({
  o,
  chosen,
  standing,
  onChoose,
  change,
  drop,
}: {
  o: Overlay;
  chosen: boolean;
  standing?: Standing["overlays"][number];
  onChoose: () => void;
  change: (part: Partial<Overlay>) => Promise<boolean>;
  drop: () => void;
}) {
  const deed = useDeed();
  const zone = useZone();
  const now = useHouseNow(10_000);
  const [address, setAddress] = useState("");
  const [title, setTitle] = useState(o.title);
  const s = standing;
  const make = () =>
    void deed(api.POST("/api/overlays/{overlay}/address", { params: { path: { overlay: o.id } } }), { stale: [about.overlays], then: (x) => setAddress(x.address) });
  return (
    <div className="overlay-row" data-chosen={chosen || undefined}>
      <button className="name" onClick={onChoose} aria-current={chosen || undefined}>
        <b>{o.title}</b>
        <span className="sub flex items-center gap-1.5">
          <i className="lamp-seen" data-open={s?.open || undefined} />
          {s?.open
            ? `open${s.pages > 1 ? ` in ${s.pages} places` : ""}${s.line ? `, ${s.line} in line` : ""}`
            : s?.seen
              ? `not open anywhere, last seen ${when(s.seen, now, zone)}`
              : "not seen yet"}
        </span>
      </button>
      {chosen && (
        <div className="grid gap-1.5 pt-1">
          {address ? (
            <>
              <Copyable text={address} label={`the address of ${o.title}`} />
              <span className="sub">It is shown this once. Whoever has it sees the overlay: keep it off the stream.</span>
            </>
          ) : (
            <span className="sub">{s?.made ? `address made ${when(s.made, now, zone)}` : "it has no address yet"}</span>
          )}
          <span className="flex flex-wrap gap-1.5">
            <Button size="s" look={s?.made ? "plain" : "lit"} aria-label={`${s?.made ? "New address" : "Make its address"}: ${o.title}`} onClick={make}>
              {s?.made ? "New address" : "Make its address"}
            </Button>
            <Pop
              label={`How ${o.title} is called, and its size`}
              width="s"
              trigger={<Button size="s">Name, size</Button>}
              onOpenChange={(open) => !open && title.trim() && title !== o.title && void change({ title: title.trim() })}
            >
              <div className="grid gap-2">
                <Field size="xs" aria-label="Its name" value={title} maxLength={60} onChange={(e) => setTitle(e.target.value)} />
                <Select
                  size="s"
                  aria-label="Its size"
                  value={`${o.wide}x${o.high}`}
                  onChange={(e) => {
                    const [wide, high] = e.target.value.split("x").map(Number);
                    void change({ wide: wide!, high: high! });
                  }}
                >
                  {!sizes.some(([, w, h]) => w === o.wide && h === o.high) && <option value={`${o.wide}x${o.high}`}>{`${o.wide} × ${o.high}`}</option>}
                  {sizes.map(([name, w, h]) => (
                    <option key={name} value={`${w}x${h}`}>
                      {name} · {w} × {h}
                    </option>
                  ))}
                </Select>
                <Button size="s" look="grave" onClick={drop}>
                  Take this overlay away
                </Button>
              </div>
            </Pop>
          </span>
        </div>
      )}
    </div>
  );
}
