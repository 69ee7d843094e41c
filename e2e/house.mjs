// Starts a house with its stand-ins for the browser tests, on a database of its own, and ends it again.
import { spawn } from "node:child_process";
import net from "node:net";
import { chromium } from "playwright-core";

export const freePort = () =>
  new Promise((done) => {
    const s = net.createServer().listen(0, "127.0.0.1", () => {
      const { port } = s.address();
      s.close(() => done(port));
    });
  });

/** launch starts `vividporch demo` and answers with its addresses. */
export async function launch({ play = "never", channel = `evening-${Date.now()}` } = {}) {
  const port = await freePort();
  let child;
  const start = async () => {
    child = spawn(process.env.PORCH_BIN, ["demo", "--play", play], {
      env: { ...process.env, PORCH_LISTEN: `127.0.0.1:${port}`, PORCH_CHANNEL: channel, PORCH_QUICK_RETRY: "1", PORCH_KEY: Buffer.alloc(32, "low water").toString("base64") },
      stdio: ["ignore", "pipe", "ignore"],
    });
    let said = "";
    await new Promise((done, fail) => {
      child.stdout.on("data", (d) => {
        said += d;
        if (said.includes("/enter/")) done();
      });
      child.on("exit", (code) => fail(new Error(`the house ended with ${code}: ${said}`)));
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

/** enter opens a one-time link and presses its button. */
export async function enter(page, link) {
  await page.goto(link);
  await page.getByRole("button", { name: "Come in" }).click();
}

export const browse = () =>
  chromium.launch({
    executablePath: process.env.PORCH_CHROMIUM ?? "/usr/bin/chromium",
    args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
  });

/** until waits for a condition, at most so many ms. */
export async function until(what, ok, most = 20_000) {
  for (const end = Date.now() + most; Date.now() < end;) {
    const got = await ok();
    if (got) return got;
    await new Promise((r) => setTimeout(r, 50));
  }
  throw new Error(`never: ${what}`);
}
