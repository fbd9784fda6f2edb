// Projects as a whole: the portfolio, a project's page, one started from a template, a sketch that becomes real, notes, risks, milestones.
import { expect } from "@playwright/test";
import { accessible, openPage, signIn, test, told } from "./steps.mjs";

test("a project is started from a template on a day, with people for its roles, and taken back in one step", async ({ page }) => {
  await signIn(page);
  await page.goto("/schedule/projects");
  await page.getByRole("link", { name: "Start a project" }).click();
  await page.getByRole("button", { name: "Take it" }).click();
  await page.getByLabel("Name").fill("Tide Pools");
  await page.getByLabel("Begins on").fill("2026-04-07");
  await page.getByLabel("exhibit designer").selectOption({ label: "Bas de Wit" });
  await page.getByLabel("carpenter").selectOption({ label: "Ivo Marchetti" });
  await page.getByRole("button", { name: "Start it" }).click();
  await told(page, "Project “Tide Pools” started");
  await expect(page.getByRole("heading", { name: "Tide Pools" })).toBeVisible();
  await expect(page.locator("main")).toContainText("It leaves the house");
  await accessible(page);
  await page.goto("/schedule/gantt?project=tide-pools&from=2026-04-06");
  const row = (name) => page.locator(".row").filter({ has: page.locator(".name", { hasText: new RegExp(`^${name}$`) }) });
  await expect(row("Drawings").locator("[data-shape] title")).toHaveText("Drawings, 7 April – 20 April");
  // The same code again is refused, and what was typed stays.
  await page.goto("/schedule/projects/start?template=travelling");
  await page.getByLabel("Name").fill("Tide Pools");
  await page.getByRole("button", { name: "Start it" }).click();
  await expect(page.getByRole("alert")).toContainText("tide-pools");
  await expect(page.getByLabel("Name")).toHaveValue("Tide Pools");
  await page.locator("[data-undo] button").click();
  await told(page, "Taken back: Project “Tide Pools” started");
});

test("a project is saved as a template, and a sketch becomes real with its bookings", async ({ page }) => {
  await signIn(page);
  await page.goto("/schedule/projects");
  await page.getByRole("link", { name: "Night Trains" }).click();
  await page.getByLabel("Save it as a template called").fill("Like Night Trains");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await told(page, "Template “Like Night Trains” saved");
  await page.goto("/schedule/projects/start?template=trains");
  await expect(page.getByLabel("rigger 2")).toBeVisible();
  await page.goto("/schedule/projects");
  await page.getByRole("link", { name: "Glacier Room (bid)" }).click();
  await expect(page.locator("main")).toContainText("pencilled");
  await page.getByRole("button", { name: "Make it real" }).click();
  await told(page, "changes");
  await expect(page.locator("main")).toContainText("Exhibit, active");
  await expect(page.getByRole("button", { name: "Make it real" })).toHaveCount(0);
});

test("pages of notes are written, two at once lose nothing, and one is taken away", async ({ page, context }) => {
  await signIn(page);
  await page.goto("/schedule/projects");
  await page.getByRole("link", { name: "Moon Garden", exact: true }).click();
  const home = page.url();
  await page.getByRole("link", { name: "What the observatory told us" }).click();
  await expect(page.locator(".prose")).toContainText("two circuits of 16 A");
  const other = await context.newPage();
  await other.goto(page.url());
  await other.getByText("Write it anew").click();
  await other.getByLabel(/Markdown/).fill("# What they told us\n\nThree circuits.");
  await other.getByRole("button", { name: "Save the page" }).click();
  await expect(other.locator(".prose")).toContainText("Three circuits.");
  await page.getByText("Write it anew").click();
  await page.getByLabel(/Markdown/).fill("# What they told us\n\nFour circuits.");
  await page.getByRole("button", { name: "Save the page" }).click();
  await expect(page.getByRole("alert")).toBeVisible();
  await expect(page.locator(".theirs-text")).toContainText("Three circuits.");
  await expect(page.getByLabel(/Markdown/)).toHaveValue(/Four circuits/);
  await page.getByRole("button", { name: "Save the page" }).click();
  await expect(page.locator(".prose")).toContainText("Four circuits.");
  await page.getByText("Write it anew").click();
  await page.getByRole("button", { name: "Take the page away" }).click();
  await told(page, "Page taken away");
  expect(page.url()).toBe(home);
});

test("a risk gets a response by its list and by drag, and stands in the grid", async ({ page }) => {
  await signIn(page);
  await openPage(page, "/schedule/risks", "risks");
  const column = (name) => page.getByRole("region", { name, exact: true }).or(page.locator(`section[aria-label="${name}"]`)).first();
  await page.getByLabel("Response to The departure board comes without its driver").selectOption("transfer");
  await told(page, "Risk “The departure board comes without its driver” changed");
  await expect(column("Transfer")).toContainText("The departure board comes without its driver");
  await page.locator(".risk-slip", { hasText: "A lender takes back the anchor" }).dragTo(column("Accept"));
  await expect(column("Accept")).toContainText("A lender takes back the anchor");
  await accessible(page);
  await page.getByRole("link", { name: "Grid" }).click();
  await expect(page.getByRole("list", { name: "likely, major" })).toContainText("The departure board comes without its driver");
  await accessible(page);
});

test("portfolio, milestones and their pages: axe finds nothing, light, dark, and on a phone", async ({ page }) => {
  await signIn(page);
  const paths = ["/schedule/projects", "/schedule/projects?closed=yes", "/schedule/milestones", "/schedule/risks", "/schedule/risks?view=grid", "/schedule/projects/start?template=travelling"];
  await page.goto("/schedule/projects");
  paths.push(await page.getByRole("link", { name: "Moon Garden", exact: true }).getAttribute("href"));
  for (const path of paths) {
    await page.goto(path);
    await test.step(path, () => accessible(page));
  }
  await page.goto("/schedule/milestones");
  await page.getByText("for 3 of 3 tasks").click();
  await expect(page.locator("main")).toContainText("Departure board");
  await page.emulateMedia({ colorScheme: "dark" });
  for (const path of paths) {
    await page.goto(path);
    await test.step(path, () => accessible(page, ["color-contrast"]));
  }
  await page.setViewportSize({ width: 390, height: 800 });
  for (const path of paths) {
    await page.goto(path);
    expect(await page.evaluate(() => document.documentElement.scrollWidth), path).toBeLessThanOrEqual(390);
  }
});
