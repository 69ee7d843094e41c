import { expect, test } from "vitest";
import { bodyOf, rowsOf } from "./body";
import type { Rows } from "./RowsField";

test("what is sent is rows of names and words, and the same again", () => {
  const body = { message: "{text}", board: { heading: "{title}", link: "{link}" } };
  const rows: Rows = [
    ["message", "{text}"],
    ["board.heading", "{title}"],
    ["board.link", "{link}"],
  ];
  expect(rowsOf(body)).toEqual(rows);
  expect(bodyOf(rows)).toEqual(body);
});

test("a row without a name sends nothing, and one within another makes it", () => {
  expect(
    bodyOf([
      ["", "lost"],
      ["board", "a text"],
      ["board.link", "{link}"],
    ]),
  ).toEqual({ board: { link: "{link}" } });
});

test("what holds more than texts is left as the file has it", () => {
  for (const body of [{ rings: ["deckhands, all"] }, { rings: [1] }, { n: 3 }, "{text}", { "a.b": "x" }, null]) expect(rowsOf(body)).toBeUndefined();
});

test("a list of texts is one row, with commas between", () => {
  const body = { message: "{text}", "may-ring": ["deckhands", "keepers"] };
  const rows: Rows = [
    ["message", "{text}"],
    ["may-ring[]", "deckhands, keepers"],
  ];
  expect(rowsOf(body)).toEqual(rows);
  expect(bodyOf(rows)).toEqual(body);
  expect(bodyOf([["may-ring[]", " , "]])).toEqual({ "may-ring": [] });
});
