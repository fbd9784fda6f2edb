import { expect } from "@playwright/test";
import { test, told } from "./steps.mjs";

test.use({ baseURL: process.env.SNUG_EMPTY_URL });

/** Counts what a hand does: a key line typed, a click. */
function counted(page) {
  let steps = 0;
  return {
    fill: async (label, text) => (steps++, await page.getByLabel(label, { exact: true }).fill(text)),
    type: async (name, text) => (steps++, await page.locator(`[name=${name}]`).fill(text)),
    click: async (name) => (steps++, await page.getByRole("button", { name }).click()),
    steps: () => steps,
  };
}

test("from an empty workspace to the first booking on screen in under a minute by hand", async ({ page }) => {
  const started = Date.now();
  await page.goto(`/welcome?key=${process.env.SNUG_FIRST_KEY}`);
  await expect(page.getByRole("heading", { name: "A new workspace" })).toBeVisible();
  const hand = counted(page);
  const founder = { workspace: "Pier Seven", name: "Mira Castellan", email: "mira@pier.test", password: "a long password" };
  for (const [name, text] of Object.entries(founder)) await hand.type(name, text);
  await hand.click("Create the workspace");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Who is there?");
  await hand.fill("Name, row 1", "Oona Varga");
  await hand.fill("Hours a week, row 1", "32");
  await hand.click("Go on to projects");
  await hand.fill("Name, row 1", "Moon Garden");
  await hand.click("Go on to bookings");
  await hand.fill("Who, row 1", "Oona Varga");
  await hand.fill("Project, row 1", "Moon Garden");
  await hand.fill("How much, row 1", "6");
  await hand.click("Book, and see it in Fit");
  await expect(page.getByRole("alert")).toHaveText("Row 1: “6” of what? write 6h/d, 30h/w, 23h in all, or 40%");
  await expect(page.getByLabel("Who, row 1", { exact: true })).toHaveValue("Oona Varga");
  await hand.fill("How much, row 1", "6h/d");
  await hand.click("Book, and see it in Fit");
  const row = page.locator(".row.person").filter({ hasText: "Oona Varga" });
  await expect(row.locator("[data-shape]")).toBeAttached();
  await expect(row.locator(".cells a").first()).toHaveText("snug"); // 30 of 32 hours
  console.log(`first booking after ${hand.steps()} steps of a hand, ${Date.now() - started} ms of a script`);
  expect(hand.steps()).toBeLessThan(20); // at three seconds a step, a minute
});

test("people are pasted from a spreadsheet", async ({ page }) => {
  await page.goto("/sign-in");
  await page.getByLabel("E-mail address").fill("mira@pier.test");
  await page.getByLabel("Password").fill("a long password");
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.goto("/start/people");
  await page.getByText("Or paste from a spreadsheet").click();
  await page.locator("textarea").fill("Name\tRole\tHours a week\nRuth Engel\trigger\t40\nTom Abara\ttranslator\tmany\n");
  await page.getByRole("button", { name: "Go on to projects" }).click();
  await expect(page.getByRole("alert")).toContainText("Row 2: “many” is no number of hours");
  await page.locator("textarea").fill("Ruth Engel;rigger;40\nTom Abara;translator;30");
  await page.getByRole("button", { name: "Go on to projects" }).click();
  await told(page, "2 records taken over");
  await page.goto("/people");
  await expect(page.locator("#rows tr[data-id]")).toHaveCount(3);
});
