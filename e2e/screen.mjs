// On screen: overlays as the streaming software shows them, a page of their own with no sign-in, and the arrangement of them.
import assert from "node:assert/strict";
import { clean, enter, launch, onAir, until } from "./house.mjs";
import { address, asMember, card, follow, pixels, seen, software } from "./software.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

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
    await house.do("subscribe", { platform: "quayside", viewer: "mossy_mare", months: 3 });
    await card(o).locator("img.face").waitFor();
    assert.match(await card(o).locator("img.face").getAttribute("src"), /^\/overlay\/\w+\/fetched\/\w+$/, "their own picture, from the house");
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

    const entry = await page.evaluate(async () => (await (await fetch("/api/porch")).json()).entries.find((e) => e.text?.startsWith("hello from the")));
    await asMember(page, house, "/api/desk/act", { act: "delete line", platform: "quayside", message: entry.message, account: entry.account });
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

test("a film's ground is seen through, whether it brings its own transparency or stands on a plain green", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    const o = await software(page, await address(page, house));
    await pixels(o, "film"); // the page that looks is there
    const shown = async (medium) => {
      const film = o.locator('[data-box="film"] .film');
      let n = {};
      // It takes two seconds: if all of them went by between two looks, it is tried again.
      await until(
        `the heron of ${medium} is on its way`,
        async () => {
          if ((await film.count()) === 0) {
            assert.deepEqual(await asMember(page, house, "/api/overlays/over-the-microscope/try", { box: "film", medium }), { done: true, because: [] });
            await film.waitFor();
          }
          n = await pixels(o, "film");
          return n.figure > 2000;
        },
        60_000,
      ); // a picture of what is drawn without a graphics card takes a second or two
      await film.waitFor({ state: "detached" });
      return n;
    };
    for (const [medium, keyed] of [
      ["heron.webm", false],
      ["heron-on-green.webm", true],
    ]) {
      if (keyed) {
        await page.getByRole("button", { name: "Film", exact: true }).click();
        const form = page.getByRole("region", { name: "The chosen box" });
        await form.getByLabel("a plain ground is taken out of films here").check();
        // It is picked from a frame, and looked at before.
        await form.getByLabel("Film to look at").selectOption("heron-on-green.webm");
        await form.getByLabel("A frame of heron-on-green.webm; press on", { exact: false }).click({ position: { x: 4, y: 4 } });
        await until("the overlay has it", () => o.heard.some((f) => f.do === "stand" && f.overlay.boxes.some((b) => b.key?.colour && b.key.colour !== "#00b140")));
        await clean(page, "taking a ground out");
      }
      const n = await shown(medium);
      assert.ok(n.clear > n.all * 0.6, `${medium}: ${n.clear} of ${n.all} are seen through`);
      assert.ok(n.green < n.all * 0.001, `${medium}: ${n.green} of ${n.all} are green`);
    }
    assert.deepEqual(o.wrong, []);
    await o.context().close();
  } finally {
    await house.stop();
  }
});

test("two sounds that are 20 dB apart come out as loud as each other, and the stop key silences what plays", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    // Noise of three seconds, once loud and once nearly lost.
    const noise = (db) => {
      const n = 3 * 48_000;
      const wav = Buffer.alloc(44 + 2 * n);
      wav.write("RIFF", 0);
      wav.writeUInt32LE(36 + 2 * n, 4);
      wav.write("WAVEfmt ", 8);
      [16, 1 | (1 << 16), 48_000, 96_000, 2 | (16 << 16)].forEach((v, i) => wav.writeUInt32LE(v, 16 + 4 * i));
      wav.write("data", 36);
      wav.writeUInt32LE(2 * n, 40);
      let seed = 11;
      for (let i = 0; i < n; i++) {
        seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
        wav.writeInt16LE(Math.round(32_000 * 10 ** (db / 20) * (seed / 2 ** 31 - 1)), 44 + 2 * i);
      }
      return wav;
    };
    const { token } = await (await page.request.get(`${house.base}/api/session`)).json();
    for (const [name, db] of [
      ["near.wav", -10],
      ["far.wav", -30],
    ]) {
      const r = await page.request.post(`${house.base}/api/media?name=${name}`, {
        headers: { "X-Porch-Token": token, "Content-Type": "application/octet-stream" },
        data: noise(db),
      });
      assert.ok(r.ok(), await r.text());
    }
    await until("they are measured", async () => {
      const { items } = await (await page.request.get(`${house.base}/api/media`)).json();
      return ["near.wav", "far.wav"].every((n) => items.find((m) => m.name === n).lufs < 0);
    });
    const at = await address(page, house);
    const o = await software(page, at);
    const out = [];
    for (const medium of ["near.wav", "far.wav"]) {
      await asMember(page, house, "/api/overlays/over-the-microscope/try", { box: "", medium });
      await until("the overlay is told", () => o.heard.some((f) => f.do === "try" && f.parts[0].media.name === medium));
      const { media } = o.heard.find((f) => f.do === "try" && f.parts[0].media.name === medium).parts[0];
      // As it leaves the page, rendered off line: through its gain and a limiter like the page's. Loudness by ITU-R BS.1770, ungated.
      out.push(
        await o.evaluate(
          async ({ url, gain }) => {
            const data = await (await fetch(url)).arrayBuffer();
            const c = new OfflineAudioContext(1, 3 * 48_000, 48_000);
            const source = new AudioBufferSourceNode(c, { buffer: await c.decodeAudioData(data) });
            const limiter = new DynamicsCompressorNode(c, { threshold: -3, knee: 0, ratio: 20, attack: 0.002, release: 0.1 });
            const shelf = new IIRFilterNode(c, { feedforward: [1.53512485958697, -2.69169618940638, 1.19839281085285], feedback: [1, -1.69065929318241, 0.73248077421585] });
            const pass = new IIRFilterNode(c, { feedforward: [1, -2, 1], feedback: [1, -1.99004745483398, 0.99007225036621] });
            const unmade = new GainNode(c, { gain: 10 ** ((-0.6 * 2.85) / 20) });
            source.connect(new GainNode(c, { gain })).connect(limiter).connect(unmade).connect(shelf).connect(pass).connect(c.destination);
            source.start();
            const heard = (await c.startRendering()).getChannelData(0);
            return -0.691 + 10 * Math.log10(heard.reduce((sum, x) => sum + x * x, 0) / heard.length);
          },
          { url: `${at}/${media.path}`, gain: media.gain },
        ),
      );
    }
    assert.ok(Math.abs(out[0] - out[1]) < 1, `they come out at ${out.map((n) => n.toFixed(1))} LUFS, ${JSON.stringify(o.heard.filter((f) => f.do === "try"))}`);
    assert.ok(Math.abs(out[0] + 16) < 1, `and at what the overlay is set to: ${out[0].toFixed(1)}`);

    await page.goto(house.base);
    await page.getByRole("heading", { name: "Conversation" }).waitFor();
    await page.keyboard.press("q");
    await page.getByText("The overlays are silent", { exact: false }).waitFor();
    await until("the page is told", () => o.heard.some((f) => f.do === "silence"));
    await o.context().close();
  } finally {
    await house.stop();
  }
});

test("in the ear it is said softly who arrives, to whoever has the address, and silent at one key", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    await house.do("open", { platform: "quayside", title: "Low water" });
    await onAir(page, house);
    await page.goto(`${house.base}/places/screen`);
    await page.getByRole("button", { name: "What is worth it" }).click();
    await page.getByLabel("somebody new").check();
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: /: in the ear$/ }).click();
    const at = await page.getByRole("region", { name: "Overlays" }).locator("code").innerText();
    const context = await page
      .context()
      .browser()
      .newContext({ viewport: { width: 390, height: 844 } });
    const ear = await context.newPage();
    const wrong = [];
    ear.on("pageerror", (e) => wrong.push(e.message));
    await ear.goto(at);
    await ear.getByText("Connected", { exact: true }).waitFor();
    await clean(ear, "the page in the ear");
    await ear.getByRole("button", { name: "Listen" }).click();
    const spoken = ear.waitForResponse((r) => /\/ear\/\w+\/speech\/\w+$/.test(r.url()) && r.ok());
    await house.do("say", { platform: "quayside", viewer: "gully_gwen", text: "hello, first time here" });
    await ear.getByText("gully gwen, for the first time").waitFor();
    assert.equal((await spoken).headers()["content-type"], "audio/wav");
    await ear.keyboard.press("m");
    await ear.getByRole("button", { name: "Listen", pressed: false }).waitFor();
    assert.deepEqual(wrong, []);
    await context.close();
  } finally {
    await house.stop();
  }
});
