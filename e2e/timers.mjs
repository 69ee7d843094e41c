// What comes now and then, and the hour ahead.
import assert from "node:assert/strict";
import { AxeBuilder } from "@axe-core/playwright";
import { enter, launch, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

test("a command comes now and then by one press, is said on the street, and the hour ahead says what would not be", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    await page.goto(`${house.base}/courtesies/table`);
    const panel = page.getByRole("region", { name: "Now and then" });
    await panel.getByTestId("outcome").getByText("timers", { exact: false }).waitFor();
    await page.getByRole("button", { name: "boots now and then" }).click();
    const row = panel.locator("[data-timer='boots-now-and-then']");
    await row.waitFor();
    await page.getByTestId("commands").getByText("every 20 min").first().waitFor();

    // Dragged to a slow chat, it would not be said; the sentence says so before anything is in force.
    await panel.getByRole("slider", { name: /Chat’s speed/ }).fill("0.5");
    await panel.getByText("At 0.5 lines a minute", { exact: false }).waitFor();
    await row.getByLabel(/^Lines of/).fill("60");
    await row.getByText("not said").waitFor();
    await row.getByLabel(/^Lines of/).fill("1");
    await row.getByText(/\d said/).waitFor();
    const { violations } = await new AxeBuilder({ page }).analyze();
    assert.deepEqual(
      violations.map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 160)}`),
      [],
    );
    await row.getByLabel(/^Lines of/).press("Tab"); // and leaving it puts it in force
    await until("it is in force", async () => {
      const { courtesies } = await (await page.request.get(`${house.base}/api/courtesies`)).json();
      return courtesies.find((c) => c.id === "boots-now-and-then").rule.timer.lines === 1;
    });

    await house.do("open", { platform: "quayside", title: "Low water", category: "Rock pools" });
    for (const viewer of ["tidewrack", "mossy_mare", "brine_shrimp", "gully_greta", "limpet_lena", "kelpwright"]) {
      for (const text of ["good evening", "what is that one", "look at it go", "again", "that colour", "who named it", "a beadlet", "mine is blue"])
        await house.do("say", { platform: "quayside", viewer, text });
    }
    await until("they have spoken", async () => (await page.request.get(`${house.base}/api/porch`).then((r) => r.json())).guests.length >= 6);
    for (let i = 0; i < 7; i++) {
      // Several share the time: each moment has one of them.
      await house.do("clock", { minutes: 21 });
      await house.do("say", { platform: "quayside", viewer: "tidewrack", text: `still here ${i}` });
    }
    const boots = await (
      await page.request.get(`${house.base}/api/courtesies`)
    )
      .json()
      .then((d) => d.courtesies.find((c) => c.id === "boots").outputs[0].alternatives.map((a) => a.split(/[{.,!]/)[0]));
    await until("it is said on the street", async () => (await house.said("quayside")).some((t) => boots.some((b) => b.length > 5 && t.startsWith(b))));
  } finally {
    await house.stop();
  }
});
