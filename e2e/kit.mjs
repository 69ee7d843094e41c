// What every view has alike: it can be read by everybody, what is said in passing waits to be read, and a page that nobody looks at is right when it is seen again.
import assert from "node:assert/strict";
import { looked, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

const places = [
  ["/dates", (page) => page.getByRole("region", { name: "The year" })],
  ["/rehearsal", (page) => page.getByText("nothing is sent", { exact: false })],
  ["/lookback", (page) => page.getByRole("region", { name: "Against the usual" })],
  ["/lookback/over", (page) => page.getByRole("region", { name: "Days and hours" })],
  ["/courtesies/table", (page) => page.getByTestId("outcome").getByText("timers", { exact: false })],
  ["/courtesies", (page) => page.getByRole("region", { name: "Editor" })],
  ["/courtesies/raid-boatload", (page) => page.getByRole("tab", { name: "Who gets it" })],
  ["/courtesies never greeted", (page) => page.getByLabel("Never greeted")],
  ["/courtesies of our own", (page) => page.getByLabel("Name of fill-in 1")],
  ["/courtesies The shelf", (page) => page.getByRole("region", { name: "The shelf" })],
  ["/courtesies What was changed", (page) => page.getByRole("region", { name: "What was changed" })],
  ["/courtesies All settings as", (page) => page.getByLabel("House file to bring in")],
];

test("axe finds nothing on any other view in either theme, and nothing is written smaller than 12 px", async ({ page, house }) => {
  const seen = async (name, at = page) => {
    for (const theme of ["dusk", "linen"]) {
      await at.evaluate((t) => (document.documentElement.dataset.theme = t), theme);
      const { violations } = await looked(at, theme);
      assert.deepEqual(
        violations.map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 160)}`),
        [],
        `${name} in ${theme}`,
      );
    }
    const small = await at.evaluate(() => {
      const out = [];
      for (const e of document.querySelectorAll("body *")) {
        if (!e.checkVisibility() || ![...e.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim())) continue;
        const scale = e instanceof SVGGraphicsElement ? e.getScreenCTM().a : 1;
        const px = parseFloat(getComputedStyle(e).fontSize) * scale;
        if (px < 11.99) out.push(`${px} px: ${e.outerHTML.slice(0, 120)}`);
      }
      return out;
    });
    assert.deepEqual(small, [], name);
  };
  for (const [at, ready] of places) {
    const [path, ...words] = at.split(" ");
    await page.goto(house.base + path);
    if (words.length) await page.getByRole("button", { name: words.join(" ") }).click();
    await ready(page).first().waitFor();
    await seen(at);
    if (at.endsWith("boatload")) {
      await page.getByRole("tab", { name: "Who gets it" }).click();
      await page.getByTestId("ladder").getByText("wins").waitFor();
      await seen("the ladder");
    }
  }
  await page.goto(house.base);
  await page.getByRole("region", { name: "Conversation" }).waitFor();
  await seen("the Porch");
  await page.keyboard.press("Control+k");
  await page.getByPlaceholder("A person, a page").waitFor();
  await seen("find anything");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: /^Member:/ }).click();
  await page.getByLabel("New password").waitFor();
  await seen("the member");
  await page.keyboard.press("Escape");
  const fresh = await page
    .context()
    .browser()
    .newContext({ viewport: { width: 1280, height: 800 } });
  const out = await fresh.newPage();
  await out.goto(house.base);
  await out.getByRole("button", { name: "Sign in" }).waitFor();
  await seen("signing in", out);
  await fresh.close();
});

test("what is said in passing waits while it is read", async ({ page, house }) => {
  await page.goto(`${house.base}/book?text=kelpwright`);
  await page.locator("[data-person]").first().click();
  const note = page.getByRole("region", { name: /^About/ }).getByRole("textbox", { name: "Pronouns" });
  await note.fill("they/them");
  await note.press("Enter");
  await page.getByRole("button", { name: "Undo", exact: true }).click();
  const said = page.getByText("Taken back.");
  await said.hover();
  await page.waitForTimeout(7000); // longer than it stays by itself
  assert.ok(await said.isVisible(), "it went under the pointer");
  await page.mouse.move(5, 5);
  await said.waitFor({ state: "hidden" });
});

test("a page behind another is kept up with the house and is right when it is seen again", async ({ page, house }) => {
  await page.goto(house.base);
  const talk = page.getByTestId("conversation");
  await talk.waitFor();
  await page.evaluate(() => {
    window.behind = true;
    Object.defineProperty(document, "hidden", { get: () => window.behind, configurable: true });
  });
  await house.do("say", { platform: "quayside", viewer: "kelpwright", text: "said while nobody looked" });
  await until("the line has been said in chat", async () => (await house.state()).platforms[0].heard.some((h) => h.text === "said while nobody looked"));
  await page.waitForTimeout(1500);
  assert.equal(await talk.getByText("said while nobody looked").count(), 0, "nothing is drawn behind another page");
  await page.evaluate(() => {
    window.behind = false;
    document.dispatchEvent(new Event("visibilitychange"));
  });
  await talk.getByText("said while nobody looked").waitFor();
});

test("what is typed is tried in one question for the whole draft, not one a key", async ({ page, house }) => {
  await page.goto(`${house.base}/courtesies/thank-tip`);
  await page.getByTestId("preview").locator(".bub").first().waitFor();
  const asked = [];
  page.on("request", (r) => r.url().endsWith("/try") && asked.push(r.postDataJSON()));
  const words = page.getByRole("textbox", { name: "Wording 1" }).first();
  await words.click();
  await page.keyboard.press("End");
  await page.evaluate(() => {
    window.typed = [];
    document.addEventListener("input", () => window.typed.push(performance.now()), true);
  });
  await page.keyboard.type(" with all our heart", { delay: 15 });
  await page.getByTestId("preview").getByText("with all our heart").first().waitFor();
  // Where the machine types slowly, whoever types has paused in between, and each pause is tried.
  const pauses = (await page.evaluate(() => window.typed)).filter((at, i, all) => i > 0 && at - all[i - 1] > 100).length;
  assert.ok(asked.length >= 1 && asked.length <= 4 + pauses, `${asked.length} questions for 19 keys with ${pauses} pauses`);
  assert.ok(
    asked.every((q) => q.outputs.length >= 2),
    "a question is of the whole draft",
  );
  await page.getByRole("button", { name: "Take the draft back" }).click();
  await page.getByText("In force", { exact: true }).waitFor();
});
