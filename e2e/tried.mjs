// What is tried on screen before it is for real, and what comes to the overlay from elsewhere: clips, emotes, words that are read aloud.
import assert from "node:assert/strict";
import { readFile } from "node:fs/promises";
import { clean, enter, launch, onAir, until } from "./house.mjs";
import { address, asMember, card, software } from "./software.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

/** settle makes a change to a section of the settings, as a screen does. */
async function settle(page, house, section, change) {
  const { settings, version } = await (await page.request.get(`${house.base}/api/house`)).json();
  const { token } = await (await page.request.get(`${house.base}/api/session`)).json();
  const r = await page.request.put(`${house.base}/api/house/sections/${section}`, {
    headers: { "X-Porch-Token": token, "X-Porch-Base": String(version) },
    data: { value: change(settings[section]) },
  });
  assert.ok(r.ok(), await r.text());
}

test("a courtesy's card and a film of the shelf are tried on a picture of the overlay, and on the real one, and nothing is counted", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    const o = await software(page, await address(page, house));
    await page.goto(`${house.base}/courtesies/thank-subscription`);
    const tries = page.getByRole("region", { name: "On screen" });
    await tries.getByRole("button", { name: "Try here" }).click();
    const here = page.getByTestId("small-stage");
    await here.locator(".card", { hasText: "kelpwright" }).waitFor();
    await here.getByText("a try").waitFor();
    assert.equal(await card(o).count(), 0, "what is tried here stays here");
    await clean(page, "the courtesy with what is tried");
    await tries.getByRole("button", { name: "Try on the overlay" }).click();
    await card(o).filter({ hasText: "kelpwright" }).waitFor();
    assert.match(await card(o).innerText(), /a try/);
    assert.match(await card(o).innerText(), /14 months/, "with its second line");

    await page.getByRole("button", { name: /^The shelf/ }).click();
    await page.getByRole("button", { name: "Try heron.webm on screen" }).click();
    await page.getByRole("dialog").getByRole("button", { name: "Try on the overlay" }).click();
    await o.locator('[data-box="film"] canvas, [data-box="film"] video').first().waitFor();
    await clean(page, "the shelf with what is tried");
    await page.keyboard.press("Escape");
    const { entries } = await (await page.request.get(`${house.base}/api/porch`)).json();
    assert.equal(entries.filter((e) => e.text?.includes("kelpwright")).length, 0, "nobody is told of a try");
    await o.context().close();
  } finally {
    await house.stop();
  }
});

test("a card shows a clip of the streamer's as its courtesy says, an emote floats up, and a film that is cut in half holds nothing up", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    await house.do("open", { platform: "quayside", title: "Low water" });
    await onAir(page, house);
    await settle(page, house, "overlays", (all) => all.map((x) => ({ ...x, boxes: x.boxes.map((b) => (b.id === "emotes" ? { ...b, off: undefined } : b)) })));
    await page.goto(`${house.base}/courtesies/thank-subscription`);
    await page.getByText(/no picture · for 8 s/).click();
    await page.getByRole("checkbox", { name: "a clip of theirs, if there is one" }).check();
    await until("it is in force", async () =>
      (await (await page.request.get(`${house.base}/api/courtesies`)).json()).courtesies.find((c) => c.id === "thank-subscription").rule.outputs.some((x) => x.clip),
    );
    const o = await software(page, await address(page, house));
    await house.do("subscribe", { platform: "quayside", viewer: "kelpwright", months: 3 });
    await card(o).waitFor();
    const film = card(o).locator("video.picture");
    await film.waitFor();
    assert.match(await film.getAttribute("src"), /^\/overlay\/\w+\/fetched\/\w+$/, "from the house, which fetched it");
    await until("it plays", () => film.evaluate((v) => v.currentTime > 0));
    const length = await film.evaluate((v) => v.duration);
    assert.ok(length < 5, `the clip that is two hours long is not it: ${length} s`);
    await card(o).waitFor({ state: "detached" }); // words and clip go together

    await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "look :limpet: there" });
    await o.locator('[data-box="emotes"] img').first().waitFor();
    await o.locator(".line", { hasText: "look" }).locator("img").waitFor();
    await until("the emote has floated out of its box", async () => (await o.locator('[data-box="emotes"] img').count()) === 0);

    // Half a film is not put on the shelf; one that was recorded live does not say how long it is, and what is shown of it ends.
    const whole = await readFile(new URL("../starter/shelf/heron.webm", import.meta.url));
    const { token } = await (await page.request.get(`${house.base}/api/session`)).json();
    const put = (name, data) => page.request.post(`${house.base}/api/media?name=${name}`, { headers: { "X-Porch-Token": token }, data });
    const half = await put("half.webm", whole.subarray(0, whole.length / 2));
    assert.equal(half.status(), 422);
    assert.match(await half.text(), /it is cut off: at least \d+ bytes of it are missing/);
    const segment = whole.indexOf(Buffer.from([0x18, 0x53, 0x80, 0x67]));
    const live = Buffer.from(whole);
    live.set([0x01, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff], segment + 4); // its segment is of unknown size
    assert.equal((await put("live.webm", live.subarray(0, whole.length / 2))).status(), 201);
    await asMember(page, house, "/api/overlays/over-the-microscope/try", { medium: "live.webm" });
    await o.locator('[data-box="film"]').locator("canvas, video, img").first().waitFor();
    await house.do("follow", { platform: "quayside", viewer: "wrack_wren" });
    await card(o).filter({ hasText: "wrack_wren" }).waitFor();
    assert.deepEqual(o.wrong, []);
    await o.context().close();
  } finally {
    await house.stop();
  }
});

test("a viewer's words are read aloud once a member allows it, and not when nobody does", async ({ page }) => {
  const house = await launch();
  try {
    await enter(page, house.link);
    await house.do("open", { platform: "quayside", title: "Low water" });
    await onAir(page, house);
    const { token } = await (await page.request.get(`${house.base}/api/session`)).json();
    const headers = { "X-Porch-Token": token };
    const all = await (await page.request.get(`${house.base}/api/courtesies`)).json();
    const { rule } = all.courtesies.find((c) => c.rule.asks?.includes("!creature") || c.rule.asks?.includes("creature"));
    const id = all.courtesies.find((c) => c.rule === rule).id;
    const put = await page.request.put(`${house.base}/api/courtesies/${id}`, {
      headers: { ...headers, "X-Porch-Base": String(all.version) },
      data: { ...rule, outputs: [{ kind: "speak", asks: true }] },
    });
    assert.ok(put.ok(), await put.text());
    const now = (await (await page.request.get(`${house.base}/api/courtesies`)).json()).courtesies.find((c) => c.id === id);
    const words = { outputs: [{ id: now.rule.outputs[0].id, alternatives: ["{name} says {hasRest, select, yes {{rest}} other {nothing}}"] }] };
    assert.ok((await page.request.put(`${house.base}/api/courtesies/${id}/draft`, { headers, data: words })).ok());
    const enacted = await page.request.post(`${house.base}/api/courtesies/${id}/enact`, { headers });
    assert.ok(enacted.ok(), await enacted.text());

    const o = await software(page, await address(page, house));
    await page.goto(house.base);
    await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "!creature the tide is turning" });
    await house.do("say", { platform: "quayside", viewer: "ottoline_reed", text: "!creature buy my shells" });
    const waiting = page.getByRole("region", { name: "Waiting for you" });
    const of = (text) => waiting.locator(".wt", { hasText: text });
    await of("mossy_mare says the tide is turning").waitFor();
    await of("ottoline_reed says buy my shells").getByRole("button", { name: "Do not read it" }).click();
    await of("buy my shells").waitFor({ state: "detached" });
    assert.equal(o.heard.filter((f) => f.do === "show").length, 0, "nothing is read before");
    const spoken = o.waitForResponse((r) => /\/speech\/\w+$/.test(r.url()) && r.ok());
    await of("the tide is turning").getByRole("button", { name: "Read it", exact: true }).click();
    await spoken;
    await of("the tide is turning").waitFor({ state: "detached" });
    assert.equal(o.heard.filter((f) => f.do === "show").length, 1);
    await o.context().close();
  } finally {
    await house.stop();
  }
});
