// The guest book, driven as a streamer would.
import assert from "node:assert/strict";
import { looked, until } from "./house.mjs";

export const tests = [];
const test = (name, f) => tests.push([name, f]);

const grid = (page) => page.getByTestId("everyone");
const row = (page, name) => grid(page).locator("[role=row][data-person]", { hasText: name });
const sheet = (page, name) => page.getByRole("region", { name: `About ${name}` });
const openBook = async (page, house, path = "") => {
  await page.goto(`${house.base}/book${path}`);
  await page.getByRole("navigation", { name: "Pages of the guest book" }).waitFor();
};

/** bringCrowd brings three thousand people in, and opens the guest book at them. */
export async function bringCrowd(page, house) {
  await openBook(page, house, "/in");
  let file = "login\n";
  for (let i = 0; i < 3000; i++) file += `crowd_${String(i).padStart(4, "0")}\n`;
  await page.getByLabel("File to bring in").setInputFiles({ name: "crowd.csv", mimeType: "text/csv", buffer: Buffer.from(file) });
  await page.getByRole("button", { name: "Take in 3000" }).click();
  await page.getByTestId("preview-import").getByText("taken in").first().waitFor();
  await openBook(page, house, "?sort=name");
  await row(page, /./).first().waitFor();
}

/**
 * scrolled lets the list run by at two thousand pixels a second for so many frames: how many rows were drawn at most, how many
 * were left whenever more were asked for, the longest that rows stood empty (ms), and in how many frames on end they did so
 * while no more were on their way.
 */
export const scrolled = (page, most) =>
  page.evaluate(
    (most) =>
      new Promise((done) => {
        const el = document.querySelector("[data-testid=everyone]");
        const rowHeight = el.querySelector("[data-person]").getBoundingClientRect().height;
        performance.clearResourceTimings();
        performance.setResourceTimingBufferSize(2000);
        const begun = performance.now();
        let last = begun;
        const seen = [];
        const frame = (now) => {
          const box = el.getBoundingClientRect();
          seen.push({
            now,
            left: (el.scrollHeight - el.scrollTop - el.clientHeight) / rowHeight,
            rows: el.querySelectorAll("[data-person]").length,
            blank: [0.3, 0.6, 0.9].some((part) => !document.elementFromPoint(box.left + 80, box.top + 30 + (box.height - 40) * part)?.closest("[data-person]")?.textContent),
          });
          if (seen.length < most && now < begun + 30_000) {
            el.scrollTop += (2000 * (now - last)) / 1000; // drawn by the next frame
            last = now;
            return requestAnimationFrame(frame);
          }
          const fetched = performance.getEntriesByType("resource").filter((e) => e.name.includes("/api/book/people?"));
          const stretch = (f) => {
            let longest = [];
            let now = [];
            for (const s of seen) {
              now = f(s) ? [...now, s] : [];
              if (now.length > longest.length) longest = now;
            }
            return longest;
          };
          const blank = stretch((s) => s.blank);
          done({
            frames: seen.length,
            rows: Math.max(...seen.map((s) => s.rows)),
            asked: fetched.map((e) => Math.round(seen.findLast((s) => s.now <= e.startTime)?.left ?? seen[0].left)),
            empty: blank.length ? blank.at(-1).now - blank[0].now : 0,
            forgotten: stretch((s) => s.blank && !fetched.some((e) => e.startTime <= s.now && s.now <= e.responseEnd)).length,
          });
        };
        requestAnimationFrame(frame);
      }),
    most,
  );

test("somebody is found although the name is misspelt, by keyboard alone, and says why they are a regular", async ({ page, house }) => {
  await openBook(page, house);
  await row(page, /./).first().waitFor();
  await page.keyboard.press("/");
  await page.keyboard.type("lmipet");
  await row(page, "Limpet Lena").waitFor();
  await until("nobody else is spelt nearly so", async () => (await row(page, /./).count()) === 1);
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  const s = sheet(page, "Limpet Lena");
  await s.getByText("Regular").waitFor();
  await s.getByRole("button", { name: "why?" }).click();
  await s.getByText(/\d+ of the last 10 streams; missed/).waitFor();
  await s.getByText("here for", { exact: false }).first().waitFor();
  await page.keyboard.press("Escape");
});

test("conditions combine, and a filter is kept under a name", async ({ page, house }) => {
  await openBook(page, house);
  await page.getByRole("button", { name: "Crew", exact: true }).click();
  await page.getByRole("option", { name: /Low Water League/ }).click();
  await page.getByRole("button", { name: "More", exact: true }).click();
  await page.getByLabel("birthday known").click();
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Take away: in Low Water League" }).waitFor();
  await row(page, "driftprint").waitFor();
  await until("only those who fit are left", async () => (await row(page, "Foreshore Fen").count()) === 0 && (await row(page, "kelpwright").count()) === 1);
  await page.getByLabel("Sorted by").selectOption("lines said");
  await page.getByRole("columnheader", { name: "Lines" }).waitFor();
  await until("those who fit stand by lines", async () => {
    const said = await page.locator("[data-person] .w-foll").allTextContents();
    const lines = said.map((s) => Number(s.replace(/,/g, "")));
    return lines.length > 1 && lines.every((n, i) => i === 0 || n <= lines[i - 1]);
  });
  await page.getByRole("button", { name: "Saved", exact: true }).click();
  await page.getByLabel("Name of this filter").fill("League birthdays");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await page.getByRole("button", { name: "League birthdays", exact: true }).waitFor();
  await page.keyboard.press("Escape");
  await openBook(page, house);
  await page.getByRole("button", { name: "Saved", exact: true }).click();
  await page.getByRole("button", { name: "League birthdays", exact: true }).click();
  await page.getByRole("button", { name: "Take away: birthday known" }).waitFor();
  await page.keyboard.press("Escape");
  assert.equal(await page.getByLabel("Sorted by").inputValue(), "lines", "its order is kept with it");
});

test("what is written down by hand is saved as it is left, and undone", async ({ page, house }) => {
  await openBook(page, house, "?text=sandhopper9");
  await row(page, "sandhopper9").first().click();
  const s = sheet(page, "sandhopper9");
  await s.getByLabel("Note", { exact: true }).fill("Sharpens the lenses on Sundays.");
  await s.getByLabel("Pronouns", { exact: true }).click();
  await page.getByText("Saved: note").waitFor();
  await s.getByLabel("Birthday", { exact: true }).fill("31 June");
  await s.getByLabel("Birthday", { exact: true }).press("Enter");
  await page.getByText("is no day of the calendar").waitFor();
  await s.getByRole("button", { name: "+ tag" }).click();
  await page.getByPlaceholder("Add a tag").fill("lenses");
  await page.getByRole("option", { name: "New: lenses" }).click();
  await s.getByRole("button", { name: "Take away: lenses" }).waitFor();
  await page.getByRole("status").filter({ hasText: "+ tag lenses" }).getByRole("button", { name: "Undo" }).last().click();
  await s.getByRole("button", { name: "Take away: lenses" }).waitFor({ state: "detached" });
  await page.reload();
  await until("the note stayed", async () => (await s.getByLabel("Note", { exact: true }).inputValue()) === "Sharpens the lenses on Sundays.");
  await s.getByRole("button", { name: "changes" }).click();
  await s.getByText("note", { exact: false }).first().waitFor();
});

test("a person is opened from the Porch", async ({ page, house }) => {
  await house.do("say", { platform: "quayside", viewer: "kelpwright", text: "is the tide in yet" });
  await page.goto(house.base);
  await page.getByTestId("conversation").getByText("is the tide in yet").waitFor();
  await page.getByTestId("conversation").getByRole("link", { name: "kelpwright" }).last().click();
  const s = sheet(page, "kelpwright");
  await s.getByText("was kelp_wright").waitFor();
  await s.getByText("brought", { exact: false }).first().waitFor();
  await s.getByText("Cold frame kelp").first().waitFor();
});

test("two records are merged on the evidence and parted again", async ({ page, house }) => {
  await openBook(page, house, "/pairs");
  const pair = page.getByTestId("pair").filter({ hasText: "drift.print" });
  await pair.getByText("the same login but for signs").waitFor();
  await pair.getByRole("button", { name: "Merge" }).click();
  await pair.waitFor({ state: "detached" });
  await openBook(page, house, "?text=driftprint");
  await row(page, "driftprint").click();
  const s = page.getByRole("region", { name: /^About drift/i });
  await s.getByText("merged:").waitFor();
  await s.getByRole("button", { name: "Part" }).click();
  await s.getByText("merged:").waitFor({ state: "detached" });
  await page.goto(`${house.base}/book?text=drift`);
  await until("both stand in the table again", async () => (await row(page, /drift/i).count()) >= 2);
});

test("a file shows what it would do, is taken in, and is taken back", async ({ page, house }) => {
  await openBook(page, house, "/in");
  await page.getByLabel("File to bring in").setInputFiles({
    name: "regulars.csv",
    mimeType: "text/csv",
    buffer: Buffer.from("login;birthday;tags;shoe size\nkelpwright;9 March;lifts buckets;39\nbrand_new_bea;--02-29;;\nwrong_will;31 June;;\n"),
  });
  const seen = page.getByTestId("preview-import");
  await seen.getByText("nothing is changed yet").waitFor();
  await seen.getByText('the column "shoe size" is not understood').waitFor();
  await seen.getByText("31 June").waitFor();
  await seen.getByRole("tab", { name: "1 changed" }).click();
  await seen.getByText("lifts buckets").waitFor();
  await seen.getByRole("button", { name: "Take in 2" }).click();
  await seen.getByText("taken in").first().waitFor();
  await openBook(page, house, "?text=brand_new");
  await row(page, "brand_new_bea").waitFor();
  await openBook(page, house, "/in");
  await page.getByRole("button", { name: "Take back" }).first().click();
  await page.getByText("taken back").first().waitFor();
  await openBook(page, house, "?text=brand_new");
  await page.getByText("Nobody fits.").waitFor();
});

test("a pasted list becomes a crew's people, without the streamer", async ({ page, house }) => {
  await openBook(page, house, "/crews");
  await page.getByLabel("Name of a new crew").fill("Neap Tide Society");
  await page.getByRole("button", { name: "Make it" }).click();
  const crew = page.getByRole("region", { name: "Neap Tide Society" });
  await crew.getByLabel("Add many at once", { exact: false }).fill("@Kelpwright, kelpwright; https://fernlight.example/tern_and_tide\ntidepool_hours somebody_new");
  await crew.getByRole("button", { name: "Read it" }).click();
  await crew.getByText("Understood: 2 in the book, 1 new to it, 2 left out").waitFor();
  await crew.getByText("is the streamer's own").waitFor();
  await crew.getByRole("button", { name: "Take 3" }).click();
  await page.getByRole("button", { name: "Neap Tide Society 3 people" }).waitFor();
  await page
    .getByRole("button", { name: /Low Water League.*Neap Tide Society: 1|Lantern Row.*Neap Tide Society.*: 1/ })
    .first()
    .waitFor();
  await page.getByRole("button", { name: "Undo" }).last().click();
  await page.getByRole("button", { name: "Neap Tide Society 0 people" }).waitFor();
  await crew.getByLabel("Name", { exact: true }).fill("Spring Tide Society");
  await crew.getByRole("radio").nth(4).click(); // from the field straight to the emblem: both are kept
  const renamed = page.getByRole("region", { name: "Spring Tide Society" });
  await renamed.waitFor();
  await until("the emblem is kept", async () => (await renamed.getByRole("radio").nth(4).getAttribute("aria-checked")) === "true");
});

test("newcomers of a raid are one press away, and the ledger says who is owed", async ({ page, house }) => {
  await openBook(page, house, "/newcomers");
  await page.getByText("14 newcomers, 10 came back").waitFor();
  await page.getByText("16 newcomers, 0 came back").waitFor();
  await page.getByRole("button", { name: "Show them" }).last().click();
  await page.getByRole("button", { name: "Take away: came with one raid" }).waitFor();
  await until("they are listed", async () => (await row(page, /saltmarsh_/).count()) >= 5);
  await openBook(page, house, "/raids");
  await page.getByText("they came 3 times, we have not gone yet", { exact: false }).first().waitFor();
});

test("scrolling fast, more rows are asked for long before the end, and none stays empty that nobody is fetching", async ({ page, house }) => {
  await bringCrowd(page, house);
  const { frames, asked, rows, forgotten } = await scrolled(page, 200);
  assert.ok(frames > 60, `only ${frames} frames`);
  assert.ok(asked.length > 0 && asked[0] > 80, `asked for more with ${asked} rows left`);
  assert.ok(forgotten <= 3, `rows without text in ${forgotten} frames while nobody fetched any`);
  assert.ok(rows < 80, `${rows} rows are drawn`);
  await page.getByRole("button", { name: "W", exact: true }).click();
  await until("the list begins at the letter", async () => (await row(page, /./).first().textContent()).toLowerCase().includes("w"));
});

test("Find anything opens a person from any page", async ({ page, house }) => {
  await page.goto(`${house.base}/courtesies`);
  await page.getByRole("heading", { name: "Courtesies", level: 1 }).waitFor({ state: "attached" });
  await page.keyboard.press("Control+k");
  await page.getByPlaceholder("A person, a page, something to do…").fill("moss_and");
  await page.getByRole("option", { name: /moss_and_maud/ }).click();
  await sheet(page, "moss_and_maud").getByRole("button", { name: "Take away: Quiet Moths" }).waitFor();
});

for (const theme of ["dusk", "linen"]) {
  test(`axe finds nothing in the guest book in ${theme}`, async ({ page, house }) => {
    for (const path of ["?text=kelpwright", "/crews", "/raids", "/newcomers", "/pairs", "/in"]) {
      await page.evaluate((t) => localStorage.setItem("porch-theme", t), theme);
      await openBook(page, house, path);
      if (path.startsWith("?")) {
        await row(page, "kelpwright").click();
        await sheet(page, "kelpwright").getByText("Accounts").waitFor();
      }
      await page.waitForLoadState("networkidle", { timeout: 1500 }).catch(() => undefined); // the Porch's stream of events never ends
      const { violations } = await looked(page, theme);
      assert.deepEqual(
        violations.map(
          (v) =>
            `${path} ${v.id}: ${v.nodes
              .slice(0, 3)
              .map((n) => n.html.slice(0, 160))
              .join(" | ")}`,
        ),
        [],
      );
    }
  });
}

test("the guest book works on a phone", async ({ page, house }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await openBook(page, house, "?text=limpet");
  await row(page, "Limpet Lena").click();
  await sheet(page, "Limpet Lena").waitFor();
  for (const path of ["", "/crews", "/raids", "/newcomers", "/in"]) {
    await openBook(page, house, path);
    await page.evaluate(() => document.fonts.ready);
    assert.ok((await page.evaluate(() => document.documentElement.scrollWidth)) <= 390, `${path} scrolls sideways`);
  }
  await page.setViewportSize({ width: 1280, height: 800 });
});
