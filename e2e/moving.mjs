// Moving in, from an empty house to the first greeting, as a streamer would: no file, no command line.
import assert from "node:assert/strict";
import { AxeBuilder } from "@axe-core/playwright";
import { browse, empty, enter, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

test("a streamer moves in from the screen alone, within forty clicks and twelve fields", async () => {
  const house = await empty();
  const browser = await browse();
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    const errors = [];
    page.on("pageerror", (e) => errors.push(e.message));
    let clicks = 0;
    let fields = 0;
    const click = async (what) => {
      clicks++;
      await what.click();
    };
    const write = async (what, text) => {
      fields++;
      await what.fill(text);
    };
    const press = (name) => click(page.getByRole("button", { name }));
    const choose = async (label, value) => {
      clicks += 2; // open it, take one
      await page.getByLabel(label, { exact: true }).selectOption(value);
    };
    const clean = async (what) => {
      const { violations } = await new AxeBuilder({ page }).analyze();
      assert.deepEqual(
        violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target).join(" ")}`),
        [],
        `axe on ${what}`,
      );
    };
    await page.goto(house.link);
    await press("Come in");
    const began = Date.now();
    await page.getByRole("heading", { name: "Welcome. This is your house." }).waitFor();
    await page.getByText("7 still to do").waitFor();
    await clean("the welcome");

    // A minute of an evening, before anything is connected.
    await click(page.getByRole("link", { name: "Show me an evening" }));
    await page.getByText("A made-up evening.", { exact: true }).waitFor();
    await page.getByTestId("conversation").getByText("Here already! Kettle is on.").waitFor();
    await page
      .getByTestId("conversation")
      .getByText("We are live", { exact: false })
      .or(page.getByText("Here we go!", { exact: false }))
      .or(page.getByText("is on", { exact: false }))
      .first()
      .waitFor();
    await page.getByPlaceholder("Say something as the house…").fill("hello?");
    await page.keyboard.press("Enter");
    await page.getByText("This evening is made up").waitFor();
    await page.getByPlaceholder("Say something as the house…").fill("");
    await click(page.getByRole("link", { name: "Move in" }));

    // 1: the channel.
    await write(page.getByLabel("The channel"), "tidepool_hours");
    await page.keyboard.press("Enter");
    await page.getByText("Tidepool_hours, in").waitFor();
    await press("On to the next");

    // 2: chat. A wrong way first: what is no chat says so.
    await choose("Network", "quayside");
    await write(page.getByLabel("Address"), house.chat.quayside);
    await click(page.getByText("the way there is encrypted"));
    await write(page.getByLabel("Account"), "porchlamp");
    await write(page.getByLabel("Password"), "low-water-lamp");
    await press("Connect");
    await press(/Let the house reach 127\.0\.0\.1/);
    await page.getByText("A line that the house said to itself came back").waitFor();
    await page.getByText("It may speak.").waitFor();
    // The right to speak is taken away, and the lamp lights by itself when it is given again.
    await house.do("silence", { platform: "quayside", viewer: "porchlamp", on: true });
    await page.getByText("It may not speak.").waitFor();
    await page.getByText("/mode #tidepool_hours +v porchlamp").waitFor();
    await house.do("silence", { platform: "quayside", viewer: "porchlamp", on: false });
    await page.getByText("It may speak.").waitFor();
    await press("On to the next");

    // 3: which account is the streamer's.
    await press("Give me a phrase");
    const phrase = await page.getByRole("main").locator("code").first().innerText();
    await house.do("say", { platform: "quayside", viewer: "kelpwright", text: phrase });
    await page.getByText("kelpwright said the phrase; only a line of tidepool_hours counts").waitFor();
    await house.do("say", { platform: "quayside", viewer: "tidepool_hours", text: `so: ${phrase.toUpperCase()}` });
    await page.getByText("is linked.").waitFor();
    await press("On to the next");

    // 4: happenings.
    await press("Make a door");
    await press("Make the secret");
    await page.getByText("It is shown this once.").waitFor();
    const codes = page.getByRole("main").locator("code");
    await house.do("secret", { platform: "quayside", text: await codes.nth(1).innerText(), title: await codes.nth(0).innerText() });
    await house.do("follow", { platform: "quayside", viewer: "moss_mare" });
    await page.getByText("a new follow · Moss Mare").or(page.getByText("a new follow · moss_mare")).waitFor();
    await clean("a door for happenings");
    await press("On to the next");

    // 5: people, later. 6: what is on.
    await press("Skip it for now");
    await click(page.getByRole("button", { name: "Try on me" }).nth(1));
    await page.getByText("Welcome, owner!", { exact: false }).first().waitFor();
    await clean("the courtesies");
    await press("That is how I want it");
    await press("On to the next");

    // 7: the announcement.
    await write(page.getByLabel("Called"), "News at The Boathouse");
    await write(page.getByLabel("Its address"), `${house.street}/boathouse/hooks/news`);
    await choose("What it takes", "board");
    await press("Add the place");
    await press("Try: post there now");
    await page.getByText("It arrived.").waitFor();
    const tried = (await house.state()).landings[0].posts;
    assert.equal(tried.length, 1);
    assert.match(tried[0].message, /^Try: /, "a try is marked as one");
    await press("To the Porch");

    // And it works: a stranger is greeted, the opening announced.
    await house.do("open", { platform: "quayside", title: "Brittle stars", category: "Rock pools" });
    await page.getByText("Brittle stars").first().waitFor(); // a line before it is said off-line
    await house.do("say", { platform: "quayside", viewer: "sandhopper9", text: "hello, first time here" });
    await page.locator(".hs", { hasText: "sandhopper9" }).waitFor();
    assert.ok(
      (await house.said("quayside")).some((t) => t.includes("sandhopper9")),
      "the greeting was said in chat",
    );
    await until("the announcement stands at The Boathouse", async () => (await house.state()).landings[0].posts.length === 2);
    const post = (await house.state()).landings[0].posts[1];
    assert.match(post.message, /tidepool_hours|Brittle stars|Rock pools/);
    assert.equal(post.board.heading, "Brittle stars");
    await page.getByText("all well").waitFor();
    console.log(`      moved in with ${clicks} clicks and ${fields} fields, in ${((Date.now() - began) / 1000).toFixed(1)} s of the test's own speed`);
    assert.ok(clicks <= 40 && fields <= 12, `${clicks} clicks, ${fields} fields`);
    assert.deepEqual(errors, []);

    // A house set up by screens alone, taken out as a file and taken in by an empty one, is equal; no secret is in it.
    const file = await page.evaluate(() => fetch("/api/settings/file").then((r) => r.text()));
    assert.ok(!file.includes("low-water-lamp") && !file.includes("whsec_"), "secrets are not in the file");
    const second = await empty();
    try {
      const other = await (await browser.newContext()).newPage();
      await enter(other, second.link);
      await other.getByRole("heading", { name: "Welcome. This is your house." }).waitFor();
      const taken = await other.evaluate(async (file) => {
        const token = (await fetch("/api/session").then((r) => r.json())).token;
        const r = await fetch("/api/settings/file", {
          method: "PUT",
          headers: { "Content-Type": "application/json", "X-Porch-Token": token },
          body: JSON.stringify({ file, whole: true }),
        });
        return [r.status, await fetch("/api/settings/file").then((x) => x.json())];
      }, file);
      assert.equal(taken[0], 200);
      assert.deepEqual(taken[1], JSON.parse(file), "the two houses are equal");
    } finally {
      await second.stop();
    }
  } finally {
    await browser.close();
    await house.stop();
  }
});
