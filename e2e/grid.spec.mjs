// The live grid is a call: a small page of its own has it, with other rows, other words and another address for its deeds.
import { expect } from "@playwright/test";
import { accessible, openPage, pieceOf, signIn, test, told } from "./steps.mjs";

test.beforeEach(async ({ page }) => {
  await signIn(page);
  await openPage(page, "/styleguide", "sample");
  await page.locator("#grid").scrollIntoViewIfNeeded();
});

const bench = (page, name) => page.locator(".row.bench").filter({ hasText: name });
const bar = (page, title) => page.locator("[data-shape]").filter({ hasText: title });

test("a bar is dragged to another bench, and drawn there as the server says", async ({ page }) => {
  const from = await pieceOf(bar(page, "Keel jig"));
  const to = await bench(page, "Paint booth").locator(".track").boundingBox();
  const start = { x: from.x + from.width / 2, y: from.y + from.height * 0.7 };
  await page.mouse.move(start.x, start.y);
  await page.mouse.down();
  await page.mouse.move(start.x + (to.width / 28) * 7, to.y + to.height / 2, { steps: 8 });
  await expect(page.locator(".tip")).toContainText("Keel jig, 18 March – 27 March");
  await expect(bench(page, "Paint booth").locator("[data-shape]").filter({ hasText: "Keel jig" })).toBeAttached();
  await page.mouse.up();
  await told(page, "Keel jig, 18 March – 27 March. Samples are not kept.");
  await expect(bench(page, "North bench").locator("[data-shape]").filter({ hasText: "Keel jig" })).toBeAttached();
});

test("by key: from cell to cell, a bar gripped and stretched, a cell opened and closed", async ({ page }) => {
  await page.locator(".cells a[tabindex='0']").focus();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowRight");
  await expect(bench(page, "South bench").locator(".cells a").nth(1)).toBeFocused();
  await page.keyboard.press("g");
  await expect(page.locator(".tip")).toContainText("Gripped: Sand trays");
  for (const key of ["f", "ArrowRight", "Enter"]) await page.keyboard.press(key);
  await told(page, "Sand trays, 9 March – 21 March");
  await page.keyboard.press("Enter");
  await expect(page.locator("#sheet")).toContainText("Sand trays");
  expect(page.url()).toContain("bench=1");
  await accessible(page);
  await page.keyboard.press("Escape");
  await expect(page.locator("#sheet")).toBeHidden();
});
