// Starts a house with its stand-ins for the browser tests, on a database of its own, and ends it again.
import assert from "node:assert/strict";
import { execFileSync, spawn } from "node:child_process";
import fs from "node:fs";
import net from "node:net";
import os from "node:os";
import path from "node:path";
import { AxeBuilder } from "@axe-core/playwright";
import { chromium } from "playwright-core";

/** freePort is one that nothing listens on, below those that connections going out are given by themselves. */
export const freePort = () =>
  new Promise((done) => {
    const port = 20_000 + Math.floor(Math.random() * 10_000);
    const s = net.createServer();
    s.on("error", () => done(freePort()));
    s.listen(port, "127.0.0.1", () => s.close(() => done(port)));
  });

/** launch starts `vividporch demo` and answers with its addresses. */
export async function launch({ play = "never", channel = `evening-${Date.now()}-${Math.floor(Math.random() * 1e6)}` } = {}) {
  const port = await freePort();
  let child;
  const start = async () => {
    child = spawn(process.env.PORCH_BIN, ["demo", "--play", play], {
      env: { ...process.env, PORCH_LISTEN: `127.0.0.1:${port}`, PORCH_CHANNEL: channel, PORCH_QUICK_RETRY: "1", PORCH_KEY: Buffer.alloc(32, "low water").toString("base64") },
      stdio: ["ignore", "pipe", "pipe"],
    });
    let said = "";
    let logged = "";
    child.stderr.on("data", (d) => (logged = (logged + d).slice(-4000)));
    await new Promise((done, fail) => {
      child.stdout.on("data", (d) => {
        said += d;
        if (said.includes("/enter/")) done();
      });
      child.on("exit", (code) => fail(new Error(`the house ended with ${code}: ${said}${logged}`)));
    });
    return said;
  };
  const stop = () =>
    new Promise((done) => {
      child.removeAllListeners("exit");
      child.on("exit", done);
      child.kill("SIGINT");
    });
  const said = await start();
  const street = said.match(/http:\/\/127\.0\.0\.1:\d+\/(?=\n)/)[0].replace(/\/$/, "");
  return {
    link: said.match(/http\S*\/enter\/\w+/)[0],
    street,
    base: `http://127.0.0.1:${port}`,
    do: (act, order = {}) =>
      fetch(`${street}/street/do/${act}`, { method: "POST", body: JSON.stringify(order) }).then((r) => {
        if (!r.ok) throw new Error(`${act}: ${r.status}`);
      }),
    state: () => fetch(`${street}/street/state`).then((r) => r.json()),
    said: async (platform) => (await fetch(`${street}/street/heard/${platform}?nick=porchlamp`).then((r) => r.json())).map((h) => h.text),
    start,
    stop,
  };
}

const postgres = (name) => {
  const root = "/usr/lib/postgresql";
  return `${root}/${fs
    .readdirSync(root)
    .sort((a, b) => +a - +b)
    .pop()}/bin/${name}`;
};

/** empty starts a house of one's own on an empty database, with the street beside it and nothing connected. */
export async function empty() {
  const dir = fs.mkdtempSync(path.join(os.tmpdir(), "porch-"));
  const database = `moving_${Date.now()}_${Math.floor(Math.random() * 1e6)}`;
  execFileSync(postgres("psql"), [process.env.PORCH_DATABASE, "-qc", `CREATE DATABASE ${database}`]);
  const url = new URL(process.env.PORCH_DATABASE);
  url.pathname = `/${database}`;
  const [port, street, quayside, fernlight, home] = await Promise.all([0, 0, 0, 0, 0].map(freePort));
  const base = `http://127.0.0.1:${port}`;
  const run = (args, more, ready) =>
    new Promise((done, fail) => {
      const child = spawn(process.env.PORCH_BIN, args, { env: { ...process.env, ...more }, stdio: ["ignore", "pipe", "ignore"] });
      let said = "";
      child.stdout.on("data", (d) => {
        said += d;
        if (ready.test(said)) done([child, said]);
      });
      child.on("exit", (code) => fail(new Error(`${args[0]} ended with ${code}: ${said}`)));
    });
  const [outside] = await run(
    ["street", "--listen", `127.0.0.1:${street}`, "--quayside", `127.0.0.1:${quayside}`, "--fernlight", `127.0.0.1:${fernlight}`, "--inbox", `${base}/inbox/`],
    {},
    /street http/,
  );
  const settings = {
    PORCH_DATABASE: url.href,
    PORCH_LISTEN: `127.0.0.1:${port}`,
    PORCH_HOME: `127.0.0.1:${home}`,
    PORCH_KEY_FILE: path.join(dir, "house.key"),
    PORCH_BACKUPS: path.join(dir, "backups"),
    PORCH_CHANNEL: "",
  };
  const [inside, said] = await run(["serve"], settings, /\/enter\//);
  const end = (child) =>
    new Promise((done) => {
      child.removeAllListeners("exit");
      child.on("exit", done);
      child.kill("SIGINT");
    });
  const at = `http://127.0.0.1:${street}`;
  return {
    base,
    street: at,
    chat: { quayside: `127.0.0.1:${quayside}`, fernlight: `127.0.0.1:${fernlight}` },
    link: said.match(/http\S*\/enter\/\w+/)[0],
    do: (act, order = {}) =>
      fetch(`${at}/street/do/${act}`, { method: "POST", body: JSON.stringify(order) }).then((r) => {
        if (!r.ok) throw new Error(`${act}: ${r.status}`);
      }),
    state: () => fetch(`${at}/street/state`).then((r) => r.json()),
    said: async (platform) => (await fetch(`${at}/street/heard/${platform}?nick=porchlamp`).then((r) => r.json())).map((h) => h.text),
    stop: async () => {
      await end(inside);
      await end(outside);
      execFileSync(postgres("psql"), [process.env.PORCH_DATABASE, "-qc", `DROP DATABASE ${database} WITH (FORCE)`]);
      fs.rmSync(dir, { recursive: true, force: true });
    },
  };
}

/** enter opens a one-time link and presses its button. */
export async function enter(page, link) {
  await page.goto(link);
  await page.getByRole("button", { name: "Come in" }).click();
}

/** lastSeen is what the pages of a browser that was closed showed last: for whoever reads why a test with a browser of its own failed. */
export const lastSeen = [];

export async function browse() {
  const browser = await chromium.launch({
    executablePath: process.env.PORCH_CHROMIUM ?? "/usr/bin/chromium",
    args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
  });
  const context = browser.newContext.bind(browser);
  browser.newContext = async (options) => {
    const made = await context(options);
    made.on("weberror", (e) => lastSeen.push(`${e.page()?.url()} had an error: ${e.error().message}`));
    return made;
  };
  const close = browser.close.bind(browser);
  browser.close = async () => {
    for (const page of browser.contexts().flatMap((c) => c.pages())) {
      const words = await page.evaluate(said).catch((e) => e.message);
      lastSeen.push(`${page.url()} showed ${words}`);
    }
    lastSeen.splice(0, lastSeen.length - 8);
    await close();
  };
  return browser;
}

/** said is what a page tells by itself, and what stands in its fields. */
const said = () =>
  JSON.stringify([
    ...[...document.querySelectorAll("[role=alert], [role=status], [role=dialog], [data-sonner-toast]")].map((e) => e.textContent.trim().slice(0, 200)).filter(Boolean),
    ...[...document.querySelectorAll("main input")].slice(0, 6).map((e) => `${e.labels?.[0]?.textContent ?? e.ariaLabel ?? "a field"}: ${e.type === "password" ? "…" : e.value}`),
  ]);

/** looked has axe look at a page. Themes differ in their colours alone, so the second is looked at for those. */
export const looked = (page, theme) => {
  const axe = new AxeBuilder({ page });
  return (theme === "linen" ? axe.withRules(["color-contrast"]) : axe).analyze();
};

/** clean has axe find nothing on a page. */
export async function clean(page, what) {
  const { violations } = await new AxeBuilder({ page }).analyze();
  assert.deepEqual(
    violations.map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 160)}`),
    [],
    `axe on ${what}`,
  );
}

/** patience is how long anything is waited for, in ms: no test is about how busy the machine is. */
export const patience = 45_000;

/** until waits for a condition. */
export async function until(what, ok, most = patience) {
  for (const end = Date.now() + most; Date.now() < end;) {
    const got = await ok();
    if (got) return got;
    await new Promise((r) => setTimeout(r, 50));
  }
  throw new Error(`never: ${what}`);
}

/** onAir waits until the house has heard that a stream is on: chat may be quicker than the platform, and what is said before the opening is said to no stream. */
export const onAir = (page, house) => until("the stream is on", async () => (await page.request.get(`${house.base}/api/porch`).then((r) => r.json())).live.on);

/** editing waits until a new courtesy stands in the editor: the address changes before the page does. */
export async function editing(page, id) {
  await page.waitForURL(new RegExp(`/courtesies/${id}`));
  await page.locator(`[aria-label=Editor][data-courtesy="${new URL(page.url()).pathname.split("/").pop()}"]`).waitFor();
}

/** flip presses a courtesy's switch. It shows at once, and acts when the house has heard of it. */
export async function flip(page, name) {
  const heard = page.waitForResponse((r) => r.url().endsWith("/switch") && r.ok());
  await page.getByRole("switch", { name }).click();
  await heard;
}

/** asked is the API as the page's member may use it. */
export const asked = (page, method, path, body) =>
  page.evaluate(
    async ([method, path, body]) => {
      const token = (await fetch("/api/session").then((r) => r.json())).token;
      const r = await fetch(path, { method, headers: { "Content-Type": "application/json", "X-Porch-Token": token }, body: body && JSON.stringify(body) });
      return { status: r.status, body: await r.text() };
    },
    [method, path, body],
  );
