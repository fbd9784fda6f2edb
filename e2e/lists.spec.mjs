import { expect } from "@playwright/test";
import { accessible, openPage, signIn, test, told } from "./steps.mjs";

const rowOf = (page, title) => page.locator("#rows tr[data-id]").filter({ has: page.locator(".name", { hasText: new RegExp(`^${title}$`) }) });
const cellOf = (page, title, column) => rowOf(page, title).locator(`td[data-column="${column}"]`);

test.beforeEach(async ({ page }) => signIn(page));

test("a cell is typed in by keyboard; a wrong value is told, a right one stands and can be undone", async ({ page }) => {
  await openPage(page, "/tasks?q=Case+lights", "list");
  await expect(cellOf(page, "Case lights", "estimate_h")).toHaveText("30 h");
  await page.locator('td[tabindex="0"]').focus();
  for (let step = 0; step < 4; step++) await page.keyboard.press("ArrowRight");
  await expect(cellOf(page, "Case lights", "estimate_h")).toBeFocused();
  await page.keyboard.press("Enter");
  await page.keyboard.type("thirty");
  await page.keyboard.press("Enter");
  await told(page, "“thirty” is no number of hours; write it as 7.5");
  await expect(page.locator("td.is-edited input")).toHaveValue("thirty");
  await page.locator("td.is-edited input").fill("32.5");
  await page.keyboard.press("Enter");
  await expect(cellOf(page, "Case lights", "estimate_h")).toHaveText("32.5 h");
  await expect(cellOf(page, "Case lights", "estimate_h")).toBeFocused();
  await page.locator("#toast").getByRole("button", { name: "Undo" }).click();
  await expect(cellOf(page, "Case lights", "estimate_h")).toHaveText("30 h");
  await told(page, "Taken back");
});

test("a choice is chosen in its cell, Esc leaves a cell as it was", async ({ page }) => {
  await openPage(page, "/tasks?q=Case+lights", "list");
  await cellOf(page, "Case lights", "priority").dblclick();
  await page.keyboard.press("Escape");
  await expect(cellOf(page, "Case lights", "priority")).toHaveText("normal");
  await cellOf(page, "Case lights", "priority").dblclick();
  await page.locator("td.is-edited select").selectOption("high");
  await expect(cellOf(page, "Case lights", "priority")).toHaveText("high");
  await page.locator("[data-undo] button").click();
  await expect(cellOf(page, "Case lights", "priority")).toHaveText("normal");
});

test("columns are chosen, sorted, grouped and filtered by the address", async ({ page }) => {
  await openPage(page, "/people", "list");
  await page.getByText("Columns", { exact: true }).click();
  await page.getByLabel("E-mail").check();
  await page.getByRole("button", { name: "Show these" }).click();
  await expect(page.getByRole("columnheader", { name: "E-mail" })).toBeVisible();
  await page.locator('select[name="is.role"]').selectOption("rigger");
  await page.waitForURL(/is\.role=rigger/);
  await expect(page.locator("#rows tr[data-id]")).toHaveCount(2);
  await page.getByRole("columnheader", { name: "Name" }).getByRole("link").click();
  await expect(page.getByRole("columnheader", { name: "Name" })).toHaveAttribute("aria-sort", "descending");
  await expect(page.locator("#rows .name").first()).toHaveText("Ruth Engel");
  await page.getByLabel("Group by").selectOption("holiday_calendar");
  await expect(page.locator("#rows .group")).toContainText("harbour");
});

test("a new person, with a later pattern; what is wrong is told at its field and what was typed stays", async ({ page }) => {
  await openPage(page, "/people/new", "form");
  await page.getByLabel("Name", { exact: true }).fill("Edda Lund");
  await page.getByLabel("E-mail").fill("edda");
  await page.getByLabel("Hours a week, at most (h)").fill("24");
  await page.getByLabel("Later patterns: From").first().fill("2026-06-01");
  await page.getByLabel("Later patterns: Usual week").first().fill("6 6 6 6 0 0 0");
  await page.getByRole("button", { name: "Add", exact: true }).click();
  await expect(page.locator("#p-email")).toContainText("“edda” is no e-mail address");
  await expect(page.getByLabel("E-mail")).toBeFocused();
  await expect(page.getByLabel("Name", { exact: true })).toHaveValue("Edda Lund");
  await expect(page.getByLabel("Later patterns: Usual week").first()).toHaveValue("6 6 6 6 0 0 0");
  await page.getByLabel("E-mail").fill("edda@tidewater.test");
  await page.getByRole("button", { name: "Add", exact: true }).click();
  await told(page, "Person “Edda Lund” added");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Edda Lund");
  await expect(page.locator(".past")).toContainText("Person “Edda Lund” added");
  await page.getByRole("link", { name: "Their row in Fit" }).click();
  await expect(page.locator(".row.person")).toHaveCount(1);
  await page.locator("[data-undo] button").click();
  await told(page, "Taken back: Person “Edda Lund” added");
});

test("two people at one list: changes arrive, and a cell that is being typed in is left alone", async ({ page, browser }) => {
  await openPage(page, "/tasks?q=Drawer+slides", "list");
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const other = await context.newPage();
  await signIn(other, "teo", process.env.SNUG_URL_2);
  await other.goto(`${process.env.SNUG_URL_2}/tasks?q=Drawer+slides`);
  await expect(other.locator("html[data-ready=list]")).toBeAttached();
  await cellOf(other, "Drawer slides", "estimate_h").dblclick();
  await other.locator("td.is-edited input").fill("99");
  await cellOf(page, "Drawer slides", "priority").dblclick();
  await page.locator("td.is-edited select").selectOption("urgent");
  await expect(cellOf(page, "Drawer slides", "priority")).toHaveText("urgent");
  await expect(other.locator("td.is-edited input")).toHaveValue("99");
  await other.keyboard.press("Enter");
  await told(other, "Somebody else has changed this task");
  await told(other, "Priority urgent");
  await other.keyboard.press("Escape");
  await expect(cellOf(other, "Drawer slides", "priority")).toHaveText("urgent");
  await page.locator("[data-undo] button").click();
  await expect(cellOf(other, "Drawer slides", "priority")).toHaveText("normal");
  await context.close();
});

test("the finder finds a person, a page and something to do, by keyboard alone", async ({ page }) => {
  await openPage(page, "/tasks", "list");
  await page.keyboard.press("/");
  await page.keyboard.type("oona");
  await expect(page.getByRole("option", { name: /Oona Varga/ })).toHaveAttribute("aria-selected", "true");
  await accessible(page);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Oona Varga");
  await page.keyboard.press("/");
  await page.keyboard.type("new mile");
  await expect(page.getByRole("option", { name: /New milestone/ })).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("New milestone");
});
