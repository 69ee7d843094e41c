// On screen: overlays as the streaming software shows them, a page of their own with no sign-in, and the arrangement of them.
import assert from "node:assert/strict";
import { clean, enter, launch, onAir, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

/** address makes an overlay's address, by hand on On screen. */
async function address(page, house, title = "Over the microscope") {
  await page.goto(`${house.base}/places/screen`);
  const overlays = page.getByRole("region", { name: "Overlays" });
  await overlays.getByRole("button", { name: new RegExp(`^${title}`) }).click();
  await overlays.getByRole("button", { name: /Make its address|New address/ }).click();
  const text = await overlays.locator("code").innerText();
  assert.match(text, /\/overlay\/[A-Z0-9]{26}$/);
  return text;
}

/** software opens an overlay as the streaming software would: no cookies, transparent, at its own size. */
async function software(page, at, { width = 1920, height = 1080 } = {}) {
  const context = await page.context().browser().newContext({ viewport: { width, height } });
  const o = await context.newPage();
  o.heard = [];
  o.on("websocket", (ws) => ws.on("framereceived", (f) => o.heard.push(JSON.parse(f.payload))));
  // What was seen is counted where it is seen, over reloads.
  await o.addInitScript(() => {
    new MutationObserver((list) => {
      for (const m of list)
        for (const n of m.addedNodes)
          if (n instanceof HTMLElement && n.matches(".card"))
            sessionStorage.setItem("seen", JSON.stringify([...JSON.parse(sessionStorage.getItem("seen") ?? "[]"), n.innerText]));
    }).observe(document, { subtree: true, childList: true });
  });
  o.wrong = [];
  o.on("pageerror", (e) => o.wrong.push(e.message));
  o.on("console", (m) => m.type() === "error" && o.wrong.push(m.text()));
  await o.goto(at);
  await o.locator(".overlay .box").first().waitFor({ state: "attached" });
  return o;
}

const follow = (house, viewer) => house.do("follow", { platform: "quayside", viewer });
const card = (o) => o.locator(".card");
/** seen is how often a card that says something was seen on a page. */
const seen = async (o, text) => (await o.evaluate(() => JSON.parse(sessionStorage.getItem("seen") ?? "[]"))).filter((t) => t.includes(text)).length;

test("a follow's card comes on a transparent page without sign-in, stays its time and goes; the lamp tells that it is open", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    await house.do("open", { platform: "quayside", title: "Low water" });
    await onAir(page, house);
    const at = await address(page, house);
    const o = await software(page, at);
    await page.getByRole("region", { name: "Overlays" }).getByText("open", { exact: true }).waitFor();
    assert.equal((await o.context().cookies()).length, 0);
    const png = await o.evaluate(() => getComputedStyle(document.body).backgroundColor);
    assert.equal(png, "rgba(0, 0, 0, 0)", "the page is transparent");
    await follow(house, "kelp_and_kettle");
    await card(o).filter({ hasText: "kelp_and_kettle" }).waitFor();
    await card(o).waitFor({ state: "detached" });
    assert.deepEqual(o.wrong, [], "nothing goes wrong on the page, and its policy forbids nothing that it needs");

    // An address that is guessed is not there.
    const guessed = await page.request.get(`${house.base}/overlay/ABCDEFGHIJKLMNOPQRSTUVWXYZ`);
    assert.equal(guessed.status(), 404);
    const head = await page.request.get(at);
    assert.match(head.headers()["content-security-policy"], /frame-ancestors 'none'/);
    assert.match(head.headers()["content-security-policy"], /default-src 'none'/);

    // A new address: the page that was open goes blank.
    await address(page, house);
    await o.locator(".overlay .box").first().waitFor({ state: "detached" });
    assert.equal(await o.locator("body").innerText(), "");
    await o.context().close();
  } finally {
    await house.stop();
  }
});

test("a card is not shown twice over a reload, and once more when it was cut off as it began", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    await house.do("open", { platform: "quayside", title: "Low water" });
    await onAir(page, house);
    const o = await software(page, await address(page, house));

    await follow(house, "kelp_and_kettle");
    await card(o).waitFor();
    await o.reload(); // in its first second
    await card(o).filter({ hasText: "kelp_and_kettle" }).waitFor();
    await until("it is well on", async () => (await o.evaluate(() => document.querySelector(".card.comes")?.getAnimations().length ?? 0)) === 0);
    await o.waitForFunction(() => {
      const s = JSON.parse(sessionStorage.getItem(`shown ${location.pathname}`) ?? "[]").at(-1);
      return s && Date.now() - s.began > 1500;
    });
    await o.reload(); // in its middle
    await o.locator(".overlay .box").first().waitFor({ state: "attached" });
    await follow(house, "wrack_wren");
    await card(o).filter({ hasText: "wrack_wren" }).waitFor();
    assert.equal(await seen(o, "kelp_and_kettle"), 2, "once, and once more");
    assert.equal(await seen(o, "wrack_wren"), 1);
    await o.context().close();
  } finally {
    await house.stop();
  }
});

test("an overlay outlives the house: what is on ends by itself, and what comes after it is shown once on two pages", async ({ page }) => {
  const house = await launch();
  let stopped = false;
  try {
    await enter(page, house.link);
    await house.do("open", { platform: "quayside", title: "Low water" });
    await onAir(page, house);
    const at = await address(page, house);
    const [one, two] = [await software(page, at), await software(page, at)];
    await follow(house, "kelp_and_kettle");
    await Promise.all([card(one).waitFor(), card(two).waitFor()]);
    await house.stop();
    stopped = true;
    await Promise.all([card(one).waitFor({ state: "detached" }), card(two).waitFor({ state: "detached" })]); // by themselves
    await house.start();
    stopped = false;
    await until("both pages are back", async () => {
      const r = await page.request.get(`${house.base}/api/overlays`);
      return r.ok() && (await r.json()).overlays[0].pages === 2;
    });
    await until("chat is back", async () => (await house.state()).platforms[0].here.includes("porchlamp"));
    await follow(house, "wrack_wren");
    await Promise.all([one, two].map((o) => card(o).filter({ hasText: "wrack_wren" }).waitFor()));
    for (const o of [one, two]) {
      assert.equal(await seen(o, "kelp_and_kettle"), 1, "never twice");
      assert.equal(await seen(o, "wrack_wren"), 1);
      await o.context().close();
    }
  } finally {
    if (!stopped) await house.stop();
  }
});

test("chat stands on the overlay with its platform's mark, and what is removed is gone within a second", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    for (const platform of ["quayside", "fernlight"]) await house.do("open", { platform, title: "Low water" });
    await onAir(page, house);
    const o = await software(page, await address(page, house));
    await house.do("say", { platform: "quayside", viewer: "tidewrack", text: "hello from the <b>herons</b>" });
    await house.do("say", { platform: "fernlight", viewer: "ottoline_reed", text: "is it moving?" });
    const line = (text) => o.locator(".line", { hasText: text });
    await line("hello from the <b>herons</b>").waitFor(); // as it was written
    await line("is it moving?").waitFor();
    assert.equal(await line("is it moving?").locator(".at").innerText(), "F");
    await until("lanterns are lit", async () => /[2-9] of 50/.test(await o.locator('[data-box="goal"]').innerText()));

    await page.request.fetch(`${house.base}/api/session`).then(async (r) => {
      const { token } = await r.json();
      const entry = await page.evaluate(async () => (await (await fetch("/api/porch")).json()).entries.find((e) => e.text?.startsWith("hello from the")));
      const done = await page.request.post(`${house.base}/api/desk/act`, {
        headers: { "X-Porch-Token": token },
        data: { act: "delete line", platform: "quayside", message: entry.message, account: entry.account },
      });
      assert.ok(done.ok(), await done.text());
    });
    const since = Date.now();
    await line("hello from the").waitFor({ state: "detached" });
    assert.ok(Date.now() - since < 1000, "it is gone within a second");
    assert.equal(await line("is it moving?").count(), 1);
    await o.context().close();
  } finally {
    await house.stop();
  }
});

test("a box is moved by key and by mouse, kept inside, and taken back; the page is clean for everybody", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    const o = await software(page, await address(page, house));
    const box = () => page.getByRole("button", { name: /^Chat lines: / });
    await box().focus();
    await page.keyboard.press("ArrowLeft");
    await page.getByRole("button", { name: /^Chat lines: 65 per cent from left, 42 from top/ }).waitFor();
    await page.keyboard.press("Shift+ArrowUp");
    await page.getByRole("button", { name: /^Chat lines: .* 31 wide, 53 high/ }).waitFor();
    await page.keyboard.press("Alt+ArrowDown");
    await page.getByRole("button", { name: /^Chat lines: 65 per cent from left, 42.1 from top/ }).waitFor();
    const placed = () => o.locator('[data-box="chat-lines"]').evaluate((e) => [e.style.left, e.style.top]);
    await until("the real overlay follows", async () => (await placed()).join() === "65%,42.1%");

    const at = await box().boundingBox();
    await page.mouse.move(at.x + 60, at.y + 60);
    await page.mouse.down();
    await page.mouse.move(at.x + 900, at.y + 900, { steps: 4 });
    await page.mouse.up();
    await page.getByRole("button", { name: /^Chat lines: 69 per cent from left, 47 from top/ }).waitFor(); // no farther than the edge
    await page.getByRole("button", { name: "Undo" }).click();
    await page.getByRole("button", { name: /^Chat lines: 65 per cent from left/ }).waitFor();

    // A sample stands on the real overlay as long as it is wanted.
    await page.getByRole("button", { name: "Cards", exact: true }).click();
    await page.getByLabel("its sample on the real overlay too").check();
    await o.locator(".card", { hasText: "limpet_lena" }).waitFor();
    await page.getByLabel("its sample on the real overlay too").uncheck();
    await o.locator(".card").waitFor({ state: "detached" });
    await page.getByRole("button", { name: "Try on the overlay" }).click();
    await o.locator(".card", { hasText: "a try" }).waitFor();

    // Another look, and colours that cannot be read are told.
    const form = page.getByRole("region", { name: "The chosen box" });
    await form.getByRole("radio", { name: "tide line" }).click();
    await form.getByText(/^reads well/).waitFor();
    await form.getByLabel("Colour of the words").fill("#102022");
    await form.getByText(/^hard to read/).waitFor();
    await clean(page, "the arrangement");
    await o.context().close();
  } finally {
    await house.stop();
  }
});
