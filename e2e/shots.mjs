// Takes the pictures in docs/screenshots from the demo data.
import { asked, browse, empty, enter, launch, until } from "./house.mjs";

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

// Moving in, a few steps on.
const bare = await empty();
const m = await signed(bare);
await m.page.getByRole("heading", { name: "Welcome. This is your house." }).waitFor();
await m.page.goto(`${bare.base}/moving/channel`);
await m.page.getByLabel("The channel").fill("tidepool_hours");
await m.page.getByLabel("The channel").press("Enter");
await m.page.getByRole("button", { name: "On to the next" }).click();
await m.page.getByLabel("Network", { exact: true }).selectOption("quayside");
await m.page.getByLabel("Address").fill(bare.chat.quayside);
await m.page.getByText("the way there is encrypted").click();
await m.page.getByLabel("Account").fill("porchlamp");
await m.page.getByLabel("Password").fill("low-water-lamp");
await m.page.getByRole("button", { name: "Connect" }).click();
await m.page.getByRole("button", { name: /Let the house reach/ }).click();
await m.page.getByText("It may speak.").waitFor();
await bare.do("silence", { platform: "quayside", viewer: "porchlamp", on: true });
await m.page.getByText("It may not speak.").waitFor();
await m.page.getByText("+v porchlamp").waitFor();
await m.page.waitForTimeout(8000); // what was said in passing is gone
await m.page.screenshot({ path: out("moving") });
await bare.stop();

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
await page.getByRole("button", { name: "The shelf" }).click();
await page.locator("[data-medium='limpet.svg'] img").waitFor();
await page.waitForTimeout(600);
await page.screenshot({ path: out("shelf") });
await page.goto(house.base);
for (const viewer of ["net_one", "net_two", "net_three", "net_four"]) await house.do("follow", { platform: "quayside", viewer });
await house.do("subscribe", { platform: "quayside", viewer: "limpet_lena", viewers: 14 });
await page.getByRole("region", { name: "Cards on the overlay" }).getByText("14 months").waitFor();
await page.locator(".ocard", { hasText: "4" }).first().waitFor();
await page.getByRole("button", { name: "By hand…" }).click();
await page.waitForTimeout(500);
await page.keyboard.press("Escape");
await page.goto(`${house.base}/book`);
await page.locator("[data-person]", { hasText: "kelpwright" }).first().click();
await page.getByText("Accounts").waitFor();
await page.waitForTimeout(600);
await page.screenshot({ path: out("book") });
await page.goto(`${house.base}/places`);
await page.getByRole("button", { name: /^New follow to Lamp log/ }).click();
await page.waitForTimeout(1500);
await page.screenshot({ path: out("places") });

// On screen: the arrangement, and the overlay itself over the drawn rock pool.
await page.goto(`${house.base}/places/screen`);
await page
  .getByRole("region", { name: "Overlays" })
  .getByRole("button", { name: /^(Make its address|New address): Over the microscope/ })
  .click();
const at = await page.locator("code").innerText();
await page.reload();
await page.getByRole("button", { name: /^Cards: / }).waitFor();
await page.waitForTimeout(600);
await page.screenshot({ path: out("screen") });
const pool = await page
  .locator("svg.pool")
  .first()
  .evaluate((e) => {
    const copy = e.cloneNode(true);
    const from = [...e.querySelectorAll("*")];
    [...copy.querySelectorAll("*")].forEach((x, i) => {
      for (const name of ["fill", "stroke", "stroke-width", "stroke-linecap"]) x.setAttribute(name, getComputedStyle(from[i]).getPropertyValue(name));
    });
    return copy.outerHTML;
  });
const over = await (
  await page
    .context()
    .browser()
    .newContext({ viewport: { width: 1280, height: 720 } })
).newPage();
await over.goto(at);
await over.evaluate((svg) => {
  const ground = document.createElement("div");
  ground.innerHTML = svg;
  ground.firstElementChild.style.cssText = "position: fixed; inset: 0; width: 100%; height: 100%";
  document.body.prepend(ground);
}, pool);
await house.do("subscribe", { platform: "quayside", viewer: "kelp_and_kettle", months: 14 });
await over.locator(".card").waitFor();
await over.waitForTimeout(1500);
await over.screenshot({ path: out("overlay") });
await over.context().close();
await look(page, `${house.base}/dates`, "dates", 2500);
await look(page, `${house.base}/house`, "house");
await page.goto(`${house.base}/house/doors/quayside-chat`);
await page.locator("details").first().waitFor();
await page.getByRole("heading", { name: "What came in lately" }).scrollIntoViewIfNeeded();
await page.locator("details").nth(1).locator("summary").click();
await page.locator("details").nth(4).scrollIntoViewIfNeeded();
await page.waitForTimeout(600);
await house.do("coin", { viewer: "limpet_lena", viewers: 1250, text: "for the anemone" });
await house.do("raffle", { viewer: "moss_and_maud" });
await page.goto(`${house.base}/house/doors/tin`);
await page.getByText("tipped 12.50 GBP").first().waitFor();
await page.getByRole("button", { name: "Change" }).first().click();
await page.locator("summary", { hasText: "kind:coin" }).click();
await page.getByRole("heading", { name: "How its messages are understood" }).scrollIntoViewIfNeeded();
await page.waitForTimeout(900);
await page.screenshot({ path: out("teach") });
await page.goto(house.base);
await minute(15.35);
await page.waitForTimeout(2500);
await page.evaluate(() => localStorage.setItem("porch-theme", "linen"));
await page.reload();
await page.waitForTimeout(9000);
await page.screenshot({ path: out("porch-linen") });
await page.evaluate(() => localStorage.setItem("porch-theme", "dusk"));
await page.setViewportSize({ width: 390, height: 844 });
await page.goto(house.base);
await page.getByRole("tab", { name: "To hand" }).click();
await page.locator("[data-peg='greetings']").click();
await page.getByText("is greeted anew", { exact: false }).waitFor();
await page.screenshot({ path: out("porch-phone") });
await page.setViewportSize({ width: 1280, height: 800 });

// A draw while its winner is waited for, and small rewards.
await page.goto(house.base);
await page.locator(".pers").first().waitFor(); // keys are heard from then on
await page.keyboard.press("d");
await page.getByLabel("Prizes, one a line").fill("a print of the kelp bed\na limpet badge");
await page.getByRole("button", { name: "Open the draw", exact: true }).click();
await page.getByRole("button", { name: "Close and draw" }).waitFor();
for (const viewer of ["tidewrack", "mossy_mare", "kelpwright", "pebble_june", "saltpan_pip", "limpet_lena"]) await house.do("say", { platform: "quayside", viewer, text: "!tide" });
await page.waitForTimeout(2500);
await page.getByRole("button", { name: "Close and draw" }).click();
await page.waitForTimeout(3000);
await page.screenshot({ path: out("draw") });
await page.goto(`${house.base}/courtesies`);
await page.getByRole("button", { name: /Small rewards/ }).click();
const rewards = page.getByRole("region", { name: "How points are gathered" }).first();
const put = async (label, value) => {
  await rewards.getByLabel(label).fill(value);
  await rewards.getByLabel(label).blur();
  await page.waitForTimeout(1200);
};
await rewards.getByRole("checkbox", { name: "points are on" }).check();
await put("What one is called", "pearl");
await put("Points every ten minutes", "10");
await put("Points for the first level", "100");
await put("Names of the levels, one a line", "Barnacle\nLimpet\nPeriwinkle\nShore crab");
for (const title of ["What I have, and who leads", "Turn a stone", "Periwinkle race"]) {
  await rewards.getByRole("listitem").filter({ hasText: title }).first().getByRole("button", { name: "Set it up" }).click();
  await page.waitForTimeout(1200);
}
await page.getByText("Bring points in from a file").click();
await page.getByLabel("The rows").fill("login,points\nlimpet_lena,1200\nkelpwright,840\nsandhopper9,510");
await page.getByRole("button", { name: "Look first" }).click();
await page.getByRole("button", { name: /^Give \d+ to/ }).click();
await page.getByRole("link", { name: "Limpet Lena" }).waitFor();
await page.getByLabel("The rows").fill("login,points\nlimpet_lena,1200\nkelpwright,840\nsandhopper9,510\nmossy_mare,120");
await page.getByRole("button", { name: "Look first" }).click();
await page.getByText("given from a file before").waitFor();
await page.waitForTimeout(6000); // what was said in passing is gone
await page.screenshot({ path: out("rewards") });
await page.goto(`${house.base}/courtesies/table`);
await page.getByRole("button", { name: "Bring in…" }).click();
await page.getByLabel("A list of commands").fill(
  JSON.stringify([
    { names: ["tide"], words: ["tide table", "low water"], answer: "Low water is late tonight, {name}: bring a lamp.", restSeconds: 60 },
    { names: ["ebb"], words: ["low water"], answer: "The gully is knee deep and falling.", restSeconds: 60, who: "follower" },
    {
      names: ["since"],
      words: ["how long have I"],
      answer: "{hasMeant, select, yes {{meant}} other {{name}}} has sat here for {hasFollowAge, select, yes {{followAge}} other {a while}}.",
      restSeconds: 10,
      personSeconds: 60,
    },
    { names: ["row"], answer: "Put {hasMeant, select, yes {{meant}} other {yourself}} on the tide table{hasLink, select, yes {: {link}} other {}}", restSeconds: 45, who: "vip" },
    { names: ["moths"], words: ["moth night"], answer: "Quiet Moths light the sheet at dusk.", restSeconds: 300, off: true },
    { names: ["asks"], answer: "What you can ask: {hasCommands, select, yes {{commands}} other {nothing yet}}", who: "nobody" },
  ]),
);
await page.getByRole("button", { name: "See what it holds" }).click();
await page.getByRole("button", { name: "Take 6 in" }).click();
await page.getByText("6 taken in").waitFor();
for (const [viewer, text] of [
  ["tidewrack", "!creature"],
  ["mossy_mare", "!tide"],
  ["pebble_june", "!creature"],
  ["saltpan_pip", "when is low water?"],
  ["tidewrack", "!since"],
  ["sandhopper9", "!lens"],
]) {
  await house.do("say", { platform: "fernlight", viewer, text });
  await page.waitForTimeout(1500);
}
await page.getByText("6 taken in").waitFor({ state: "hidden" });
await page.reload();
await page.getByLabel("Choose !creature").check();
await page.getByLabel("Choose tide").check();
await page.waitForTimeout(900);
await page.screenshot({ path: out("commands") });

// The evening is over: lived again under a draft, and looked back at.
await asked(page, "POST", "/api/desk/stream", { act: "closed" });
await until("the stream is over", async () => !(await page.request.get(`${house.base}/api/porch`).then((r) => r.json())).live.on);
await page.goto(`${house.base}/rehearsal`);
await page.getByText("nothing is sent", { exact: false }).waitFor();
await page.getByRole("button", { name: "a draft without a change" }).click();
await page.getByLabel("greetings become one from").fill("9");
await page.getByLabel("seconds between two lines").fill("6");
await page.getByRole("checkbox", { name: "Greet a regular" }).click();
await page.getByRole("button", { name: "Done", exact: true }).click();
await page
  .getByRole("region", { name: "Differences" })
  .getByRole("button", { name: /later|only above/ })
  .first()
  .click();
await page.waitForTimeout(1500);
await page.screenshot({ path: out("rehearsal") });
await look(page, `${house.base}/lookback`, "lookback", 2500);
await browser.close();
await house.stop();
