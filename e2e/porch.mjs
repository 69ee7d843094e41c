// The Porch itself, driven as a streamer would: what comes, what is said, what waits, and the hand on it.
import assert from "node:assert/strict";
import { flip, looked, patience, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

test("a used or wrong link does not sign in, the right one does", async ({ page, house }) => {
  await page.goto(`${house.base}/enter/NOTALINK`);
  await page.getByText("This link was used before").waitFor();
  await page.goto(house.link);
  await page.goto(house.link); // looking at it, as a preview does, does not use it up
  await page.getByRole("button", { name: "Come in" }).click();
  await page.getByRole("heading", { name: "Conversation" }).waitFor();
  assert.equal(await page.getByRole("navigation", { name: "Views", exact: true }).getByRole("link").count(), 7, "the views");
  await page.getByText("It is quiet.").waitFor();
  await page.getByText("The evening line begins when a stream opens.").waitFor();
});

test("the opening shows live and stands once at the Boathouse after an outage", async ({ page, house }) => {
  await house.do("outage", { on: true });
  await house.do("open", { platform: "quayside", title: "Brittle stars", category: "Field and microscope" });
  await page.getByText("Brittle stars").first().waitFor();
  const waiting = page.getByRole("region", { name: "Waiting for you" });
  await waiting.getByText("does not take the post").waitFor();
  await page.getByText(/needs? you/).waitFor();
  await house.do("outage", { on: false });
  await until("the announcement arrives", async () => (await house.state()).landings[0].posts.length === 1);
  await waiting.getByText("Nothing needs you.").waitFor();
  await house.do("drop", { platform: "quayside" });
  await house.do("open", { platform: "quayside", title: "Brittle stars" });
  await house.do("open", { platform: "fernlight", title: "Brittle stars" });
  await page.getByText("Posted to").first().waitFor();
  const posts = async () => (await house.state()).landings[0].posts.map((p) => p.message);
  await until("a platform that opens later is told of", async () => (await posts()).length > 1);
  const [announced, followed, ...more] = await posts();
  assert.match(followed, /live on Fernlight too/, "what follows is about the second platform");
  assert.doesNotMatch(announced, /too/);
  assert.deepEqual(more, [], "never a second announcement");
});

test("an arrival is greeted, and the line says why", async ({ page, house }) => {
  await until("the chat door is open again", async () => (await house.state()).platforms[0].here.includes("porchlamp"));
  await house.do("say", { platform: "quayside", viewer: "tidewrack", text: "hello from the reeds" });
  await page.getByTestId("conversation").getByText("hello from the reeds").waitFor();
  const line = page.locator(".hs", { hasText: "tidewrack" });
  await line.waitFor();
  assert.ok(
    (await house.said("quayside")).some((t) => t.includes("tidewrack")),
    "it was said in chat",
  );
  await line.getByRole("button", { name: "why?" }).click();
  const why = line.getByTestId("why");
  await why.getByText("no earlier stream", { exact: false }).or(why.getByText("is a newcomer")).first().waitFor();
  await why.getByText("“Greet anyone returning” is for one who is returning", { exact: false }).waitFor();
  await line.getByRole("button", { name: "why?" }).click();
});

test("everybody here says why they were greeted or not", async ({ page, house }) => {
  await house.do("say", { platform: "quayside", viewer: "tidepool_hours", text: "evening all" });
  await page.getByRole("button", { name: /Odalys Brine.*the streamer/ }).click();
  await page.getByRole("button", { name: "why, or why not?" }).click();
  await page.getByTestId("whynot").getByText("is the streamer").waitFor();
  await page.getByRole("button", { name: /Odalys Brine.*the streamer/ }).click();
});

test("an address that leads nowhere says so, and a house that does not answer is no reason to sign in", async ({ page, house }) => {
  for (const path of ["/book/nowhere", "/courtesies/no-such-thing", "/courtesies/no/such/thing"]) {
    await page.goto(house.base + path);
    await page.getByRole("alert").getByText("There is nothing at this address").waitFor();
    await (path.startsWith("/book") ? page.getByTestId("everyone") : page.getByRole("region", { name: "Editor" })).waitFor(); // its own first page
  }
  for (const path of ["/house/attic", "/house/members/nobody", "/moving/attic"]) {
    await page.goto(house.base + path);
    await page.getByRole("alert").getByText("There is nothing at this address").waitFor();
  }
  await page.route("**/api/session", (r) =>
    r.fulfill({ status: 503, contentType: "application/problem+json", body: JSON.stringify({ title: "The database is gone", status: 503 }) }),
  );
  await page.goto(house.base);
  await page.getByRole("heading", { name: "The house does not answer" }).waitFor();
  await page.unroute("**/api/session");
  await page.getByRole("heading", { name: "Conversation" }).waitFor(); // by itself
});

test("a line coming up can be dropped, changed and said now", async ({ page, house }) => {
  const coming = page.getByRole("region", { name: "Coming up" });
  await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "hi" });
  await coming.locator(".cu", { hasText: "mossy_mare" }).getByRole("button", { name: "Drop" }).click();
  await house.do("say", { platform: "quayside", viewer: "grebe_watch", text: "hi" });
  const next = coming.locator(".cu", { hasText: "grebe_watch" });
  await next.getByRole("button", { name: "Change" }).click();
  await coming.getByLabel("Change the line").fill("Mind the step, grebe_watch.");
  await coming.getByLabel("Change the line").press("Enter");
  await coming.getByText("Mind the step, grebe_watch.").waitFor();
  await coming.locator(".cu", { hasText: "Mind the step" }).getByRole("button", { name: "Say now" }).click();
  await until("it is said", async () => (await house.said("quayside")).includes("Mind the step, grebe_watch."));
  assert.ok(!(await house.said("quayside")).some((t) => t.includes("mossy_mare")), "the dropped line was not said");
});

test("one key hushes the house and shows what it holds", async ({ page, house }) => {
  await page
    .locator("h1")
    .first()
    .click({ force: true })
    .catch(() => undefined);
  await page.keyboard.press("h");
  await page.getByRole("button", { name: /^Hush 0 lines are held/ }).waitFor();
  const before = (await house.said("quayside")).length;
  await house.do("say", { platform: "quayside", viewer: "tangle_tom", text: "hi" });
  await page.getByRole("button", { name: /1 line is held/ }).waitFor();
  await page.getByText("held by hush").waitFor();
  assert.equal((await house.said("quayside")).length, before, "nothing was said under hush");
  await page.getByRole("button", { name: /1 line is held/ }).click();
  await until("it comes out afterwards", async () => (await house.said("quayside")).some((t) => t.includes("tangle_tom")));
});

test("single keys do nothing in a text field", async ({ page }) => {
  await page.getByLabel("Say something as the house").fill("hhh");
  await page.getByLabel("Say something as the house").press("h");
  assert.equal(await page.locator(".hushed").count(), 0);
  await page.getByLabel("Say something as the house").fill("");
});

test("a wording edited in place is used by the next greeting; a fault is marked and stays out of force", async ({ page, house }) => {
  await page.getByRole("link", { name: "Courtesies" }).first().click();
  await page.getByRole("button", { name: "Greet a newcomer", exact: true }).click();
  const first = page.getByRole("textbox", { name: "Wording 1" }).first();
  await page.getByTestId("preview").getByText("tidewrack").first().waitFor(); // the courtesy is all there
  await first.fill("Ahoy {nam}");
  await page.getByText("there is no fill-in {nam} here").first().waitFor();
  await page.getByText("the last good wording stays in force").waitFor();
  await page.getByText("did you mean {name}?").first().waitFor();
  await first.fill("Ahoy {name}, all hands wave.");
  await page.getByTestId("preview").getByText("Ahoy tidewrack, all hands wave.").waitFor();
  for (let i = 0; i < 3; i++) await page.getByRole("button", { name: "Take wording 2 out" }).first().click();
  await page.getByRole("status").getByText("In force").waitFor();
  await house.do("say", { platform: "quayside", viewer: "newly_come", text: "hi" });
  await until("the new words are said", async () => (await house.said("quayside")).includes("Ahoy newly_come, all hands wave."));
  await page.getByRole("button", { name: /What was changed/ }).click();
  const undo = page.getByRole("button", { name: "Undo", exact: true });
  await undo.first().waitFor();
  // Leaving the field and, later, taking the others out came into force one after the other: newest first, take all back.
  for (let left = await undo.count(), i = 0; left > 0; left--, i += 2) {
    await undo.nth(i).click();
    await until("taken back", async () => (await page.getByText("undone: wording of greet-newcomer").count()) === i / 2 + 1);
  }
  await page.getByRole("button", { name: "Greet a newcomer", exact: true }).click();
  await until("the old wordings are back", async () => !(await page.getByRole("textbox", { name: "Wording 1" }).first().textContent()).startsWith("Ahoy"));
});

test("a courtesy switched off acts at once", async ({ page, house }) => {
  await flip(page, /^Greet a newcomer/);
  await page.getByRole("switch", { name: "Greet a newcomer: off" }).waitFor();
  await house.do("say", { platform: "quayside", viewer: "unseen_one", text: "hi" });
  await page.getByRole("link", { name: "Porch" }).first().click();
  await page
    .getByRole("region", { name: "On the porch" })
    .getByRole("button", { name: /unseen_one/ })
    .click();
  await page.getByRole("button", { name: "why, or why not?" }).click();
  await page.getByTestId("whynot").getByText("is switched off", { exact: false }).first().waitFor();
  await page.getByRole("link", { name: "Courtesies" }).first().click();
  await flip(page, /^Greet a newcomer/);
  await page.getByRole("switch", { name: "Greet a newcomer: on" }).waitFor();
  await page.getByRole("link", { name: "Porch" }).first().click();
});

test("a raid is thanked, its leader shouted out with the link, and drawn on the evening line", async ({ page, house }) => {
  await house.do("raid", { platform: "quayside", viewer: "kelpwright", viewers: 37 });
  await page.getByText("came by with 37 people").waitFor();
  await until("thanked and shouted out", async () => (await house.said("quayside")).some((t) => t.includes("https://quayside.example/kelpwright")));
  await page.getByRole("group", { name: "The evening so far" }).getByText("brought 37").waitFor();
});

test("a raid told late waits for a hand and can still be thanked", async ({ page, house }) => {
  await house.do("raid", { platform: "quayside", viewer: "night_heron_cam", viewers: 120, minutes: 5 });
  const waiting = page.getByRole("region", { name: "Waiting for you" });
  const away = waiting.getByRole("region", { name: "While you were away" });
  await away.getByText("night_heron_cam").waitFor();
  await away.getByText("a raid with 120", { exact: false }).waitFor();
  await away.getByRole("button", { name: "Thank night_heron_cam" }).click();
  await until("thanked", async () => (await house.said("quayside")).some((t) => t.includes("night_heron_cam") && t.includes("120")));
});

test("after the house was gone the page is right again by itself, and the evening goes on", async ({ page, house }) => {
  await house.stop();
  await page.getByText("This page has lost the house").waitFor();
  await house.start();
  await page.getByText("This page has lost the house").waitFor({ state: "detached" });
  await until("the house is back in chat", async () => (await house.state()).platforms[0].here.includes("porchlamp"));
  await house.do("say", { platform: "quayside", viewer: "tidewrack", text: "said after the house came back" });
  await page.getByTestId("conversation").getByText("said after the house came back").waitFor();
  await page.getByText("Live", { exact: false }).first().waitFor();
  assert.ok(!(await house.said("quayside")).some((t) => t.includes("tidewrack")), "nobody is greeted again after a restart");
});

test("under forty arrivals and fifty lines a second nothing moves under the hand, and few rows are drawn", async ({ page, house }) => {
  await house.do("say", { platform: "quayside", viewer: "held_one", text: "first" });
  const coming = page.getByRole("region", { name: "Coming up" });
  const mine = coming.locator(".cu", { hasText: "held_one" });
  const drop = mine.getByRole("button", { name: "Drop" });
  await drop.hover();
  const before = await drop.boundingBox();
  const person = page.getByRole("region", { name: "On the porch" }).locator(".pers").nth(1);
  const name = await person.getAttribute("title");
  const end = Date.now() + 8000;
  let n = 0;
  let looks = 0;
  let moved = 0;
  const pump = (async () => {
    for (; Date.now() < end; n += 10) {
      await Promise.all(Array.from({ length: 10 }, (_, i) => house.do("say", { platform: "quayside", viewer: n < 40 ? `heron_${n + i}` : "kelpwright", text: `line ${n + i}` })));
      await new Promise((r) => setTimeout(r, 200));
    }
  })();
  for (; Date.now() < end; looks++) {
    const now = await drop.boundingBox().catch(() => null);
    if (now && Math.abs(now.y - before.y) > 1) moved++;
  }
  await pump;
  assert.ok(n >= 100 && looks >= 5, `only ${n} lines were sent and ${looks} looks taken`);
  assert.equal(moved, 0, "the button moved under the hand");
  await page.getByRole("region", { name: "On the porch" }).locator(".pers").first().hover();
  const there = await page.getByRole("region", { name: "On the porch" }).locator(".pers").nth(1).getAttribute("title");
  await Promise.all(Array.from({ length: 6 }, (_, i) => house.do("say", { platform: "fernlight", viewer: `reed_${i}`, text: "hi" })));
  await page.waitForFunction(() => document.body.textContent.includes("reed_5"));
  assert.equal(await page.getByRole("region", { name: "On the porch" }).locator(".pers").nth(1).getAttribute("title"), there, "people moved under the hand");
  assert.ok(name);
  const rows = await page.getByTestId("conversation").locator("[data-index]").count();
  assert.ok(rows < 80, `${rows} rows are drawn`);
  await page.mouse.move(5, 5);
});

/** atRest is the row that is read in the middle of a conversation, once the scrolling has come to rest. */
async function atRest(talk) {
  const reading = () =>
    talk.evaluate((el) => {
      const box = el.getBoundingClientRect();
      const row = [...el.querySelectorAll("[data-index]")].find((r) => r.getBoundingClientRect().top > box.top + 150);
      return row && { text: row.textContent, y: Math.round(row.getBoundingClientRect().top) };
    });
  await until("there is something to read", reading);
  let still = await reading();
  await until("the scrolling has come to rest", async () => {
    const now = await reading();
    const rests = now.text === still.text && now.y === still.y;
    still = now;
    return rests;
  });
  return still;
}

/** stayed holds that a row is where it was; rows that are measured above it may change the scroll offset, not its place. */
async function stayed(talk, still) {
  const now = await talk.evaluate(
    (el, text) => [...el.querySelectorAll("[data-index]")].filter((r) => r.textContent === text).map((r) => Math.round(r.getBoundingClientRect().top)),
    still.text,
  );
  assert.ok(now.length === 1 && Math.abs(now[0] - still.y) < 12, `it moved while being read: ${JSON.stringify([still, now])}`);
}

test("the conversation stops following when scrolled, and says how much is new", async ({ page, house }) => {
  const talk = page.getByTestId("conversation");
  await talk.hover();
  await page.mouse.wheel(0, -1200);
  const still = await atRest(talk);
  for (let i = 0; i < 5; i++) await house.do("say", { platform: "quayside", viewer: "kelpwright", text: `below ${i}` });
  const more = page.getByRole("button", { name: /^\d+ new$/ });
  await more.waitFor();
  await until("all five are there", async () => parseInt(await more.textContent()) >= 5);
  await stayed(talk, still);
  await more.click();
  await talk.getByText("below 4").waitFor();
});

test("a conversation of thousands of lines lets its oldest go, and what is read stays where it is", async ({ page, context, house }) => {
  const other = await context.browser().newContext({ viewport: { width: 1280, height: 800 }, storageState: await context.storageState() });
  other.setDefaultTimeout(patience);
  // As if the page had been open for hours.
  await other.addInitScript(() => {
    const older = (at, n) => Array.from({ length: n }, (_, i) => ({ id: `older-${i}`, kind: "line", at, platform: "quayside", name: "tidewrack", text: `older line ${i}` }));
    window.EventSource = class extends EventSource {
      addEventListener(name, f) {
        super.addEventListener(name, (ev) => {
          if (name !== "whole") return f(ev);
          const porch = JSON.parse(ev.data);
          f({ data: JSON.stringify({ ...porch, entries: [...older(porch.now, 5497 - porch.entries.length), ...porch.entries] }) });
        });
      }
    };
  });
  const long = await other.newPage();
  await long.goto(house.base);
  const talk = long.getByTestId("conversation");
  await talk.locator("[data-index='5496']").waitFor();
  await talk.hover();
  await long.mouse.wheel(0, -1200);
  const still = await atRest(talk);
  for (let i = 0; i < 6; i++) await house.do("say", { platform: "quayside", viewer: "kelpwright", text: `far below ${i}` });
  await until("the oldest are let go", async () => (await talk.locator("[data-index]").last().getAttribute("data-index")) < 5200);
  await stayed(talk, still);
  await long.getByRole("button", { name: /^\d+ new$/ }).click();
  await talk.getByText("far below 5").waitFor();
  await other.close();
});

for (const theme of ["dusk", "linen"]) {
  test(`axe finds nothing on Porch and Courtesies in ${theme}`, async ({ page, house }) => {
    for (const path of ["/", "/courtesies/greet-newcomer"]) {
      await page.evaluate((t) => localStorage.setItem("porch-theme", t), theme);
      await page.goto(house.base + path);
      await page.getByRole("region", { name: path === "/" ? "Conversation" : "Editor" }).waitFor();
      if (path === "/") {
        await page.getByLabel("Say something as the house").fill(`The tide turns, in ${theme}`);
        await page.keyboard.press("Enter");
        await page
          .locator(".hs", { hasText: `in ${theme}` })
          .first()
          .waitFor();
      }
      await page
        .locator(path === "/" ? ".hs" : ".bub")
        .first()
        .waitFor();
      const { violations } = await looked(page, theme);
      assert.deepEqual(
        violations.map(
          (v) =>
            `${v.id}: ${v.nodes
              .slice(0, 3)
              .map((n) => n.html.slice(0, 160))
              .join(" | ")}`,
        ),
        [],
      );
    }
  });
}

/** tooWide lists what makes the page scroll sideways. */
const tooWide = () =>
  document.documentElement.scrollWidth <= innerWidth
    ? []
    : [...document.querySelectorAll("body *")].filter((e) => e.getBoundingClientRect().right > innerWidth + 0.5).map((e) => e.outerHTML.slice(0, 160));

test("it works as a second screen on a phone", async ({ page, house }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto(house.base);
  await page.getByRole("tab", { name: "Coming up" }).waitFor();
  await page.getByRole("region", { name: "Waiting for you" }).waitFor();
  assert.ok(!(await page.getByRole("region", { name: "Conversation" }).isVisible()), "one part at a time");
  await page.getByRole("tab", { name: "Conversation" }).click();
  await page.getByRole("region", { name: "Conversation" }).waitFor();
  await page.getByRole("navigation", { name: "Views, at the bottom" }).getByRole("link", { name: "Courtesies" }).click();
  await page.getByRole("button", { name: "Greet a newcomer", exact: true }).click();
  await page.getByRole("region", { name: "Editor" }).waitFor();
  await page.getByRole("region", { name: "Try it" }).waitFor();
  assert.ok(!(await page.getByRole("region", { name: "All courtesies" }).isVisible()), "the one chosen has the screen");
  await page.getByRole("button", { name: "All courtesies" }).click();
  await page.getByRole("region", { name: "Editor" }).waitFor({ state: "hidden" });
  for (const path of ["/", "/courtesies", "/courtesies/thank-tip"]) {
    await page.goto(house.base + path);
    await page.getByRole("navigation", { name: "Views, at the bottom" }).waitFor();
    await page.evaluate(() => document.fonts.ready); // until then letters of another width stand in
    assert.deepEqual(await page.evaluate(tooWide), [], `${path} scrolls sideways`);
  }
});

test("the street moves the outside world by hand", async ({ context, house }) => {
  const page = await context.newPage();
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto(house.street);
  await page.getByLabel("Speak as").fill("sandhopper9");
  await page.getByLabel("Fernlight: say").fill("hello from the street");
  await page.getByRole("region", { name: "Fernlight" }).getByRole("button", { name: "Say" }).click();
  await page.getByRole("region", { name: "Fernlight" }).getByText("hello from the street").waitFor();
  await page.getByRole("region", { name: "The Boathouse" }).getByText("Lamp log").waitFor();
  await page.close(); // a page behind another draws one frame a second
});
