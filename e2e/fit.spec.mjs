import { expect } from "@playwright/test";
import { PASSWORD, accessible, cell, dragLayer, figures, labelOf, openFit, pieceOf, ready, row, signIn, test, said, told } from "./steps.mjs";

const THIS_WEEK = "2026-03-09";
const NEXT_WEEK = "2026-03-16";

test.beforeEach(async ({ page }) => signIn(page));

test("every label of a person's row is what the core computes", async ({ page, request }) => {
  for (const [name, email] of [["Oona Varga", "oona@tidewater.test"], ["Wren Achterberg", "wren@tidewater.test"], ["Scissor lift", "scissor-lift@tidewater.test"]]) {
    for (const from of [THIS_WEEK, NEXT_WEEK, "2026-03-23", "2026-04-06"]) {
      await expect(cell(page, name, from)).toHaveText(labelOf(await figures(request, email, from)));
    }
  }
});

test("who is over is found by state, and the cell says what it is made of", async ({ page }) => {
  const everyone = await page.locator(".row.person").count();
  await page.locator("summary", { hasText: "Filter" }).click();
  await page.getByLabel("State").selectOption("over");
  await page.waitForURL(/band=over/);
  await ready(page);
  const over = page.locator(".row.person");
  expect(await over.count()).toBeLessThan(everyone);
  for (const one of await over.all()) await expect(one.locator(".band-over").first()).toBeVisible();
  await cell(page, "Oona Varga", "2026-03-23").click();
  const sheet = page.locator("#sheet");
  await expect(sheet.locator("#sheet-title")).toHaveText("6 h over the limit");
  await expect(sheet.locator(".made-of")).toContainText("Night Trains");
  await expect(sheet.locator(".made-of")).toContainText("Limit, at most 32 h a week");
  await page.keyboard.press("Escape");
  await expect(sheet).toBeHidden();
  await page.getByRole("link", { name: "Show all" }).click();
  await expect(page.locator(".row.person")).toHaveCount(everyone);
});

test("a booking is dragged a week on; figures follow while dragging, Undo brings it back", async ({ page, request }) => {
  const before = await cell(page, "Noor Haddad", NEXT_WEEK).textContent();
  expect(before).toMatch(/^\+/);
  const layer = row(page, "Noor Haddad").locator("[data-shape]").filter({ hasText: "Ticket desk" });
  await dragLayer(page, layer, 14, { release: false });
  await expect(page.locator(".tip")).toContainText("16 h in all");
  await expect(cell(page, "Noor Haddad", NEXT_WEEK)).not.toHaveText(before);
  await page.mouse.up();
  await told(page, "Booking changed");
  for (const from of [NEXT_WEEK, "2026-03-30"]) {
    await expect(cell(page, "Noor Haddad", from)).toHaveText(labelOf(await figures(request, "noor@tidewater.test", from)));
  }
  await page.locator("#toast").getByRole("button", { name: "Undo" }).click();
  await told(page, "Taken back");
  await expect(cell(page, "Noor Haddad", NEXT_WEEK)).toHaveText(before);
});

test("a booking changes hands by drag, Esc gives a drag up", async ({ page, request }) => {
  const layer = () => row(page, "Noor Haddad").locator("[data-shape]").filter({ hasText: "Ticket desk" });
  await dragLayer(page, layer(), 7, { release: false });
  await expect(page.locator(".ghost")).toBeVisible();
  await page.keyboard.press("Escape");
  await page.mouse.up();
  await expect(page.locator(".ghost")).toHaveCount(0);
  await expect(page.locator("#toast")).toBeHidden();
  await dragLayer(page, layer(), 0, { to: row(page, "Mira Castellan") });
  await told(page, "Booking changed");
  await expect(row(page, "Mira Castellan").locator("[data-shape]").filter({ hasText: "Ticket desk" })).toBeAttached();
  await expect(cell(page, "Mira Castellan", NEXT_WEEK)).toHaveText(labelOf(await figures(request, "mira@tidewater.test", NEXT_WEEK)));
  await page.locator("[data-undo] button").click();
  await expect(layer()).toBeAttached();
});

test("the top edge changes how much, drawing on empty space opens the form with its days", async ({ page }) => {
  const layer = row(page, "Dov Anker").locator("[data-shape]").first();
  await layer.scrollIntoViewIfNeeded();
  const box = await pieceOf(layer);
  const hour = Number(await page.locator("#grid").getAttribute("data-hour"));
  await page.mouse.move(box.x + box.width / 2, box.y + 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + 2 + 2 * hour, { steps: 4 }); // two hours thinner
  await page.mouse.up();
  await expect(layer).toContainText("4 h a day");
  await page.locator("[data-undo] button").click();
  await expect(layer).toContainText("6 h a day");

  await row(page, "Mira Castellan").scrollIntoViewIfNeeded();
  const track = await row(page, "Mira Castellan").locator(".track").boundingBox();
  const day = track.width / 42;
  await page.mouse.move(track.x + day * 14.5, track.y + 30);
  await page.mouse.down();
  await page.mouse.move(track.x + day * 16.5, track.y + 30, { steps: 4 });
  await page.mouse.up();
  const form = page.locator("#book form");
  await expect(form.locator("[name=start]")).toHaveValue("2026-03-23");
  await expect(form.locator("[name=end]")).toHaveValue("2026-03-25");
});

test("by keyboard alone: to a cell, book, see the effect first, undo", async ({ page, request }) => {
  const email = "mira@tidewater.test";
  await page.keyboard.press("f");
  await page.keyboard.type("Mira");
  await page.keyboard.press("Enter");
  await page.waitForURL(/q=Mira/);
  await ready(page);
  await expect(page.locator(".row.person")).toHaveCount(1);
  await page.locator('.cells a[tabindex="0"]').focus();
  await page.keyboard.press("ArrowRight");
  await expect(cell(page, "Mira Castellan", NEXT_WEEK)).toBeFocused();
  const before = labelOf(await figures(request, email, NEXT_WEEK));
  await page.keyboard.press("b");
  const form = page.locator("#book form");
  await expect(form.locator("[name=amount]")).toBeFocused();
  await page.keyboard.type("9h/d");
  await expect(form.locator(".says")).toContainText("over the limit in the week of 16 March");
  await page.keyboard.press("Enter");
  await told(page, "Booking placed");
  const after = labelOf(await figures(request, email, NEXT_WEEK));
  expect(after).not.toBe(before);
  await expect(cell(page, "Mira Castellan", NEXT_WEEK)).toHaveText(after);
  await page.locator("#sheet [data-close]").focus();
  await page.keyboard.press("u");
  await expect(cell(page, "Mira Castellan", NEXT_WEEK)).toHaveText(before);
});

test("a wrong amount is told beside the field, and what was typed stays", async ({ page }) => {
  await cell(page, "Teo Lindqvist", THIS_WEEK).click();
  await page.locator("#book summary").click();
  const form = page.locator("#book form");
  await form.locator("[name=amount]").fill("six");
  await form.locator("[name=note]").fill("bench time");
  await form.getByRole("button", { name: "Book" }).click();
  await expect(form.locator(".says")).toContainText("is no amount");
  await expect(form.locator("[name=amount]")).toHaveAttribute("aria-invalid", "true");
  await expect(form.locator("[name=note]")).toHaveValue("bench time");
  await expect(form.locator("[name=amount]")).toHaveValue("six");
});

test("another browser at another server sees the change; who was slower is shown both values", async ({ page, browser, request }) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const other = await context.newPage();
  await signIn(other, "teo", process.env.SNUG_URL_2);
  const before = await cell(other, "Ivo Marchetti", NEXT_WEEK).textContent();
  // Teo opens a booking and begins to type; Mira changes the same booking meanwhile.
  await cell(other, "Ivo Marchetti", NEXT_WEEK).click();
  const theirs = other.locator("#sheet details.booking").filter({ has: other.locator("summary", { hasText: "Ticket desk" }) });
  await theirs.locator("summary").first().click();
  await theirs.locator(".grid-form [name=amount]").fill("1h/d");

  await cell(page, "Ivo Marchetti", NEXT_WEEK).click();
  const mine = page.locator("#sheet details.booking").filter({ has: page.locator("summary", { hasText: "Ticket desk" }) });
  await mine.locator("summary").first().click();
  await mine.locator(".grid-form [name=amount]").fill("7h/d");
  await mine.getByRole("button", { name: "Save" }).click();
  await told(page, "Booking changed");
  await expect(cell(other, "Ivo Marchetti", NEXT_WEEK)).not.toHaveText(before);
  await expect(cell(other, "Ivo Marchetti", NEXT_WEEK)).toHaveText(labelOf(await figures(request, "ivo@tidewater.test", NEXT_WEEK)));

  await expect(theirs.locator(".grid-form [name=amount]")).toHaveValue("1h/d");
  await theirs.getByRole("button", { name: "Save" }).click();
  await told(other, "Somebody else has changed this booking");
  await told(other, "7 h a day");
  await page.locator("[data-undo] button").click();
  await expect(cell(other, "Ivo Marchetti", NEXT_WEEK)).toHaveText(before);
  await context.close();
});

test("rows that were under way while somebody changed the plan do not bring the old plan back", async ({ page, browser }) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const other = await context.newPage();
  await signIn(other, "teo", process.env.SNUG_URL_2);
  const before = await cell(other, "Ivo Marchetti", NEXT_WEEK).textContent();
  let release, answers = 0;
  const held = new Promise((resolve) => (release = resolve));
  await other.route("**/fit/rows?*", async (route) => {
    const response = await route.fetch();
    if (answers++ === 0) await held;
    await route.fulfill({ response });
  });
  const asked = other.waitForRequest("**/fit/rows?*");
  await other.evaluate(() => void import("/assets/fit/script/fit.js").then(({ grid }) => grid.rows.refreshAll()));
  await asked;
  await expect.poll(() => answers).toBe(1);

  await cell(page, "Ivo Marchetti", NEXT_WEEK).click();
  const mine = page.locator("#sheet details.booking").filter({ has: page.locator("summary", { hasText: "Ticket desk" }) });
  await mine.locator("summary").first().click();
  await mine.locator(".grid-form [name=amount]").fill("7h/d");
  await mine.getByRole("button", { name: "Save" }).click();
  await expect(cell(other, "Ivo Marchetti", NEXT_WEEK)).not.toHaveText(before);
  const after = await cell(other, "Ivo Marchetti", NEXT_WEEK).textContent();
  release();
  await expect.poll(() => answers).toBeGreaterThan(1);
  await other.waitForLoadState("networkidle").catch(() => null);
  await expect(cell(other, "Ivo Marchetti", NEXT_WEEK)).toHaveText(after);
  await page.locator("[data-undo] button").click();
  await expect(cell(other, "Ivo Marchetti", NEXT_WEEK)).toHaveText(before);
  await context.close();
});

test("printed, every page has the heads of its weeks, and the whole key stands at the end", async ({ page }) => {
  await page.emulateMedia({ media: "print" });
  const heads = page.locator(".heads-box");
  await expect(heads).toHaveCSS("display", "table-header-group");
  await expect(page.locator("#rows")).toHaveCSS("display", "table-row-group");
  for (const hidden of [".bar", ".controls", "#tray"]) await expect(page.locator(hidden).first()).toBeHidden();
  const key = await page.locator(".legend").evaluate((legend) => legend.scrollWidth <= legend.clientWidth);
  expect(key).toBe(true);
});

test("what is counted is named in the side sheet, beside the person’s own limit", async ({ page }) => {
  await openFit(page, "?measure=points&zoom=fortnight&q=dov");
  const of = page.locator('.row.person .cells a', { hasText: "1.5 of 6" });
  await of.click();
  const sheet = page.locator("#sheet");
  await expect(sheet).toContainText("Points that finish");
  await expect(sheet).toContainText("Crater relief, casting · 1.5 points");
  await openFit(page, "?measure=tasks&q=teo");
  await page.locator('.row.person .cells a', { hasText: "3 of 3" }).click();
  await expect(sheet).toContainText("Tasks at a time");
  await expect(sheet).toContainText("Whistle repair");
  await accessible(page);
});

test("a viewer looks on: no forms, and the server refuses what a script sends", async ({ browser }) => {
  const context = await browser.newContext({ baseURL: process.env.SNUG_URL });
  const page = await context.newPage();
  await signIn(page, "guest");
  await cell(page, "Oona Varga", THIS_WEEK).click();
  await expect(page.locator("#sheet")).toContainText("Your role lets you look at the plan");
  await expect(page.locator("#sheet form")).toHaveCount(0);
  const status = await page.evaluate(async () => {
    const body = new URLSearchParams({ person: "1", amount: "1h/d", start: "2026-03-09", end: "2026-03-09" });
    return (await fetch("/bookings", { method: "POST", body, headers: { "x-requested-with": "fetch" } })).status;
  });
  expect(status).toBe(403);
  await context.close();
});

for (const scheme of ["light", "dark"]) {
  for (const [what, search] of [["the room", ""], ["by team", "?angle=team"], ["day by day", "?zoom=day"], ["a cell open", "?person=OONA&at=2026-03-23"], ["nobody fits", "?q=zzz"]]) {
    test(`axe finds nothing: ${what}, ${scheme}`, async ({ page }) => {
      await page.emulateMedia({ colorScheme: scheme });
      const oona = await row(page, "Oona Varga").getAttribute("data-key");
      await openFit(page, search.replace("OONA", oona));
      // What the dark theme changes is colour.
      await accessible(page, scheme === "dark" ? ["color-contrast"] : null);
    });
  }
}

test("on a phone the page itself does not scroll sideways, and the side sheet is a page", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 800 });
  await openFit(page);
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  // What marks a day in the head goes down through the rows at the same place.
  const middle = (selector) => page.locator(selector).evaluate((mark) => {
    const box = mark.getBoundingClientRect();
    return box.left + box.width / 2;
  });
  expect(Math.abs((await middle(".marks .today circle")) - (await middle(".marklines .today")))).toBeLessThan(1);
  await cell(page, "Oona Varga", THIS_WEEK).click();
  await expect(page.locator("#sheet h2")).toBeVisible();
  await expect(page.locator(".scroller")).toBeHidden();
  await accessible(page);
});

test("ten people stand in view at once, as one usually works", async ({ page }) => {
  const scroller = await page.locator(".scroller").boundingBox();
  const rows = await page.locator(".row.person").evaluateAll((all) => all.map((one) => one.getBoundingClientRect().bottom));
  expect(rows.filter((bottom) => bottom <= scroller.y + scroller.height).length).toBeGreaterThanOrEqual(10);
});

test("an address that asks for what there is not is told so, and nothing else is shown in its place", async ({ page }) => {
  await openFit(page, "?angle=nonsense");
  await expect(page.locator("#rows")).toContainText("There is no angle “nonsense”.");
  await expect(page.locator(".row.person")).toHaveCount(0);
  await accessible(page);
  await page.getByRole("link", { name: "go to the room as it usually is" }).click();
  await expect(page.locator(".row.person").first()).toBeVisible();
});

/** Books time in a cell by its form. */
async function book(page, name, from, amount, tell = told) {
  await cell(page, name, from).focus();
  await page.keyboard.press("b");
  await page.locator("#book [name=amount]").fill(amount);
  // The message of an earlier booking may still stand there.
  const answered = page.waitForResponse((response) => new URL(response.url()).pathname === "/bookings");
  await page.locator("#book [type=submit]").click();
  await answered;
  await tell(page, "Booking placed");
}

test("a message after Undo offers Redo, which offers Undo", async ({ page }) => {
  const label = cell(page, "Mira Castellan", NEXT_WEEK);
  const before = await label.textContent();
  await book(page, "Mira Castellan", NEXT_WEEK, "2h/d");
  await expect(label).not.toHaveText(before);
  const after = await label.textContent();
  await page.locator("#toast").getByRole("button", { name: "Undo" }).click();
  await told(page, "Taken back: Booking placed");
  await expect(label).toHaveText(before);
  await expect(page.locator("#toast").getByRole("button", { name: "Undo" })).toHaveCount(0);
  await page.locator("#toast").getByRole("button", { name: "Redo" }).click();
  await told(page, "Brought back");
  await expect(label).toHaveText(after);
  await expect(page.locator("#toast").getByRole("button", { name: "Undo" })).toBeVisible();
});

test("an answer that comes late does not make Undo forget what came after it", async ({ page }) => {
  await book(page, "Mira Castellan", NEXT_WEEK, "2h/d");
  let release, answered;
  const [held, done] = [new Promise((go) => (release = go)), new Promise((go) => (answered = go))];
  await page.route("**/undo", async (route) => {
    const response = await route.fetch();
    answered();
    await held;
    await route.fulfill({ response });
  });
  await page.locator("[data-undo] button").click();
  await done;
  // The change that is held up has the grid busy.
  await book(page, "Hana Ito", "2026-04-06", "1h/d", said);
  release();
  await told(page, "Taken back");
  await expect(page.locator("[data-undo] button")).toBeEnabled();
  await expect(page.locator("[data-undo] button")).toHaveAttribute("title", /Booking placed/);
});

test("without a script every cell is reached by Tab, and opens in the view that one has", async ({ browser }) => {
  const context = await browser.newContext({ baseURL: process.env.SNUG_URL, javaScriptEnabled: false });
  const page = await context.newPage();
  await page.goto("/sign-in");
  await page.getByLabel("E-mail address").fill("mira@tidewater.test");
  await page.getByLabel("Password").fill(PASSWORD);
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.goto("/fit?from=2026-03-16&span=4&team=sparks");
  const link = cell(page, "Oona Varga", "2026-03-23");
  await page.locator(".row.person .who > a").first().focus();
  await expect(async () => {
    await page.keyboard.press("Tab");
    await expect(link).toBeFocused({ timeout: 20 });
  }).toPass();
  await page.keyboard.press("Enter");
  await expect(page.locator("#sheet-title")).toHaveText("6 h over the limit");
  for (const word of ["from=2026-03-16", "span=4", "team=sparks", "at=2026-03-23"]) expect(page.url()).toContain(word);
  await row(page, "Oona Varga").locator(".who > a").click();
  await expect(row(page, "Oona Varga").locator(".details")).toContainText("4 h a day");
  expect(page.url()).toContain("team=sparks");
  await context.close();
});
