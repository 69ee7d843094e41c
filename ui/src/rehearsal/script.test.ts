import { expect, test } from "vitest";
import { asRows, asScript, type Row } from "./script";

const start = "2031-05-14T19:00:00.000Z";
const evening: Row[] = [
  { minute: 0, kind: "porch.stream.opened", who: "", platform: "fernlight", text: "Low water" },
  { minute: 5, kind: "porch.raid.came", who: "night_heron_cam", platform: "fernlight", id: "77", number: 120 },
  { minute: 2, kind: "porch.chat.said", who: "Limpet Lena", platform: "fernlight", text: "hello" },
];

test("a written evening is in the order of time, whatever the order of the rows", () => {
  const types = asScript(evening, start)
    .trim()
    .split("\n")
    .map((l) => (JSON.parse(l) as { type: string; time: string }).type);
  expect(types).toEqual(["porch.stream.opened", "porch.chat.said", "porch.raid.came"]);
});

test("a script file that the list wrote is read back as the list", () => {
  const rows = asRows(asScript(evening, start))!;
  expect(rows.map((r) => [r.minute, r.kind, r.who, r.id, r.number])).toEqual([
    [0, "porch.stream.opened", "", undefined, undefined],
    [2, "porch.chat.said", "Limpet Lena", undefined, undefined],
    [5, "porch.raid.came", "night_heron_cam", "77", 120],
  ]);
});

test("the same name is the same made-up person, and somebody of the book is who they are", () => {
  const twice = asScript([...evening, { minute: 9, kind: "porch.person.followed", who: "Limpet Lena", platform: "fernlight" }], start);
  const ids = twice
    .trim()
    .split("\n")
    .flatMap((l) => (JSON.parse(l) as { data: { person?: { id: string } } }).data.person?.id ?? []);
  expect(ids).toEqual(["made-up-limpet_lena", "77", "made-up-limpet_lena"]);
});

test("what has more than the list can show stays a script file", () => {
  expect(asRows('{"type":"porch.other","time":"2031-05-14T19:00:00Z","data":{}}')).toBeUndefined();
  expect(asRows("not a line")).toBeUndefined();
});
