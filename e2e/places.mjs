// What goes where: beads on ropes, deliveries, and a place that breaks and mends.
import assert from "node:assert/strict";
import { AxeBuilder } from "@axe-core/playwright";
import { enter, launch, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

const clean = async (page, what) => {
  const { violations } = await new AxeBuilder({ page }).analyze();
  assert.deepEqual(
    violations.map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 160)}`),
    [],
    `axe on ${what}`,
  );
};

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
    await head.getByText("again in", { exact: false }).waitFor();
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
