// What comes now and then, and the hour ahead.
import assert from "node:assert/strict";
import { AxeBuilder } from "@axe-core/playwright";
import { enter, launch, onAir, until } from "./house.mjs";

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
    await row.locator(".come.held").first().hover();
    await page.getByRole("tooltip").getByText("timers are held", { exact: false }).first().waitFor(); // and why not
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

    const live = () =>
      page.request
        .get(`${house.base}/api/porch`)
        .then((r) => r.json())
        .then((p) => ({ ...p.live, guests: p.guests.length }));
    await until("the house is in chat", async () => (await house.state()).platforms[0].here.includes("porchlamp"));
    await house.do("open", { platform: "quayside", title: "Low water", category: "Rock pools" });
    await onAir(page, house);
    for (const viewer of ["tidewrack", "mossy_mare", "brine_shrimp", "gully_greta", "limpet_lena", "kelpwright"]) {
      for (const text of ["good evening", "what is that one", "look at it go", "again", "that colour", "who named it", "a beadlet", "mine is blue"])
        await house.do("say", { platform: "quayside", viewer, text });
    }
    await until("they have spoken", async () => (await live()).guests >= 6);
    const { outputs } = await (await page.request.get(`${house.base}/api/courtesies`)).json().then((d) => d.courtesies.find((c) => c.id === "boots"));
    const boots = outputs[0].alternatives.map((a) => a.split(/[{.,!]/)[0]).filter((b) => b.length > 5);
    let round = 0;
    await until(
      "it is said on the street",
      async () => {
        // Several share the time, and each moment has one of them: the clock goes on when that one has been said.
        const before = (await house.said("quayside")).length;
        const { people } = await live();
        await house.do("say", { platform: "quayside", viewer: "tidewrack", text: `still here ${round++}` });
        await until("it is heard before the time goes on", async () => (await live()).people > people);
        await house.do("clock", { minutes: 21 });
        await until("one of them is said", async () => (await house.said("quayside")).length > before);
        return (await house.said("quayside")).some((t) => boots.some((b) => t.startsWith(b)));
      },
      60_000,
    );
  } finally {
    await house.stop();
  }
});

test("a phone has pegs of one's own choosing: a press says done or why not, a slip asks for nothing twice, and their order is dragged", async ({ page }) => {
  const house = await launch();
  try {
    await page.setViewportSize({ width: 390, height: 844 });
    await enter(page, house.link);
    await page.getByRole("tab", { name: "To hand" }).click();
    const board = page.getByRole("region", { name: "To hand" });
    const peg = (id) => board.locator(`[data-peg="${id}"]`);
    await peg("raider").click();
    await peg("raider").getByText("nobody raided in this stream").waitFor(); // why not, where the thumb is
    await peg("stream").getByText("The stream is on").click();
    await peg("stream").getByText("A new stream begins").waitFor();

    await house.do("raid", { platform: "quayside", viewer: "kelpwright", viewers: 12 });
    await until("the last raider is shouted out", async () => {
      await peg("raider").click();
      return peg("raider")
        .getByText("comes up in five seconds")
        .waitFor({ timeout: 1000 })
        .then(
          () => true,
          () => false, // the raid has not come yet
        );
    });
    await peg("hush").click();
    await peg("hush").getByText("Lift hush").waitFor();
    await peg("hush").click();
    await peg("hush").getByText("Hush", { exact: true }).waitFor();

    const order = () => board.locator("[data-peg]").evaluateAll((all) => all.map((e) => e.dataset.peg));
    await board.getByRole("button", { name: "Arrange" }).click();
    const was = await order();
    const from = await peg(was[was.length - 1]).boundingBox();
    const to = await peg(was[0]).boundingBox();
    await page.mouse.move(from.x + 60, from.y + from.height / 2);
    await page.mouse.down();
    await page.mouse.move(from.x + 60, from.y - 20, { steps: 5 });
    await page.mouse.move(to.x + 60, to.y + 4, { steps: 10 });
    await page.mouse.up();
    const want = [was[was.length - 1], ...was.slice(0, -1)];
    await until("it hangs first", async () => (await order()).join() === want.join());
    await board.getByRole("button", { name: "Take A new stream begins down" }).click();
    await board.getByRole("button", { name: "Shout-outs once more" }).click();
    await until("it is kept", async () => (await page.request.get(`${house.base}/api/pegs`).then((r) => r.json())).pegs.at(-1) === "shout-outs");
    const { violations } = await new AxeBuilder({ page }).analyze();
    assert.deepEqual(
      violations.map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 160)}`),
      [],
    );
    await page.reload(); // it is the member's own, on whatever they hold
    await page.getByRole("tab", { name: "To hand" }).click();
    await peg("shout-outs").waitFor();
    assert.equal(await peg("stream").count(), 0);

    // Two presses of one thumb are one deed.
    const asked = [];
    page.on("request", (r) => r.url().endsWith("/api/desk/rearm") && asked.push(r.url()));
    await peg("shout-outs").dblclick();
    await peg("shout-outs").getByText("Everybody may be shouted out anew.").waitFor();
    assert.equal(asked.length, 1);
    for (const b of await board.locator("[data-peg]").all()) {
      const box = await b.boundingBox();
      assert.ok(box.width > 340 && box.height >= 56 && box.y + box.height <= 844, `a peg is full-width and within reach: ${JSON.stringify(box)}`);
    }
  } finally {
    await house.stop();
  }
});
