// The long view: what teams have to do, moved, stretched, sized, given and split, and at once what spills.
import { expect } from "@playwright/test";
import { accessible, openPage, pieceOf, signIn, test, told, undo } from "./steps.mjs";

const open = (page, search = "?from=2026-03-30") => openPage(page, `/schedule/long${search}`, "long");
const row = (page, name) => page.locator(".row.team").filter({ has: page.locator(".name", { hasText: new RegExp(`^${name}$`) }) });
const item = (page, team, title) => row(page, team).locator("[data-shape]").filter({ hasText: title });
const label = (page, team, at) => row(page, team).locator(".cells a").nth(at);

/** Grips an item by key, in the cell in which it lies. */
async function grip(page, team, at, title) {
  await label(page, team, at).focus();
  await page.keyboard.press("g");
  for (let more = 0; more < 5 && !(await page.locator(".tip").textContent()).includes(title); more++) await page.keyboard.press("g");
  await expect(page.locator(".tip")).toContainText(title);
}

test("the length of an item is drawn, its size by its top edge, and at once the spill is seen", async ({ page }) => {
  await signIn(page);
  await open(page);
  const before = await label(page, "Workshop", 3).textContent();
  expect(before).toBe("+34.3 h");
  const shape = item(page, "Workshop", "Shell of the dome");
  await shape.scrollIntoViewIfNeeded();
  const { x, y, width, height } = await pieceOf(shape);
  // Its top edge, in the week of 6 April: down to half of it.
  await page.mouse.move(x + width / 2, y + 1);
  await page.mouse.down();
  await page.mouse.move(x + width / 2, y + height / 2, { steps: 5 });
  await expect(page.locator(".tip")).toContainText("Workshop: ");
  await expect(page.locator(".tip")).toContainText(" less; most in the week of");
  await expect(label(page, "Workshop", 3)).not.toHaveText(before);
  await page.mouse.up();
  await told(page, "Task “Shell of the dome” changed");
  await undo(page);
  await expect(label(page, "Workshop", 3)).toHaveText(before);
  await grip(page, "Workshop", 3, "Shell of the dome");
  for (const key of ["f", "Shift+ArrowRight", "Shift+ArrowRight", "Shift+ArrowRight"]) await page.keyboard.press(key);
  await expect(page.locator(".tip")).toContainText("Shell of the dome, 6 April – 29 May");
  await page.keyboard.press("Enter");
  await told(page, "Task “Shell of the dome” stretched");
  await expect(label(page, "Workshop", 3)).not.toHaveText(before);
});

test("by key alone: larger, moved, given to another team, split with it", async ({ page }) => {
  await signIn(page);
  await open(page);
  const press = async (...keys) => {
    for (const key of keys) await page.keyboard.press(key);
  };
  const title = item(page, "Sparks", "A second set of boards").locator("title");
  await grip(page, "Sparks", 2, "A second set of boards");
  await press("+", "Enter");
  await told(page, "Task “A second set of boards” changed");
  await expect(title).toContainText("105.75 h");
  await grip(page, "Sparks", 2, "A second set of boards");
  await press("Shift+ArrowRight", "Enter");
  await told(page, "Task “A second set of boards” moved");
  await expect(title).toContainText("7 April – 4 May");
  await grip(page, "Sparks", 2, "A second set of boards");
  await press("ArrowDown", "Enter");
  await told(page, "Task “A second set of boards” changed");
  await expect(item(page, "Workshop", "A second set of boards")).toBeAttached();
  await expect(item(page, "Sparks", "A second set of boards")).toHaveCount(0);
  await undo(page);
  await expect(item(page, "Sparks", "A second set of boards")).toBeAttached();
  await grip(page, "Sparks", 2, "A second set of boards");
  await press("t", "ArrowDown", "Enter");
  await told(page, "3 changes");
  await expect(item(page, "Sparks", "A second set of boards: Sparks")).toBeAttached();
  await expect(item(page, "Workshop", "A second set of boards: Workshop")).toBeAttached();
});

test("the sheet says what does not fit, sizes, gives a part to another team, and takes new work", async ({ page }) => {
  await signIn(page);
  await open(page);
  await label(page, "Install", 3).click();
  const sheet = page.locator("#sheet");
  await expect(sheet).toContainText("76 h inside an estimate of 60 h: 16 h over");
  await accessible(page);
  await label(page, "Workshop", 3).click();
  await expect(sheet).toContainText("of it above the rim");
  await sheet.locator("summary", { hasText: "Wall of drawers" }).click();
  const open_ = sheet.locator("details[open]");
  const size = open_.getByLabel("What is left of it");
  const was = await size.inputValue();
  await size.fill("20h");
  await expect(open_.locator(".says").nth(1)).toContainText("Workshop: ");
  await open_.getByRole("button", { name: "This size" }).click();
  await told(page, "Task “Wall of drawers” changed");
  await undo(page);
  await expect(size).toHaveValue(was);
  await open_.getByLabel("To another team").selectOption({ label: "Sparks" });
  await open_.getByLabel(/How much of it/).fill("25");
  await open_.getByRole("button", { name: "Give it" }).click();
  await told(page, "3 changes");
  await expect(item(page, "Sparks", "Wall of drawers: Sparks")).toBeAttached();
  await page.keyboard.press("Escape");
  await label(page, "Design", 1).focus();
  await page.keyboard.press("a");
  const form = page.locator("#new form");
  await form.getByLabel("What is to be done").fill("Plans for the yard");
  await form.getByLabel("Project").selectOption({ label: "Harbour of Ropes" });
  await form.getByLabel("Finish").fill("2026-04-17");
  await form.getByLabel("Estimate").fill("60h");
  await form.getByRole("button", { name: "Add it" }).click();
  await told(page, "Task “Plans for the yard” added");
  await expect(item(page, "Design", "Plans for the yard")).toBeAttached();
});

test("weeks, months and quarters, sprints and releases on the axis; axe finds nothing, light and dark", async ({ page }) => {
  await signIn(page);
  await open(page, "");
  await expect(page.locator(".sprint title")).toContainText(["Frames and benches: 9 March – 20 March"]);
  await expect(page.locator(".marks .release title")).toHaveCount(1);
  await accessible(page);
  await page.getByLabel("Time in").selectOption("month");
  await expect(page.locator(".heads [data-from]").first()).toHaveText(/March 2026|Mar 26/);
  await accessible(page);
  await page.emulateMedia({ colorScheme: "dark" });
  await open(page, "?zoom=quarter");
  await accessible(page, ["color-contrast"]);
  await open(page, "?q=nobody");
  await expect(page.getByText("No team is called that")).toBeVisible();
});
