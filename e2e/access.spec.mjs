// axe finds nothing on any page, light and dark, and no page scrolls sideways on a phone.
import { expect } from "@playwright/test";
import { accessible, signIn, test } from "./steps.mjs";

const PAGES = [
  "/tasks", "/tasks?group=project", "/tasks?q=nothing+is+called+so", "/tasks/new", "/people", "/teams", "/projects", "/milestones", "/time-off",
  "/holidays", "/fields", "/setup", "/setup/settings", "/setup/import", "/setup/members", "/setup/activity", "/setup/activity/1", "/setup/security",
  "/setup/security?q=nobody+at+all", "/mailbox",
  "/hours", "/hours/actuals", "/hours/actuals?by=person", "/hours/actuals?by=kind&of=%3Dbuild", "/hours/day", "/hours/approve", "/hours/worked", "/hours/walk-ins", "/hours/earned", "/hours/bias", "/hours/money", "/hours/budgets", "/hours/budgets?in=money", "/hours/reports", "/hours/reports?of=time&range=this+year&by=project&chart=bars", "/hours/reports?of=estimates&by=kind", "/expenses", "/expenses/new", "/me", "/me/two-step", "/start/people", "/start/bookings", "/help", "/help/keys", "/styleguide",
];

/** One record of each kind, by the first link of its list. */
const RECORDS = ["/tasks", "/people", "/teams", "/projects"];

for (const scheme of ["light", "dark"]) {
  test(`axe finds nothing on any page, ${scheme}`, async ({ page }) => {
    // A run over every page takes longer than a test usually does.
    test.setTimeout(300_000);
    await page.emulateMedia({ colorScheme: scheme });
    await signIn(page, "ada");
    const found = [...PAGES];
    for (const list of RECORDS) {
      await page.goto(list);
      found.push(await page.locator("#rows .name").first().getAttribute("href"));
    }
    for (const path of found) {
      await page.goto(path);
      // What the dark theme changes is colour.
      await test.step(path, () => accessible(page, scheme === "dark" ? ["color-contrast"] : null));
    }
  });
}

test("on a phone no page scrolls sideways", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 800 });
  await signIn(page, "ada");
  for (const path of PAGES) {
    await page.goto(path);
    const wide = await page.evaluate(() => document.documentElement.scrollWidth);
    expect(wide, path).toBeLessThanOrEqual(390);
  }
});

test("a door that needs no sign-in has nothing wrong with it either", async ({ page }) => {
  for (const path of ["/forgot", "/sign-in"]) {
    await page.goto(path);
    await accessible(page);
  }
});
