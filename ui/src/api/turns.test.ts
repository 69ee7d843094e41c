import { expect, test } from "vitest";
import { turns } from "./turns";

test("what is done second begins when the first is over, even where that failed, and each has its own outcome", async () => {
  const turn = turns();
  const done: string[] = [];
  let fail: (why: Error) => void = () => {};
  const first = turn(() => new Promise<void>((_, no) => (fail = no)));
  const second = turn(async () => {
    done.push("second");
    return 2;
  });
  await new Promise((go) => setTimeout(go, 0));
  expect(done).toEqual([]);
  fail(new Error("the house is away"));
  await expect(first).rejects.toThrow("away");
  expect(await second).toBe(2);
});
