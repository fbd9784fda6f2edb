// Tuck in: what would go where, with its reasons; the ticked part is one entry; what changed meanwhile is looked for again.
import { expect } from "@playwright/test";
import { accessible, signIn, test, told, undo } from "./steps.mjs";

const line = (page, title) => page.locator(".tuck li").filter({ has: page.getByRole("link", { name: title, exact: true }) });

async function find(page) {
  await page.goto("/schedule/tuck-in");
  await page.getByRole("button", { name: "Find places" }).click();
  await expect(page.getByRole("heading", { name: /^5 tasks find a place, the last ends on 3 Apr 2026\.$/ })).toBeVisible();
}

test("undated work finds its places with reasons, and the ticked part goes into the plan as one entry", async ({ page }) => {
  await signIn(page);
  await find(page);
  await expect(line(page, "Lift rehearsal")).toContainText("new, given to Ruth Engel");
  await expect(line(page, "Crater lighting test")).toContainText("Ines Moreau has 2 h a day left from 11 March to 17 March, is off from 14 March to 15 March");
  await expect(line(page, "Crate drawings"), "a lift draws nothing").not.toContainText("Scissor lift");
  await expect(line(page, "Lift rehearsal").locator(".tuck-after")).toBeVisible();
  for (const title of ["Crate drawings", "Crater lighting test", "Echo wall, idea"]) await page.getByLabel(`Take ${title}`).uncheck();
  await page.getByRole("button", { name: "Take what is ticked" }).click();
  await told(page, "2 tasks tucked in");
  await undo(page);
  await find(page);
  await page.getByLabel("Take Lift rehearsal").uncheck();
  await page.getByRole("button", { name: "Take what is ticked" }).click();
  await told(page, "4 tasks tucked in");
  await page.getByRole("button", { name: "Find places" }).click();
  await expect(page.getByRole("heading", { name: /^1 task finds a place/ })).toBeVisible();
});

test("a proposal that no longer fits changes nothing and is looked for again", async ({ page, browser }) => {
  await signIn(page);
  await find(page);
  const other = await (await browser.newContext()).newPage();
  await signIn(other, "teo");
  await other.goto("/schedule/tuck-in?go=yes");
  await other.getByRole("button", { name: "Take what is ticked" }).click();
  await told(other, "5 tasks tucked in");
  await page.getByRole("button", { name: "Take what is ticked" }).click();
  await expect(page.getByText(/Somebody else has changed this task since you opened it\. Below is what fits now\./)).toBeVisible();
  await expect(page.getByRole("heading", { name: /There is nothing to place/ })).toBeVisible();
});

test("the page is accessible, says what is wrong with a question, and lets others look", async ({ page }) => {
  await signIn(page, "guest");
  await page.goto("/schedule/tuck-in?go=yes&dates=unpinned");
  await expect(page.getByText("Your role lets you look. Leads and managers put work into the plan.")).toBeVisible();
  await expect(page.getByRole("button", { name: "Take what is ticked" })).toHaveCount(0);
  await expect(page.locator(".tuck-before").first()).toBeAttached();
  await accessible(page);
  // Loaded anew, as buttons take a moment to change their colour.
  await page.emulateMedia({ colorScheme: "dark" });
  await page.goto("/schedule/tuck-in?go=yes&dates=unpinned");
  await accessible(page);
  await page.setViewportSize({ width: 390, height: 800 });
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await page.goto("/schedule/tuck-in?go=yes&until=2026-01-01");
  await expect(page.getByRole("alert")).toHaveText("The last day is to be today or later, within ten years.");
});

test("a longer search is stopped, a task is left as it is, and the rest is tried in a draft in the room one came from", async ({ page }) => {
  await signIn(page);
  await page.goto("/schedule/gantt");
  await page.getByRole("link", { name: "Tuck in", exact: true }).first().click();
  await page.goto(`${page.url()}&dates=unpinned&until=2026-04-24`);
  await expect(line(page, "A second set of boards")).toContainText("If it might end later, it would end on");
  await page.getByRole("link", { name: /^Look harder/ }).click();
  await expect(page.getByText(/ways tried$/)).toBeVisible();
  await page.getByRole("button", { name: "Stop and show the best so far" }).click();
  await expect(page.getByRole("heading", { name: /find a place/ })).toBeFocused();
  await page.getByRole("link", { name: "Leave it as it is: Path lights" }).click();
  await expect(page.getByText("1 task stays as it is.")).toBeVisible();
  await expect(line(page, "Path lights")).toHaveCount(0);
  await accessible(page);
  await page.getByRole("button", { name: "Try it in a draft" }).click();
  await expect(page).toHaveURL(/\/schedule\/gantt$/);
  await expect(page.locator(".bar.is-draft")).toContainText("tasks tucked in");
  await expect(page.locator(".row .in-live").first(), "the live plan as ghosts").toBeAttached();
  await accessible(page);
});

test("a chosen task is placed, and other work of its people is said to count", async ({ page }) => {
  await signIn(page);
  await page.goto("/tasks?q=Dune+paint&col=title");
  await page.locator("#rows .chosen input").first().check();
  await page.locator("[data-tuck]").click();
  await expect(page.getByText("1 task is chosen.")).toBeVisible();
  await expect(page.getByText(/^Work that is not looked at here stands and counts: .* of Pilar/)).toBeVisible();
});
