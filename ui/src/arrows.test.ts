import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, relative } from "node:path";
import { expect, test } from "vitest";

// What a folder may know of: arrows go one way, and views do not know each other.
const views = ["porch", "book", "dates", "courtesies", "places", "rehearsal", "lookback", "house", "moving", "street"];
const mayKnow: Record<string, string[]> = {
  api: [],
  kit: ["api"],
  keeping: ["api", "kit"], // forms of the settings, which House and Moving in share
  ear: [],
  overlay: ["api", "kit"], // what overlays are drawn with, on their own pages and in the arrangement
  whom: ["api", "kit"], // whom a courtesy, or a draw, is for
  draws: ["api", "kit", "whom"], // a draw beside the conversation, and the page on which anyone checks one
  onscreen: ["api", "kit", "overlay"], // an overlay on a member's page: drawn, and tried
  shell: ["api", "kit", ...views],
  ...Object.fromEntries(
    views.map((v) => [v, ["api", "kit", "keeping", ...(v === "places" ? ["overlay", "onscreen"] : v === "courtesies" ? ["onscreen", "whom"] : v === "porch" ? ["draws"] : [])]]),
  ),
};

const src = import.meta.dirname;
const files = readdirSync(src, { recursive: true, encoding: "utf8" }).filter((f) => /\.tsx?$/.test(f) && !f.includes(".test."));
const imports = (file: string) =>
  [...readFileSync(join(src, file), "utf8").matchAll(/(?:from|import\() ?"(\.[^"]+)"|^import "(\.[^"]+)"/gm)]
    .map((m) => relative(src, join(src, dirname(file), (m[1] ?? m[2])!)))
    .filter((f) => !/\.css(\?inline)?$/.test(f))
    .map((f) => files.find((x) => x.replace(/\.tsx?$/, "") === f) ?? f);
const folder = (file: string) => (file.includes("/") ? file.split("/")[0]! : "");

test("every import leads to a file", () => {
  expect(files.length).toBeGreaterThan(60);
  expect(files.flatMap((f) => imports(f).filter((to) => !files.includes(to)))).toEqual([]);
});

test("no folder knows what stands above or beside it", () => {
  const wrong = files
    .filter((f) => folder(f))
    .flatMap((f) => imports(f).flatMap((to) => (folder(to) === folder(f) || mayKnow[folder(f)]!.includes(folder(to)) ? [] : [`${f} → ${to}`])));
  expect(wrong).toEqual([]);
});

test("no file leads back to itself", () => {
  const done = new Set<string>();
  const circles: string[] = [];
  const walk = (file: string, way: string[]) => {
    if (way.includes(file)) circles.push([...way.slice(way.indexOf(file)), file].join(" → "));
    if (way.includes(file) || done.has(file)) return;
    for (const to of imports(file)) walk(to, [...way, file]);
    done.add(file);
  };
  files.forEach((f) => walk(f, []));
  expect(circles).toEqual([]);
});
