// @vitest-environment jsdom
import { EditorView } from "@codemirror/view";
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import type { Courtesies, CourtesyView, DraftOutput, RuleOutput } from "../api/client";
import { Composer } from "./Composer";
import { Output } from "./Output";

afterEach(cleanup);

const field = (value: string, onChange: (s: string) => void) => <Composer label="Wording 1" value={value} onChange={onChange} fillIns={[]} emotes={[]} platforms={[]} />;
const view = () => EditorView.findFromDOM(screen.getByRole("textbox"))!;
const type = (letters: string) => act(() => view().dispatch({ changes: { from: view().state.doc.length, insert: letters } }));
const reads = () => view().state.doc.toString();

test("a letter typed before the page has drawn the one before it stays", () => {
  const told: string[] = [];
  const tell = (s: string) => told.push(s);
  const { rerender } = render(field("Ahoy", tell));
  type("!");
  type("!");
  rerender(field("Ahoy!", tell)); // the first comes back
  expect(reads()).toBe("Ahoy!!");
  rerender(field("Ahoy!!", tell));
  expect(told).toEqual(["Ahoy!", "Ahoy!!"]);
});

test("what was undone or written elsewhere shows, and is not told as if it were typed", () => {
  const told: string[] = [];
  const tell = (s: string) => told.push(s);
  const { rerender } = render(field("Ahoy", tell));
  type("!");
  rerender(field("Ahoy!", tell));
  rerender(field("Ahoy", tell)); // undone
  expect(reads()).toBe("Ahoy");
  rerender(field("Good evening", tell));
  rerender(field("Ahoy", tell));
  rerender(field("Ahoy!", tell)); // the same words as were typed once, from elsewhere this time
  expect(reads()).toBe("Ahoy!");
  expect(told).toEqual(["Ahoy!"]);
});

test("a wording or a field taken out takes nothing along that was typed and not drawn yet", () => {
  const all = {
    whens: [],
    acts: [],
    platforms: ["quayside"],
    fittings: [],
    screens: [],
    voices: [],
    places: [{ name: "lamp-log", title: "Lamp log" }],
    streamer: [],
    own: { emotes: [] },
  } as unknown as Courtesies;
  const o = { id: "post", kind: "raise", event: "tide.turned" } as unknown as RuleOutput;
  const c = {
    id: "log-tips",
    rule: { when: "porch.support.tipped" },
    outputs: [{ id: "post", kind: "raise", worded: true }],
    fillIns: [],
    joinedFillIns: [],
  } as unknown as CourtesyView;
  const shown = { id: "post", alternatives: ["as it was drawn", "the second"], fields: { who: "{name}", why: "as it was drawn" } } as DraftOutput;
  let words = { ...shown, alternatives: ["as it was typed", "the second"], fields: { who: "as it was typed", why: "" } } as DraftOutput;
  const nothing = () => undefined;
  render(
    <Output
      o={o}
      n={0}
      of={1}
      c={c}
      all={all}
      words={shown}
      faults={[]}
      raw={false}
      open
      onOpen={nothing}
      onRule={nothing}
      onMove={nothing}
      onOut={nothing}
      onWords={(f) => (words = f(words))}
      onLeave={nothing}
    />,
  );
  fireEvent.click(screen.getByLabelText("Take wording 2 out"));
  expect(words.alternatives).toEqual(["as it was typed"]);
  fireEvent.click(screen.getByLabelText("Take field why out"));
  expect(words.fields).toEqual({ who: "as it was typed" });
});
