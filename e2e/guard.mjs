// When there is trouble: rules tried on the past, lines that are held, and the key against a flood.
import assert from "node:assert/strict";
import { clean, enter, launch, onAir, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

const lane = (page) => page.getByRole("region", { name: "All courtesies" });

/** rule opens a rule of a kind, as it is made. */
async function rule(page, house, title) {
  await page.goto(`${house.base}/courtesies`);
  await lane(page).getByRole("button", { name: "Look for something more…" }).click();
  await page.getByRole("option", { name: title, exact: true }).click();
  await page.getByRole("region", { name: "The rule" }).getByRole("checkbox", { name: "it is on" }).waitFor();
}

test("a rule is tried on the past as its measure is dragged, and switched on; what it holds is allowed by key and greeted then", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    await house.do("open", { platform: "quayside", title: "Low water" });
    await onAir(page, house);
    for (const text of ["LOOK AT THAT BLENNY", "look AT THAT", "is it moving?"]) await house.do("say", { platform: "quayside", viewer: "tidewrack", text });
    await page.getByTestId("conversation").getByText("is it moving?").waitFor();

    await rule(page, house, "Capitals");
    const touched = page.getByTestId("touched");
    await until("it is tried", async () => /this would have touched 1 line of 1 person/.test(await touched.innerText()));
    await page.getByRole("slider", { name: "At least" }).fill("50");
    await page.getByRole("slider", { name: "In lines from" }).fill("4");
    await until("the number follows", async () => /this would have touched 2 lines of 1 person/.test(await touched.innerText()));
    await page.getByRole("region", { name: "Tried on the past" }).getByText("look AT THAT", { exact: true }).waitFor();
    await clean(page, "a rule tried on the past");
    await page.getByRole("combobox", { name: "What follows the first time" }).selectOption("hold");
    await page.getByRole("checkbox", { name: "it is on" }).check();
    await lane(page)
      .getByRole("switch", { name: /^Look for 50 % capitals.*: on$/ })
      .waitFor();

    await page.getByRole("link", { name: "Porch" }).click();
    await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "WHAT IS THAT UNDER THE WEED" });
    const waiting = page.getByRole("region", { name: "Waiting for you" });
    await waiting.getByText("“WHAT IS THAT UNDER THE WEED”").waitFor();
    const arrives = page.getByTestId("conversation").getByText("arrives").filter({ hasText: "mossy_mare" });
    assert.equal(await arrives.count(), 0, "a held line is no arrival");
    await page.getByText("The guard held 1 line; 1 still to be decided.").waitFor();
    await clean(page, "a held line");
    await page.keyboard.press("a");
    await arrives.waitFor();
    await page.locator(".hs", { hasText: "mossy_mare" }).waitFor();
    await waiting.getByText("“WHAT IS THAT UNDER THE WEED”").waitFor({ state: "detached" });

    // What the platform itself holds comes as a line once it is allowed.
    await house.do("hold", { platform: "fernlight", viewer: "wrack_wren", text: "see what the tide left" });
    await waiting.getByText("“see what the tide left”").waitFor();
    await waiting.getByRole("button", { name: /^Allow/ }).click();
    await page.getByTestId("conversation").locator(".ln", { hasText: "see what the tide left" }).waitFor();
  } finally {
    await house.stop();
  }
});

test("whoever is sent out for a while is let in again, and somebody is permitted", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    await house.do("open", { platform: "quayside", title: "Low water" });
    await onAir(page, house);
    await rule(page, house, "Links");
    for (let n = 3; n > 0; n--) await page.getByRole("button", { name: "Take step 1 out" }).click();
    await page.getByRole("checkbox", { name: "it is on" }).check();
    await lane(page).getByRole("switch", { name: "Look for a link: on" }).waitFor();
    await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "free shells at shells.example/free" });
    const deeds = async () => ((await house.state()).platforms.find((p) => p.name === "quayside").deeds ?? []).map((d) => `${d.act}${d.off ? " off" : ""} ${d.login}`);
    await until("they are out", async () => (await deeds()).includes("time-out mossy_mare"));
    await lane(page)
      .getByRole("button", { name: /What the guard did/ })
      .click();
    const did = page.getByRole("region", { name: "What the guard did" });
    await did.getByText("free shells at shells.example/free").waitFor();
    await clean(page, "what the guard did");
    await did.getByRole("button", { name: "Lift it" }).click();
    await until("they are in again", async () => (await deeds()).includes("time-out off mossy_mare"));
    await did.getByRole("button", { name: "Permit mossy_mare" }).click();
    await page.getByText("mossy_mare is permitted for a while.").waitFor();
    await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "more at shells.example" });
    await page.getByRole("link", { name: "Porch" }).click();
    await page.getByTestId("conversation").getByText("more at shells.example").waitFor();
    assert.equal((await deeds()).filter((d) => d === "time-out mossy_mare").length, 1, "nobody looks at whoever is permitted");
  } finally {
    await house.stop();
  }
});

test("one key holds a flood of strangers off and lets them in again; what it held is decided at once", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    await house.do("open", { platform: "quayside", title: "Low water" });
    await onAir(page, house);
    await page.goto(house.base);
    await page.getByRole("heading", { name: "Conversation" }).waitFor();
    await page.keyboard.press("f");
    await page.getByText(/A flood of strangers is held off for/).waitFor();
    const modes = async () => (await house.state()).platforms.map((p) => p.modes).flat();
    await until("the platforms' own mode is on", async () => (await modes()).includes("slow chat"));
    for (let n = 0; n < 5; n++) await house.do("say", { platform: "quayside", viewer: `stranger_${n}`, text: "buy my shells" });
    const all = page.getByRole("group", { name: "All lines that are held" });
    await all.getByText("5 lines are held").waitFor();
    await clean(page, "a flood that is held off");
    await all.getByRole("button", { name: "Remove all" }).click();
    await all.waitFor({ state: "detached" });
    await until("the platform took them out", async () => (await house.state()).platforms[0].deeds?.filter((d) => d.act === "delete line").length === 5);
    await page.keyboard.press("f");
    await page.getByText(/A flood of strangers is held off for/).waitFor({ state: "detached" });
    await until("the mode is off again", async () => (await modes()).length === 0);
    await house.do("say", { platform: "quayside", viewer: "stranger_9", text: "hello there" });
    await page.locator(".hs", { hasText: "stranger_9" }).waitFor();
  } finally {
    await house.stop();
  }
});
