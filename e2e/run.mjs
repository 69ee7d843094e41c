// Drives the real application in a browser: the house, its database and its stand-ins, as a streamer would.
//
// Two lanes run beside each other, each with a browser of its own: the tests that share one house and its evening, in
// their order, and those that start a house of their own.
import assert from "node:assert/strict";
import { tests as asked } from "./asked.mjs";
import { tests as book } from "./book.mjs";
import { tests as communities } from "./communities.mjs";
import { tests as courtesies } from "./courtesies.mjs";
import { tests as dates } from "./dates.mjs";
import { tests as doors } from "./doors.mjs";
import { tests as draws } from "./draws.mjs";
import { tests as evenings } from "./evenings.mjs";
import { tests as guard } from "./guard.mjs";
import { browse, lastSeen, launch, patience } from "./house.mjs";
import { tests as keeping } from "./keeping.mjs";
import { tests as kit } from "./kit.mjs";
import { tests as moving } from "./moving.mjs";
import { tests as places } from "./places.mjs";
import { tests as porch } from "./porch.mjs";
import { tests as rewards } from "./rewards.mjs";
import { tests as screen } from "./screen.mjs";
import { tests as timers } from "./timers.mjs";
import { tests as tried } from "./tried.mjs";

const [signingIn, ...onThePorch] = porch;
const shared = [...onThePorch, ...book, ...courtesies, ...asked, ...kit, ...keeping, ...dates];
const apart = [...moving, ...doors, ...timers, ...screen, ...tried, ...guard, ...draws, ...evenings, ...rewards, ...places, ...communities];

const only = process.argv[2];
const wanted = (list) => list.filter(([name]) => !only || name.includes(only));
const mostFailures = 4; // of a lane, until it gives up

/** asItWas is how the house stood when a test failed, for whoever reads of it later. */
async function asItWas(page, house) {
  const tail = (list) => JSON.stringify(list.slice(-6));
  const porch = await page.request.get(`${house.base}/api/porch`).then((r) => r.json());
  return [
    `said on quayside ${tail(await house.said("quayside"))}, on fernlight ${tail(await house.said("fernlight"))}`,
    `coming up ${tail(porch.coming.map((l) => `${l.courtesy}: ${l.text}`))}, waiting ${tail(porch.waiting.map((w) => `${w.title}: ${w.why}`))}`,
    `live ${porch.live.on}, hush ${!!porch.hush}, not open ${tail(porch.doors.filter((d) => d.state !== "open").map((d) => `${d.door}: ${d.state}`))}`,
    `in passing ${tail(await page.getByRole("region", { name: /^Said in passing/ }).allTextContents())}`,
  ];
}

/** lane runs tests one after the other in one browser, and counts. */
async function lane(tests, house) {
  const browser = await browse();
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  context.setDefaultTimeout(patience);
  const page = await context.newPage();
  const errors = [];
  page.on("pageerror", (e) => errors.push(e.message));
  page.on("console", (m) => m.type() === "error" && /Content Security|Uncaught|React/.test(m.text()) && errors.push(m.text()));
  const counts = { passed: 0, failed: 0 };
  for (const [name, f] of tests) {
    const began = Date.now();
    try {
      await page.setViewportSize({ width: 1280, height: 800 });
      await f({ page, context, house });
      assert.deepEqual(errors.splice(0), [], "the page had errors");
      counts.passed++;
      console.log(`ok    ${name} (${((Date.now() - began) / 1000).toFixed(1)} s)`);
    } catch (e) {
      counts.failed++;
      const lines = String(e.stack ?? e).split("\n");
      const more = [...lines.slice(0, 12), `at ${page.url()}`, ...errors.splice(0).map((x) => `the page said: ${x.slice(0, 600)}`), ...lastSeen];
      await context.setOffline(false);
      if (house) more.push(...(await asItWas(page, house).catch((why) => [`nothing is known of the house: ${why.message}`])));
      console.log([`FAIL  ${name}`, ...more.map((x) => x.slice(0, 900))].join("\n      "));
      if (process.env.PORCH_SHOT) await page.screenshot({ path: process.env.PORCH_SHOT });
      if (counts.failed >= mostFailures) {
        console.log(`FAIL  giving up after ${mostFailures} failures`);
        break;
      }
    }
  }
  await browser.close();
  return counts;
}

/** together runs those that share a house. */
async function together(tests) {
  if (tests.length === 0) return { passed: 0, failed: 0 };
  const house = await launch();
  const counts = await lane([signingIn, ...tests], house);
  await house.stop();
  return counts;
}

const sums = await Promise.all([together(wanted(shared)), lane(wanted(apart))]);
const [passed, failed] = ["passed", "failed"].map((k) => sums.reduce((n, c) => n + c[k], 0));
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed || !passed ? 1 : 0);
