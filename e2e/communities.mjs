// The community server: signed in once, its landings chosen from a list, and the announcement kept true to the evening.
import assert from "node:assert/strict";
import { asked, clean, enter, launch, onAir, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

test("one signs in to the community server, chooses a landing, and the announcement there changes with the stream", async ({ page }) => {
  const house = await launch();
  try {
    const news = async () => (await house.state()).landings.find((l) => l.name === "news").posts;
    await enter(page, house.link);
    await page.goto(`${house.base}/house/platforms/boathouse`);
    await page.getByLabel("Client id").fill("house-on-the-quay");
    await page.getByLabel("Client secret").fill("oil-for-the-lamp-21");
    await page.getByRole("button", { name: "That is how it knows the house" }).click();
    await page.getByRole("button", { name: "Sign in as the house's own account" }).click();
    await page.getByRole("button", { name: "Let it in" }).waitFor();
    assert.deepEqual(await page.getByRole("listitem").allInnerTexts(), ["see the landings, and post where you may"], "the least is asked for");
    await page.getByLabel("Your account").selectOption("porchlamp");
    await page.getByRole("button", { name: "Let it in" }).click();
    await page.getByText("porchlamp is signed in.").waitFor();

    // Its landings, with the house's rights at each.
    await house.do("may", { title: "lamp-log", text: "call", on: false });
    await page.goto(`${house.base}/house/places`);
    await page.getByRole("button", { name: "Add a place" }).click();
    const form = page.getByRole("form", { name: "A place" });
    await form.getByLabel("Called").fill("The Boathouse, signed in");
    await form.getByLabel("What it is").selectOption({ label: "a landing of a community server" });
    await form.getByLabel("Community server").selectOption("boathouse");
    const list = form.getByRole("list", { name: "Landings" });
    await list.getByText("the house may write, may hang pictures, may call people").first().waitFor();
    await list.getByRole("listitem").filter({ hasText: "Lamp log" }).getByText("not: call people", { exact: false }).waitFor();
    await clean(page, "choosing a landing");
    await list.getByRole("radio", { name: /^News/ }).check();
    await form.getByRole("button", { name: "Add the place" }).click();
    const place = page.getByRole("region", { name: "The Boathouse, signed in" });

    // A try proves it, or names the one right that is missing.
    await house.do("may", { title: "news", text: "write", on: false });
    await place.getByRole("button", { name: "Try: post there now" }).click();
    await place.getByText("what is missing is one right: that the house may write at News", { exact: false }).waitFor();
    await house.do("may", { title: "news", text: "write", on: true });
    await place.getByRole("button", { name: "Try: post there now" }).click();
    await place.getByText("It arrived.", { exact: false }).waitFor();
    await place.getByRole("button", { name: "Announce it here" }).click();
    await place.getByText("is announced here.").waitFor();

    // On the board: a change takes the announcement's place, the end stands under it.
    await page.getByRole("link", { name: "Places", exact: true }).click();
    const ropes = page.getByRole("region", { name: "What goes where" });
    const relay = page.getByRole("region", { name: "Relay" });
    for (const [what, where] of [
      ["Change of title or category", "in place of the announcement"],
      ["End of the stream", "under the announcement"],
    ]) {
      await ropes.getByRole("button", { name: new RegExp(`^${what} to The Boathouse, signed in`) }).click();
      await relay.getByRole("button", { name: where }).click();
      await relay.getByRole("button", { name: where, pressed: true }).waitFor();
    }
    await clean(page, "what goes where, with an announcement");
    const mine = async () => (await news()).filter((p) => p.id !== "post-1" && !p.message.startsWith("Try"));
    await house.do("open", { platform: "quayside", title: "Low water" });
    await until("it is announced, there and by the hook", async () => (await mine()).length === 2);
    const count = (await news()).length;
    await house.do("change", { platform: "quayside", title: "The anemone opens" });
    await until("the announcement says so", async () => (await news()).some((p) => p.changed === 1 && p.message.includes("The anemone opens")));
    assert.equal((await news()).length, count, "it is no post of its own");
    assert.ok((await asked(page, "POST", "/api/desk/stream", { act: "closed" })).status < 300);
    await until("the end stands under it", async () => {
      const all = await news();
      return all.some((p) => p.under && all.find((x) => x.id === p.under)?.changed === 1);
    });

    // Who joins is welcomed with a picture made for them; one that has no picture of their own too.
    await ropes.getByRole("button", { name: /^New member of the community server to The Boathouse, signed in/ }).click();
    await relay.getByLabel("drawn for them, with their own picture").click();
    const look = relay.getByRole("img", { name: /^As it would be drawn for/ });
    await until("it is looked at before anybody gets it", () => look.evaluate((img) => img.naturalWidth === 1000 && img.naturalHeight === 400));
    await relay.getByLabel("Its ground").selectOption("tide");
    await relay.getByLabel("Tried with the name").fill("فانوس البحر");
    await until("in another script", () => look.evaluate((img) => img.complete && decodeURIComponent(img.src).includes("ground=tide") && img.naturalWidth === 1000));
    await clean(page, "a picture for whoever joins");
    for (const viewer of ["limpet_lena", "tidewrack"]) await house.do("join", { viewer });
    const pictures = async () => (await news()).filter((p) => p.picture).map((p) => Buffer.from(p.picture, "base64"));
    await until("both are welcomed with one", async () => (await pictures()).length === 2);
    for (const png of await pictures()) assert.deepEqual([png.subarray(1, 4).toString(), png.readUInt32BE(16), png.readUInt32BE(20)], ["PNG", 1000, 400]);
    await house.do("may", { title: "news", text: "hang", on: false });
    await place
      .or(page.locator("[data-place]", { hasText: "The Boathouse, signed in" }))
      .getByRole("button", { name: /^Try/ })
      .click();
    await page.getByText("what is missing is one right: that the house may hang pictures at News", { exact: false }).waitFor();
  } finally {
    await house.stop();
  }
});

test("what a viewer asks to have posted is looked at, changed and posted, or refused with a reason", async ({ page }) => {
  const house = await launch();
  try {
    const posts = async () => (await house.state()).skerry.posts.map((p) => p.words);
    await enter(page, house.link);
    await page.goto(`${house.base}/house/platforms/skerry`);
    await page.getByLabel("Client id").fill("house-on-the-quay");
    await page.getByLabel("Client secret").fill("oil-for-the-lamp-21");
    await page.getByRole("button", { name: "That is how it knows the house" }).click();
    await page.getByRole("button", { name: "Sign in as yourself" }).click();
    await page.getByRole("button", { name: "Let it in" }).click();
    await page.getByText("is signed in.", { exact: false }).first().waitFor();
    await page.goto(`${house.base}/house/places`);
    const place = page.getByRole("region", { name: "Skerry" });
    await place.getByLabel("Post something").fill("Low water at nine. Boots on!");
    await place.getByRole("button", { name: "Post it" }).click();
    await until("a member's post is there", async () => (await posts()).join() === "Low water at nine. Boots on!");
    await clean(page, "a social account");

    await page.goto(house.base);
    const who = (await house.state()).viewers.find((v) => v.roles?.includes("vip"));
    assert.ok(who, "somebody on the street is a VIP");
    const vip = { platform: who.platform ?? "fernlight", viewer: who.login };
    await house.do("open", { platform: vip.platform, title: "Low water" });
    await onAir(page, house);
    await house.do("say", { ...vip, text: "!post The night-heron is back at the lock." });
    const waiting = page.getByRole("region", { name: "Waiting for you" });
    const one = waiting.locator(".wt", { hasText: "asks to post" });
    await one.getByRole("textbox").waitFor();
    await clean(page, "a post that waits");
    await one.getByRole("textbox").fill("The night-heron is back at the lock!");
    await one.getByRole("button", { name: "Post it", exact: true }).click();
    await one.waitFor({ state: "detached" });
    await until("it is there as it was changed", async () => (await posts())[0] === "The night-heron is back at the lock!");

    await house.do("say", { ...vip, text: "!post come and see what I found" });
    await one.getByRole("button", { name: "Do not post it" }).click();
    await one.getByLabel("Why not", { exact: false }).fill("Not without a picture.");
    await one.getByRole("button", { name: "Do not post it" }).click();
    await one.waitFor({ state: "detached" });
    await until("the reason is told", async () => (await house.said(vip.platform)).some((t) => t.includes("it was not posted. Not without a picture.")));
    assert.equal((await posts()).length, 2);
  } finally {
    await house.stop();
  }
});
