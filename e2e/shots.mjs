// Takes the pictures in docs/screenshots from the demo data.
import { browse, launch, until, enter } from "./house.mjs";

const out = (name) => `../docs/screenshots/${name}.png`;
const browser = await browse();

async function signed(house, theme = "dusk") {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  await enter(page, house.link);
  await page.evaluate((t) => localStorage.setItem("porch-theme", t), theme);
  return { context, page };
}

const look = async (page, url, name, settle = 1500) => {
  await page.goto(url);
  await page.waitForTimeout(settle);
  await page.screenshot({ path: out(name) });
};

const quiet = await launch();
const q = await signed(quiet);
await look(q.page, quiet.base, "porch-quiet");
await quiet.stop();

const house = await launch({ play: "now" });
const { page } = await signed(house);
const minute = (m) => until(`minute ${m}`, async () => (await house.state()).player.minute >= m, 240_000);
await page.goto(house.base);
await minute(7.4);
await page.locator(".hs").last().getByRole("button", { name: "why?" }).click();
await page.waitForTimeout(600);
await page.screenshot({ path: out("porch") });
await look(page, `${house.base}/courtesies/raid-boatload`, "courtesies");
await page.getByRole("tab", { name: "Who gets it" }).click();
await page.getByTestId("ladder").getByRole("button").first().click();
await page.getByPlaceholder("Who comes").fill("kelpwright");
await page.locator(".pick").first().click();
await page.getByTestId("ladder").getByText("wins").waitFor();
await page.waitForTimeout(600);
await page.screenshot({ path: out("ladder") });
await page.getByRole("button", { name: "The shelf" }).click();
await page.locator("[data-medium='limpet.svg'] img").waitFor();
await page.waitForTimeout(600);
await page.screenshot({ path: out("shelf") });
await page.goto(`${house.base}/courtesies/thank-subscription`);
await page.locator(".cmcases").first().click();
const one = page.getByTestId("cases").getByRole("textbox").first();
await one.click();
await page.keyboard.press("End");
await page.keyboard.type(" {");
await page.locator(".cm-tooltip-autocomplete li").first().waitFor();
await page.waitForTimeout(400);
await page.screenshot({ path: out("composer") });
await page.keyboard.press("Escape");
await page.goto(house.base);
for (const viewer of ["net_one", "net_two", "net_three", "net_four"]) await house.do("follow", { platform: "quayside", viewer });
await house.do("subscribe", { platform: "quayside", viewer: "limpet_lena", viewers: 14 });
await page.getByRole("region", { name: "Cards on the overlay" }).getByText("14 months").waitFor();
await page.locator(".ocard", { hasText: "4" }).first().waitFor();
await page.getByRole("button", { name: "By hand…" }).click();
await page.waitForTimeout(500);
await page.screenshot({ path: out("by-hand") });
await page.goto(`${house.base}/book`);
await page.locator("[data-person]", { hasText: "kelpwright" }).first().click();
await page.getByText("Accounts").waitFor();
await page.waitForTimeout(600);
await page.screenshot({ path: out("book") });
await look(page, `${house.base}/book/crews`, "crews");
await look(page, `${house.base}/book/newcomers`, "newcomers");
await page.goto(house.base);
await minute(15.35);
await page.waitForTimeout(2500);
await page.screenshot({ path: out("porch-storm") });
await page.evaluate(() => localStorage.setItem("porch-theme", "linen"));
await page.reload();
await page.waitForTimeout(9000);
await page.screenshot({ path: out("porch-linen") });
await page.evaluate(() => localStorage.setItem("porch-theme", "dusk"));
await page.setViewportSize({ width: 390, height: 844 });
await look(page, house.base, "porch-phone");
await look(page, `${house.base}/courtesies/thank-tip`, "courtesies-phone");
await page.setViewportSize({ width: 1280, height: 800 });
await look(page, house.street, "street");
await browser.close();
await house.stop();
