// Small rewards: points that are gathered and paid with, given back, and staked between two.
import assert from "node:assert/strict";
import { clean, enter, launch, onAir, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

const how = (page) => page.getByRole("region", { name: "How points are gathered" }).first();
const leads = (page) => page.getByRole("region", { name: "Who leads" }).first();

/** rewarding has a house on air, with points on. */
async function rewarding(page, house) {
  await enter(page, house.link);
  await house.do("open", { platform: "quayside", title: "Low water" });
  await onAir(page, house);
  for (const viewer of ["tidewrack", "mossy_mare"]) await house.do("say", { platform: "quayside", viewer, text: "evening" });
  await page.getByTestId("conversation").getByText("evening").nth(1).waitFor();
  await page.goto(`${house.base}/courtesies`);
  await page.getByRole("button", { name: /Small rewards/ }).click();
  await how(page).getByRole("checkbox", { name: "points are on" }).check();
  await how(page).getByLabel("What one is called").fill("pearl");
  await how(page).getByLabel("What one is called").blur();
  await how(page).getByText("pearls for being here").waitFor();
  await until("it is in force", async () => (await (await page.request.get(`${house.base}/api/points`)).json()).settings.one === "pearl");
}

/** setUp sets games up by their titles. */
async function setUp(page, ...titles) {
  for (const title of titles) {
    const row = how(page).getByRole("listitem").filter({ hasText: title }).first();
    await row.getByRole("button", { name: "Set it up" }).click();
    await row.getByRole("button", { name: /^!/ }).waitFor();
  }
}

const heard = async (house) => (await house.said("quayside")).join("\n");

test("points are brought in from a file, pay for a command, are refused to whoever has too few, and given back when it is dropped", async ({ page }) => {
  const house = await launch();
  try {
    await rewarding(page, house);
    const l = leads(page);
    await l.getByText("Bring points in from a file").click();
    await l.getByLabel("The rows").fill("login,points\ntidewrack,60\nnobody_here,5\nmossy_mare,-3");
    await l.getByRole("button", { name: "Look first" }).click();
    await l.getByText("1 row means somebody, with 60 altogether.").waitFor();
    await l.getByText(/nobody_here.*goes by this name/).waitFor();
    await clean(page, "points, and a look at a file");
    await l.getByRole("button", { name: "Give 60 to 1" }).click();
    await l.getByRole("link", { name: "tidewrack" }).waitFor();
    // The same file once more, with a row mended: nobody has theirs twice by a slip, and may by choice.
    await l.getByLabel("The rows").fill("login,points\ntidewrack,60\nmossy_mare,3");
    await l.getByRole("button", { name: "Look first" }).click();
    await l.getByText("1 row was given from a file before, just as many, and left out.").waitFor();
    await l.getByRole("checkbox", { name: "give to them once more" }).check();
    await l.getByRole("button", { name: "Give 63 to 2" }).waitFor();
    await l.getByRole("checkbox", { name: "give to them once more" }).uncheck();
    await l.getByRole("button", { name: "Give 3 to 1" }).click();
    await l.getByText("One has theirs.").waitFor();
    await setUp(page, "What I have, and who leads");

    // A command that costs.
    await page.goto(`${house.base}/courtesies`);
    await page.getByRole("button", { name: "New", exact: true }).click();
    await page.getByLabel("A word").fill("wish");
    await page.getByLabel("An answer").fill("A wish of the house.");
    await page.getByRole("button", { name: "Add", exact: true }).click();
    await page.getByText("A wish of the house.").first().waitFor();
    await page.getByRole("button", { name: "More about when" }).click();
    await page.getByLabel("Points that it costs").fill("30");
    await page.getByLabel("Points that it costs").blur();
    await until("it costs", async () => (await (await page.request.get(`${house.base}/api/courtesies`)).json()).courtesies.some((c) => c.rule.cost === 30));

    await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "!wish" });
    await until("whoever has too few is told so", async () => /mossy_mare.*30 pearls/.test(await heard(house)));
    await house.do("say", { platform: "quayside", viewer: "tidewrack", text: "!wish" });
    await until("it is done", async () => /A wish of the house/.test(await heard(house)));
    await house.do("say", { platform: "quayside", viewer: "tidewrack", text: "!pearls" });
    await until("it was paid for", async () => /tidewrack: 30 pearls/.test(await heard(house)));

    // What waits can be dropped, and then nothing was paid for it.
    await page.getByLabel("Seconds before all of it").fill("60");
    await page.getByLabel("Seconds before all of it").blur();
    await until("it waits", async () => (await (await page.request.get(`${house.base}/api/courtesies`)).json()).courtesies.some((c) => c.rule.delaySeconds === 60));
    await page.goto(house.base);
    await house.do("say", { platform: "quayside", viewer: "tidewrack", text: "!wish" });
    const comes = page.getByRole("region", { name: "What comes and what waits" }).locator("[data-line]", { hasText: "A wish of the house." }); // others may wait beside it
    await comes.waitFor();
    const has = async () => (await (await page.request.get(`${house.base}/api/points`)).json()).top[0].has;
    await until("it is paid for already", async () => (await has()) === 0);
    await comes.getByRole("button", { name: /^Drop/ }).click();
    await until("it is given back", async () => (await has()) === 30);

    // Where it came from and went stands on the sheet.
    await page.goto(`${house.base}/courtesies`);
    await page.getByRole("button", { name: /Small rewards/ }).click();
    await leads(page).getByRole("link", { name: "tidewrack" }).click();
    const sheet = page.getByRole("region", { name: "About tidewrack" }).first();
    await sheet.getByText(/30 pearls · gathered 60/).waitFor();
    await sheet.getByRole("button", { name: "from what?" }).click();
    const ledger = sheet.getByRole("list", { name: "What came and went" });
    await ledger.getByText("+60").waitFor();
    assert.deepEqual((await ledger.getByText(/^[+−]30$/).allInnerTexts()).sort(), ["+30", "−30", "−30"]);
    await clean(page, "a person's purse");
  } finally {
    await house.stop();
  }
});

test("two race for a stake, and the odds of a stone stand beside it", async ({ page }) => {
  const house = await launch();
  try {
    await rewarding(page, house);
    await setUp(page, "Periwinkle race", "Turn a stone");
    await how(page)
      .getByText(/bare sand: 5 in 16, nothing/)
      .waitFor();
    await how(page)
      .getByRole("checkbox", { name: /page for everybody/ })
      .check();
    const l = leads(page);
    await l.getByText("Bring points in from a file").click();
    await l.getByLabel("The rows").fill("login,points\ntidewrack,50\nmossy_mare,50");
    await l.getByRole("button", { name: "Look first" }).click();
    await l.getByRole("button", { name: "Give 100 to 2" }).click();
    await l.getByRole("link", { name: "mossy_mare" }).waitFor();
    await house.do("say", { platform: "quayside", viewer: "tidewrack", text: "!race @mossy_mare 20" });
    await until("the challenge is told", async () => /mossy_mare/.test(await heard(house)) && /20 pearls/.test(await heard(house)));
    await house.do("say", { platform: "quayside", viewer: "mossy_mare", text: "!race" });
    await until("it is run", async () => /40 pearls/.test(await heard(house)));
    await page.reload();
    await page.getByRole("button", { name: /Small rewards/ }).click();
    await l.getByText("has 70").waitFor();
    await l.getByText("has 30").waitFor();
    await clean(page, "who leads");

    const anyone = await page.context().browser().newContext();
    const ranks = await anyone.newPage();
    await ranks.goto(`${house.base}/ranks`);
    await ranks.getByText("Who gathered most pearls").waitFor();
    assert.equal(await ranks.getByText("tidewrack").count(), 2, "ever, and this season");
    await clean(ranks, "the list of ranks");
    await anyone.close();

    await l.getByRole("button", { name: "Everybody begins anew" }).click();
    await l.getByText("Nobody has gathered anything yet.").waitFor();
    await page.getByRole("button", { name: "Undo", exact: true }).click();
    await l.getByText("has 70").waitFor();
  } finally {
    await house.stop();
  }
});
