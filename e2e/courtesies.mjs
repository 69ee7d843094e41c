// Composing courtesies, driven as a streamer would.
import assert from "node:assert/strict";
import { AxeBuilder } from "@axe-core/playwright";
import { editing, enter, flip, launch, onAir, patience, until } from "./house.mjs";

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
  await editing(page, "arrival-");
  await page.getByRole("button", { name: "Anyone. Narrow it…" }).click();
  await pick(page, "crews");
  for (const crew of ["Lantern Row", "Low Water League", "Quiet Moths"]) {
    const button = page.getByRole("button", { name: crew, exact: true });
    if ((await button.getAttribute("aria-pressed")) !== "true") await button.click();
  }
  await whole(page).getByText("anyone in all of", { exact: false }).waitFor();
  await page
    .getByTestId("whom")
    .getByText(/^[1-9]\d* (person|people), \d+ of them here in the last ten streams$/)
    .waitFor();
  const first = page.getByRole("textbox", { name: "Wording 1" });
  await first.fill("{name} carries all three lamps!");
  for (const n of [3, 2]) await page.getByRole("button", { name: `Take wording ${n} out` }).click();
  await page.getByText("In force", { exact: true }).waitFor();

  await climb(page, "tern_and_tide");
  await winner(page).getByText("Greet a fellow streamer").waitFor();
  await page.getByTestId("ladder").getByText("is switched off").waitFor();
  await flip(page, /anyone in all of.*: off/);
  await winner(page).getByText("anyone in all of", { exact: false }).waitFor();
  await page.getByTestId("ladder").getByText("gives way to “Greet anyone in all of", { exact: false }).first().waitFor();
  await page.getByTestId("does").getByText("tern_and_tide carries all three lamps!").waitFor();

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
  await flip(page, "Greet a regular: off");
  await page.getByTestId("stopped").getByText("only their order decides", { exact: false }).waitFor();
  await findings(page).getByText("can tie with “Greet a regular”", { exact: false }).waitFor();
  await page.getByRole("button", { name: "And…" }).click();
  await pick(page, "tag");
  await page.getByText("a condition or an output still wants its value", { exact: false }).waitFor();
  await page.getByRole("textbox", { name: "Tag" }).fill("lifts buckets");
  await whole(page).getByText("a regular tagged lifts buckets").waitFor();
  await page.getByTestId("stopped").getByText("only their order decides", { exact: false }).waitFor({ state: "detached" });
  await page.getByRole("button", { name: "Put away" }).click();
  await page.getByRole("heading", { name: "Put away" }).waitFor();
  await page.getByRole("button", { name: "Undo", exact: true }).click();
  await page.getByRole("heading", { name: "Put away" }).waitFor({ state: "detached" });
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
  assert.ok(mine.courtesies.length >= 10 && mine.doors.length === 8);

  const bring = (doc) => panel.getByLabel("House file to bring in").setInputFiles({ name: "marten.json", mimeType: "application/json", buffer: Buffer.from(JSON.stringify(doc)) });
  await bring({ format: 1, turrets: [] });
  await panel.getByRole("alert").getByText("turrets: this house knows no such section", { exact: false }).waitFor();
  const theirs = { ...mine, channel: "pine_marten_hours", zone: "Europe/Oslo" };
  theirs.courtesies = [{ ...mine.courtesies.find((c) => c.id === "greet-long-away"), id: "greet-owl", who: { tag: "owl" } }];
  theirs.courtesies[0].do[0].alternatives = ["Back at pine_marten_hours, {name}!"];
  await bring(theirs);
  const look = panel.getByTestId("house-file");
  await look.getByText("1 field would change").waitFor();
  await look.getByText("Back at tidepool_hours, {name}!", { exact: false }).waitFor();
  await look.getByText("put this channel's name where pine_marten_hours stands").click();
  await look.getByText("Back at pine_marten_hours, {name}!", { exact: false }).waitFor();
  await look.getByText("put this channel's name where pine_marten_hours stands").click();
  await look.getByRole("button", { name: "Take it in" }).click();
  await page.getByRole("button", { name: "Greet anyone tagged owl", exact: true }).waitFor();
  await page.getByRole("button", { name: "Undo" }).last().click();
  await page.getByRole("button", { name: "Greet anyone tagged owl", exact: true }).waitFor({ state: "detached" });
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
  await enter(helper, link);
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

test("a co-host links a chat account and is known by it, and by none once they are no member", async ({ page, house }) => {
  await house.do("open", { platform: "quayside", title: "Low water" });
  await onAir(page, house);
  await house.do("say", { platform: "quayside", viewer: "kelpwright", text: "evening" });
  await page.goto(house.base);
  await page.getByRole("region", { name: "Conversation" }).getByText("kelpwright").last().waitFor();
  await page.getByRole("button", { name: /^Member:/ }).click();
  await page.getByRole("link", { name: "Members" }).click();
  const members = page.getByRole("region", { name: "Members" });
  await members.getByLabel("Name of the new member").fill("Isa Wrack");
  await members.getByLabel("Role of the new member").selectOption("co-host");
  await members.getByRole("button", { name: "Make a link" }).click();
  const link = await members.getByRole("status").locator("code").textContent();
  const theirs = await page
    .context()
    .browser()
    .newContext({ viewport: { width: 1280, height: 800 } });
  const co = await theirs.newPage();
  await enter(co, link);
  await co.getByRole("region", { name: "Conversation" }).waitFor();
  await co.getByRole("button", { name: /^Member:/ }).click();
  await co.getByRole("link", { name: "Your chat account" }).click();
  await co.locator("[data-member]").first().waitFor();
  assert.equal(await co.locator("[data-member]").count(), 1, "a co-host sees themselves alone");
  await co.getByRole("button", { name: "Link one…" }).click();
  await co.keyboard.type("kelpwr");
  await co.getByRole("option", { name: /kelpwright/ }).click();
  await co.getByText("in chat kelpwright, a co-host").waitFor();
  const cohosts = async () => (await (await page.request.get(`${house.base}/api/members`)).json()).filter((m) => m.account).length;
  assert.equal(await cohosts(), 1);
  await page.reload();
  await members.locator("[data-member='Isa Wrack']").getByText("in chat kelpwright, a co-host").waitFor();
  await members.locator("[data-member='Isa Wrack']").getByRole("button", { name: "Remove" }).click();
  await members.locator("[data-member='Isa Wrack']").waitFor({ state: "detached" });
  assert.equal(await cohosts(), 0);
  await theirs.close();
});

const findings = (page) => page.locator("[data-finding]");
/** clean holds the page against axe in both themes. */
const clean = async (page) => {
  const before = await page.evaluate(() => document.documentElement.dataset.theme);
  for (const theme of ["dusk", "linen"]) {
    await page.evaluate((t) => (document.documentElement.dataset.theme = t), theme);
    const { violations } = await new AxeBuilder({ page }).analyze();
    assert.deepEqual(
      violations.map((v) => `${theme}: ${v.id}: ${v.nodes[0].html.slice(0, 160)}`),
      [],
    );
  }
  await page.evaluate((t) => (document.documentElement.dataset.theme = t ?? ""), before);
};
const offer = (page, text) => page.locator(".cm-tooltip-autocomplete li", { hasText: text }).first().click();
const told = async (house, fitting) => (await house.state()).stage.fittings[fitting] ?? [];

test("fill-ins stand as chips: put in by typing a brace, they delete, undo, move and copy as one", async ({ page, house }) => {
  await open(page, house, "/greet-long-away");
  const field = page.getByRole("textbox", { name: "Wording 1", exact: true });
  const raw = page.getByLabel("show wordings as text");
  const text = async () => {
    await raw.check();
    const s = await field.textContent();
    await raw.uncheck();
    return s;
  };
  await field.click();
  await page.keyboard.press("Control+a");
  await page.keyboard.type("Welcome {nam");
  await offer(page, "the person's name");
  await page.keyboard.type(", it is your {stre");
  await offer(page, "streams they were at");
  await page.keyboard.type(" here");
  assert.equal(await field.locator(".cmchip").count(), 2);
  assert.equal(await text(), "Welcome {name}, it is your {streams} here");
  await page.getByTestId("preview").getByText("Welcome kelpwright, it is your 17 here").waitFor();
  await field.click();
  await page.keyboard.press("End");
  for (let i = 0; i < " here".length; i++) await page.keyboard.press("ArrowLeft");
  await page.keyboard.press("Backspace");
  assert.equal(await text(), "Welcome {name}, it is your  here", "a chip goes with one press");
  await field.click();
  await page.keyboard.press("Control+z");
  assert.equal(await text(), "Welcome {name}, it is your {streams} here", "and comes back with one");
  await field.click();
  await page.keyboard.press("Home");
  for (let i = 0; i < "Welcome ".length; i++) await page.keyboard.press("ArrowRight");
  await page.keyboard.press("Shift+ArrowRight");
  await page.keyboard.press("Control+x");
  await page.keyboard.press("Home");
  await page.keyboard.press("Control+v");
  assert.equal(await text(), "{name}Welcome , it is your {streams} here", "one step takes a chip in whole, and it is pasted as plain ICU text");
  await field.locator(".cmchip", { hasText: "name" }).dragTo(field, { targetPosition: { x: 300, y: 18 } });
  await until("the chip was moved by hand", async () => /^Welcome .*\{name\}/.test(await text()));
  await raw.check();
  await field.fill("That makes {streams, plural, one {# evening} other {# evenings}}, {name}.");
  await raw.uncheck();
  await field.locator(".cmcases").click();
  const form = page.getByTestId("cases");
  await until(
    "the words of its first case are ready to be changed",
    async () => (await page.evaluate(() => document.activeElement.getAttribute("aria-label"))) === "streams, for one",
  );
  await form.getByRole("textbox", { name: "streams, any other number" }).fill("# fine evenings");
  await form.getByRole("button", { name: "exactly 0…" }).click();
  await form.getByRole("textbox", { name: "streams, exactly 0" }).fill("none so far");
  await clean(page);
  await page.keyboard.press("Escape");
  assert.equal(await text(), "That makes {streams, plural, one {# evening} =0 {none so far} other {# fine evenings}}, {name}.");
  await page.getByTestId("preview").getByText("That makes 17 fine evenings, kelpwright.").waitFor();
  await page.getByText("In force", { exact: true }).waitFor();
});

test("leaving a field while its draft is on its way brings it into force all the same", async ({ page, house }) => {
  await open(page, house, "/thank-tip");
  let release;
  const held = new Promise((go) => (release = go));
  let onItsWay = false;
  await page.route("**/api/courtesies/thank-tip/draft", async (r) => {
    onItsWay = true;
    await held;
    await r.continue();
  });
  await page.getByRole("textbox", { name: "Wording 1", exact: true }).first().focus();
  await page.keyboard.press("End");
  await page.keyboard.type(" Much obliged.");
  await until("the draft is on its way", async () => onItsWay);
  await page.getByRole("heading", { name: "Try it" }).click(); // the field is left
  release();

  await until("it is in force", async () => {
    const { courtesies } = await (await page.request.get(`${house.base}/api/courtesies`)).json();
    return courtesies.find((c) => c.id === "thank-tip").outputs[0].alternatives[0].endsWith(" Much obliged.");
  });
  await page.getByText("In force", { exact: true }).waitFor();
});

test("follows at once become one line, one card and one lamp, and the set is built by hand", async ({ page, house }) => {
  await open(page, house, "/thank-follow");
  await page.getByRole("button", { name: "Do something more…" }).click();
  await page.locator(".pick", { hasText: "platform: clip" }).getByText("Quayside").waitFor();
  await pick(page, "light a lamp");
  const lamp = page.locator("[data-output='lamp-3']");
  await lamp.getByLabel("Colour").fill("#7fb7b2");
  await until("it is in force", async () => {
    const { courtesies } = await (await page.request.get(`${house.base}/api/courtesies`)).json();
    return courtesies.find((c) => c.id === "thank-follow").rule.outputs[2]?.colour === "#7fb7b2";
  });
  await clean(page);
  await house.do("open", { platform: "fernlight", title: "Low water" });
  await onAir(page, house);
  await page.goto(house.base);
  for (const viewer of ["net_one", "net_two", "net_three", "net_four"]) await house.do("follow", { platform: "fernlight", viewer });
  const coming = page.getByRole("region", { name: "Coming up" });
  await coming.locator(".cu", { hasText: "and 3 more, as one" }).first().waitFor();
  const card = page.getByRole("region", { name: "Cards on the overlay" });
  await card.getByText("4", { exact: false }).first().waitFor();
  await until("one line names all", async () => (await house.said("fernlight")).filter((t) => t.includes("net_one") && t.includes("net_four")).length === 1);
  assert.equal((await told(house, "bench-lamp")).filter((d) => d.colour === "#7fb7b2").length, 1, "the lamp was lit once");
  await card
    .getByRole("button", { name: /^Why the card/ })
    .first()
    .click();
  await page.getByTestId("why").getByText("came in quick succession", { exact: false }).first().waitFor();
  await page.keyboard.press("Escape");
  await clean(page);
});

test("what is asked for by hand goes out as the streamer, slows chat, and is taken back", async ({ page, house }) => {
  await page.goto(house.base);
  await page.getByRole("button", { name: "By hand…" }).click();
  await page.getByRole("button", { name: "Back in a moment" }).click();
  await page.keyboard.press("Escape");
  const slow = async () => (await house.state()).platforms.every((p) => p.modes?.includes("slow chat"));
  await until("both chats are slow", slow);
  await until("the streamer said it", async () => (await house.state()).platforms[0].heard.some((h) => h.nick === "tidepool_hours" && /moment|tank|water/.test(h.text)));
  await page.locator("[data-act]", { hasText: "slow chat" }).first().getByRole("button", { name: "take back" }).click();
  await until("both are as they were", async () => (await house.state()).platforms.every((p) => !p.modes?.length));
  await page.getByRole("button", { name: "By hand…" }).click();
  await page.getByLabel("Platform", { exact: true }).selectOption("fernlight");
  assert.ok(await page.getByLabel("What it does").locator("option", { hasText: "clip (cannot)" }).isDisabled());
  await clean(page);
  await page.keyboard.press("Escape");
});

test("a courtesy is tried for real where it is built, and says what stops it", async ({ page, house }) => {
  await house.do("dark", { on: true });
  await open(page, house, "/thank-subscription");
  await page.getByRole("tab", { name: "Who gets it" }).click();
  await page.getByLabel("Number to try").fill("14");
  await page.getByTestId("does").getByText("14 months", { exact: false }).first().waitFor();
  await page.getByTestId("does").getByText("bench-lamp", { exact: false }).waitFor();
  await page.getByRole("button", { name: "On the street: try this one for real" }).click();
  await until("it is said, marked", async () => (await house.said("quayside")).some((t) => t.startsWith("(a try) ")));
  await findings(page).getByText("the power is off", { exact: false }).first().waitFor({ timeout: 40_000 });
  await page.getByTestId("stopped").getByText("refused the last time: the power is off", { exact: false }).waitFor();
  await house.do("dark", { on: false });
  await page.goto(house.base);
  const waiting = page.getByRole("region", { name: "Waiting for you" });
  await waiting.getByText("the power is off").first().waitFor();
  await waiting.locator(".wt", { hasText: "the power is off" }).getByRole("button", { name: "Done" }).click();
});

test("fill-ins of our own are made once and used by name; the shelf takes a picture and refuses what only seems one", async ({ page, house }) => {
  await open(page, house);
  await page.getByRole("button", { name: /^Fill-ins, emotes and events/ }).click();
  const own = page.getByRole("region", { name: "Fill-ins, emotes and events of our own" });
  await own.getByRole("button", { name: "A new fill-in" }).click();
  await own.getByLabel("Name of fill-in 5").fill("luck");
  await own.getByLabel("To", { exact: true }).last().fill("6");
  await until("it is in force", async () => {
    const { own } = await (await page.request.get(`${house.base}/api/courtesies`)).json();
    return own.fillIns.some((f) => f.name === "luck" && f.to === 6);
  });
  await own.getByLabel("Name of fill-in 5").fill("name");
  await own.getByText("is there already", { exact: false }).waitFor();
  await own.getByLabel("Name of fill-in 5").fill("luck");
  await clean(page);
  await page.getByRole("button", { name: /^The shelf/ }).click();
  const shelf = page.getByRole("region", { name: "The shelf" });
  const put = (name, mimeType, text, encoding) => shelf.getByLabel("Files for the shelf").setInputFiles({ name, mimeType, buffer: Buffer.from(text, encoding) });
  await put("harm.svg", "image/svg+xml", "<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>");
  await shelf.getByRole("alert").getByText("holds <script>", { exact: false }).waitFor();
  await put("dot.png", "image/png", "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==", "base64");
  await shelf.locator("[data-medium='dot.png']").getByText("1 × 1", { exact: false }).waitFor();
  await clean(page);
  await open(page, house, "/thank-tip");
  const card = page.locator("[data-output='card']");
  await card.getByRole("button", { name: /^How output/ }).click();
  await card.getByRole("button", { name: /^Picture/ }).click();
  await page.getByRole("option", { name: "dot.png" }).click();
  await card.getByText("dot.png · for 8 s", { exact: false }).waitFor();
  await clean(page);
  await page.locator("[data-output='chat']").getByRole("textbox", { name: "Wording 1" }).click();
  await page.keyboard.press("Control+a");
  await page.keyboard.type("Thank you, {name}! Luck of the tide: {luck");
  await offer(page, "a dice, 1 to 6");
  await page
    .getByTestId("preview")
    .getByText(/Luck of the tide: 10|Luck of the tide: 3/)
    .first()
    .waitFor();
  await page.getByText("In force", { exact: true }).waitFor();
  await house.do("open", { platform: "quayside", title: "Low water" });
  await onAir(page, house);
  await house.do("tip", { platform: "quayside", viewer: "saltpan_pip", viewers: 5 });
  await until("the dice fell", async () => (await house.said("quayside")).some((t) => t.includes("saltpan_pip")));
  await page.goto(house.base);
  await page.locator(".ocard img[src$='dot.png']").waitFor();
});

test("one browser of a member is signed out and the others stay", async ({ page, house }) => {
  await page.goto(house.base);
  await page.getByRole("button", { name: /^Member:/ }).click();
  await page.getByRole("link", { name: "Members" }).click();
  const members = page.getByRole("region", { name: "Members" });
  await members.getByLabel("Name of the new member").fill("Wil Rushes");
  await members.getByRole("button", { name: "Make a link" }).click();
  const link = await members.getByRole("status").locator("code").textContent();
  const theirs = await page.context().browser().newContext();
  const helper = await theirs.newPage();
  await enter(helper, link);
  await helper.getByRole("region", { name: "Conversation" }).waitFor();
  await page.reload();
  const row = members.locator("[data-member='Wil Rushes']");
  await row.getByRole("button", { name: "sign it out" }).click();
  await row.getByText("not signed in anywhere").waitFor();
  assert.equal((await helper.request.get(`${house.base}/api/porch`)).status(), 401);
  await members.getByText("this browser").first().waitFor();
  await theirs.close();
});

test("courtesies kept together are shown and switched together", async ({ page, house }) => {
  for (const id of ["thank-gifts", "thank-tip"]) {
    await open(page, house, `/${id}`);
    await page.getByRole("button", { name: "More about when" }).click();
    await page.getByLabel("Group", { exact: true }).fill("the tin");
    await until("it is kept", async () => {
      const { courtesies } = await (await page.request.get(`${house.base}/api/courtesies`)).json();
      return courtesies.find((c) => c.id === id).rule.group === "the tin";
    });
  }
  await page.getByRole("group", { name: "Groups" }).getByRole("button", { name: "the tin" }).click();
  await page.getByRole("switch", { name: "Greet a newcomer: on" }).waitFor({ state: "hidden" });
  for (const what of ["gifts", "a tip"]) await page.getByRole("switch", { name: `Thank for ${what}: on` }).waitFor();
  await page.getByRole("button", { name: "all off" }).click();
  for (const what of ["gifts", "a tip"]) await page.getByRole("switch", { name: `Thank for ${what}: off` }).waitFor();
  await page.getByRole("button", { name: "all on" }).click();
  for (const what of ["gifts", "a tip"]) await page.getByRole("switch", { name: `Thank for ${what}: on` }).waitFor();
  // The switches show at once; they act when the house has heard of them, the last press last.
  await until("both are on", async () => {
    const { courtesies } = await (await page.request.get(`${house.base}/api/courtesies`)).json();
    return courtesies.filter((c) => c.rule.group === "the tin").every((c) => c.on);
  });
});

test("an event of our own is raised by one courtesy and heard by another; a circle is refused", async ({ page, house }) => {
  await open(page, house, "/thank-tip");
  await page.getByRole("button", { name: "Do something more…" }).click();
  await pick(page, "raise an event of our own");
  await page.getByText("a condition or an output still wants its value", { exact: false }).waitFor();
  await page.getByLabel("Name of the event").fill("tin.rattled");
  const raise = page.locator("[data-output^='raise']");
  await raise.getByLabel("New field").fill("giver");
  await raise.getByRole("button", { name: "Add the field" }).click();
  await page.getByText("In force", { exact: true }).waitFor();
  await page.getByRole("button", { name: "New", exact: true }).click();
  await pick(page, "another service's event");
  await editing(page, "other-");
  await page.getByRole("button", { name: "Anyone. Narrow it…" }).click();
  await page.getByPlaceholder("A condition").fill("event");
  await pick(page, "event");
  await page.getByRole("textbox", { name: "event", exact: true }).fill("tin.rattled");
  await page.getByRole("textbox", { name: "Wording 1" }).first().click();
  await page.keyboard.press("Control+a");
  await page.keyboard.type("The tin says thank you{");
  await offer(page, "what the event brings as giver");
  for (const n of [3, 2]) await page.getByRole("button", { name: `Take wording ${n} out` }).click();
  await page.getByText("In force", { exact: true }).waitFor();
  await flip(page, /another service's event.*: off/);
  await house.do("open", { platform: "quayside", title: "Low water" });
  await onAir(page, house);
  await house.do("tip", { platform: "quayside", viewer: "brine_shrimp", viewers: 3 });
  await until("the tin speaks", async () => (await house.said("quayside")).some((t) => t.startsWith("The tin says thank you") && t.includes("brine_shrimp")));
  await page.getByRole("button", { name: "Do something more…" }).click();
  await pick(page, "raise an event of our own");
  await page.getByLabel("Name of the event").fill("tin.rattled");
  await page.getByText("goes in a circle", { exact: false }).waitFor();
});

test("two who reword one line at once see both sides, and nothing is overwritten without a word", async ({ page, house }) => {
  await page.goto(house.base);
  await page.getByRole("button", { name: /^Member:/ }).click();
  await page.getByRole("link", { name: "Members" }).click();
  const members = page.getByRole("region", { name: "Members" });
  await members.getByLabel("Name of the new member").fill("Rill Marsh");
  await members.getByLabel("Role of the new member").selectOption("co-host");
  await members.getByRole("button", { name: "Make a link" }).click();
  const link = await members.getByRole("status").locator("code").textContent();
  const context = await page
    .context()
    .browser()
    .newContext({ viewport: { width: 1280, height: 800 } });
  const theirs = await context.newPage();
  await enter(theirs, link);
  const end = async (p, words) => {
    await p.getByRole("textbox", { name: "Wording 1" }).first().click();
    await p.keyboard.press("End");
    await p.keyboard.type(words);
    await p.getByRole("heading", { name: "Try it" }).click();
  };
  await open(page, house, "/thank-follow");
  await open(theirs, house, "/thank-follow");
  await theirs.route("**/api/courtesies", (r) => (r.request().method() === "GET" ? r.abort() : r.continue())); // their page does not hear of it
  await end(page, " Mind the step.");
  await page.getByText("In force", { exact: true }).waitFor();
  await end(theirs, " Come in, come in.");
  const both = theirs.getByRole("dialog", { name: "Somebody else changed this meanwhile" });
  await both.getByText("Mind the step.").waitFor();
  await both.getByText("Come in, come in.").waitFor();
  await theirs.unroute("**/api/courtesies");
  await both.getByRole("button", { name: "Take mine" }).click();
  await theirs.getByText("In force", { exact: true }).waitFor();
  await page.reload();
  await page.getByText("Come in, come in.").first().waitFor();
  await context.close();
});

test("a whole house goes out with its shelf and comes into an empty one", async ({ page, house }) => {
  await open(page, house);
  await page.getByRole("button", { name: "All settings as one file" }).click();
  const panel = (p) => p.getByRole("region", { name: "The house file" });
  await panel(page).getByLabel("with pictures, sounds and films, as a ZIP").check();
  const [download] = await Promise.all([page.waitForEvent("download"), panel(page).getByRole("link", { name: "The whole house" }).click()]);
  const chunks = [];
  for await (const c of await download.createReadStream()) chunks.push(c);
  const other = await launch({ channel: `empty-${Date.now()}` });
  const context = await page
    .context()
    .browser()
    .newContext({ viewport: { width: 1280, height: 800 } });
  context.setDefaultTimeout(patience);
  try {
    const theirs = await context.newPage();
    await enter(theirs, other.link);
    await theirs.goto(`${other.base}/courtesies`);
    await theirs.getByRole("button", { name: "All settings as one file" }).click();
    const bring = (name, mimeType, buffer) => panel(theirs).getByLabel("House file to bring in").setInputFiles({ name, mimeType, buffer });
    await bring("nothing.json", "application/json", Buffer.from(JSON.stringify({ format: 1, courtesies: [] })));
    await theirs.getByLabel("what the file does not hold goes").check();
    await theirs.getByRole("button", { name: "Take it in" }).click();
    await theirs.getByText("0, along the evening").waitFor();
    await bring("house.zip", "application/zip", Buffer.concat(chunks));
    await theirs.getByTestId("house-file").getByText("would change").waitFor();
    await theirs.getByTestId("house-file").getByText("dot.png, picture of 1 kB: new on the shelf").waitFor();
    const shelved = async () => (await (await theirs.request.get(`${other.base}/api/media`)).json()).items.map((m) => m.name);
    assert.ok(!(await shelved()).includes("dot.png"), "looking puts nothing on the shelf");
    await theirs.getByRole("button", { name: "Take it in" }).click();
    const list = async (p, h) => (await (await p.request.get(`${h.base}/api/courtesies`)).json()).courtesies.map((c) => c.sentence.map((x) => x.text).join(""));
    const mine = await list(page, house);
    await until("all courtesies are there", async () => (await list(theirs, other)).join() === mine.join());
    assert.ok((await shelved()).includes("dot.png"), "its picture came along");
  } finally {
    await context.close();
    await other.stop();
  }
});
