// Allocating in the Fit room: every gesture by hand and by key, and the figures after it against what the core computes.
import { expect } from "@playwright/test";
import { accessible, cell, dragLayer, figures, labelOf, openFit, pieceOf, ready, row, signIn, test, told, undo } from "./steps.mjs";

const THIS_WEEK = "2026-03-09";
const NEXT_WEEK = "2026-03-16";
const THIRD_WEEK = "2026-03-23";

test.beforeEach(async ({ page }) => signIn(page));

const layer = (page, name, text) => row(page, name).locator("[data-shape]").filter({ hasText: text }).first();

/** The labels of a person's weeks are what the core says of them. */
async function agrees(page, request, name, email, weeks = [THIS_WEEK, NEXT_WEEK, THIRD_WEEK]) {
  for (const from of weeks) await expect(cell(page, name, from)).toHaveText(labelOf(await figures(request, email, from)));
}

test("a bare number is asked about, never guessed", async ({ page, request }) => {
  await cell(page, "Mira Castellan", NEXT_WEEK).click();
  await page.locator("#book summary").click();
  const form = page.locator("#book form");
  await form.locator("[name=amount]").fill("6");
  await form.getByRole("button", { name: "Book" }).click();
  await expect(form.locator(".says")).toContainText("“6” of what?");
  await expect(form.locator(".says button")).toHaveText(["6h/d", "6h/w", "6h", "6%"]);
  await form.getByRole("button", { name: "6h/w" }).click();
  await told(page, "Booking placed");
  await agrees(page, request, "Mira Castellan", "mira@tidewater.test");
  await undo(page);
});

test("switching the angle keeps window, filter and selection; one project in view leaves the others in the sum", async ({ page, request }) => {
  await openFit(page, "?from=2026-03-16&span=4&team=sparks");
  await cell(page, "Oona Varga", THIRD_WEEK).click();
  await expect(page.locator("#sheet-title")).toHaveText("6 h over the limit");
  await page.getByRole("group", { name: "Angle" }).getByRole("link", { name: "Projects" }).click();
  await ready(page);
  for (const word of ["angle=project", "from=2026-03-16", "span=4", "team=sparks", "at=2026-03-23"]) expect(page.url()).toContain(word);
  await expect(page.locator("#sheet-title")).toHaveText("6 h over the limit");
  const heads = page.locator(".row.head .name");
  await expect(heads.filter({ hasText: "Moon Garden" }).first()).toBeVisible();
  await openFit(page, "?project=beetle");
  await expect(page.locator(".layer.hue-13").first()).toBeAttached();
  await expect(page.locator(".legend")).toContainText("other projects");
  const felix = labelOf(await figures(request, "felix@tidewater.test", "2026-03-30"));
  await expect(cell(page, "Felix Osei", "2026-03-30")).toHaveText(felix);
});

test("with the keyboard alone: grip, move, hand on, stretch, thicken, pencil, copy, take along, remove", async ({ page, request }) => {
  const name = "Ada Brandt";
  const agree = () => agrees(page, request, name, "ada@tidewater.test", [THIS_WEEK, NEXT_WEEK, THIRD_WEEK, "2026-03-30"]);
  const grip = async () => {
    await cell(page, name, NEXT_WEEK).focus();
    await page.keyboard.press("g");
    await expect(page.locator(".tip")).toContainText("Gripped");
    await expect(page.locator(".ghost")).toBeVisible();
  };
  const press = async (...keys) => {
    for (const key of keys) await page.keyboard.press(key);
  };
  const before = await cell(page, name, NEXT_WEEK).textContent();
  // Esc gives it up.
  await grip();
  await press("Shift+ArrowRight");
  await press("Escape");
  await expect(page.locator(".ghost")).toHaveCount(0);
  await expect(cell(page, name, NEXT_WEEK)).toHaveText(before);
  // A week on.
  await grip();
  await press("Shift+ArrowRight");
  await expect(page.locator(".tip")).toContainText("Ada Brandt");
  await press("Enter");
  await told(page, "Booking changed");
  await agree();
  await undo(page);
  // Its finish, two days later; then a quarter of an hour thicker.
  await grip();
  await press("f", "ArrowRight", "ArrowRight", "Enter");
  await told(page, "Booking changed");
  await agree();
  await undo(page);
  await grip();
  await press("+", "+", "Enter");
  await told(page, "Booking changed");
  await agree();
  await undo(page);
  // Pencilled, and back by the same key.
  await grip();
  await press("p");
  await told(page, "Booking pencilled");
  await expect(row(page, name).locator(".layer.pencilled").first()).toBeAttached();
  await undo(page);
  // Copied a week on; taken off.
  await grip();
  await press("c");
  await told(page, "Booking copied");
  await agree();
  await undo(page);
  await grip();
  await press("Delete");
  await told(page, "Booking removed");
  await agree();
  await undo(page);
  // To the next row.
  await grip();
  await press("ArrowDown", "Enter");
  await told(page, "Booking changed");
  await agree();
  await undo(page);
  // Two at once.
  await grip();
  await press("x");
  await grip();
  await press("g");
  await press("x");
  await expect(row(page, name).locator(".layer.taken")).toHaveCount(2);
  await grip();
  await press("Shift+ArrowRight", "Enter");
  await told(page, "2 bookings moved");
  await agree();
  await undo(page);
  await expect(cell(page, name, NEXT_WEEK)).toHaveText(before);
});

test("the tray and the sheet by keyboard: a slip is dropped, an open seat is filled", async ({ page, request }) => {
  await page.locator(".cells a[tabindex='0']").focus();
  await page.keyboard.press("t");
  const slip = page.locator("#tray .slip").filter({ hasText: "Crater lighting test" });
  await slip.focus();
  await page.keyboard.press("g");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowRight");
  await expect(page.locator(".tip")).toContainText("Crater lighting test");
  await page.keyboard.press("Enter");
  await told(page, "Crater lighting test");
  await expect(page.locator("#tray .slip").filter({ hasText: "Crater lighting test" })).toHaveCount(0);
  await undo(page);
  await expect(page.locator("#tray .slip").filter({ hasText: "Crater lighting test" })).toHaveCount(1);

  await page.locator("#tray .slip").filter({ hasText: "Open seat: electronics" }).press("Enter");
  await ready(page);
  await expect(page.locator("#sheet")).toContainText("with no name yet");
  const first = page.locator("#sheet .option").first();
  const who = (await first.locator("b").textContent()).split(":")[0];
  await first.getByRole("button").press("Enter");
  await told(page, `Handed over to ${who}`);
  await openFit(page);
  const email = `${who.split(" ")[0].toLowerCase()}@tidewater.test`;
  await agrees(page, request, who, email);
  await undo(page);
});

test("a slip is dragged onto somebody, and somebody onto an open seat", async ({ page }) => {
  const slip = page.locator("#tray .slip").filter({ hasText: "Ticket stamps" });
  const from = await slip.boundingBox();
  const track = await row(page, "Ada Brandt").locator(".track").boundingBox();
  await page.mouse.move(from.x + 20, from.y + 10);
  await page.mouse.down();
  await page.mouse.move(track.x + track.width / 2, track.y + 40, { steps: 8 });
  await expect(page.locator(".tip")).toContainText("Ticket stamps");
  await page.mouse.up();
  await told(page, "Ticket stamps");
  await expect(slip).toHaveCount(0);
  await undo(page);
  await expect(slip).toHaveCount(1);

  await openFit(page, "?angle=role&role=rigger&from=2026-05-04");
  const seat = page.locator(".row.seat").first();
  await expect(seat).toContainText("Open seat: rigger");
  const who = await row(page, "Ruth Engel").locator(".who").boundingBox();
  const at = await seat.locator(".track").boundingBox();
  await page.mouse.move(who.x + 10, who.y + 20);
  await page.mouse.down();
  await page.mouse.move(at.x + 100, at.y + 40, { steps: 8 });
  await expect(page.locator(".tip")).toContainText("Ruth Engel");
  await page.mouse.up();
  await told(page, "Handed over to Ruth Engel");
  await expect(page.locator(".row.seat")).toHaveCount(0);
  await undo(page);
  await expect(page.locator(".row.seat")).toHaveCount(1);
});

test("several bookings are taken along by Shift and click, and move together", async ({ page, request }) => {
  for (const text of ["Night Trains", "Moon Garden"]) {
    const box = await pieceOf(layer(page, "Ada Brandt", text));
    await page.keyboard.down("Shift");
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
    await page.keyboard.up("Shift");
  }
  await expect(row(page, "Ada Brandt").locator(".layer.taken")).toHaveCount(2);
  await dragLayer(page, layer(page, "Ada Brandt", "Night Trains"), 7);
  await told(page, "2 bookings moved");
  await agrees(page, request, "Ada Brandt", "ada@tidewater.test");
  await undo(page);
  await agrees(page, request, "Ada Brandt", "ada@tidewater.test");
});

test("a finger that rests drags, one that moves scrolls", async ({ browser, request }) => {
  const context = await browser.newContext({ baseURL: process.env.SNUG_URL, viewport: { width: 1000, height: 800 }, hasTouch: true });
  const page = await context.newPage();
  await signIn(page);
  const track = await row(page, "Ada Brandt").locator(".track").boundingBox();
  const box = await pieceOf(layer(page, "Ada Brandt", "Night Trains"));
  const point = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  const touch = await context.newCDPSession(page);
  const send = (type, x) => touch.send("Input.dispatchTouchEvent", { type, touchPoints: type === "touchEnd" ? [] : [{ x, y: point.y }] });
  await send("touchStart", point.x);
  await expect(page.locator("html.dragging")).toBeAttached();
  for (const part of [0.3, 0.6, 1]) await send("touchMove", point.x + (track.width / 42) * 7 * part);
  await expect(page.locator(".tip")).toContainText("Ada Brandt");
  await send("touchEnd", 0);
  await told(page, "Booking changed");
  await agrees(page, request, "Ada Brandt", "ada@tidewater.test");
  await undo(page);
  await context.close();
});

test("a drop that the plan refuses says why, and nothing moves", async ({ page }) => {
  const before = await cell(page, "Ada Brandt", NEXT_WEEK).textContent();
  await cell(page, "Ada Brandt", NEXT_WEEK).focus();
  await page.keyboard.press("g");
  await page.keyboard.press("s");
  await page.evaluate(() => {
    const week = () => new KeyboardEvent("keydown", { key: "ArrowLeft", shiftKey: true, bubbles: true, cancelable: true });
    for (let weeks = 0; weeks < 540; weeks++) document.activeElement.dispatchEvent(week());
  });
  await expect(page.locator(".tip")).toContainText("more than ten years");
  await page.keyboard.press("Enter");
  await told(page, "more than ten years");
  await expect(cell(page, "Ada Brandt", NEXT_WEEK)).toHaveText(before);
});

test("what could be done: each way says its effect first, and does it", async ({ page, request }) => {
  await cell(page, "Oona Varga", THIRD_WEEK).click();
  const ways = page.locator("#sheet .options .option");
  await expect(ways.first()).toContainText("electronics ✓");
  await expect(ways.first().locator(".effect").first()).toContainText("Oona Varga: 0 h of room in the week of 23 March");
  const who = (await ways.first().locator("b").textContent()).split(":")[0];
  await ways.first().getByRole("button", { name: "Hand over" }).click();
  await told(page, `Handed over to ${who}`);
  await agrees(page, request, "Oona Varga", "oona@tidewater.test");
  await agrees(page, request, who, `${who.split(" ")[0].toLowerCase()}@tidewater.test`);
  await undo(page);
  const trim = page.locator("#sheet .option").filter({ has: page.locator("b", { hasText: /^Trim/ }) });
  await trim.getByRole("button").click();
  await told(page, "Booking trimmed");
  await agrees(page, request, "Oona Varga", "oona@tidewater.test");
  await undo(page);
});

test("a booking is split, repeated and said in another unit from its sheet", async ({ page, request }) => {
  await cell(page, "Malik Strand", NEXT_WEEK).click();
  const booking = page.locator("#sheet details.booking").first();
  const open = async () => {
    if (!(await booking.getAttribute("open"))) await booking.evaluate((details) => (details.open = true));
    await booking.locator(".more-ways").evaluate((details) => (details.open = true));
  };
  const whole = await booking.getAttribute("data-keep");
  await open();
  await booking.getByRole("button", { name: "Split" }).click();
  await told(page, "Booking split");
  await agrees(page, request, "Malik Strand", "malik@tidewater.test");
  await undo(page);
  await expect(booking).toHaveAttribute("data-keep", whole);
  const unit = booking.locator("form[data-preview=unit]");
  // The sheet is drawn again after an undo, with its bookings closed.
  await expect(async () => {
    await open();
    await unit.locator("select").selectOption("h/week", { timeout: 1_000 });
  }).toPass();
  await expect(unit.locator(".says")).toContainText("h a week");
  await unit.getByRole("button").click();
  await told(page, "h a week now");
  await agrees(page, request, "Malik Strand", "malik@tidewater.test");
  await undo(page);
});

test("warnings open their rows", async ({ page }) => {
  const over = page.locator("#alerts a").filter({ hasText: "people over" });
  const count = Number((await over.textContent()).split(" ")[0]);
  await over.click();
  await page.waitForURL(/alert=over/);
  await ready(page);
  await expect(page.locator(".row.person")).toHaveCount(count);
  await page.locator("#alerts a").filter({ hasText: "All rows" }).click();
  await ready(page);
  await page.locator("#alerts a").filter({ hasText: "days off" }).click();
  await ready(page);
  await expect(page.locator(".row.person")).toHaveCount(1);
});

test("a look is kept, shared with others, opened and forgotten", async ({ page, browser }) => {
  await openFit(page, "?angle=team&zoom=month&rows=compact");
  await page.locator("#looks summary").click();
  await page.getByLabel("Keep this look as").fill("Teams by month");
  await page.getByLabel("Share it with everybody").check();
  await page.getByRole("button", { name: "Keep" }).click();
  await told(page, "Look “Teams by month” kept");
  const context = await browser.newContext({ baseURL: process.env.SNUG_URL });
  const other = await context.newPage();
  await signIn(other, "teo");
  await other.locator("#looks summary").click();
  await other.getByRole("link", { name: "Teams by month" }).click();
  await ready(other);
  expect(other.url()).toContain("zoom=month");
  await expect(other.locator(".row.head").first()).toBeVisible();
  await context.close();
  await page.getByRole("button", { name: "Forget Teams by month" }).click();
  await told(page, "Look forgotten");
});

test("others on the same row are named; their changes wait while something is in one's hand", async ({ page, browser, request }) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const other = await context.newPage();
  await signIn(other, "teo", process.env.SNUG_URL_2);
  await cell(other, "Cato Nwosu", THIS_WEEK).click();
  await expect(row(page, "Cato Nwosu").locator(".presence")).toHaveText("Teo Lindqvist is here");

  await dragLayer(page, layer(page, "Ada Brandt", "Night Trains"), 7, { release: false });
  await expect(page.locator(".tip")).toContainText("Ada Brandt");
  await cell(other, "Ada Brandt", THIS_WEEK).focus();
  await other.keyboard.press("b");
  await other.locator("#book [name=amount]").fill("2h/d");
  await other.locator("#book [type=submit]").click();
  await told(other, "Booking placed");
  await expect(page.locator(".ghost")).toBeVisible();
  await page.mouse.up();
  await told(page, "Booking changed");
  await agrees(page, request, "Ada Brandt", "ada@tidewater.test");
  await undo(page);
  await other.locator("[data-undo] button").click();
  await told(other, "Taken back");
  await context.close();
});

test("where somebody was quicker both values stand, and one keeps one's own or takes theirs", async ({ page, browser }) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const other = await context.newPage();
  await signIn(other, "teo", process.env.SNUG_URL_2);
  const form = (at) => at.locator("#sheet details.booking").filter({ has: at.locator("summary", { hasText: "Ticket desk" }) }).first();
  for (const at of [page, other]) {
    await cell(at, "Ivo Marchetti", NEXT_WEEK).click();
    await form(at).evaluate((details) => (details.open = true));
  }
  // What was asked while typing is answered late, and must not take the place of the choice.
  let release;
  const held = new Promise((resolve) => (release = resolve));
  await page.route("**/bookings/preview", async (route) => {
    await held;
    await route.continue().catch(() => null);
  });
  const asked = page.waitForRequest("**/bookings/preview");
  await form(page).locator(".grid-form [name=amount]").fill("3h/d");
  await asked;
  await form(other).locator(".grid-form [name=amount]").fill("5h/d");
  await form(other).getByRole("button", { name: "Save" }).click();
  await told(other, "Booking changed");
  await form(page).getByRole("button", { name: "Save" }).click();
  await expect(form(page).locator(".grid-form .says")).toContainText("Theirs:");
  release();
  await page.unroute("**/bookings/preview");
  await page.waitForLoadState("networkidle");
  await expect(form(page).locator(".grid-form .says")).toContainText("5 h a day");
  await expect(form(page).locator(".grid-form [name=amount]")).toHaveValue("3h/d");
  await form(page).getByRole("button", { name: "Keep mine" }).click();
  await told(page, "Booking changed");
  await expect(layer(page, "Ivo Marchetti", "Ticket desk")).toContainText("3 h a day");
  await undo(page);
  await other.locator("[data-undo] button").click();
  await told(other, "Taken back");
  await context.close();
});

test("rows open to their layers, groups fold to their sums, and the address says so", async ({ page }) => {
  await cell(page, "Oona Varga", THIS_WEEK).focus();
  await page.keyboard.press("d");
  const details = row(page, "Oona Varga").locator(".details");
  await expect(details).toContainText("4 h a day");
  await expect(details).toContainText("Signal-box sensors");
  expect(page.url()).toContain("open=");
  await page.keyboard.press("d");
  await expect(details).toHaveCount(0);
  await openFit(page, "?angle=team");
  const rows = await page.locator(".row.person").count();
  await page.locator(".row.head .who > a").first().click();
  await expect(page.locator(".row.head .who > a").first()).toHaveAttribute("aria-expanded", "false");
  expect(await page.locator(".row.person").count()).toBeLessThan(rows);
  expect(decodeURIComponent(page.url())).toContain("turned=team:");
});

test("the table twin has the figures of the room, and what is in view goes along as files", async ({ page, request }) => {
  await openFit(page, "?team=sparks");
  await page.locator("summary", { hasText: "Take along" }).click();
  await page.locator("[data-table]").click();
  await expect(page.locator("html[data-ready=table]")).toBeAttached();
  const figure = await figures(request, "oona@tidewater.test", THIRD_WEEK);
  const cells = page.locator("#twin tr").filter({ hasText: "Oona Varga" }).locator("td");
  await expect(cells.nth(2)).toContainText(`${figure.load_min / 60} h`);
  await accessible(page);
  const get = (path) => page.request.get(path);
  const csv = await (await get("/fit/export/csv?team=sparks")).text();
  expect(csv).toContain(`oona@tidewater.test,${THIRD_WEEK},${figure.limit_min},${figure.load_min}`);
  expect((await (await get("/fit/export/xlsx?team=sparks")).body()).subarray(0, 2).toString()).toBe("PK");
  expect(await (await get("/fit/export/svg?team=sparks")).text()).toContain("Oona Varga");
  await openFit(page, "?team=sparks");
  const person = await row(page, "Oona Varga").getAttribute("data-key");
  const calendar = await (await get(`/fit/export/ics?person=${person}`)).text();
  expect(calendar).toMatch(/BEGIN:VEVENT[\s\S]*Moon Garden\\, 4 h a day/);
  const download = page.waitForEvent("download");
  await page.locator("summary", { hasText: "Take along" }).click();
  await page.getByRole("button", { name: "Picture, PNG" }).click();
  expect((await download).suggestedFilename()).toBe("fit.png");
});

test("on a phone: one's own weeks, and who is over with the ways out", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 800 });
  await openFit(page);
  await expect(page.locator("#pocket")).toContainText("You, Mira Castellan");
  const first = page.locator(".pocket-over a").first();
  await expect(first).toContainText("week of");
  await first.click();
  await ready(page);
  await expect(page.locator("#sheet-title")).toContainText("over the limit");
  await expect(page.locator("#sheet .option").first()).toBeVisible();
  await accessible(page);
});

for (const [what, search] of [
  ["projects with a group's sheet", "?angle=project&group=project:moon&at=2026-03-16"],
  ["an open row, tall, by stage with tasks", "?rows=tall&colour=stage&layers=tasks&open=OONA"],
  ["months, compact, by percent", "?zoom=month&rows=compact&measure=percent"],
  ["quarters by skill", "?zoom=quarter&angle=skill&measure=tasks"],
  ["free hours only", "?layers=free"],
]) {
  test(`axe finds nothing: ${what}`, async ({ page }) => {
    const oona = await row(page, "Oona Varga").getAttribute("data-key");
    await openFit(page, search.replace("OONA", oona));
    await accessible(page);
  });
}

test("a team is booked with no names, and stands in its row", async ({ page }) => {
  await openFit(page, "?angle=team");
  const head = page.locator(".row.head").filter({ hasText: "Writing" });
  // What is said of the cell has its hours; the label may say no more than who is over.
  const before = await head.locator(".cells a").nth(1).getAttribute("aria-label");
  await head.locator(".cells a").nth(1).click();
  await page.locator("#book summary").click();
  const form = page.locator("#book form");
  await form.locator("[name=amount]").fill("10h/w");
  await form.getByRole("button", { name: "Book" }).click();
  await told(page, "Booking placed");
  await expect(page.locator(".row.seat").filter({ hasText: "Writing, no name yet" })).toHaveCount(1);
  await expect(head.locator(".cells a").nth(1)).not.toHaveAttribute("aria-label", before);
  await undo(page);
  await expect(page.locator(".row.seat").filter({ hasText: "Writing, no name yet" })).toHaveCount(0);
});
