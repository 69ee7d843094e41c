// What goes where: beads on ropes, deliveries, and a place that breaks and mends.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { clean, enter, launch, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

test("a bead is set and what happens arrives on the street; a place that breaks is seen to wait, and mends by itself", async ({ page }) => {
  const house = await launch();
  try {
    const landing = async (name) => (await house.state()).landings.find((l) => l.name === name).posts.map((p) => p.message);
    await enter(page, house.link);
    await page.getByRole("link", { name: "Places", exact: true }).click();
    const ropes = page.getByRole("region", { name: "What goes where" });
    const bead = (what, place) => ropes.getByRole("button", { name: new RegExp(`^${what} to ${place}`) });
    await bead("Subscription", "Newcomers").click();
    await page.getByText("Subscription goes to Newcomers at The Boathouse from now on.").waitFor();
    const relay = page.getByRole("region", { name: "Relay" });
    await relay.getByRole("button", { name: "at once", pressed: true }).waitFor();
    await house.do("subscribe", { platform: "quayside", viewer: "mossy_mare", months: 3 });
    await until("it stands at the landing", async () => (await landing("newcomers")).some((m) => m.includes("mossy_mare")));
    await relay.getByText("mossy_mare").waitFor(); // among the last deliveries
    await relay.getByRole("button", { name: "why here?" }).first().click();
    await relay.getByText("happened: a subscription", { exact: false }).waitFor();

    // By keys alone: along the rope and back, and paused.
    await bead("Subscription", "Newcomers").focus();
    await page.keyboard.press("ArrowLeft");
    await page.keyboard.press("ArrowRight");
    await page.keyboard.press("p");
    await relay.getByRole("button", { name: "paused", pressed: true }).waitFor();
    await relay.getByRole("button", { name: "at once" }).click();
    await relay.getByRole("button", { name: "at once", pressed: true }).waitFor();

    await house.do("outage", { on: true });
    await house.do("subscribe", { platform: "quayside", viewer: "tidewrack", months: 1 });
    const head = ropes.locator("[data-place=newcomers]");
    await head.getByText("1 waits").waitFor();
    await head.getByRole("img", { name: "mends itself" }).waitFor();
    await head.getByText(/again in|is being tried/).waitFor();
    await clean(page, "what goes where");
    await page.getByRole("link", { name: "Deliveries" }).click();
    await page.getByLabel("Look through deliveries").fill("tidewrack");
    const row = page.locator(".delivery", { hasText: "tidewrack" });
    await row.getByText("waits:", { exact: false }).waitFor();
    await clean(page, "deliveries");
    await house.do("outage", { on: false });
    await row.getByText("arrived", { exact: false }).waitFor({ timeout: 30_000 });
    assert.equal((await landing("newcomers")).filter((m) => m.includes("tidewrack")).length, 1);

    // What is gathered goes as one, by itself once there are enough.
    await page.getByRole("link", { name: "What goes where" }).click();
    await bead("Subscription", "Newcomers").click();
    await relay.getByRole("button", { name: "gathered" }).click();
    await relay.getByLabel("How many").fill("2");
    await relay.getByLabel("How many").press("Tab");
    await until("it is in force", async () => (await page.request.get(`${house.base}/api/places`).then((r) => r.json())).relays.some((r) => r.gather?.count === 2));
    await house.do("subscribe", { platform: "quayside", viewer: "gully_greta", months: 1 });
    await ropes.getByText("1 waits").waitFor();
    await house.do("subscribe", { platform: "quayside", viewer: "limpet_lena", months: 1 });
    await until("both are one post", async () => (await landing("newcomers")).some((m) => m.includes("gully_greta") && m.includes("Lena")));

    await page.setViewportSize({ width: 390, height: 844 });
    await clean(page, "what goes where on a phone");
  } finally {
    await house.stop();
  }
});

test("a note from chat waits, is answered and done with; a bookmark by key is pinned and stands in the chapter file", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    await house.do("open", { platform: "quayside", title: "Low water", category: "Rock pools" });
    await page.getByText("Low water").first().waitFor();
    await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "!note the mussels moved since Tuesday" });
    const waiting = page.getByRole("region", { name: "Waiting for you" });
    await waiting.getByText("mossy_mare left a note").waitFor();
    await until("its writer is thanked", async () => (await house.said("quayside")).some((t) => t.includes("mossy_mare") && /note|Pinned|read it/.test(t)));
    await waiting.getByRole("button", { name: "Answer" }).click();
    await page.keyboard.type("I saw, by a boat's length!");
    await page.keyboard.press("Enter");
    await until("it is said to her", async () => (await house.said("quayside")).some((t) => t.includes("mossy_mare: I saw")));
    await waiting.getByText("mossy_mare left a note").waitFor({ state: "hidden" });

    await page
      .locator("h1")
      .first()
      .focus()
      .catch(() => {});
    await page.keyboard.press("b");
    await page
      .getByText(/^Marked at 0:0/)
      .first()
      .waitFor();
    await page.getByRole("button", { name: "Bookmark: a bookmark" }).waitFor(); // the pin on the evening line
    await house.do("say", { platform: "quayside", viewer: "sandhopper9", text: "!mark the anemone opens" });
    await page.getByRole("button", { name: "Bookmark: the anemone opens" }).waitFor();
    await until("it is said how far into the stream that is", async () => (await house.said("quayside")).some((t) => t.includes("the anemone opens") && /0:0\d:\d\d/.test(t)));

    await page.getByRole("link", { name: "Places", exact: true }).click();
    await page.getByRole("link", { name: "Bookmarks" }).click();
    await page.getByText("the anemone opens").waitFor();
    const [download] = await Promise.all([page.waitForEvent("download"), page.getByRole("link", { name: "As chapters" }).first().click()]);
    const chapters = readFileSync(await download.path(), "utf8");
    assert.match(chapters, /^WEBVTT/);
    assert.match(chapters, /\n\d\d:\d\d:\d\d\.\d{3} --> \d\d:\d\d:\d\d\.\d{3}\nthe anemone opens\n/);

    await page.getByLabel("What the key is for").fill("the red button");
    await page.getByRole("button", { name: "Make a key" }).click();
    const address = await page.locator("code").textContent();
    const pressed = await fetch(address.replace(/^https?:\/\/[^/]+/, house.base), { method: "POST" });
    assert.match(await pressed.text(), /^Marked at /);
    await page.getByText("the red button").nth(1).waitFor(); // who set it, beside the key itself
    await clean(page, "bookmarks");

    await page.getByRole("link", { name: /^Notes/ }).click();
    await page.getByText("No note waits.", { exact: false }).waitFor();
    await page.getByText("only what is not done with").click();
    await page.getByText("done with by", { exact: false }).waitFor();
    await clean(page, "notes");
  } finally {
    await house.stop();
  }
});
