// What is outside comes in, by pointing alone.
import assert from "node:assert/strict";
import { asked, browse, empty, enter, looked, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

const clean = async (page, what) => {
  for (const theme of ["dusk", "linen"]) {
    await page.evaluate((t) => document.documentElement.setAttribute("data-theme", t), theme);
    const { violations } = await looked(page, theme);
    assert.deepEqual(
      violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target).join(" ")}`),
      [],
      `axe on ${what}, ${theme}`,
    );
  }
  await page.evaluate(() => document.documentElement.setAttribute("data-theme", "dusk"));
};

test("The Tin is connected from its first message to a thanks in chat, by pointing alone", async () => {
  const house = await empty();
  const browser = await browse();
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    page.setDefaultTimeout(20_000);
    const errors = [];
    page.on("pageerror", (e) => errors.push(e.message));
    await enter(page, house.link);
    await page.getByRole("heading", { name: "Welcome. This is your house." }).waitFor();
    // A channel with a chat, set up before.
    await asked(page, "PUT", "/api/house/sections/channel", { value: "tidepool_hours" });
    await asked(page, "PUT", "/api/house/hosts", { host: "127.0.0.1", allow: true });
    await asked(page, "PUT", "/api/house/sections/doors", {
      value: [{ name: "quayside-chat", kind: "irc", platform: "quayside", address: house.chat.quayside, room: "#tidepool_hours", account: "porchlamp", paused: true }],
    });
    await asked(page, "PUT", "/api/house/secrets", { name: "quayside-chat", slot: "password", value: "low-water-lamp" });
    await asked(page, "PUT", "/api/house/sections/doors", {
      value: [{ name: "quayside-chat", kind: "irc", platform: "quayside", address: house.chat.quayside, room: "#tidepool_hours", account: "porchlamp" }],
    });
    await until("the house is in the chat", async () => (await house.state()).platforms[0].here.includes("porchlamp"));
    await asked(page, "POST", "/api/desk/stream", { act: "opened" });

    await page.goto(`${house.base}/house/doors`);
    await page.getByRole("button", { name: "Another service" }).click();
    await page.getByLabel("Called").fill("the tin");
    await page.getByRole("button", { name: "Make a door" }).click();
    await page.getByText("The service sends here:").waitFor();
    await page.getByRole("button", { name: "Make one" }).click();
    const secret = await page.locator("code", { hasText: "whsec_" }).innerText();
    await page.getByLabel("In the header", { exact: true }).fill("X-Tin-Signature");
    await page.getByLabel("Behind").fill("sha256=");
    await page.getByLabel("Behind").press("Tab");
    await until("the prefix is in force", async () => (await asked(page, "GET", "/api/house")).body.includes('"sha256="'));

    // Its first messages: nobody understands them, and they wait.
    await house.do("hook", { text: `${house.base}/inbox/the-tin`, title: secret });
    await house.do("lid", { on: true });
    await until("the lid came in", async () => (await house.state()).tin.said.startsWith("202"));
    await house.do("coin", { viewer: "limpet_lena", viewers: 1250, text: "for the anemone" });
    await page.getByText("nobody understands it").nth(1).waitFor();
    assert.ok(
      !(await page.getByRole("main").innerText()).includes(secret.slice(6)) || (await page.locator("code", { hasText: secret }).count()) === 1,
      "the secret stands where it was made and nowhere else",
    );

    await page.getByRole("button", { name: "Teach the house a message" }).click();
    await page.locator("summary", { hasText: "kind:coin" }).click();
    await page.getByText("choose what it is").click();
    await page.getByRole("option", { name: "a tip" }).click();
    const point = async (key, says) => {
      await page
        .getByRole("list", { name: "The message, as it came" })
        .getByRole("button")
        .filter({ has: page.locator("span", { hasText: new RegExp(`^${key}$`) }) })
        .click();
      await page.getByRole("button", { name: says, exact: true }).click();
    };
    await point("kind", "Only when it is “coin”");
    await point("id", "It is their id");
    await point("called", "It is their name");
    await point("pence", "It is the amount, in hundredths");
    await page.getByText("It lacks the currency: point at it, or say what it always is.").waitFor();
    await point("of", "It is the currency");
    await point("says", "It is what they wrote");
    await page.getByRole("status").filter({ hasText: "a tip · Limpet Lena · tipped 12.50 GBP: for the anemone" }).waitFor();
    await page.getByText("it does not fit").waitFor(); // the other one
    await clean(page, "teaching");
    await point("no", "It is the message's own id");
    await until("a repeat is known", async () => (await asked(page, "GET", "/api/house")).body.includes('"at":"/no"'));
    await page.getByRole("button", { name: "Keep this reading" }).click();
    await page.getByText("Where kind is “coin”", { exact: false }).waitFor();
    assert.ok(!(await house.said("quayside")).some((t) => t.includes("Limpet")), "a try says nothing");

    // What waited is taken in; what comes from now on is thanked at once, in the chat there is.
    await page.getByRole("button", { name: "Take in the one that waited" }).click();
    await page.getByText("1 taken in, as of when they came. 1 wait still.").waitFor();
    await house.do("coin", { viewer: "sandhopper9", viewers: 500 });
    await until("it is thanked in chat", async () => (await house.said("quayside")).some((t) => t.includes("sandhopper9") && t.includes("5.00 GBP")));
    await clean(page, "a service's door");

    // Another house takes the readings in as a file, and is offered what fits.
    const [download] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "Give its readings away" }).click()]);
    const file = await download.path();
    await page.getByRole("button", { name: "Take away" }).nth(1).click();
    await page.getByText("Nothing understands them yet.", { exact: false }).waitFor();
    await page.getByLabel("A file of readings").setInputFiles(file);
    await page.getByText("fits what came in here").waitFor();
    await page.getByRole("button", { name: "Use it here" }).click();
    await page.getByText("Where kind is “coin”", { exact: false }).waitFor();

    // A secret that was changed on one side alone: the door says so.
    await house.do("hook", { text: `${house.base}/inbox/the-tin`, title: "another-secret" });
    await house.do("coin", { viewer: "kelpwright", viewers: 100 });
    await page.getByText("The last message was refused", { exact: false }).waitFor();

    // And it can be listened to instead, at an address that only the owner lets the house reach.
    await page.goto(`${house.base}/house/doors`);
    await page.getByRole("button", { name: "Another service" }).click();
    await page.getByLabel("Called").fill("tin by ear");
    await page.getByRole("radio", { name: "the house listens to it" }).click();
    await page.getByLabel("Address").fill(`${house.street.replace("http", "ws")}/tin/hear`);
    await page.getByRole("button", { name: "Make a door" }).click();
    await page.getByText("The service sends here:").waitFor({ state: "hidden" });
    await page.getByLabel("Greeting").fill('{"open":"the tin","token":"{token}"}');
    await page.getByLabel("Greeting").press("Tab");
    await page.getByRole("button", { name: "Set", exact: true }).click();
    await page.getByLabel("The token of tin-by-ear").fill("lid-of-the-tin-7");
    await page.getByRole("button", { name: "Keep it" }).click();
    await page.getByText("The house listens.").waitFor();
    await page.getByText("kind:welcome", { exact: false }).first().waitFor();
    assert.ok(!(await page.content()).includes("lid-of-the-tin-7"), "its token, which the welcome tells back, is blanked");
    await clean(page, "a listening door");
    assert.deepEqual(errors, []);
  } finally {
    await browser.close();
    await house.stop();
  }
});

test("one signs in to a platform, allows what a courtesy needs, changes the account and takes the permission back", async () => {
  const house = await empty();
  const browser = await browse();
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    page.setDefaultTimeout(20_000);
    const errors = [];
    page.on("pageerror", (e) => errors.push(e.message));
    await enter(page, house.link);
    await page.getByRole("heading", { name: "Welcome. This is your house." }).waitFor();
    await asked(page, "PUT", "/api/house/hosts", { host: "127.0.0.1", allow: true });

    // The platform's profile is brought in, and the house made known there.
    const profile = await fetch(`${house.street}/quayside/profile.json`).then((r) => r.text());
    await page.goto(`${house.base}/house/platforms`);
    await page.getByLabel("A profile's file").setInputFiles({ name: "quayside.json", mimeType: "application/json", buffer: Buffer.from('{"format": 1}') });
    await page.getByText("names no platform").waitFor();
    await page.getByLabel("A profile's file").setInputFiles({ name: "quayside.json", mimeType: "application/json", buffer: Buffer.from(profile) });
    await page.getByText("Quayside lets a house in that is registered there.", { exact: false }).waitFor();
    await page.getByText(`${house.base}/signin/back`).waitFor();
    await page.getByLabel("Client id").fill("house-on-the-quay");
    await page.getByLabel("Client secret").fill("oil-for-the-lamp-21");
    await page.getByRole("button", { name: "That is how it knows the house" }).click();
    await page.getByRole("button", { name: "Sign in as yourself" }).waitFor();
    await clean(page, "a platform's page");

    // Moving in by it: channel, chat and account in one press.
    await page.goto(`${house.base}/moving/chat`);
    await page.getByLabel("Network", { exact: true }).selectOption("quayside");
    await page.getByRole("button", { name: "Sign in at Quayside" }).click();
    await page.getByRole("button", { name: "Let it in" }).waitFor();
    assert.deepEqual(await page.getByRole("listitem").allInnerTexts(), ["read the chat and speak in it as you"], "the least is asked for");
    await page.getByLabel("Your account").selectOption("tidepool_hours");
    await page.getByRole("button", { name: "Let it in" }).click();
    await page.getByText("The house is in Quayside's chat as tidepool_hours.").waitFor();
    const settings = JSON.parse((await asked(page, "GET", "/api/house")).body).settings;
    assert.equal(settings.channel, "tidepool_hours");
    await page.goto(`${house.base}/moving`);
    await page.getByText("4 still to do").waitFor(); // channel, chat and account are done
    assert.doesNotMatch((await asked(page, "GET", "/api/settings/file")).body, /\bat-\w/, "no token is in the house file");

    // What the streamer types is the streamer's, what the house says under the same account is not.
    await asked(page, "POST", "/api/desk/stream", { act: "opened" });
    await page.goto(house.base);
    await house.do("say", { platform: "quayside", viewer: "tidepool_hours", text: "lamp is warming up" });
    await page.getByTestId("conversation").getByText("lamp is warming up").waitFor();
    await house.do("say", { platform: "quayside", viewer: "sandhopper9", text: "hello there" });
    await page.locator(".hs", { hasText: "sandhopper9" }).waitFor();
    const heard = async () => (await fetch(`${house.street}/street/heard/quayside?nick=tidepool_hours`).then((r) => r.json())).map((h) => h.text);
    await until("the greeting is said as the streamer", async () => (await heard()).some((t) => t.includes("sandhopper9")));
    assert.equal((await page.getByTestId("conversation").getByText("sandhopper9", { exact: false }).locator("visible=true").count()) > 0, true);

    // A courtesy that changes the title needs a permission more.
    const list = settings.courtesies.concat({
      id: "evening-title",
      on: true,
      when: "hand",
      slot: "",
      do: [{ id: "title", kind: "platform", act: "title", on: ["quayside"], alternatives: ["Low water"] }],
    });
    assert.equal((await asked(page, "PUT", "/api/house/sections/courtesies", { value: list })).status, 200);
    await page.goto(`${house.base}/house/platforms/quayside`);
    await page.getByText("A courtesy needs it", { exact: false }).waitFor();
    await page.getByRole("button", { name: "Allow: Changes the title" }).click();
    await page.getByRole("button", { name: "Let it in" }).waitFor();
    assert.equal(await page.getByRole("listitem").count(), 2, "what is allowed is asked for again with it");
    await page.getByLabel("Your account").selectOption("tidepool_hours");
    await page.getByRole("button", { name: "Let it in" }).click();
    await page.getByText("allowed by tidepool_hours").nth(1).waitFor();
    await clean(page, "permissions");

    // An account of the house's own; another than that is asked about.
    const as = async (account, answer = "Let it in") => {
      await page.getByRole("button", { name: /house's own account$/ }).click();
      await page.getByLabel("Your account").selectOption(account);
      await page.getByRole("button", { name: answer }).click();
    };
    await as("porchlamp");
    await page.getByText("porchlamp is signed in.").waitFor();
    // The house spoke through the streamer's account until it has its own.
    await page.getByRole("button", { name: "Speak as porchlamp from now on" }).click();
    await until("the house is in the chat as itself", async () => (await house.state()).platforms[0].here.includes("porchlamp"));
    await as("kelpwright", "Turn it away");
    await page.getByText("nothing has changed", { exact: false }).waitFor();
    await as("kelpwright");
    await page.getByText("kelpwright signed in this time; last time it was porchlamp.").waitFor();
    await page.getByRole("button", { name: "Leave it at porchlamp" }).click();
    await page.getByText("porchlamp stays signed in", { exact: false }).waitFor();

    // It is revoked in mid-evening: one thing waits, and chat goes on.
    await house.do("revoke", { platform: "quayside", viewer: "tidepool_hours" });
    await page.getByRole("button", { name: "Check" }).last().click();
    await page.getByText("Sign in again.", { exact: false }).waitFor();
    await page.goto(house.base);
    await page.getByText("Quayside: tidepool_hours is signed in no more").waitFor();
    assert.equal(await page.getByText("is signed in no more").count(), 1);
    await house.do("say", { platform: "quayside", viewer: "wrack_and_ruin", text: "evening" });
    await until("chat goes on", async () => (await house.said("quayside")).some((t) => t.includes("wrack_and_ruin")));
    assert.deepEqual(errors, []);
  } finally {
    await browser.close();
    await house.stop();
  }
});
