// Evenings again: a recorded one rehearsed under a draft, kept, and broken by a change; and what became of it, looked back at.
import assert from "node:assert/strict";
import { readFile } from "node:fs/promises";
import { asked, clean, editing, enter, launch, onAir, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

const people = ["tidewrack", "mossy_mare", "wrack_wren", "pebble_june"];

/** recorded has a house with a stream that is over. */
async function recorded(page, house) {
  await enter(page, house.link);
  await house.do("open", { platform: "quayside", title: "Low water, slowly" });
  await onAir(page, house);
  for (const viewer of people) await house.do("say", { platform: "quayside", viewer, text: `hello from ${viewer}` });
  await house.do("say", { platform: "quayside", viewer: "tidewrack", text: "!schedule" });
  await until("each of them is greeted", async () => {
    const said = await house.said("quayside");
    return people.every((p) => said.some((t) => t.includes(p)));
  });
  await until("the line after them is in the log", async () => (await page.request.get(`${house.base}/api/porch`).then((r) => r.json())).live.people >= 5);
  await asked(page, "POST", "/api/desk/stream", { act: "closed" });
  await until("the stream is over", async () => !(await page.request.get(`${house.base}/api/porch`).then((r) => r.json())).live.on);
}

test("a draft is compared on a recorded stream, a difference opened, the evening kept, and a change that breaks it is seen", async ({ page }) => {
  const house = await launch();
  try {
    await recorded(page, house);
    await page.goto(`${house.base}/rehearsal`);
    await page.getByRole("heading", { name: /Rehearse the stream of .* with a draft without a change beside the settings in force/ }).waitFor();
    await page.getByText("Nothing differs: the evening goes the same under both.").waitFor();
    await page.getByText("nothing is sent", { exact: false }).waitFor();
    const moment = page.getByRole("region", { name: "The moment" });
    await moment.getByText("tidewrack", { exact: false }).first().waitFor();
    await clean(page, "a rehearsal");

    await page.getByRole("button", { name: "a draft without a change" }).click();
    await page.getByRole("checkbox", { name: "Greet a newcomer" }).click();
    await page.getByRole("button", { name: "Done", exact: true }).click();
    await page.getByRole("button", { name: "your draft of 1 change" }).waitFor();
    const differences = page.getByRole("region", { name: "Differences" });
    const first = differences.getByRole("button", { name: /Greet a newcomer/ }).first();
    await first.getByText("only above · is switched off in the one below", { exact: false }).waitFor();
    await page.keyboard.press("]");
    await until("the first difference is chosen", async () => (await first.getAttribute("aria-current")) === "true");
    const board = moment.locator("[data-differs]").first();
    await board.getByRole("button", { name: "why?" }).click();
    await board.getByRole("listitem").first().waitFor();
    await board.getByText("is switched off in the one below").waitFor();
    await clean(page, "a rehearsal with differences");

    // What was typed elsewhere is in the draft too; dropped by a slip, all of it comes back.
    const newcomer = async () => JSON.parse((await asked(page, "GET", "/api/courtesies")).body).courtesies.find((c) => c.id === "greet-newcomer");
    const words = (await newcomer()).outputs.map(({ id, alternatives, joined }) => ({ id, joined, alternatives: [...alternatives, "Ahoy {name}"] }));
    await asked(page, "PUT", "/api/courtesies/greet-newcomer/draft", { outputs: words });
    await page.reload();
    await page.getByRole("button", { name: "your draft of 1 change" }).click();
    await page.getByRole("checkbox", { name: "Greet a newcomer" }).click();
    await page.getByRole("button", { name: "Done", exact: true }).click();
    await page.getByRole("button", { name: "your draft of 2 changes" }).waitFor();
    await page.getByRole("button", { name: "Drop the draft" }).click();
    await page.getByText("The draft is dropped.").waitFor();
    assert.equal((await newcomer()).draft, undefined);
    await page.getByRole("button", { name: "a draft without a change" }).waitFor();
    await page.getByRole("button", { name: "Undo" }).click();
    await page.getByRole("button", { name: "your draft of 2 changes" }).waitFor();
    assert.deepEqual((await newcomer()).draft.outputs[0].alternatives, words[0].alternatives);
    await page.getByRole("button", { name: "Drop the draft" }).click();
    await page.getByRole("button", { name: "a draft without a change" }).waitFor();
    await page.getByText("Nothing differs: the evening goes the same under both.").waitFor();
    await page.getByRole("button", { name: "Keep this evening" }).click();
    await page.getByLabel("By what name").fill("Low water as it should go");
    await clean(page, "keeping an evening");
    await page.getByRole("button", { name: "Keep it" }).click();
    await page.getByText("1 kept evening goes as it should").waitFor();

    // A change elsewhere: the Courtesies view tells that the kept evening goes otherwise.
    await page.goto(`${house.base}/courtesies/greet-newcomer`);
    await page.getByText("1 kept evening goes as it should").waitFor();
    await page.getByRole("switch", { name: /^Greet a newcomer/ }).click();
    await page.getByText("1 of 1 kept evenings goes otherwise").waitFor();
    await page.getByText("1 of 1 kept evenings goes otherwise").click();
    await page.getByText("does not go as it should:", { exact: false }).waitFor();
    await page.getByRole("button", { name: "Show what differs" }).click();
    await differences.getByText("is switched off in the one below", { exact: false }).first().waitFor();
    await page.getByRole("button", { name: "It is right so" }).click();
    await page.getByText("1 kept evening goes as it should").waitFor();
  } finally {
    await house.stop();
  }
});

test("an evening is written by hand, lived, and written down; another is imagined by dials", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    await page.goto(`${house.base}/rehearsal`);
    await page
      .getByText("You had no stream yet", { exact: false })
      .or(page.getByText("Its shape is learned", { exact: false }))
      .first()
      .waitFor();
    await page.getByRole("button", { name: "Write one" }).click();
    await page.getByLabel("Its name").fill("A quiet Tuesday");
    await page.getByRole("button", { name: "Another" }).click();
    await page.getByLabel("who in row 3").fill("sandhopper9");
    await page.getByLabel("what they say of row 3").fill("first time here");
    await clean(page, "writing an evening");
    await page.getByRole("button", { name: "As script file" }).click();
    assert.match(await page.getByRole("textbox", { name: "Script" }).inputValue(), /"login":"sandhopper9"/);
    await page.getByRole("button", { name: "As list" }).click();
    await page.getByRole("button", { name: "Write it down" }).click();
    await page.getByRole("heading", { name: /Rehearse “A quiet Tuesday”/ }).waitFor();
    await page.getByRole("region", { name: "The moment" }).getByText("sandhopper9", { exact: false }).first().waitFor();

    // Opened again it is as it was written down last; by a name that another has nothing is written over; taken away it comes back.
    const lastSays = page.getByLabel("what they say of row 3");
    for (const words of ["second time here", "third time here"]) {
      await page.getByRole("button", { name: "Change A quiet Tuesday" }).click();
      await lastSays.fill(words);
      await page.getByRole("button", { name: "Write it down" }).click();
      await page.getByRole("button", { name: "Change A quiet Tuesday" }).click();
      assert.equal(await lastSays.inputValue(), words);
      await page.getByRole("button", { name: "Back" }).click();
    }
    await page.getByRole("button", { name: "Write one" }).click();
    await page.getByLabel("Its name").fill("A quiet Tuesday");
    await page.getByRole("button", { name: "Write it down" }).click();
    await page.getByRole("alert").getByText("An evening has that name already").waitFor();
    await page.getByRole("button", { name: "Back" }).click();
    await page.getByRole("button", { name: "Take A quiet Tuesday away" }).click();
    await page.getByRole("button", { name: "Change A quiet Tuesday" }).waitFor({ state: "hidden" });
    await page.getByRole("button", { name: "Undo" }).last().click();
    await page.getByRole("button", { name: "Change A quiet Tuesday" }).waitFor();
    await page.getByLabel("lines a minute").fill("12");
    await page.getByRole("button", { name: "Rehearse it" }).click();
    await page.getByRole("heading", { name: /Rehearse an imagined evening/ }).waitFor();
    await page.getByText("nothing is sent", { exact: false }).waitFor();
    const lines = async () =>
      Number(
        (
          await page
            .getByText(/^\d+ lines$/)
            .first()
            .textContent()
        ).split(" ")[0],
      );
    await until("the imagined evening has lines", async () => (await lines()) > 5);

    // The house lives what comes to it last: what is chosen next waits until the one before, slow on its way, is there.
    const [asks, answered] = [[], []];
    const posts = (list) => (r) => r.method() === "POST" && r.url().endsWith("/api/rehearsal") && list.push(asks.length - answered.length);
    const [goes, comes] = [posts(asks), posts(answered)];
    page.on("request", goes);
    page.on("requestfinished", comes);
    const slowly = async (route) => {
      if (route.request().method() === "POST" && asks.length === 1) await new Promise((go) => setTimeout(go, 1500));
      await route.fallback();
    };
    await page.route("**/api/rehearsal", slowly);
    await page.getByLabel("lines a minute").fill("3");
    await until("it is on its way", async () => asks.length === 1);
    await page.getByRole("button", { name: "A quiet Tuesday", exact: true }).click();
    await page.getByRole("heading", { name: /Rehearse “A quiet Tuesday”/ }).waitFor();
    await page.getByRole("region", { name: "The moment" }).getByText("sandhopper9", { exact: false }).first().waitFor();
    assert.deepEqual(asks, [0, 0], "one went out while another was on its way");
    page.off("request", goes).off("requestfinished", comes);
    await page.unroute("**/api/rehearsal", slowly);
  } finally {
    await house.stop();
  }
});

test("a look back is opened from the evening line, a figure to its people, and the page to keep is read with no network", async ({ page }) => {
  const house = await launch();
  try {
    await recorded(page, house);
    await page.goto(house.base);
    await page.getByRole("link", { name: "Look back at the last one" }).click();
    await page.getByRole("heading", { name: "Low water, slowly" }).waitFor();
    await page.getByText("people asked").getByText("!schedule").waitFor();
    await page.getByRole("button", { name: /^New: 4/ }).click();
    const list = page.getByRole("list", { name: "Behind New" });
    await list.getByRole("link", { name: "wrack_wren" }).waitFor();
    assert.equal(await list.getByRole("listitem").count(), people.length, "each new one");
    await clean(page, "the people behind a figure");
    await page.keyboard.press("Escape");
    await clean(page, "a look back");
    const [file] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "Page", exact: true }).click()]);
    const path = await file.path();
    const html = await readFile(path, "utf8");
    assert.doesNotMatch(html, /<script|https?:\/\/(?!www\.w3)/, "nothing from elsewhere");
    const alone = await page.context().browser().newContext({ offline: true });
    const offline = await alone.newPage();
    await offline.setContent(html);
    await offline.getByRole("heading", { name: "Low water, slowly" }).waitFor();
    await offline.getByText("wrack_wren").first().waitFor();
    await alone.close();
    await page.goto(`${house.base}/lookback/over`);
    await page.getByRole("heading", { name: /Over the last/ }).waitFor();
    await clean(page, "over streams");

    await page.goto(`${house.base}/lookback`);
    await page.getByRole("link", { name: "Answer !schedule" }).click();
    await page.getByLabel("An answer").fill("Whenever the tide is low after seven");
    await page.keyboard.press("Enter");
    await editing(page, "schedule");
    await page.getByText("Answer schedule.").waitFor();
  } finally {
    await house.stop();
  }
});
