// The calendar: bars across weeks, moved, stretched and drawn by pointer and by key; day, week, list; what is in view.
import { expect } from "@playwright/test";
import { accessible, openPage, signIn, test, told, undo } from "./steps.mjs";

/** All weeks of a month are in the window. */
async function open(page, search = "?from=2026-03-11&project=ticket") {
  await page.setViewportSize({ width: 1280, height: 1100 });
  await openPage(page, `/schedule/calendar${search}`, "calendar");
}
const day = (page, date) => {
  const monday = new Date(`${date}T00:00:00Z`);
  const at = (monday.getUTCDay() + 6) % 7;
  monday.setUTCDate(monday.getUTCDate() - at);
  return page.locator(`.row[data-from="${monday.toISOString().slice(0, 10)}"] .cells > [role=gridcell]`).nth(at);
};
const bar = (page, title) => page.locator("[data-shape]").filter({ hasText: title });

/** Drags from a day to another one, at the height of a bar of the first lane. */
async function drag(page, from, to, { down = 30, release = true } = {}) {
  const [start, end] = [await day(page, from).boundingBox(), await day(page, to).boundingBox()];
  await page.mouse.move(start.x + start.width / 2, start.y + down);
  await page.mouse.down();
  await page.mouse.move(start.x + start.width / 2 + 8, start.y + down, { steps: 2 });
  await page.mouse.move(end.x + end.width / 2, end.y + down, { steps: 8 });
  if (release) await page.mouse.up();
}

test("a bar is dragged into another week, shortened by its end, and comes back by Undo", async ({ page }) => {
  await signIn(page);
  await open(page);
  // In this week the price boards lie in the first lane: what begins or ends comes before what goes on.
  await drag(page, "2026-03-17", "2026-03-25", { release: false });
  await expect(page.locator(".tip")).toContainText("Price boards, 24 March – 30 March");
  await page.mouse.up();
  await told(page, "Task “Price boards” moved");
  await expect(bar(page, "Price boards").first().locator("title")).toContainText("24 March – 30 March");
  await expect(bar(page, "Price boards")).toHaveCount(2);
  await undo(page);
  await expect(bar(page, "Price boards").first().locator("title")).toContainText("16 March – 20 March");
  const end = await day(page, "2026-03-20").boundingBox();
  await page.mouse.move(end.x + end.width - 3, end.y + 30);
  await page.mouse.down();
  await page.mouse.move(end.x + 40, end.y + 30, { steps: 2 });
  await page.mouse.move(end.x - end.width - 40, end.y + 30, { steps: 4 });
  await expect(page.locator(".tip")).toContainText("16 March – 18 March");
  await page.mouse.up();
  await told(page, "Task “Price boards” stretched");
});

test("by key alone: a week on, a day back, stretched, to the tray", async ({ page }) => {
  await signIn(page);
  await open(page);
  const press = async (...keys) => {
    for (const key of keys) await page.keyboard.press(key);
  };
  await day(page, "2026-03-17").locator("a").focus();
  await press("g");
  await expect(page.locator(".tip")).toContainText("Gripped: Price boards");
  await press("ArrowDown", "ArrowLeft");
  await expect(page.locator(".tip")).toContainText("Price boards, 23 March – 27 March");
  await press("Enter");
  await told(page, "Task “Price boards” moved");
  await day(page, "2026-03-24").locator("a").focus();
  await press("g");
  for (let more = 0; more < 4 && !(await page.locator(".tip").textContent()).includes("Price boards"); more++) await press("g");
  await press("f", "ArrowDown", "Enter");
  await told(page, "Task “Price boards” stretched");
  await expect(bar(page, "Price boards").first().locator("title")).toContainText("– 3 April");
  await day(page, "2026-03-30").locator("a").focus();
  await press("g");
  for (let more = 0; more < 4 && !(await page.locator(".tip").textContent()).includes("Price boards"); more++) await press("g");
  await press("Delete");
  await told(page, "Task “Price boards” changed");
  await expect(bar(page, "Price boards")).toHaveCount(0);
});

test("days are drawn for a new task, across the end of a week", async ({ page }) => {
  await signIn(page);
  await open(page, "?from=2026-03-11&project=archive");
  await drag(page, "2026-03-12", "2026-03-17", { down: 60 });
  const form = page.locator("#new form");
  await expect(form.getByLabel("Start")).toHaveValue("2026-03-12");
  await expect(form.getByLabel("Finish")).toHaveValue("2026-03-17");
  await form.getByLabel("What is to be done").fill("Shelves for the drawings");
  await form.getByLabel("Project").selectOption({ label: "Workshop archive" });
  await form.getByRole("button", { name: "Add it" }).click();
  await told(page, "Task “Shelves for the drawings” added");
  await expect(bar(page, "Shelves for the drawings")).toHaveCount(2);
});

test("projects go off and on, another team’s milestones come in, and the sheet says what lies on a day", async ({ page }) => {
  await signIn(page);
  await open(page, "?from=2026-04-10&team=writing");
  await expect(page.locator(".cal-milestone")).toHaveText(["Spring inspection of all tools"]);
  await page.locator("summary", { hasText: "Filter" }).click();
  await page.getByRole("checkbox", { name: "Sparks" }).check();
  await page.getByRole("button", { name: "Filter" }).click();
  await expect(page.locator(".cal-milestone").first()).toHaveText("Night Trains opens");
  await open(page, "?from=2026-03-11&project=ticket,moon-dunes");
  await expect(bar(page, "Price boards")).toHaveCount(1);
  await page.getByRole("link", { name: "Ticket desk for the Lantern Cinema, on" }).click();
  await expect(page.getByRole("link", { name: "Ticket desk for the Lantern Cinema, off" })).toBeVisible();
  await expect(bar(page, "Price boards")).toHaveCount(0);
  await day(page, "2026-03-18").locator("a").click();
  const sheet = page.locator("#sheet");
  await expect(sheet).toContainText("Wed 18 March");
  await expect(sheet).toContainText("Greta off");
  await expect(sheet).toContainText("Dune frames");
  await expect(sheet).not.toContainText("Price boards");
  await accessible(page);
});

test("week, day and list show the same days, and axe finds nothing, light and dark, nor on a phone", async ({ page }) => {
  await signIn(page);
  for (const span of ["", "week", "day", "list"]) {
    await open(page, `?from=2026-03-16&span=${span}`);
    await expect(page.locator("main")).toContainText("Round of the crates");
    // In a month it may be one of those that are counted.
    if (span) await expect(page.locator("main")).toContainText("Desk body");
    await accessible(page);
  }
  await page.emulateMedia({ colorScheme: "dark" });
  for (const span of ["", "list"]) {
    await open(page, `?from=2026-03-16&span=${span}`);
    await accessible(page, ["color-contrast"]);
  }
  await page.setViewportSize({ width: 390, height: 800 });
  for (const path of ["/schedule/calendar", "/schedule/calendar?span=list", "/schedule/slips", "/schedule/long"]) {
    await page.goto(path);
    const wide = await page.evaluate(() => document.documentElement.scrollWidth);
    expect(wide, path).toBeLessThanOrEqual(390);
  }
});

test("what is in view goes out for other calendars", async ({ page }) => {
  await signIn(page);
  await open(page, "?project=touring");
  const file = await page.request.get("/schedule/calendar/export.ics?project=touring");
  const text = await file.text();
  expect(text).toContain("SUMMARY:Condition reports (Touring: Salt and Iron)");
  expect(text).toContain("SUMMARY:Round of the crates");
  expect(text).not.toContain("Price boards");
});
