// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { media } from "../../../api/queries";
import { KeyForm } from "./KeyForm";

/** What is drawn of a film: its ground, and nothing until something was drawn. */
const grounds: Record<string, number[]> = { "moth.webm": [30, 60, 200, 255], "heron.webm": [0, 177, 64, 255], "lamp.webm": [0, 0, 0, 0] };

beforeEach(() => {
  const drawn = new WeakMap<HTMLCanvasElement, number[]>();
  vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockImplementation(function (this: HTMLCanvasElement, kind: string) {
    if (kind !== "2d") return null;
    return {
      drawImage: (v: HTMLElement) => v instanceof HTMLVideoElement && drawn.set(this, grounds[v.getAttribute("src")!.split("/").pop()!]!),
      getImageData: () => ({ data: drawn.get(this) ?? [0, 0, 0, 0] }),
    } as never;
  } as never);
  vi.spyOn(HTMLVideoElement.prototype, "videoWidth", "get").mockReturnValue(640);
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const form = (...films: string[]) => {
  const picked: string[] = [];
  const client = new QueryClient();
  client.setQueryDefaults(media.queryKey, { staleTime: Infinity });
  client.setQueryData(media.queryKey, { items: films.map((name) => ({ name, kind: "film" })) } as never);
  const { container } = render(
    <QueryClientProvider client={client}>
      <KeyForm value={{ colour: "#00b140" }} onChange={(k) => picked.push(k.colour)} />
    </QueryClientProvider>,
  );
  const video = () => container.querySelector("video")!;
  return { picked, video, comes: () => fireEvent.seeked(video()), press: () => fireEvent.click(container.querySelector("canvas")!) };
};

test("a colour is picked from a frame once there is one, not from the empty picture before it", () => {
  const f = form("heron.webm");
  f.press();
  expect(f.picked).toEqual([]);
  expect(screen.getByLabelText("A frame of heron.webm is on its way").getAttribute("aria-busy")).toBe("true");
  f.comes();
  screen.getByLabelText(/^A frame of heron.webm; press on its ground/);
  f.press();
  expect(f.picked).toEqual(["#00b140"]);
});

test("while another film is on its way, nothing is picked from the one before", () => {
  const f = form("heron.webm", "moth.webm");
  f.comes();
  fireEvent.change(screen.getByLabelText("Film to look at"), { target: { value: "moth.webm" } });
  expect(f.video().getAttribute("src")).toBe("/api/media/moth.webm");
  f.press();
  expect(f.picked).toEqual([]);
  f.comes();
  f.press();
  expect(f.picked).toEqual(["#1e3cc8"]);
});

test("where a film is seen through already there is no colour to pick", () => {
  const f = form("lamp.webm");
  f.comes();
  f.press();
  expect(f.picked).toEqual([]);
});

test("of a film that does not play it says so, and no longer that a frame is coming", () => {
  const f = form("heron.webm");
  fireEvent.error(f.video());
  screen.getByText("It does not play here; choose another film.");
  expect(screen.getByLabelText("No frame of heron.webm").getAttribute("aria-busy")).toBe("false");
});
