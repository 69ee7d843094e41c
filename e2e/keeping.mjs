// Keeping the house: every setting from its screen, doors looked into, the phone at home, the whole house as one file and back.
import assert from "node:assert/strict";
import { browse, empty, enter, looked, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

const settings = async (page, house) => (await (await page.request.get(`${house.base}/api/house`)).json()).settings;
const open = async (page, house, part, heading) => {
  await page.goto(`${house.base}/house${part && `/${part}`}`);
  await page.getByRole("heading", { level: 1, name: heading }).waitFor();
};

test("House is behind the member's lantern, and what is set there is in force and taken back", async ({ page, house }) => {
  await page.goto(house.base);
  await page.getByRole("button", { name: /^Member:/ }).click();
  await page.getByRole("link", { name: "House", exact: true }).click();
  await page.getByRole("heading", { name: "Whose house it is" }).waitFor();
  const called = page.getByLabel("The house is called");
  await called.fill("The kelp house");
  await called.press("Enter");
  await page.locator(".bar .word").getByText("The kelp house").waitFor();
  await called.fill("");
  await called.press("Enter");
  await page.locator(".bar .word").getByText("Vivid Porch").waitFor();
  await page.getByRole("link", { name: /^Pace/ }).click();
  const gap = page.getByLabel(/^At least … s between two lines of the house/);
  const was = await gap.inputValue();
  await gap.fill("7");
  await gap.press("Tab");
  await until("the gap is in force", async () => (await settings(page, house)).pace.gapSeconds === 7);
  await gap.fill("-3");
  await gap.press("Tab");
  await page.getByRole("alert").getByText("use 0 to 86400 seconds").waitFor();
  assert.equal((await settings(page, house)).pace.gapSeconds, 7, "what cannot be is not in force");
  await gap.fill("7");
  await gap.press("Tab");
  await page.getByRole("link", { name: /^Changes/ }).click();
  await page.getByRole("button", { name: "Undo" }).first().click();
  await until("it is taken back", async () => String((await settings(page, house)).pace.gapSeconds) === was);
});

test("what courtesies use says so before it is renamed or taken away, and both come in one version", async ({ page, house }) => {
  await open(page, house, "places", "Where the news goes.");
  const place = page.getByRole("region", { name: "News at The Boathouse" });
  const before = (await (await page.request.get(`${house.base}/api/house`)).json()).version;
  await place.getByRole("button", { name: "Rename" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByText("2 courtesies use it").waitFor(); // the opening, and the week's days
  await dialog.getByLabel("The new name").fill("the-wall");
  await dialog.getByRole("button", { name: "Rename it" }).click();
  await until("the courtesy goes along", async () => {
    const s = await settings(page, house);
    return s.places[0].name === "the-wall" && s.courtesies.filter((c) => c.do.some((o) => o.place === "the-wall")).length === 2;
  });
  assert.equal((await (await page.request.get(`${house.base}/api/house`)).json()).version, before + 1, "one version");
  await place.getByRole("button", { name: "Take away" }).click();
  await page.getByRole("dialog").getByText("goes on without it").waitFor();
  await page.getByRole("dialog").getByRole("button", { name: "Take it away" }).click();
  await place.waitFor({ state: "hidden" });
  await page.getByRole("button", { name: "Undo" }).last().click();
  await place.waitFor();
  await place.getByRole("button", { name: "Rename" }).click();
  await page.getByLabel("The new name").fill("boathouse-news");
  await page.getByRole("button", { name: "Rename it" }).click();
  await until("its old name is back", async () => (await settings(page, house)).places[0].name === "boathouse-news");
  await place.getByRole("button", { name: "Try: post there now" }).click();
  await place.getByText("It arrived.").waitFor();
});

test("a door shows what came in as it came and as it was understood, is paused and opened again", async ({ page, house }) => {
  await open(page, house, "doors", "Where things come in.");
  await page.getByRole("link", { name: "quayside-chat" }).click();
  await house.do("say", { platform: "quayside", viewer: "limpet_lena", text: "is the door open?" });
  const came = page.locator("details", { hasText: "Limpet Lena" }).first();
  await came.waitFor();
  await came.locator("summary").click();
  await came.getByText("PRIVMSG #tidepool_hours :is the door open?", { exact: false }).waitFor();
  await came.getByText('"login":"limpet_lena"', { exact: false }).waitFor();
  await page.getByRole("button", { name: "Pause" }).click();
  await until("the house has left", async () => !(await house.state()).platforms[0].here.includes("porchlamp"));
  await page.getByRole("button", { name: "Open it again" }).click();
  await until("it is back", async () => (await house.state()).platforms[0].here.includes("porchlamp"));
  await page.getByText("A line that the house said to itself came back").waitFor();
  await page.getByRole("button", { name: "Reconnect now" }).click();
  await page.getByText("It is opened anew.").waitFor();
  await page.getByRole("button", { name: "Replace" }).click();
  await page.getByLabel("The password of quayside-chat").fill("wrong-water");
  await page.getByRole("button", { name: "Keep it" }).click();
  await page.getByText("signing in failed", { exact: false }).first().waitFor();
  assert.ok(!(await page.content()).includes("wrong-water"), "a secret is never shown again");
  await page.getByRole("button", { name: "Replace" }).click();
  await page.getByLabel("The password of quayside-chat").fill("low-water-lamp");
  await page.getByRole("button", { name: "Keep it" }).click();
  await page.getByText("It may speak.").waitFor();
});

test("a fitting is added and taken away, privacy and standings are set", async ({ page, house }) => {
  await open(page, house, "fittings", "What the house works beside chat.");
  await page.getByLabel("What the fitting is called").fill("The heron lamp");
  await page.getByRole("button", { name: "Add it" }).click();
  const lamp = page.getByRole("region", { name: "The heron lamp" });
  await lamp.getByLabel("Address").fill("nowhere");
  await lamp.getByLabel("Address").press("Tab");
  await page.getByRole("alert").first().waitFor();
  await lamp.getByLabel("Address").fill("http://lamp.local/light");
  await lamp.getByLabel("Address").press("Tab");
  await until("it leads there", async () => (await settings(page, house)).fittings.some((f) => f.url === "http://lamp.local/light"));
  await lamp.getByRole("button", { name: "Take away" }).click();
  await page.getByRole("button", { name: "Take it away" }).click();
  await lamp.waitFor({ state: "detached" });
  await open(page, house, "privacy", "What is kept, and who may ask.");
  await page.getByLabel("Days", { exact: true }).fill("61");
  await page.getByLabel("Days", { exact: true }).press("Tab");
  await until("chat is kept as long", async () => (await settings(page, house)).privacy.keepDays === 61);
  await open(page, house, "standings", "How people stand.");
  await page.getByLabel("29 February").selectOption("1 March");
  await until("the day is set", async () => (await settings(page, house)).leapDay === "1 March");
  await page.getByLabel("29 February").selectOption("28 February");
  await until("and back", async () => (await settings(page, house)).leapDay === "28 February");
});

test("two who set the same at once see both", async ({ page, house, context }) => {
  await open(page, house, "standings", "How people stand.");
  const other = await context.newPage();
  await open(other, house, "standings", "How people stand.");
  for (const [who, days] of [
    [page, "31"],
    [other, "32"],
  ]) {
    await who.getByLabel("Days", { exact: true }).fill(days); // both on the same version
  }
  await page.bringToFront();
  await page.getByLabel("Days", { exact: true }).press("Tab");
  await until("the first is in force", async () => (await settings(page, house)).standings.awayDays === 31);
  await other.bringToFront();
  await other.getByLabel("Days", { exact: true }).press("Tab");
  await other.getByRole("dialog").getByText("Somebody else changed this meanwhile").waitFor();
  await other
    .getByRole("dialog")
    .getByRole("button", { name: /^Keep theirs|^Theirs/ })
    .click();
  await other.close();
  await page.bringToFront();
  assert.equal((await settings(page, house)).standings.awayDays, 31);
});

test("a phone is signed in at home, and the whole house comes back from one file", async () => {
  const house = await empty();
  const browser = await browse();
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    await enter(page, house.link);
    await page.getByRole("heading", { name: "Welcome. This is your house." }).waitFor();
    await open(page, house, "", "Whose house it is");
    await page.getByLabel("The channel").fill("low_water");
    await page.getByLabel("The channel").press("Enter");
    await until("the channel has its name", async () => (await settings(page, house)).channel === "low_water");

    // At home: a code to scan, over TLS with the house's own certificate.
    await page.getByRole("radio", { name: "In the home network" }).click();
    await page.getByText("In your network the house is at").waitFor();
    await page.getByRole("button", { name: "Show the code for my phone" }).click();
    await page.getByRole("img", { name: "A code for the phone to scan" }).waitFor();
    const token = (await (await page.request.get(`${house.base}/api/session`)).json()).token;
    const { link } = await (await page.request.post(`${house.base}/api/house/phone`, { headers: { "X-Porch-Token": token } })).json();
    assert.match(link, /^https:\/\/[\d.]+:\d+\/enter\//);
    const phone = await (await browser.newContext({ viewport: { width: 390, height: 844 }, ignoreHTTPSErrors: true })).newPage();
    await enter(phone, link);
    await phone.getByRole("navigation", { name: "Views, at the bottom" }).waitFor();
    assert.ok((await phone.context().cookies())[0].secure, "its cookie goes over TLS alone");
    await phone.goto(`${new URL(link).origin}/house/doors`);
    await phone.getByRole("heading", { name: "Where things come in." }).waitFor();
    assert.deepEqual(await phone.evaluate(() => document.documentElement.scrollWidth > innerWidth), false, "it scrolls sideways");

    // The house as one file: with a passphrase, and back over what there is, with a second word.
    await open(page, house, "backup", "The whole house as one file.");
    await page.getByLabel("A passphrase for the backup").fill("three limpets");
    await page.getByRole("button", { name: "Make one now" }).click();
    await page.getByText("by hand").waitFor();
    await open(page, house, "", "Whose house it is");
    await page.getByLabel("The channel").fill("high_water");
    await page.getByLabel("The channel").press("Enter");
    await until("the house goes on", async () => (await settings(page, house)).channel === "high_water");
    await open(page, house, "backup", "The whole house as one file.");
    await page.getByRole("button", { name: "Restore…" }).click();
    const dialog = page.getByRole("dialog");
    await dialog.getByLabel(/Write the channel's name/).fill("wrong");
    await dialog.getByRole("button", { name: "Restore it" }).click();
    await dialog.getByRole("alert").getByText("write the channel's name, high_water").waitFor();
    await dialog.getByLabel(/Write the channel's name/).fill("high_water");
    await dialog.getByRole("button", { name: "Restore it" }).click();
    await dialog.getByRole("alert").getByText("has a passphrase").waitFor();
    await dialog.getByLabel("Its passphrase, if it has one").fill("two limpets");
    await dialog.getByRole("button", { name: "Restore it" }).click();
    await dialog.getByRole("alert").getByText("does not open this backup").waitFor();
    await dialog.getByLabel("Its passphrase, if it has one").fill("three limpets");
    await dialog.getByRole("button", { name: "Restore it" }).click();
    await page.getByRole("button", { name: "Come in" }).click(); // signed out, like everybody
    await open(page, house, "doors", "Where things come in.");
    await page.getByText("was brought back from a backup and holds still").waitFor();
    assert.equal((await settings(page, house)).channel, "low_water");
    await page.getByRole("button", { name: "Go on" }).click();
    await page.getByText("was brought back from a backup").waitFor({ state: "hidden" });
    await open(page, house, "backup", "The whole house as one file.");
    await page.getByText("before a restore").waitFor();
  } finally {
    await browser.close();
    await house.stop();
  }
});

// Between them they hold every part and ground that the others do.
const both = ["house", "house/doors/quayside-chat", "house/places", "house/members", "moving", "moving/place"];

test("axe finds nothing on House and Moving in, in either theme and on a phone", async ({ page, house }) => {
  for (const path of [
    "house",
    "house/doors",
    "house/doors/quayside-chat",
    "house/doors/fernlight",
    "house/places",
    "house/fittings",
    "house/pace",
    "house/standings",
    "house/privacy",
    "house/members",
    "house/changes",
    "house/backup",
    "moving",
    "moving/streamer",
    "moving/place",
  ]) {
    await page.goto(`${house.base}/${path}`);
    await page.getByRole("heading", { level: 1 }).waitFor();
    await page.evaluate(() => document.fonts.ready);
    for (const theme of both.includes(path) ? ["dusk", "linen"] : ["dusk"]) {
      await page.evaluate((t) => (document.documentElement.dataset.theme = t), theme);
      const { violations } = await looked(page, theme);
      assert.deepEqual(
        violations.map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 160)}`),
        [],
        `${path} in ${theme}`,
      );
    }
    const small = await page.evaluate(() =>
      [...document.querySelectorAll("body *")]
        .filter((e) => e.checkVisibility() && [...e.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim()) && parseFloat(getComputedStyle(e).fontSize) < 11.99)
        .map((e) => e.outerHTML.slice(0, 100)),
    );
    assert.deepEqual(small, [], `${path} is written too small`);
    await page.setViewportSize({ width: 390, height: 844 });
    assert.equal(await page.evaluate(() => document.documentElement.scrollWidth > innerWidth), false, `${path} scrolls sideways on a phone`);
    await page.setViewportSize({ width: 1280, height: 800 });
  }
});
