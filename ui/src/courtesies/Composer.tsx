import { acceptCompletion, autocompletion, startCompletion, type Completion, type CompletionContext } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { Annotation, Compartment, EditorSelection, EditorState, Prec, RangeSetBuilder, StateEffect, StateField, type Extension } from "@codemirror/state";
import { Decoration, EditorView, keymap, placeholder, WidgetType, type DecorationSet } from "@codemirror/view";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Fault, FillIn, OwnParts } from "../api/client";
import { Button, Out } from "../kit/Button";
import { Popover, PopBoard } from "../kit/Pop";
import { emoji, picked } from "./emoji";
import { about, armWords, shown, spots, told, write, type Piece, type Spot } from "../kit/icu";

type Emote = OwnParts["emotes"][number];

/** insertion is what a fill-in becomes in the text: one that may be missing comes with both its branches. */
export function insertion(f: FillIn): string {
  const bare = f.kind === "moment" ? (f.name === "followed" ? `{${f.name}, date, long}` : `{${f.name}, time, short}`) : `{${f.name}}`;
  return f.optional ? `{has${f.name[0]!.toUpperCase()}${f.name.slice(1)}, select, yes {${bare}} other {}}` : bare;
}

function chip(name: string, style?: string) {
  const dom = document.createElement("span");
  dom.className = "cmchip";
  const b = document.createElement("b");
  b.textContent = name;
  dom.append(b);
  if (style) dom.append(` ${style}`);
  return dom;
}

/** frame holds the words of a choice, with its chips among them. */
function frame(list: Piece[]) {
  const dom = document.createElement("span");
  dom.className = "cmcases";
  for (const p of list) dom.append("text" in p ? p.text : "fill" in p ? chip(p.fill, p.style) : frame(p.frame));
  return dom;
}

/** Chip stands for one fill-in. The text under it stays plain ICU, so that it moves, deletes, undoes and copies as one piece of that. */
class Chip extends WidgetType {
  constructor(
    readonly spot: Spot,
    readonly source: string,
    readonly onOpen?: (from: number) => void,
  ) {
    super();
  }
  override eq(o: Chip) {
    return o.source === this.source && o.spot.from === this.spot.from;
  }
  override ignoreEvent(e: Event) {
    return e.type === "mousedown" || e.type === "click"; // a press may begin a drag, which the browser starts and the editor takes over
  }
  toDOM() {
    const plain = this.spot.kind === "plain";
    const dom = plain ? chip(this.spot.name, this.spot.style) : frame(shown(this.spot));
    dom.draggable = true;
    dom.dataset["fillIn"] = this.spot.name;
    if (!plain) {
      dom.title = told(this.spot);
      dom.addEventListener("click", () => this.onOpen?.(this.spot.from));
    }
    return dom;
  }
}

const fromOutside = Annotation.define<boolean>();
const asText = StateEffect.define<boolean>();
const faultsSet = StateEffect.define<{ from: number; to: number }[]>();

function chips(onOpen: (from: number) => void): Extension {
  const build = (s: EditorState, raw: boolean): DecorationSet => {
    const b = new RangeSetBuilder<Decoration>();
    const text = s.doc.toString();
    if (!raw) for (const p of spots(text)) b.add(p.from, p.to, Decoration.replace({ widget: new Chip(p, text.slice(p.from, p.to), onOpen) }));
    return b.finish();
  };
  const field = StateField.define<{ raw: boolean; set: DecorationSet }>({
    create: (s) => ({ raw: false, set: build(s, false) }),
    update(v, tr) {
      let raw = v.raw;
      for (const e of tr.effects) if (e.is(asText)) raw = e.value;
      return tr.docChanged || raw !== v.raw ? { raw, set: build(tr.state, raw) } : v;
    },
    provide: (f) => [EditorView.decorations.from(f, (v) => v.set), EditorView.atomicRanges.of((view) => view.state.field(f).set)],
  });
  return field;
}

/** wavy marks where a fault is. */
const wavy = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(set, tr) {
    set = set.map(tr.changes);
    for (const e of tr.effects)
      if (e.is(faultsSet)) {
        const n = tr.state.doc.length;
        set = Decoration.set(
          e.value.filter((f) => f.from < n && f.to > f.from).map((f) => Decoration.mark({ class: "cmfault" }).range(f.from, Math.min(n, f.to))),
          true,
        );
      }
    return set;
  },
  provide: (f) => EditorView.decorations.from(f),
});

function offers(fillIns: FillIn[], emotes: Emote[], platforms: string[]) {
  return (ctx: CompletionContext) => {
    const typed = ctx.matchBefore(/\{\w*$/);
    if (!typed && !ctx.explicit) return null;
    const from = typed ? typed.from : ctx.pos;
    const put = (text: string) => (view: EditorView, _: Completion, a: number, b: number) =>
      view.dispatch({ changes: { from: a, to: b, insert: text }, selection: EditorSelection.cursor(a + text.length), userEvent: "input.complete" });
    const list: Completion[] = fillIns.map((f) => ({ label: `{${f.name}`, displayLabel: f.name, detail: `${f.tells} · ${f.example}`, apply: put(insertion(f)) }));
    for (const f of fillIns.filter((x) => x.kind === "number"))
      list.push({
        label: `{${f.name} one or many`,
        displayLabel: `${f.name}: one or many`,
        detail: "other words for one than for many",
        apply: put(`{${f.name}, plural, one {# evening} other {# evenings}}`),
      });
    for (const e of emotes) {
      const letters = platforms.filter((p) => !e.platforms.includes(p));
      list.push({
        label: `{${e.word}`,
        displayLabel: e.word,
        detail: letters.length ? `a picture on ${e.platforms.join(", ")}; letters on ${letters.join(", ")}` : "a picture everywhere",
        apply: put(e.word),
      });
    }
    return { from, options: list, validFor: /^\{?\w*$/ };
  };
}

/** pictures offers emoji for a word that is typed behind a colon. */
async function pictures(ctx: CompletionContext) {
  const typed = ctx.matchBefore(/:[\p{L}\p{N}]{2,}$/u);
  if (!typed || /[\p{L}\p{N}:]/u.test(ctx.state.sliceDoc(Math.max(0, typed.from - 1), typed.from))) return null;
  const found = picked(await emoji(), typed.text.slice(1));
  return { from: typed.from, filter: false, options: found.map((e) => ({ label: e.text, displayLabel: `${e.text}  ${e.name}` })) };
}

/** attributes are what a reader is told of the field. */
const attributes = (p: { label: string; at?: string; describedBy?: string; bad: boolean }) =>
  EditorView.contentAttributes.of({
    "aria-label": p.label,
    "aria-multiline": "false",
    "aria-invalid": String(p.bad),
    ...(p.describedBy ? { "aria-describedby": p.describedBy } : {}),
    ...(p.at ? { "data-at": p.at } : {}),
    spellcheck: "true",
  });

const completion = (fillIns: FillIn[], emotes: Emote[] = [], platforms: string[] = []) =>
  autocompletion({ override: [offers(fillIns, emotes, platforms), pictures], icons: false, maxRenderedOptions: 40 });

/** The editor's own looks, on its own way: its styles stand in no layer of ours. */
const looks = EditorView.theme({
  "&.cm-focused": { outline: "none" },
  ".cm-scroller": { font: "400 14.5px/1.65 var(--font-text)", overflow: "visible" },
  ".cm-content": { padding: "7px 8px", color: "var(--color-text)", caretColor: "var(--color-marigold)", overflowWrap: "anywhere" },
  ".cm-line": { padding: "0 3px" },
  ".cm-placeholder": { color: "var(--color-text-3)" },
  ".cm-tooltip.cm-tooltip-autocomplete": { background: "var(--color-surface-2)", border: "1px solid var(--color-line)", borderRadius: "9px", padding: "4px", zIndex: 60 },
  ".cm-tooltip.cm-tooltip-autocomplete > ul": { font: "400 13.5px/1.4 var(--font-text)", maxHeight: "260px", minWidth: "280px" },
  ".cm-tooltip.cm-tooltip-autocomplete > ul > li": { padding: "5px 9px", borderRadius: "6px", color: "var(--color-text)" },
  ".cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected]": { background: "var(--color-lagoon-soft)", color: "var(--color-text)" },
  ".cm-completionDetail": { color: "var(--color-text-2)", fontStyle: "normal" },
  ".cm-completionMatchedText": { textDecoration: "none", color: "var(--color-marigold)" },
});

export type ComposerProps = {
  label: string;
  value: string;
  onChange: (s: string) => void;
  fillIns: FillIn[];
  emotes?: Emote[];
  platforms?: string[];
  faults?: Fault[];
  raw?: boolean;
  onFocus?: (put: (text: string) => void) => void;
  onLeave?: () => void;
  onEnter?: () => void;
  at?: string;
  describedBy?: string;
  hint?: string;
};

/** Composer is a field for one wording: fill-ins stand in it as chips, put in by typing a brace. */
export function Composer(p: ComposerProps) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const late = useRef(p);
  useLayoutEffect(() => {
    late.current = p;
  });
  const typed = useRef<string[]>([]); // what was typed and has not come back as the value yet
  const [marks] = useState(() => ({ attrs: new Compartment(), source: new Compartment() })); // what changes while the field stands
  const [open, setOpen] = useState<{ spot: Spot; x: number; y: number }>();
  useEffect(() => {
    const openAt = (at: number) => {
      const spot = spots(view.current!.state.doc.toString()).find((s) => s.from === at);
      if (!spot) return;
      const box = view.current!.coordsAtPos(at);
      const base = host.current!.getBoundingClientRect();
      setOpen({ spot, x: (box?.left ?? base.left) - base.left, y: (box?.bottom ?? base.bottom) - base.top });
    };
    const touching = (v: EditorView) => {
      const pos = v.state.selection.main.head;
      return spots(v.state.doc.toString()).find((s) => s.kind !== "plain" && (s.to === pos || s.from === pos));
    };
    const v = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: late.current.value,
        extensions: [
          history(),
          looks,
          EditorView.cspNonce.of(document.querySelector<HTMLMetaElement>("meta[name=nonce]")?.content ?? ""),
          chips(openAt),
          wavy,
          EditorView.lineWrapping,
          Prec.high(
            keymap.of([
              { key: "Tab", run: acceptCompletion },
              {
                key: "Enter",
                run: (x) => {
                  if (acceptCompletion(x)) return true;
                  const s = touching(x);
                  if (s) openAt(s.from);
                  else late.current.onEnter?.();
                  return true; // a line of chat has no line breaks
                },
              },
              { key: "Mod-i", run: startCompletion },
            ]),
          ),
          keymap.of([...defaultKeymap, ...historyKeymap]),
          marks.source.of([]),
          marks.attrs.of([]),
          placeholder(late.current.hint ?? ""),
          EditorView.updateListener.of((u) => {
            if (u.docChanged && !u.transactions.some((tr) => tr.annotation(fromOutside))) {
              typed.current.push(u.state.doc.toString());
              late.current.onChange(u.state.doc.toString());
            }
            if (u.focusChanged && !u.view.hasFocus) late.current.onLeave?.();
            if (u.focusChanged && u.view.hasFocus)
              late.current.onFocus?.((text) => {
                const r = u.view.state.selection.main;
                u.view.dispatch({ changes: { from: r.from, to: r.to, insert: text }, selection: EditorSelection.cursor(r.from + text.length), userEvent: "input" });
                u.view.focus();
              });
          }),
          EditorState.transactionFilter.of((tr) => {
            // Pasted line breaks become spaces.
            if (!tr.docChanged || tr.newDoc.lines === 1) return tr;
            const flat = tr.newDoc.toString().replace(/\s*\n\s*/g, " ");
            return { changes: { from: 0, to: tr.startState.doc.length, insert: flat }, selection: EditorSelection.cursor(flat.length) };
          }),
        ],
      }),
    });
    view.current = v;
    return () => v.destroy();
  }, [marks]);

  useEffect(() => {
    // What was typed comes back, perhaps later than the next letter: it is not what somebody else wrote, and takes no letter away.
    const back = typed.current.lastIndexOf(p.value);
    if (back >= 0) {
      typed.current.splice(0, back + 1);
      return;
    }
    typed.current = [];
    const v = view.current!;
    if (v.state.doc.toString() !== p.value) v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: p.value }, annotations: fromOutside.of(true) });
  }, [p.value]);
  useEffect(() => view.current!.dispatch({ effects: asText.of(!!p.raw) }), [p.raw]);
  const { label, at, describedBy, fillIns, emotes, platforms } = p;
  const bad = !!p.faults?.length;
  useEffect(() => view.current!.dispatch({ effects: marks.attrs.reconfigure(attributes({ label, at, describedBy, bad })) }), [marks, label, at, describedBy, bad]);
  useEffect(() => view.current!.dispatch({ effects: marks.source.reconfigure(completion(fillIns, emotes, platforms)) }), [marks, fillIns, emotes, platforms]);
  useEffect(() => view.current!.dispatch({ effects: faultsSet.of((p.faults ?? []).map((f) => ({ from: f.from ?? 0, to: f.to ?? 0 }))) }), [p.faults]);

  /** A case being typed may not be whole yet: it waits in the form, and the wording keeps the last whole one. */
  const change = (next: Spot) => {
    if (!open) return;
    const text = write(next);
    const whole = spots(text).length === 1 && spots(text)[0]!.to === text.length;
    if (whole) {
      // The words may have come anew meanwhile, as the house has them: it is where it stands now, not where it stood.
      const now = spots(view.current!.state.doc.toString()).find((s) => s.from === next.from && s.name === next.name && s.kind === next.kind);
      if (!now) return setOpen(undefined);
      view.current!.dispatch({ changes: { from: now.from, to: now.to, insert: text }, userEvent: "input" });
    }
    setOpen({ ...open, spot: whole ? { ...next, to: next.from + text.length } : next });
  };
  return (
    <div className="relative min-w-0 flex-1">
      <div ref={host} className="cmfield" />
      <Popover.Root open={!!open} onOpenChange={(o) => !o && setOpen(undefined)}>
        <Popover.Anchor asChild>
          <span className="pointer-events-none absolute" style={{ left: open?.x ?? 0, top: open?.y ?? 0 }} />
        </Popover.Anchor>
        <PopBoard
          width="l"
          align="start"
          label={open ? `Cases of ${open.spot.name}` : undefined}
          onOpenAutoFocus={(e) => {
            e.preventDefault(); // into the words, not onto the button that takes a case out
            (e.currentTarget as HTMLElement).querySelector<HTMLElement>(".cm-content")?.focus();
          }}
        >
          {open && <Cases spot={open.spot} p={p} onChange={change} />}
        </PopBoard>
      </Popover.Root>
    </div>
  );
}

const more: Record<string, string[]> = { plural: ["=0", "one", "=2", "other"], selectordinal: ["one", "two", "few", "other"], select: ["yes", "other"] };

/** Cases is the small form of a plural or another choice: each case with words of its own. */
function Cases({ spot, p, onChange }: { spot: Spot; p: ComposerProps; onChange: (s: Spot) => void }) {
  const set = (arms: Spot["arms"]) => onChange({ ...spot, arms });
  const left = more[spot.kind]!.filter((k) => !spot.arms.some((a) => a.key === k));
  return (
    <div data-testid="cases">
      <p className="pb-1 font-semibold">
        <span className="text-marigold">{about(spot)}</span> {spot.kind === "select" ? "known or not" : spot.kind === "plural" ? "one or many" : "first, second…"}
      </p>
      {spot.arms.map((a, i) => (
        <div key={a.key} className="pb-1.5">
          <div className="sub flex items-center">
            <span className="flex-1">{armWords(spot, a.key)}</span>
            {a.key !== "other" && <Out label={`Take out: ${armWords(spot, a.key)}`} onClick={() => set(spot.arms.filter((_, k) => k !== i))} />}
          </div>
          <Composer
            label={`${spot.name}, ${armWords(spot, a.key)}`}
            value={a.text}
            fillIns={p.fillIns}
            hint="nothing"
            onChange={(text) => set(spot.arms.map((x, k) => (k === i ? { ...x, text } : x)))}
          />
        </div>
      ))}
      <div className="flex flex-wrap gap-1.5">
        {left.map((k) => (
          <Button key={k} size="s" onClick={() => set([...spot.arms.filter((a) => a.key !== "other"), { key: k, text: "" }, ...spot.arms.filter((a) => a.key === "other")])}>
            {armWords(spot, k)}…
          </Button>
        ))}
        {spot.kind !== "select" && <span className="sub self-center"># is the number itself</span>}
      </div>
    </div>
  );
}
