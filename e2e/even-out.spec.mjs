// Even out: weeks that spill are flattened, hours that were not worked are offered again; looked at first, one entry each.
import { expect } from "@playwright/test";
import { accessible, openFit, signIn, test, told, undo } from "./steps.mjs";

const over = (page) => page.locator(".even tbody").first();

test("weeks are flattened as they were looked at, a task may be left, and one undo brings all of it back", async ({ page }) => {
  await signIn(page);
  await page.goto("/fit/even-out?cut=all");
  const sentence = page.getByRole("heading", { name: /over before, .* after/ });
  await expect(sentence).toBeVisible();
  const [before, after] = (await sentence.textContent()).match(/[\d.]+ h/g).map(parseFloat);
  expect(after).toBeLessThan(before);
  await expect(page.getByRole("heading", { name: "What cannot be mended" })).toBeVisible();
  await expect(page.getByText(/^Could take some of it: /).first()).toBeVisible();
  const moves = page.locator(".card-box", { has: page.getByRole("heading", { name: "What moves" }) }).locator(".even-list li");
  const count = await moves.count();
  const first = page.getByRole("link", { name: /^Leave it where it is: / }).first();
  const title = (await first.getAttribute("aria-label")).replace("Leave it where it is: ", "");
  await first.click();
  await expect(page.getByText("1 task stays where it is.")).toBeVisible();
  await expect(moves.filter({ hasText: title })).toHaveCount(0);
  expect(count).toBeGreaterThan(0);
  await page.getByRole("button", { name: "Do it" }).click();
  await told(page, "Flattened: ");
  const left = await page.getByRole("heading", { level: 2 }).first().textContent();
  expect(parseFloat(left.match(/[\d.]+ h/)[0])).toBeLessThan(before);
  await undo(page);
  await page.goto("/fit/even-out?cut=all");
  await expect(sentence).toContainText(`${before} h over before`);
});

test("from the Fit room the people and the weeks that are seen there are taken along", async ({ page }) => {
  await signIn(page);
  await openFit(page, "?role=carpenter&from=2026-03-16&span=4");
  const names = await page.locator("#rows .person .name").allTextContents();
  expect(names.length).toBeGreaterThan(1);
  await page.getByRole("link", { name: "Even out" }).click();
  await expect(page.getByLabel("Person")).toContainText(`those in view in the Fit room: ${names.length}`);
  await expect(page.getByLabel("From the week of")).toHaveValue("2026-03-16");
  await expect(page.getByLabel("Weeks", { exact: true })).toHaveValue("4");
  for (const name of await over(page).locator("th").allTextContents()) expect(names).toContain(name);
  await page.getByRole("button", { name: "Look", exact: true }).click();
  await expect(page.getByLabel("Person"), "and stay when one looks again").toContainText(`those in view in the Fit room: ${names.length}`);
});

test("hours that were not worked are offered again in each week alike, in a draft or for good", async ({ page }) => {
  await signIn(page);
  await page.goto("/fit/even-out");
  await page.getByRole("link", { name: "Unworked hours" }).click();
  await expect(over(page).locator("tr").first()).toContainText(" h");
  for (const box of await page.locator("[name=take]").all()) await box.uncheck();
  await page.getByRole("button", { name: "Offer again what is ticked" }).click();
  await expect(page.locator("#toast")).toContainText("There is nothing to do");
  await page.locator("[name=take]").first().check();
  await page.getByRole("button", { name: "Try it in a draft" }).click();
  await expect(page.locator(".bar.is-draft")).toContainText("h offered again");
  await expect(page.locator(".row .in-live").first()).toBeAttached();
  await page.getByRole("button", { name: "Leave" }).click();
  await page.goto("/fit/even-out?tool=unworked");
  await page.getByRole("button", { name: "Offer again what is ticked" }).click();
  await told(page, "h offered again");
  await undo(page);
});

test("what has changed meanwhile is looked at anew, and who may not change looks", async ({ page, browser }) => {
  await signIn(page);
  await page.goto("/fit/even-out?cut=all");
  const other = await (await browser.newContext()).newPage();
  await signIn(other, "teo");
  await other.goto("/schedule/tuck-in?go=yes");
  await other.getByRole("button", { name: "Take what is ticked" }).click();
  await told(other, "tasks tucked in");
  await page.getByRole("button", { name: "Do it" }).click();
  await expect(page.locator("#toast")).toContainText("The plan has changed since you looked, so nothing was done.");
  const guest = await (await browser.newContext()).newPage();
  await signIn(guest, "guest");
  await guest.goto("/fit/even-out?cut=all");
  await expect(guest.getByText("Your role lets you look. Leads and managers even out.")).toBeVisible();
  await expect(guest.getByRole("button", { name: "Do it" })).toHaveCount(0);
});

test("both tools are accessible in light and dark, and fit a phone", async ({ page }) => {
  await signIn(page);
  for (const path of ["/fit/even-out?cut=all", "/fit/even-out?tool=unworked"]) {
    for (const scheme of ["light", "dark"]) {
      await page.emulateMedia({ colorScheme: scheme });
      await page.goto(path);
      await accessible(page);
    }
    await page.setViewportSize({ width: 390, height: 800 });
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
    await page.setViewportSize({ width: 1280, height: 800 });
  }
});
