// How smoothly the Porch is drawn under fifty lines a second, beside an empty page in the same browser. Prints one JSON object:
// frames a second, and the frame that is slower than 99 of a hundred, in ms. And for how long rows stand empty as the guest book
// runs by at two thousand pixels a second.
import { bringCrowd, scrolled } from "./book.mjs";
import { browse, enter, launch, until } from "./house.mjs";

const seconds = 10;
const overlayFor = 60; // seconds that an overlay is looked at
const rate = 50; // lines a second

/** frames counts what a page draws for so long. */
const frames = (page, of = seconds) =>
  page.evaluate(
    (ms) =>
      new Promise((done) => {
        const gaps = [];
        let last = performance.now();
        const end = last + ms;
        const step = (now) => {
          gaps.push(now - last);
          last = now;
          if (now < end) return requestAnimationFrame(step);
          gaps.sort((a, b) => a - b);
          done({ fps: (1000 * gaps.length) / ms, slow: gaps[Math.floor(gaps.length * 0.99)] });
        };
        requestAnimationFrame(step);
      }),
    of * 1000,
  );

const house = await launch();
const browser = await browse();
try {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  await page.goto("about:blank");
  await frames(page); // until everything is warm
  const empty = await frames(page);
  await enter(page, house.link);
  await page.getByRole("region", { name: "Conversation" }).waitFor();
  await house.do("open", { platform: "quayside", title: "Low water" });
  await until("the house is in chat", async () => (await house.state()).platforms[0].here.includes("porchlamp"));
  let sent = 0;
  let on = true;
  const pump = (async () => {
    const begun = Date.now();
    while (on) {
      const due = Math.floor(((Date.now() - begun) * rate) / 1000) - sent;
      await Promise.all(
        Array.from({ length: due }, () => house.do("say", { platform: "quayside", viewer: `heron_${sent % 120}`, text: `what was that under the weed, line ${sent++}` })),
      );
      await new Promise((r) => setTimeout(r, 20));
    }
  })();
  await page.getByTestId("conversation").getByText("what was that").first().waitFor();
  const from = sent;
  const porch = await frames(page);
  const lines = (sent - from) / seconds;

  await bringCrowd(page, house);
  const book = await scrolled(page, 600);

  // An overlay as the streaming software shows it, with the same lines, beside an empty page of its size.
  const { token } = await (await page.request.get(`${house.base}/api/session`)).json();
  const made = await page.request.post(`${house.base}/api/overlays/over-the-microscope/address`, { headers: { "X-Porch-Token": token } });
  await page.goto("about:blank");
  await page.setViewportSize({ width: 1920, height: 1080 });
  const bare = await frames(page);
  await page.goto((await made.json()).address);
  await page.locator(".line").first().waitFor();
  const weigh = () => page.evaluate(() => ({ nodes: document.querySelectorAll("*").length, heap: performance.memory.usedJSHeapSize }));
  const before = await weigh();
  const overlay = { ...(await frames(page, overlayFor)), before, after: await weigh() };
  on = false;
  await pump;
  console.log(JSON.stringify({ empty, porch, lines, book, bare, overlay }));
} finally {
  await browser.close();
  await house.stop();
}
