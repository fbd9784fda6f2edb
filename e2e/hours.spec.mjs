import { expect } from "@playwright/test";
import { openPage, signIn, test, told, undo } from "./steps.mjs";

test("a member types the hours of a day; totals follow, a wrong cell is told and keeps what was typed", async ({ page }) => {
  await signIn(page, "oona");
  await openPage(page, "/hours", "hours");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Oona Varga");
  const cell = page.getByLabel(/Night Trains, Signal-box sensors, Wed 11 March/);
  await expect(cell).toHaveAttribute("placeholder", /\d/);
  const day = page.getByRole("img", { name: /Wed 11 March: .* hours of 8 h/ });
  await cell.fill("soon");
  await cell.press("Enter");
  await told(page, "“soon” is no duration; write 4, 1.5, 4h");
  await expect(cell).toHaveValue("soon");
  await cell.fill("9:30");
  await cell.press("Enter");
  await expect(day).toHaveAccessibleName("Wed 11 March: 9:30 hours of 8 h");
  await expect(page.locator(".sheet-table tfoot .spill")).toHaveCount(1);
  await page.locator("#toast").getByRole("button", { name: "Undo" }).click();
  await expect(day).toHaveAccessibleName("Wed 11 March: 0 hours of 8 h");
});

test("time is logged by typing a duration, and stands in estimate against actual", async ({ page }) => {
  await signIn(page, "oona");
  await openPage(page, "/hours", "hours");
  await page.keyboard.press("t");
  await page.keyboard.type("1h 30m");
  await page.getByLabel("On what").selectOption({ label: "Moon Garden · Dust-proof sensors" });
  await page.getByLabel("Note", { exact: true }).fill("second housing");
  await page.getByRole("button", { name: "Log it" }).click();
  await told(page, "Time logged");
  await page.goto("/hours/actuals?q=Dust-proof");
  await expect(page.locator(".vessels")).toContainText("11.5 h worked · 26.5 h to go · thought 36 h");
  await expect(page.locator(".verdict")).toHaveText("+2 h");
  await page.getByText("The same figures as a table").click();
  await expect(page.getByRole("row", { name: /Dust-proof sensors/ })).toContainText("38 h");
  await page.locator("[data-undo] button").click();
  await expect(page.locator(".vessels")).toContainText("10 h worked");
});

/** The input of a cell of the week sheet. */
const typed = (page, name) => page.getByRole("textbox", { name });

test("planned hours are taken over by one key, in a line, on a day, or all of them, and last week is copied", async ({ page }) => {
  await signIn(page, "oona");
  await openPage(page, "/hours", "hours");
  const cell = typed(page, /Night Trains, Signal-box sensors, Wed 11 March/);
  const planned = await cell.getAttribute("placeholder");
  await cell.press("=");
  await told(page, "1 cell filled");
  await expect(cell).toHaveValue(planned);
  await undo(page);
  await expect(cell).toHaveValue("");
  await page.getByRole("button", { name: "Take over what was planned on Mon 9 March" }).click();
  await told(page, "cells filled");
  await expect(typed(page, /^Night Trains, Mon 9 March/)).not.toHaveValue("");
  await expect(typed(page, /^Night Trains, Tue 10 March/)).toHaveValue("");
  await page.getByRole("button", { name: "Take over all that was planned" }).click();
  await expect(typed(page, /^Night Trains, Tue 10 March/)).not.toHaveValue("");
  await expect(typed(page, /^Night Trains, Thu 12 March/)).toHaveValue("");
  await expect(page.getByRole("button", { name: "Take over what was planned on Mon 9 March" })).toHaveCount(0);
  await page.goto("/hours?week=2026-03-16");
  await page.getByRole("button", { name: "Take over all that was planned" }).click();
  await told(page, "Nothing is planned there that is not logged yet; days to come are logged once they are worked.");
  await page.goto("/hours?week=2026-03-02");
  await page.getByRole("button", { name: "Copy last week" }).click();
  await told(page, "filled");
});

test("a week is handed in, sent back, handed in again and approved; then corrections alone come in", async ({ page, browser }) => {
  await signIn(page, "oona");
  await openPage(page, "/hours", "hours");
  await page.getByRole("button", { name: "Hand in the week" }).click();
  await told(page, "Week handed in");
  await expect(page.locator(".week-state")).toContainText("Handed in by Oona Varga");
  await expect(typed(page, /Dust-proof sensors, Mon 9 March/)).toHaveCount(0);
  const other = await (await browser.newContext({ baseURL: process.env.SNUG_URL })).newPage();
  await signIn(other, "mira");
  await other.goto("/hours/approve?week=2026-03-09&show=handed%20in");
  const line = other.locator(".weeks > li", { hasText: "Oona Varga" });
  await expect(line).toContainText("Handed in by Oona Varga");
  await line.getByText("Send back").first().click();
  await line.getByLabel("What is to be put right").fill("Is Tuesday whole?");
  await line.getByRole("button", { name: "Send back the week of Oona Varga" }).click();
  await told(other, "Week sent back");
  await other.goto("/mailbox");
  await expect(other.locator("main")).toContainText("Is Tuesday whole?");
  await page.reload();
  await expect(page.locator(".week-state")).toContainText("“Is Tuesday whole?”");
  await page.getByRole("button", { name: "Hand in the week" }).click();
  await told(page, "Week handed in");
  await other.goto("/hours/approve?week=2026-03-09");
  await other.getByRole("button", { name: "Approve the week of Oona Varga" }).click();
  await told(other, "Week approved");
  await page.reload();
  await expect(page.locator(".week-state")).toContainText("Approved by Mira Castellan");
  const log = page.getByRole("region", { name: "Log time" });
  await log.getByLabel("How long").fill("-30m");
  await log.getByLabel("On what").selectOption({ label: "Moon Garden · Dust-proof sensors" });
  await log.getByLabel("When").fill("2026-03-09");
  await log.getByLabel("Reason of the correction").fill("counted the break");
  await log.getByRole("button", { name: "Log it" }).click();
  await told(page, "Time logged");
  await expect(page.getByRole("row", { name: /Dust-proof sensors/ }).first()).toContainText("5:30");
  await page.getByText("The entries of this week").click();
  await expect(page.getByRole("row", { name: /-0.5 h/ })).toContainText("corrected: counted the break");
});

test("a walk-in is made and logged in one line, and a sentence that is refused keeps what was typed", async ({ page }) => {
  await signIn(page, "oona");
  await openPage(page, "/hours", "hours");
  const form = page.getByRole("region", { name: "A walk-in" });
  await form.getByLabel("What it was").fill("Loose wire at the station");
  await form.getByLabel("For which project").selectOption({ label: "Night Trains" });
  await form.getByLabel("Who asked").fill("Station museum");
  await form.getByLabel("It took").fill("soon");
  await form.getByRole("button", { name: "Log the walk-in" }).click();
  await told(page, "“soon” is no duration");
  await expect(form.getByLabel("Who asked")).toHaveValue("Station museum");
  await form.getByLabel("It took").fill("45m");
  await form.getByRole("button", { name: "Log the walk-in" }).click();
  await told(page, "Walk-in logged");
  await page.goto("/hours/actuals?q=Loose+wire");
  await expect(page.locator(".vessels")).toContainText("0.75 h worked · 0 h to go · no estimate");
  await page.getByRole("link", { name: "what it is made of: Loose wire at the station" }).click();
  await expect(page.locator("#made-of")).toContainText("Oona Varga");
  await page.locator("[data-undo] button").click();
  await expect(page.locator(".empty")).toContainText("Nothing to compare here");
});

test("a timer goes on when the page is closed, is paused, and is one a person", async ({ page, context }) => {
  await signIn(page, "oona");
  await openPage(page, "/hours/day", "whose");
  await page.getByRole("button", { name: "Start the timer on Dust-proof sensors" }).click();
  await told(page, "Timer started");
  await page.close();
  const again = await context.newPage();
  await openPage(again, "/hours", "hours");
  const box = again.getByRole("region", { name: "Timer" });
  await expect(box).toContainText("Moon Garden · Dust-proof sensors");
  await expect(box).toContainText("The timer runs");
  await box.getByRole("button", { name: "Pause" }).click();
  await expect(box).toContainText("The timer is paused");
  await box.getByRole("button", { name: "Go on" }).click();
  await box.getByRole("button", { name: "Stop and log" }).click();
  await told(again, "The timer ran for less than half a minute; nothing was logged");
  await expect(box.getByRole("button", { name: "Start" })).toBeVisible();
});

test("my day on a phone: time is logged in two taps, work is ticked off, and what remains is asked anew", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 780 });
  await signIn(page, "oona");
  await openPage(page, "/hours/day", "whose");
  const item = page.locator(".day-list > li", { hasText: "Signal-box sensors" });
  await expect(item).toContainText("was to end 6 March");
  await item.getByText("Log", { exact: true }).click();
  await item.getByRole("button", { name: "4 h" }).click();
  await told(page, "Time logged");
  await expect(page.locator(".page-head")).toContainText("4 h of 8 h logged");
  await item.getByText("Log", { exact: true }).click();
  await item.getByRole("button", { name: "4 h" }).click();
  await expect(page.locator(".page-head")).toContainText("8 h of 8 h logged");
  await item.getByLabel(/thought: what is left/).fill("3h");
  await item.getByRole("button", { name: "Set" }).click();
  await told(page, "What is left is known again");
  await expect(item).toContainText("3 h left");
  await item.getByRole("button", { name: "Signal-box sensors is done" }).click();
  await told(page, "Done");
  await expect(item).toHaveCount(0);
});

test("money is for managers: the tab, the page, and what a budget that runs hot says", async ({ page }) => {
  await signIn(page, "oona");
  await page.goto("/hours/day");
  await expect(page.getByRole("link", { name: "Money" })).toHaveCount(0);
  expect((await page.goto("/hours/money")).status()).toBe(403);
  await page.context().clearCookies();
  await signIn(page, "mira");
  await page.goto("/hours/money");
  await expect(page.locator(".vessels > li", { hasText: "Beetle Hall refit" }).locator(".verdict")).toHaveText(/over$/);
  await page.goto("/hours/money?q=moon");
  await expect(page.locator(".vessels > li")).toHaveText([/Moon Garden/, /Moon Garden: the dunes/]);
  await page.goto("/hours/earned?baseline=B-moon");
  await expect(page.getByRole("img", { name: /Planned, earned and actual hours by week/ })).toBeVisible();
  await page.goto("/hours/bias");
  await expect(page.locator(".vessels")).toContainText(/work of this kind took 1\.\d times what was thought/);
  await page.goto("/hours/worked?only=unworked");
  await expect(page.locator(".verdict").first()).toContainText("not worked");
});

test("a report is put together, drawn, kept with its day of mail, and opened again", async ({ page }) => {
  await signIn(page, "mira");
  await openPage(page, "/hours/reports", "report");
  await page.getByLabel("Range").selectOption({ label: "This year" });
  await page.getByLabel("Together by").selectOption({ label: "Project" });
  await page.getByLabel("Chart").selectOption({ label: "Bars" });
  await page.getByRole("button", { name: "Show", exact: true }).click();
  await expect(page.getByRole("img", { name: /^Hours, \d+ of \d+/ })).toBeVisible();
  const row = page.getByRole("row", { name: /^Night Trains/ });
  await expect(row).toContainText("153.25 h");
  await page.getByText("Kept reports").click();
  await page.getByLabel("Keep this look as").fill("Hours of the year");
  await page.getByLabel("Mail it to me").selectOption({ label: "on Mondays" });
  await page.getByRole("button", { name: "Keep", exact: true }).click();
  await page.goto("/hours/reports?of=due");
  await page.getByText("Kept reports").click();
  await expect(page.locator(".look-list")).toContainText("mailed on Mondays");
  await page.getByRole("link", { name: "Hours of the year" }).click();
  await expect(row).toContainText("153.25 h");
  // Days of one's own, the wrong way round, are told.
  await page.getByLabel("Range").selectOption({ label: "Days" });
  await page.getByLabel("from").fill("2026-03-05");
  await page.getByLabel("to", { exact: true }).fill("2026-03-01");
  await page.getByRole("button", { name: "Show", exact: true }).click();
  await expect(page.getByRole("alert")).toContainText("lies before the first");
});

test("budgets say what is left and when they run out; a member sees hours alone", async ({ page }) => {
  await signIn(page, "oona");
  await page.goto("/hours/budgets");
  const touring = page.locator(".budgets > li", { hasText: "Touring: Salt and Iron" });
  await expect(touring.locator(".verdict")).toHaveText("139.75 h overruns out Mon 11 May");
  await expect(page.getByLabel("Measure")).toHaveCount(0);
  expect((await page.goto("/hours/budgets?in=money")).status()).toBe(403);
  await page.context().clearCookies();
  await signIn(page, "mira");
  await page.goto("/hours/budgets");
  await page.getByLabel("Measure").selectOption({ label: "In money (EUR)" });
  await expect(page.locator(".budgets > li", { hasText: "Beetle Hall refit" }).locator(".verdict")).toContainText("runs out");
  // A line is found with its project, in the measure that was chosen; a name that nothing has leads back.
  const find = page.getByLabel("Filter by name");
  await find.fill("install");
  await find.press("Enter");
  await expect(page.locator(".budgets > li").first()).toContainText("Moon Garden");
  await expect(page.locator(".budgets")).toHaveCount(1);
  await expect(page.getByLabel("Measure")).toHaveValue("money");
  await find.fill("no such budget");
  await find.press("Enter");
  await page.getByRole("link", { name: "Show all" }).click();
  await expect(page.getByLabel("Measure")).toHaveValue("money");
});

test("a new estimate of a kind that took longer is hinted at, and taken with one click", async ({ page }) => {
  await signIn(page, "mira");
  await openPage(page, "/tasks/new", "form");
  await page.getByLabel("Estimate").fill("10");
  const hint = page.locator(".estimate-hint");
  await expect(hint).toBeHidden();
  await page.getByLabel("Kind of work").fill("build");
  await expect(hint).toContainText(/Work of this kind took 1\.\d times what was thought \(.* tasks\)\./);
  const take = hint.getByRole("button", { name: /^Take 1[0-9.]+ h$/ });
  const hours = (await take.textContent()).match(/[\d.]+/)[0];
  await take.click();
  await expect(hint).toBeHidden();
  expect(Number(await page.getByLabel("Estimate").inputValue())).toBeCloseTo(Number(hours), 1);
});
