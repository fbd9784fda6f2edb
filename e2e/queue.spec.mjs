// Sprints, releases, lists and what stands on them: their lists and forms.
import { expect } from "@playwright/test";
import { accessible, openPage, signIn, test, told, undo } from "./steps.mjs";

const add = (page) => page.getByRole("button", { name: "Add", exact: true }).click();

test("a sprint is made, named by a task, and stays as long as it is named", async ({ page }) => {
  await signIn(page, "teo");
  await openPage(page, "/sprints", "list");
  await expect(page.locator("#rows .name")).toHaveCount(5);
  await accessible(page);
  await openPage(page, "/sprints/new", "form");
  await page.getByLabel("Name", { exact: true }).fill("Sparks, first");
  await page.getByLabel("Code").fill("sparks-1");
  await page.getByLabel("Team").selectOption({ label: "Sparks" });
  await page.getByLabel("First day").fill("2026-03-16");
  await page.getByLabel("Last day").fill("2026-03-13");
  await add(page);
  await expect(page.locator(".problem")).toContainText("before it starts");
  await page.getByLabel("Last day").fill("2026-03-27");
  await page.getByLabel("State").selectOption("planned");
  await add(page);
  await told(page, "Sprint “Sparks, first” added");
  await openPage(page, "/tasks?q=Case+lights&col=title&col=sprint", "list");
  const cell = page.locator('#rows td[data-column="sprint"]');
  await cell.dblclick();
  await page.locator("td.is-edited select").selectOption({ label: "Sparks, first" });
  await expect(cell).toHaveText("Sparks, first");
  await page.goto("/sprints?q=sparks-1");
  await page.locator("#rows .name").click();
  await page.getByRole("button", { name: "Remove this sprint" }).click();
  await expect(page.getByRole("alert")).toContainText("1 task still belongs to “Sparks, first”, so it stays.");
});

test("a task stands on a list once, and parks there", async ({ page }) => {
  await signIn(page, "teo");
  await openPage(page, "/items/new", "form");
  await page.getByLabel("List").selectOption({ label: "Workshop, next" });
  await page.getByLabel("Task", { exact: true }).fill("T13");
  await page.getByLabel("Rank").fill("9.5");
  await add(page);
  await expect(page.locator(".problem")).toContainText("“T13” stands there already.");
  await page.getByLabel("Task", { exact: true }).fill("T20");
  await page.getByLabel("Parked until").fill("2026-05-01");
  await add(page);
  await told(page, "Item added");
  await openPage(page, "/items?is.list=bench-next&sort=-rank", "list");
  await expect(page.locator("#rows .name").first()).toHaveText("Echo wall, idea");
  await undo(page);
  await expect(page.locator("#rows .name").first()).toHaveText("Drawer slides");
});

test("what is new is in the tabs, the finder and the files", async ({ page }) => {
  await signIn(page);
  await openPage(page, "/tasks", "list");
  const tabs = page.locator("nav.tabs a");
  await expect(tabs).toHaveText(
    ["Outline", "Gantt", "Calendar", "Slips", "Long view", "Tuck in", "Portfolio", "Milestones", "Risks", "Plans kept", "Tasks", "Projects",
      "Sprints", "Releases", "Lists", "Items", "Baselines", "Baseline items", "Meetings", "Templates", "Template tasks"]);
  await page.goto("/finder?q=bench-2");
  await expect(page.getByRole("option", { name: /First of the dunes/ })).toHaveAttribute("href", /^\/sprints\/\d+$/);
  const trail = await page.request.get("/setup/export/trail.csv");
  expect((await trail.text()).split("\n").filter((line) => line.startsWith("T63,"))).toHaveLength(8);
});
