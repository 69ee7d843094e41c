import type { Courtesies, RuleOutput } from "../api/client";
import { Num, Tick } from "../kit/Field";
import { One } from "../kit/One";
import { token } from "../kit/token";

const looks = ["hung lantern", "glass slide", "tide line"];
const comes = ["is hung", "drifts in", "is there", "rises with the tide", "swings round", "is lit"];
const goes = ["is dimmed", "drifts off", "is gone"];
const asBox: [string, string] = ["", "as its box has it"];

/** OnScreen sets where on the overlays something is shown, and how a card looks there where it is to be other than usual. */
export function OnScreen({ o, all, set }: { o: RuleOutput; all: Courtesies; set: (part: Partial<RuleOutput>) => void }) {
  const boxes = all.screens.flatMap((s) =>
    s.boxes.filter((b) => b.takes === o.kind).map((b): [string, string] => [`${s.id}/${b.id}`, all.screens.length > 1 ? `${b.title} on ${s.title}` : b.title]),
  );
  const ids = [...new Map(all.screens.flatMap((s) => s.boxes.filter((b) => b.takes === o.kind).map((b) => [b.id, b.title] as const)))];
  const value = o.box ? (o.overlay ? `${o.overlay}/${o.box}` : `*/${o.box}`) : o.overlay ? `${o.overlay}/` : "";
  const style = (part: Partial<NonNullable<RuleOutput["style"]>>) => {
    const next = Object.fromEntries(Object.entries({ ...o.style, ...part }).filter(([, v]) => v));
    set({ style: Object.keys(next).length ? next : undefined });
  };
  const sound = o.kind === "sound" || o.kind === "speak";
  return (
    <>
      {(all.screens.length > 1 || ids.length > 1) && (
        <One
          label="Where on the overlays"
          value={value}
          list={[
            ["", "wherever there is room"],
            ...(sound
              ? all.screens.map((s): [string, string] => [`${s.id}/`, s.title])
              : [...ids.map(([id, title]): [string, string] => [`*/${id}`, `${title}, on every overlay`]), ...(all.screens.length > 1 ? boxes : [])]),
          ]}
          onPick={(v) => {
            const [overlay, box] = v.split("/");
            set({ overlay: overlay && overlay !== "*" ? overlay : undefined, box: box || undefined });
          }}
        />
      )}
      {o.kind === "film" && (
        <Tick on={!!o.whole} onChange={(whole) => set({ whole: whole || undefined })}>
          over the whole overlay
        </Tick>
      )}
      {o.kind === "card" && (
        <>
          <One
            label="Its look"
            value={o.style?.look ?? ""}
            list={[["", "looks as its box does"], ...looks.map((x): [string, string] => [x, x])]}
            onPick={(look) => style({ look })}
          />
          <One
            label="How it comes"
            value={o.style?.comes ?? ""}
            list={[["", "comes as in its box"], ...comes.map((x): [string, string] => [x, x])]}
            onPick={(v) => style({ comes: v })}
          />
          <One
            label="How it goes"
            value={o.style?.goes ?? ""}
            list={[["", "goes as in its box"], ...goes.map((x): [string, string] => [x, x])]}
            onPick={(v) => style({ goes: v })}
          />
          <span className="flex items-center gap-1">
            type <Num label="Size of its heading in pixels" value={o.style?.size} onChange={(size) => style({ size })} /> px
          </span>
          {(["board", "words", "light"] as const).map((c) => (
            <One
              key={c}
              label={`Colour of its ${c}`}
              value={o.style?.[c] ? "own" : ""}
              list={[
                ["", `${c}: ${asBox[1]}`],
                ["own", `${c}: its own`],
              ]}
              onPick={(v) => style({ [c]: v ? usual[c] : undefined })}
            />
          ))}
          {(["board", "words", "light"] as const).map(
            (c) => o.style?.[c] && <input key={c} type="color" aria-label={`Its own colour of the ${c}`} value={o.style[c]} onChange={(e) => style({ [c]: e.target.value })} />,
          )}
          <Tick on={!!o.clip} onChange={(clip) => set({ clip: clip || undefined, clipSeconds: undefined })}>
            a clip of theirs, if there is one
          </Tick>
          {o.clip && (
            <span className="flex items-center gap-1">
              at most <Num label="A clip of at most so many seconds" value={o.clipSeconds ?? 30} onChange={(clipSeconds) => set({ clipSeconds })} /> s
            </span>
          )}
        </>
      )}
    </>
  );
}

const usual = {
  get board() {
    return token("--color-screen-board");
  },
  get words() {
    return token("--color-screen-words");
  },
  get light() {
    return token("--color-screen-light");
  },
};
