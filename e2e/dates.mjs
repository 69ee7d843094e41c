// Birthdays and anniversaries: set in chat, shown under Dates, celebrated on the day, once.
import assert from "node:assert/strict";
import { clean, enter, launch, onAir, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

// inDays is a day so many from today, in the channel's zone, as one writes it.
const inDays = (n, now = Date.now()) => new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "long", timeZone: "Europe/Lisbon" }).format(now + n * 86_400_000);

test("a birthday set on the street stands under Dates, and is celebrated on the day, once; what was missed by hand", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    const says = (viewer, text) => house.do("say", { platform: "quayside", viewer, text });
    const heard = async (part) => (await house.said("quayside")).filter((t) => t.includes(part));
    await house.do("open", { platform: "quayside", title: "Low water", category: "Rock pools" });
    await onAir(page, house);
    await says("tidewrack", `!mybirthday ${inDays(3)}`);
    await says("brine_shrimp", `!mybirthday ${inDays(2)}`);
    await says("gully_greta", "!mybirthday 31/02");
    await until("it is spelled out", async () => (await heard("tidewrack")).some((t) => t.includes(inDays(3)) && t.includes("3 days to go")));
    await until("what is no day is refused", async () => (await heard("gully_greta")).some((t) => t.includes("is no day of the calendar")));

    await page.getByRole("link", { name: "Dates", exact: true }).click();
    const coming = page.getByRole("region", { name: "Next 30 days" });
    await coming.locator(".next-row", { hasText: "tidewrack" }).getByText("birthday", { exact: true }).last().waitFor();
    await coming.locator(".next-row", { hasText: "brine_shrimp" }).waitFor();
    await page
      .getByRole("region", { name: "The year" })
      .getByRole("button", { name: /tidewrack birthday/ })
      .waitFor();
    await clean(page, "the dates");

    // The calendar is for whoever has its address.
    await page.getByRole("button", { name: "Make an address" }).click();
    const address = await page.locator(".sentences code").textContent();
    const feed = await fetch(address);
    assert.match(feed.headers.get("content-type"), /text\/calendar/);
    assert.match(await feed.text(), /Birthday: tidewrack/);

    // The day comes: for house, platforms and everybody on the street together.
    await house.do("close", { platform: "quayside" });
    const street = await page.context().newPage();
    await street.goto(house.street);
    for (let i = 0; i < 3; i++) await street.getByRole("button", { name: "A day on" }).click();
    await street.close();
    await page.getByRole("region", { name: "Today" }).getByText("tidewrack").waitFor();
    const missed = page.getByRole("region", { name: "Belated" }).locator(".day-row", { hasText: "brine_shrimp" });
    await missed.waitFor();

    await house.do("open", { platform: "quayside", title: "The day", category: "Rock pools" });
    await onAir(page, house);
    await says("tidewrack", "good evening");
    await until("it is celebrated", async () => (await heard("tidewrack")).some((t) => /birthday/i.test(t) && !t.includes("to go")));
    await page.getByRole("region", { name: "Today" }).locator(".day-row", { hasText: "tidewrack" }).getByText("celebrated", { exact: true }).waitFor();
    const cards = async () =>
      (await page.request.get(`${house.base}/api/porch`).then((r) => r.json())).cards.filter((c) => c.text?.includes("tidewrack") || JSON.stringify(c).includes("tidewrack"));
    assert.equal((await cards()).length, 1);
    await says("tidewrack", "!birthday");
    await until("asking has its line", async () => (await heard("tidewrack")).filter((t) => /birthday|sings/i.test(t) && !t.includes("to go")).length === 2);
    assert.equal((await cards()).length, 1, "and no second card");

    await missed.getByRole("button", { name: "Celebrate brine_shrimp now" }).click();
    await until("the missed one is celebrated", async () => (await heard("brine_shrimp")).some((t) => /birthday/i.test(t) && !t.includes("to go")));
    await missed.waitFor({ state: "hidden" });
    await says("brine_shrimp", "hello"); // and is greeted as anybody is
    await until("no second celebration", async () => (await heard("brine_shrimp")).length >= 3);
    assert.equal((await heard("brine_shrimp")).filter((t) => /birthday/i.test(t) && !t.includes("to go")).length, 1);
    await page.goto(house.base);
    await page.getByText("birthday", { exact: false }).first().waitFor();
    await clean(page, "the Porch on somebody's day");
  } finally {
    await house.stop();
  }
});

test("a date is added by hand, and how days are read and kept is changed in its sentences", async ({ page, house }) => {
  await page.goto(`${house.base}/dates`);
  await page.getByRole("button", { name: "The order of day and month" }).click();
  await page.getByRole("combobox", { name: "3/9 is" }).selectOption("month");
  await page.getByRole("button", { name: "The order of day and month" }).getByText("9 March").waitFor();
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Expected evenings" }).click();
  await page.getByRole("button", { name: "Sunday", exact: true }).click();
  await page.getByText("As they are set here.").waitFor();
  await clean(page, "the evenings");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Add a date" }).click();
  await page.getByRole("button", { name: "choose somebody…" }).click();
  await page.getByPlaceholder("Whose").fill("kelpwright");
  await page
    .getByRole("option", { name: /kelpwright/ })
    .first()
    .click();
  await page.getByLabel("Their birthday").fill("31 June");
  await page.getByRole("button", { name: "Keep it" }).click();
  await page.getByRole("alert").waitFor();
  await page.getByLabel("Their birthday").fill(inDays(9));
  await page.getByRole("button", { name: "Keep it" }).click();
  await page.getByRole("region", { name: "Next 30 days" }).locator(".next-row", { hasText: "kelpwright" }).first().waitFor();
});
