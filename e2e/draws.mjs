// Giveaways: a draw beside the conversation, from its opening to the page on which anyone checks it.
import assert from "node:assert/strict";
import { clean, enter, launch, onAir, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

const drawer = (page) => page.getByRole("region", { name: "Draw", exact: true });

/** ready has a house on air with its draw beside the conversation, and words for it. */
async function ready(page, house) {
  await enter(page, house.link);
  await house.do("open", { platform: "quayside", title: "Low water" });
  await house.do("open", { platform: "fernlight", title: "Low water" });
  await onAir(page, house);
  await page.getByRole("button", { name: "Draw", exact: true }).click();
  await drawer(page).getByRole("button", { name: "Let it speak of them" }).click();
  await drawer(page).getByText("The house says nothing of draws yet.").waitFor({ state: "detached" });
}

test("a draw goes from its opening to a winner who speaks up, and anyone checks it; a list that was tampered with is found out", async ({ page }) => {
  const house = await launch();
  try {
    await ready(page, house);
    const d = drawer(page);
    await d.getByLabel("Prizes, one a line").fill("a <b>print</b> of the kelp bed");
    await clean(page, "the terms of a draw");
    await d.getByRole("button", { name: "Open the draw" }).click();
    await d.getByRole("button", { name: "Close and draw" }).waitFor();
    await page.locator(".hs", { hasText: "a <b>print</b> of the kelp bed" }).first().waitFor();
    await house.do("say", { platform: "quayside", viewer: "tidewrack", text: "!tide" });
    await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "!tide please" });
    await house.do("say", { platform: "quayside", viewer: "tidewrack", text: "!tide" });
    await house.do("say", { platform: "fernlight", viewer: "wrack_wren", text: "!tide" });
    const list = d.getByRole("list", { name: "Entries, the newest first" });
    await list.getByText("wrack_wren").waitFor();
    assert.equal(await list.getByRole("listitem").count(), 3, "each person once");
    await page
      .locator(".hs", { hasText: /tidewrack \(1\)/ })
      .first()
      .waitFor(); // under their numbers, said at once
    const id = (await d.getByRole("link", { name: "Check it" }).getAttribute("href")).split("/").pop();
    const open = await (await fetch(`${house.base}/draws/${id}/list`)).json();
    assert.equal(open.secret, undefined, "the secret is nowhere before the end");
    await clean(page, "a draw that is open");

    await d.getByRole("button", { name: "Close and draw" }).click();
    await d.getByRole("timer").waitFor();
    const drawn = await (await fetch(`${house.base}/draws/${id}/list`)).json();
    const winner = drawn.picks[0];
    const account = drawn.entries.find((e) => e.number === winner.number).account;
    await d.getByText("was drawn", { exact: false }).or(d.getByText(winner.name)).first().waitFor();
    await clean(page, "somebody who has to speak up");
    await house.do("say", { platform: account.split(":")[0], viewer: winner.name, text: "me? oh my" });
    await d.getByText("said something in time", { exact: false }).waitFor();
    await d.getByRole("button", { name: "The next draw" }).waitFor();

    // Whoever comes looks at it without signing in.
    const theirs = await page
      .context()
      .browser()
      .newContext({ viewport: { width: 1280, height: 800 } });
    const anyone = await theirs.newPage();
    await anyone.goto(`${house.base}/draws/${id}`);
    await anyone.getByText("This draw is right.").waitFor();
    await anyone.getByText("The pick follows from secret and list.").waitFor();
    await anyone.getByText("What this does not prove").waitFor();
    assert.equal(await anyone.locator("h1 b").count(), 0, "mark-up in a prize is text");
    await clean(anyone, "the page on which anyone checks a draw");
    await anyone.route(`**/draws/${id}/list`, async (route) => {
      const list = await (await route.fetch()).json();
      list.entries.pop();
      await route.fulfill({ json: list });
    });
    await anyone.reload();
    await anyone.getByText("This draw is not right.").waitFor();
    await anyone.getByText("The list is not the one that was closed.").waitFor();
    await anyone.goto(`${house.base}/draws`);
    await anyone.getByRole("link", { name: /^1\. a <b>print/ }).waitFor();
    await theirs.close();
  } finally {
    await house.stop();
  }
});

test("an answer is found right though it is misspelt, a draw is kept ready and opened with one press, and one is called off", async ({ page }) => {
  const house = await launch();
  try {
    await ready(page, house);
    const d = drawer(page);
    await d.getByLabel("Prizes, one a line").fill("a limpet badge");
    await d.getByRole("radio", { name: "The first right answer" }).click();
    await d.getByLabel("The question").fill("What has five arms and runs?");
    await d.getByLabel("Right answers, one a line").fill("brittle star");
    await d.getByRole("button", { name: "keep ready…" }).click();
    await d.getByLabel("A name to keep it under").fill("stars");
    await d.getByRole("button", { name: "Keep", exact: true }).click();
    await d.getByRole("button", { name: "Open stars" }).click();
    await d.getByRole("button", { name: "Close it" }).waitFor();
    await house.do("say", { platform: "quayside", viewer: "tidewrack", text: "a crab?" });
    await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "is it a britle star" });
    await d.getByText("gave the right answer", { exact: false }).waitFor();
    await d.getByText("mossy_mare").first().waitFor();

    await d.getByRole("button", { name: "The next draw" }).click();
    await d.getByLabel("Prizes, one a line").fill("nothing at all");
    await d.getByRole("button", { name: "Open the draw" }).click();
    await d.getByRole("alert").waitFor(); // a question without an answer is none
    await d.getByRole("radio", { name: "Whoever says a word" }).click();
    await d.getByRole("button", { name: "Open the draw" }).click();
    await d.getByRole("button", { name: "Call off…" }).click();
    await d.getByLabel("Why it is called off").fill("the prints are wet");
    await d.getByRole("button", { name: "Call off", exact: true }).click();
    await d.getByText("called off: the prints are wet").waitFor();
    await page.locator(".hs", { hasText: "the prints are wet" }).first().waitFor();
    await until("it stands among the draws before", async () => ((await d.getByText("Draws before (2)").count()) > 0 ? true : false));
  } finally {
    await house.stop();
  }
});
