// The streaming software, as far as overlays are concerned: it opens their pages, with no sign-in and no cookies.
import assert from "node:assert/strict";

/** address makes an overlay's address, by hand on On screen. */
export async function address(page, house, title = "Over the microscope") {
  await page.goto(`${house.base}/places/screen`);
  const overlays = page.getByRole("region", { name: "Overlays" });
  await overlays.getByRole("button", { name: new RegExp(`^${title}`) }).click();
  await overlays.getByRole("button", { name: new RegExp(`^(Make its address|New address): ${title}`) }).click();
  const text = await overlays.locator("code").innerText();
  assert.match(text, /\/overlay\/[A-Z0-9]{26}$/);
  return text;
}

/** software opens an overlay as the streaming software would: no cookies, transparent, at its own size. */
export async function software(page, at, { width = 1920, height = 1080 } = {}) {
  const context = await page.context().browser().newContext({ viewport: { width, height } });
  const o = await context.newPage();
  o.heard = [];
  o.on("websocket", (ws) => ws.on("framereceived", (f) => o.heard.push(JSON.parse(f.payload))));
  // What was seen is counted where it is seen, over reloads.
  await o.addInitScript(() => {
    new MutationObserver((list) => {
      for (const m of list)
        for (const n of m.addedNodes)
          if (n instanceof HTMLElement && n.matches(".card")) sessionStorage.setItem("seen", JSON.stringify([...JSON.parse(sessionStorage.getItem("seen") ?? "[]"), n.innerText]));
    }).observe(document, { subtree: true, childList: true });
  });
  o.wrong = [];
  o.on("pageerror", (e) => o.wrong.push(e.message));
  o.on("console", (m) => m.type() === "error" && o.wrong.push(m.text()));
  await o.goto(at);
  await o.locator(".overlay .box").first().waitFor({ state: "attached" });
  return o;
}

/** asMember posts as the member who is signed in on a page. */
export async function asMember(page, house, path, data) {
  const { token } = await (await page.request.get(`${house.base}/api/session`)).json();
  const r = await page.request.post(house.base + path, { headers: { "X-Porch-Token": token }, data });
  assert.ok(r.ok(), `${path}: ${await r.text()}`);
  return r.status() === 204 ? undefined : r.json();
}

/** pixels are how many of a picture of a part of the overlay are seen through, are of something, and are green. */
export async function pixels(o, box) {
  const clip = await o.locator(`[data-box="${box}"]`).boundingBox();
  const png = await o.screenshot({ clip, omitBackground: true });
  o.blank ??= await o.context().newPage();
  return o.blank.evaluate(
    async (url) => {
      const image = new Image();
      image.src = url;
      await image.decode();
      const to = new OffscreenCanvas(image.width, image.height).getContext("2d");
      to.drawImage(image, 0, 0);
      const { data } = to.getImageData(0, 0, image.width, image.height);
      const n = { all: data.length / 4, clear: 0, figure: 0, green: 0 };
      for (let i = 0; i < data.length; i += 4) {
        const [r, g, b, a] = data.subarray(i, i + 4);
        n.clear += a === 0;
        n.figure += a > 200;
        n.green += a > 60 && g > r + 40 && g > b + 40;
      }
      return n;
    },
    `data:image/png;base64,${png.toString("base64")}`,
  );
}

export const follow = (house, viewer) => house.do("follow", { platform: "quayside", viewer });
export const card = (o) => o.locator(".card");
/** seen is how often a card that says something was seen on a page. */
export const seen = async (o, text) => (await o.evaluate(() => JSON.parse(sessionStorage.getItem("seen") ?? "[]"))).filter((t) => t.includes(text)).length;
