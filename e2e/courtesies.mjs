// Composing courtesies, driven as a streamer would.
import assert from "node:assert/strict";
import { AxeBuilder } from "@axe-core/playwright";
import { until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

const pick = (page, text) => page.locator(".pick", { hasText: text }).first().click();
const open = async (page, house, id = "") => {
  await page.goto(`${house.base}/courtesies${id}`);
  await page.getByRole("region", { name: "Editor" }).waitFor();
};
const whole = (page) => page.locator(".sent");
const climb = async (page, name) => {
  await page.getByRole("tab", { name: "Who gets it" }).click();
  await page.getByTestId("ladder").getByRole("button").first().click();
  await page.getByPlaceholder("Who comes").fill(name);
  await pick(page, name);
};
const winner = (page) => page.locator("[data-testid=ladder] [data-won=true]");

test("a courtesy for a combination of crews is made from nothing, wins in the ladder, and happens on the Porch", async ({ page, house }) => {
  await open(page, house);
  await page.getByRole("button", { name: "New", exact: true }).click();
  await pick(page, "someone's first line");
  await page.getByRole("button", { name: "Anyone. Narrow it…" }).click();
  await pick(page, "crews");
  for (const crew of ["Lantern Row", "Low Water League", "Quiet Moths"]) {
    const button = page.getByRole("button", { name: crew, exact: true });
    if ((await button.getAttribute("aria-pressed")) !== "true") await button.click();
  }
  await whole(page).getByText("anyone in all of", { exact: false }).waitFor();
  const first = page.getByRole("textbox", { name: "Wording 1" });
  await first.fill("{name} carries all three lamps!");
  for (const n of [3, 2]) await page.getByRole("button", { name: `Take wording ${n} out` }).click();
  await page.getByText("In force", { exact: true }).waitFor();

  await climb(page, "tern_and_tide");
  await winner(page).getByText("Greet a fellow streamer").waitFor();
  await page.getByTestId("ladder").getByText("is switched off").waitFor();
  await page.getByRole("switch", { name: /anyone in all of.*: off/ }).click();
  await winner(page).getByText("anyone in all of", { exact: false }).waitFor();
  await page.getByTestId("ladder").getByText("gives way to “Greet anyone in all of", { exact: false }).first().waitFor();

  const { violations } = await new AxeBuilder({ page }).analyze();
  assert.deepEqual(
    violations.map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 160)}`),
    [],
  );

  const street = await house.state();
  if (!street.platforms.find((p) => p.name === "fernlight").live) await house.do("open", { platform: "fernlight", title: "Low water" });
  await until(
    "the stream is on",
    async () => (await page.getByRole("region", { name: "Editor" }).count()) > 0 && (await (await page.request.get(`${house.base}/api/porch`)).json()).live,
  );
  await house.do("say", { platform: "fernlight", viewer: "tern_and_tide", text: "low water at last" });
  await until("it is said", async () => (await house.said("fernlight")).includes("tern_and_tide carries all three lamps!"));
  await page.goto(house.base);
  const line = page.locator(".hs", { hasText: "carries all three lamps!" });
  await line.getByRole("button", { name: "why?" }).click();
  await line.getByText("is in all of", { exact: false }).first().waitFor();
});

test("the number line shows which band wins, and what is not thanked at all", async ({ page, house }) => {
  await open(page, house, "/raid-boatload");
  await page.getByRole("tab", { name: "Who gets it" }).click();
  await winner(page).getByText("Thank a raid of 5 to 59").waitFor();
  await page.getByLabel("Number to try").fill("60");
  await winner(page).getByText("Thank a raid of 60 or more").waitFor();
  await page.getByRole("img", { name: /0 to 4: Pass over a raid.*; 5 to 59: Thank.*; 60 and more: Thank/ }).waitFor();
  await page.getByLabel("At most").fill("40");
  await whole(page).getByText("5 to 40").waitFor();
  await page.getByRole("img", { name: /41 to 59: nothing/ }).waitFor();
  await page.getByRole("button", { name: "changed", exact: false }).click();
  await page.getByRole("button", { name: "Undo", exact: true }).first().click();
  await page.getByText("undone: when and who of raid-boatload").waitFor();
  await open(page, house, "/raid-boatload");
  await whole(page).getByText("5 to 59").waitFor();
});

test("what cannot be meant stays out of force and says why; a copy starts switched off and is put away", async ({ page, house }) => {
  await open(page, house, "/greet-regular");
  await page.getByRole("button", { name: "Copy" }).click();
  await page.getByRole("switch", { name: "Greet a regular: off" }).waitFor();
  await page.getByText("can tie", { exact: false }).waitFor({ state: "detached" });
  await page.getByRole("switch", { name: "Greet a regular: off" }).click();
  await page.getByText("only their order decides", { exact: false }).waitFor();
  await page.getByRole("button", { name: "And…" }).click();
  await pick(page, "tag");
  await page.getByText("a condition still wants its value", { exact: false }).waitFor();
  await page.getByRole("textbox", { name: "Tag" }).fill("lifts buckets");
  await whole(page).getByText("a regular tagged lifts buckets").waitFor();
  await page.getByText("only their order decides", { exact: false }).waitFor({ state: "detached" });
  await page.getByRole("button", { name: "Put away" }).click();
  await page.getByRole("heading", { name: "Put away" }).waitFor();
  await page.getByRole("button", { name: "Bring back" }).click();
  await page.getByRole("heading", { name: "Put away" }).waitFor({ state: "detached" });
});

test("a house file goes out, and another channel's comes in with this channel's name, and is taken back", async ({ page, house }) => {
  await open(page, house);
  await page.getByRole("button", { name: "All settings as one file" }).click();
  const panel = page.getByRole("region", { name: "The house file" });
  const [download] = await Promise.all([page.waitForEvent("download"), panel.getByRole("link", { name: "The whole house" }).click()]);
  const chunks = [];
  for await (const c of await download.createReadStream()) chunks.push(c);
  const mine = JSON.parse(Buffer.concat(chunks).toString());
  assert.ok(mine.courtesies.length >= 10 && mine.doors.length === 4);

  const bring = (doc) => panel.getByLabel("House file to bring in").setInputFiles({ name: "marten.json", mimeType: "application/json", buffer: Buffer.from(JSON.stringify(doc)) });
  await bring({ format: 1, overlays: [] });
  await panel.getByRole("alert").getByText("overlays: this house knows no such section", { exact: false }).waitFor();
  const theirs = { ...mine, channel: "pine_marten_hours", zone: "Europe/Oslo" };
  theirs.courtesies = [{ ...mine.courtesies.find((c) => c.id === "greet-long-away"), id: "greet-owl", who: { tag: "owl" } }];
  theirs.courtesies[0].do[0].alternatives = ["Back at pine_marten_hours, {name}!"];
  await bring(theirs);
  const look = panel.getByTestId("house-file");
  await look.getByText("1 fields would change").waitFor();
  await look.getByText("Back at tidepool_hours, {name}!", { exact: false }).waitFor();
  await look.getByText("put this channel's name where pine_marten_hours stands").click();
  await look.getByText("Back at pine_marten_hours, {name}!", { exact: false }).waitFor();
  await look.getByText("put this channel's name where pine_marten_hours stands").click();
  await look.getByRole("button", { name: "Take it in" }).click();
  await page.getByRole("button", { name: "Greet anyone tagged owl" }).waitFor();
  await page.getByRole("button", { name: "Undo" }).last().click();
  await page.getByRole("button", { name: "Greet anyone tagged owl" }).waitFor({ state: "detached" });
});

test("a helper is invited, has the Porch alone, and is removed", async ({ page, house }) => {
  await page.goto(house.base);
  await page.getByRole("button", { name: /^Member:/ }).click();
  await page.getByRole("link", { name: "Members" }).click();
  const members = page.getByRole("region", { name: "Members" });
  await members.getByLabel("Name of the new member").fill("Fen Osier");
  await members.getByRole("button", { name: "Make a link" }).click();
  const link = await members.getByRole("status").locator("code").textContent();
  const { violations } = await new AxeBuilder({ page }).analyze();
  assert.deepEqual(
    violations.map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 160)}`),
    [],
  );

  const theirs = await page
    .context()
    .browser()
    .newContext({ viewport: { width: 1280, height: 800 } });
  const helper = await theirs.newPage();
  await helper.goto(link);
  await helper.getByRole("region", { name: "Conversation" }).waitFor();
  assert.deepEqual(await helper.getByRole("navigation", { name: "Views", exact: true }).getByRole("link").allTextContents(), ["Porch"]);
  await helper.goto(`${house.base}/courtesies`);
  await helper.getByRole("region", { name: "Conversation" }).waitFor(); // sent back to the Porch
  assert.equal((await helper.request.get(`${house.base}/api/courtesies`)).status(), 403);

  await members.locator("[data-member='Fen Osier']").getByRole("button", { name: "Remove" }).click();
  await members.locator("[data-member='Fen Osier']").waitFor({ state: "detached" });
  assert.equal((await helper.request.get(`${house.base}/api/porch`)).status(), 401);
  await theirs.close();
});
