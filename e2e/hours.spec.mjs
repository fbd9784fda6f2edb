import { expect } from "@playwright/test";
import { openPage, signIn, test, told } from "./steps.mjs";

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
  await page.getByLabel("Note").fill("second housing");
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
