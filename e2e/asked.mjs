// Commands, hellos and shout-outs, driven as a streamer would.
import assert from "node:assert/strict";
import { asked, clean, editing, flip, onAir, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

test("a command is made from nothing in four actions, and answered on the street within a minute", async ({ page, house }) => {
  const began = Date.now();
  await page.goto(`${house.base}/courtesies`);
  await page.getByRole("button", { name: "New", exact: true }).click();
  await page.getByLabel("A word", { exact: true }).fill("ebb");
  await page.getByLabel("An answer").fill("Lowest at ten past nine");
  await page.keyboard.press("Enter");
  await editing(page, "ebb");
  await page.getByText("In force", { exact: true }).waitFor();
  await page.getByText("Answer ebb.").waitFor();
  await house.do("say", { platform: "quayside", viewer: "sandhopper9", text: "!ebb" });
  await until("it is answered", async () => (await house.said("quayside")).some((t) => t.includes("Lowest at ten past nine")));
  assert.ok(Date.now() - began < 60_000);

  // Heard in a sentence too, and counted.
  await page.getByLabel("Words in a sentence").fill("when is the ebb");
  await page.keyboard.press("Enter");
  await page.getByText("Answer ebb or “when is the ebb”.").waitFor();
  await house.do("say", { platform: "fernlight", viewer: "mossy_mare", text: "so, WHEN is the ebb?" });
  await until("it is answered there", async () => (await house.said("fernlight")).some((t) => t.includes("Lowest at ten past nine")));
  await page.reload();
  await page.getByRole("button", { name: "More about when" }).click();
  await page.getByText("2 tonight", { exact: false }).waitFor();
  await page.getByLabel("How often it was asked for").fill("41");
  await page.keyboard.press("Enter");
  await page.getByText("Counted 41 times").waitFor();
});

test("words that two commands are asked by are marked at the word, while they are typed", async ({ page, house }) => {
  await page.goto(`${house.base}/courtesies`);
  await page.getByRole("button", { name: "New", exact: true }).click();
  await page.getByLabel("A word", { exact: true }).fill("!creature");
  await page.getByText("“Answer !creature or !lens” is asked by it too", { exact: false }).waitFor();
  await page.getByLabel("A word", { exact: true }).fill("seal");
  await page.getByLabel("An answer").fill("On the outer rocks");
  await page.keyboard.press("Enter");
  await editing(page, "seal");
  const names = page.getByLabel("Names", { exact: true });
  await names.fill("!LENS");
  await page.getByText("is asked by it too; the one that stands first answers", { exact: false }).waitFor();
  assert.equal(await names.getAttribute("aria-invalid"), "true");
  await names.fill("lenses");
  await page.getByText("is asked by it too", { exact: false }).waitFor({ state: "hidden" });
  await names.fill("/ebb");
  await page.getByText("begins like what platforms keep for themselves", { exact: false }).waitFor();
  await names.fill("");
  await clean(page, "a command");
});

test("commands stand as a table, are changed several at once, come in as a list and go out again", async ({ page, house }) => {
  await page.goto(`${house.base}/courtesies`);
  await page.getByRole("button", { name: "as a table" }).click();
  const table = page.getByTestId("commands");
  await table.waitFor();
  await page.getByRole("button", { name: "Bring in…" }).click();
  await page.getByLabel("A list of commands").fill("!depth  Three metres at the jetty, $(user)\n!moths - $(weather here) tonight\nlens: x\nnothing");
  await page.getByRole("button", { name: "See what it holds" }).click();
  const rows = page.getByTestId("commands-in");
  await rows.getByText("is taken for “name”", { exact: false }).waitFor();
  await rows.getByText("is none of our fill-ins", { exact: false }).waitFor();
  await rows.getByText("another courtesy is asked by “lens”", { exact: false }).waitFor();
  await clean(page, "a list of commands");
  await page.getByRole("button", { name: "Take 2 in" }).click();
  await page.getByText("2 taken in, 2 not").waitFor();
  await table.getByText("Three metres at the jetty,", { exact: false }).waitFor();
  await page.getByLabel("Choose !depth").check();
  await page.getByLabel("Choose !creature").check();
  await page.getByRole("button", { name: "Cooldown…" }).click();
  await page.getByLabel("Seconds for all").fill("90");
  await page.keyboard.press("Enter");
  await until("both have it", async () => (await table.getByRole("button", { name: "90 s" }).count()) === 2);

  // A row is changed where it stands: what it answers, with an emoji, what it is asked by, and who may ask.
  await page.getByRole("button", { name: "Answer of !depth" }).click();
  const answer = page.getByRole("textbox", { name: "Its answer" });
  await answer.press("Control+End");
  await page.keyboard.type(" :octop");
  await page.getByRole("option", { name: "octopus" }).click();
  await page.keyboard.press("Enter");
  await table.getByText("🐙", { exact: false }).waitFor();
  await page.getByRole("button", { name: "Answer of boots" }).click();
  await clean(page, "an answer in place");
  await page.getByRole("textbox", { name: "Its answer" }).press("Control+End");
  await page.keyboard.type(" Never mind");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "What boots is asked by" }).click();
  await page.getByRole("textbox", { name: "Names" }).fill("scope");
  await page.getByText("is asked by it too", { exact: false }).waitFor();
  await page.getByRole("textbox", { name: "Names" }).fill("wellies");
  await page.keyboard.press("Enter");
  await table.getByText("wellies").waitFor();
  await page.keyboard.press("Escape");
  assert.equal(await table.getByText("Never mind").count(), 0, "what was begun and left with Escape is not kept");
  await page.getByLabel("Choose shore").check();
  await page.getByLabel("Choose boots").check();
  await page.getByRole("button", { name: "Who may ask…" }).click();
  await page.getByRole("button", { name: "Anyone. Narrow it…" }).click();
  await page.getByRole("option", { name: "trusted" }).click();
  await page.getByRole("button", { name: "So be it" }).click();
  await until(
    "both are for the trusted",
    async () =>
      (await table
        .getByRole("button", { name: /Who may ask for (shore|boots)/ })
        .filter({ hasText: "trusted" })
        .count()) === 2,
  );

  await page.getByLabel("Find a command").fill("jetty");
  await until("one is found", async () => (await table.getByRole("row").count()) === 2);
  await clean(page, "the table of commands");
  const file = await page.request.get(`${house.base}/api/commands?format=csv`);
  assert.match(await file.text(), /!depth,,"Three metres at the jetty, \{name\} 🐙",,,90/);
  const listed = await page.request.get(`${house.base}/asks`);
  assert.match(await listed.text(), /!depth/);
  assert.doesNotMatch(await listed.text(), /!moths/);
});

test("somebody is shouted out by key and by chat, in words of their own from their sheet", async ({ page, house }) => {
  await house.do("open", { platform: "quayside", title: "Brittle stars", category: "Rock pools" });
  await onAir(page, house);
  await house.do("say", { platform: "quayside", viewer: "kelpwright", text: "evening" });
  await page.goto(`${house.base}/book?text=kelpwright`);
  await page.locator("[role=row][data-person]", { hasText: "kelpwright" }).first().click();
  const sheet = page.getByRole("region", { name: "About kelpwright" });
  await sheet.getByRole("button", { name: "Own words" }).click();
  await page.getByRole("option", { name: "when they are shouted out" }).click();
  await editing(page, "arrival-");
  await page.locator(".sent").getByText("kelpwright", { exact: false }).waitFor();
  const first = page.getByRole("textbox", { name: "Wording 1" });
  await first.fill("Our own kelpwright: mind the cold frame!");
  for (const n of [3, 2]) await page.getByRole("button", { name: `Take wording ${n} out` }).click();
  await page.getByText("In force", { exact: true }).waitFor();
  assert.equal(await first.textContent(), "Our own kelpwright: mind the cold frame!", "what was taken out took nothing along");
  await flip(page, /kelpwright.*: off/);
  await page.getByRole("switch", { name: /kelpwright.*: on/ }).waitFor();

  // By key, from the Porch.
  const times = async () => (await house.said("quayside")).filter((t) => t.includes("mind the cold frame")).length;
  await page.goto(house.base);
  await page.getByTestId("conversation").getByText("evening").last().waitFor();
  await page.locator('button.pers[title="kelpwright"]').click();
  await page.locator("button.pers[aria-pressed=true]").waitFor();
  await page.getByRole("button", { name: "Own words", exact: false }).waitFor();
  const before = await times();
  await page.keyboard.press("s");
  await until("it is said after the five seconds", async () => (await times()) === before + 1);

  // By chat, of whoever is named in any spelling.
  await page.goto(`${house.base}/courtesies`);
  await page.getByRole("button", { name: "New", exact: true }).click();
  await page.locator(".pick", { hasText: "a command in chat" }).first().click();
  await editing(page, "command-");
  await page.getByRole("button", { name: "Take output 1 out" }).click();
  await page.getByRole("button", { name: "Do something…" }).click();
  await page.getByRole("option", { name: "shout them out" }).click();
  await page.getByRole("button", { name: "Take ask out" }).click();
  await page.getByLabel("Names", { exact: true }).fill("so");
  await page.keyboard.press("Enter");
  await flip(page, /Answer so: off/);
  await page.getByRole("switch", { name: /Answer so: on/ }).waitFor();
  await house.do("say", { platform: "quayside", viewer: "sandhopper9", text: "!SO @KelpWright, please" });
  await until("it is said for whoever was named", async () => (await times()) === before + 2);
});

test("where somebody left off stands beside their arrival, and before the stream ends it is sent on to a fellow streamer", async ({ page, house }) => {
  await house.do("open", { platform: "quayside", title: "Brittle stars", category: "Rock pools" });
  await onAir(page, house);
  await page.goto(house.base);
  await house.do("say", { platform: "quayside", viewer: "sandhopper9", text: "Odalys, is the octopus still under the jetty?" });
  await page.getByTestId("conversation").getByText("still under the jetty").last().waitFor();
  await house.do("close", { platform: "quayside" });
  await house.do("close", { platform: "fernlight" });
  await asked(page, "POST", "/api/desk/stream", { act: "closed" });
  await house.do("open", { platform: "quayside", title: "Once more", category: "Rock pools" });
  await onAir(page, house);
  await page.getByRole("button", { name: "Before you go…" }).waitFor();
  await house.do("say", { platform: "quayside", viewer: "sandhopper9", text: "back again" });
  await page.getByText(/left off .*“Odalys, is the octopus still under the jetty\?”/).waitFor();

  await house.do("live", { platform: "quayside", viewer: "kelpwright", on: true });
  await page.getByRole("button", { name: "Before you go…" }).click();
  await page.getByRole("button", { name: "Go on to kelpwright" }).waitFor();
  await page.getByText("live now with", { exact: false }).first().waitFor();
  await clean(page, "before you go");
  await page.getByRole("button", { name: "Go on to kelpwright" }).click();
  await page.getByText("Quayside is asked to send everybody on to kelpwright").waitFor();
  await page.getByTestId("conversation").getByText("was raided by us with", { exact: false }).waitFor();
  await page.goto(`${house.base}/book?text=kelpwright`);
  await page.locator("[role=row][data-person]", { hasText: "kelpwright" }).first().click();
  await page.getByRole("region", { name: "About kelpwright" }).getByText("we went", { exact: false }).first().waitFor();
});

test("a moderator changes what a command answers from chat, where the owner lets them, and it can be taken back", async ({ page, house }) => {
  await house.do("open", { platform: "quayside", title: "Brittle stars", category: "Rock pools" });
  await onAir(page, house);
  await page.goto(`${house.base}/courtesies`);
  await page.getByRole("button", { name: "New", exact: true }).click();
  await page.locator(".pick", { hasText: "a command in chat" }).first().click();
  await editing(page, "command-");
  await page.getByRole("button", { name: "Take output 1 out" }).click();
  await page.getByRole("button", { name: "Do something…" }).click();
  await page.getByRole("option", { name: "have a command answer what they write" }).click();
  await page.getByRole("button", { name: "Take ask out" }).click();
  await page.getByLabel("Names", { exact: true }).fill("answer");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Anyone. Narrow it…" }).first().click();
  await page.getByRole("option", { name: "nobody" }).click(); // but moderators, who always may
  await flip(page, /Answer answer.*: off/);
  await page.getByRole("switch", { name: /Answer answer.*: on/ }).waitFor();
  await house.do("say", { platform: "quayside", viewer: "kelpwright", text: "!answer spring The highest tide of the month" });
  await house.do("say", { platform: "quayside", viewer: "sandhopper9", text: "!answer neap The lowest tide of the month" });
  await until("the moderator's is kept", async () => (await (await page.request.get(`${house.base}/asks`)).text()).includes("!neap"));
  assert.doesNotMatch(await (await page.request.get(`${house.base}/asks`)).text(), /!spring/);
  await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "!neap" });
  await until("it is answered", async () => (await house.said("quayside")).some((t) => t.includes("The lowest tide of the month")));
  await page.getByRole("button", { name: "What was changed, and undo" }).click();
  await page.getByText("what !neap answers").waitFor();
  await page
    .getByText(/, in chat/)
    .first()
    .waitFor();
  await page.locator(".row", { hasText: "what !neap answers" }).getByRole("button", { name: "Undo" }).click();
  await until("it is taken back", async () => !(await (await page.request.get(`${house.base}/asks`)).text()).includes("!neap"));
});
