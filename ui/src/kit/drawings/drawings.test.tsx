// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test } from "vitest";
import { Bead, type Way } from "./Bead";
import { DateShape, type DateKind } from "./DateShape";
import { Difference, type Differs } from "./Difference";
import { initials, Lantern } from "./Lantern";
import { Pebbles } from "./Pebbles";
import { SmallEvening } from "./SmallEvening";
import { Strip } from "./Strip";
import { Usual } from "./Usual";

afterEach(cleanup);

const drawn = (label: string) => screen.getByRole("img", { name: label }).innerHTML.replace(/<title>.*?<\/title>/, "");

test("no two ways of a relay, kinds of a date or differences are drawn alike, and each says itself", () => {
  const ways: Way[] = ["at once", "gathered", "paused", "not set", "cannot"];
  const kinds: DateKind[] = ["birthday", "follows since", "first came", "round number"];
  const differs: Differs[] = ["only above", "only below", "words", "later", "sooner"];
  render(
    <>
      {ways.map((w) => (
        <Bead key={w} way={w} />
      ))}
      {kinds.map((k) => (
        <DateShape key={k} kind={k} />
      ))}
      {differs.map((d) => (
        <Difference key={d} kind={d} />
      ))}
    </>,
  );
  const says = ["in the one above only", "in the one below only", "in other words", "later in the one below", "sooner in the one below"];
  for (const group of [ways, kinds, says]) expect(new Set(group.map((l) => drawn(l))).size).toBe(group.length);
});

test("pebbles burn down from the left, and say how many days are left", () => {
  render(<Pebbles left={3} />);
  const full = [...screen.getByRole("img", { name: "3 of 7 days left" }).querySelectorAll("circle")].map((c) => c.classList.contains("fill-rose-clay"));
  expect(full).toEqual([false, false, false, false, true, true, true]);
});

test("a small evening is as long as it was, its raids by their heads", () => {
  const minutes = (n: number) => Array.from({ length: n }, (_, i) => i % 9);
  render(
    <>
      <SmallEvening label="the long one" longest={200} evening={{ minutes: minutes(200), raids: [{ at: 100, viewers: 36 }] }} />
      <SmallEvening label="the short one" longest={200} evening={{ minutes: minutes(100), raids: [{ at: 50, viewers: 9 }] }} />
    </>,
  );
  const ground = (name: string) => Number(/H([\d.]+)$/.exec(screen.getByRole("img", { name }).querySelectorAll("path")[1]!.getAttribute("d")!)![1]);
  expect(ground("the short one") * 2).toBeCloseTo(ground("the long one"), 0);
  const arc = (name: string) => Number(/A([\d.]+) /.exec(screen.getByRole("img", { name }).querySelectorAll("path")[2]!.getAttribute("d")!)![1]);
  expect(arc("the long one")).toBeCloseTo(2 * arc("the short one"), 5);
});

test("a figure is told against the usual in words as in the drawing", () => {
  const usual = { least: 24, middle: 31, most: 40 };
  render(
    <>
      {[47, 20, 31, 35, 26].map((v) => (
        <Usual key={v} name="people" value={v} usual={usual} />
      ))}
    </>,
  );
  const words = screen.getAllByRole("img").map((x) => /, ([^:]+):/.exec(x.getAttribute("aria-label")!)![1]);
  expect(words).toEqual(["more than ever of late", "less than ever of late", "as usual", "more than usual", "less than usual"]);
  const dots = screen.getAllByRole("img").map((x) => Number(x.querySelector("circle")!.getAttribute("cx")));
  expect(dots.every((x) => x >= 4 && x <= 74)).toBe(true);
});

test("what is written in a lantern is never smaller than 12 px, and is left out where it does not fit", () => {
  for (const size of [50, 34, 30, 27, 26, 20, 14]) {
    const { container } = render(<Lantern initials="KE" lit size={size} />);
    const text = container.querySelector("text")!;
    const px = (Number(text.getAttribute("font-size")) * size) / 34;
    if (size >= 26) expect(px, `at ${size} px`).toBeGreaterThanOrEqual(12 - 1e-9);
    expect(text.textContent, `at ${size} px`).toBe(size >= 26 ? "KE" : "");
    cleanup();
  }
});

test("initials are of the first two words, whatever parts them", () => {
  expect(["limpet_lena", "Odalys Brine", "kelpwright", "tern.and.tide", "~", "李 雷"].map(initials)).toEqual(["LL", "OB", "KE", "TA", "?", "李雷"]);
});

test("the attendance strip counts tonight, and says it", () => {
  render(<Strip bits={"0".repeat(17) + "11t"} />);
  expect(screen.getByRole("img", { name: "at 3 of the last 20 streams" }).querySelectorAll("circle")).toHaveLength(1);
});
