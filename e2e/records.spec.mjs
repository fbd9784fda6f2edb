// Forms of the other kinds, the pages around a record, one's own account.
import { expect } from "@playwright/test";
import { cell as cellOf, openPage, signIn, test, told } from "./steps.mjs";

const save = (page) => page.getByRole("button", { name: "Save", exact: true }).click();
const add = (page) => page.getByRole("button", { name: "Add", exact: true }).click();
const undo = (page) => page.locator("[data-undo] button").click();

test("a team with members and shares; who gives too much is named", async ({ page }) => {
  await signIn(page);
  await openPage(page, "/teams/new", "form");
  await page.getByLabel("Name", { exact: true }).fill("Night shift");
  await page.getByLabel("Code").fill("night");
  await page.getByLabel("Members: Who").nth(0).fill("oona@tidewater.test");
  await page.getByLabel("Members: Share, %").nth(0).fill("60");
  await add(page);
  await expect(page.locator("#members .problem")).toContainText("Oona Varga would give");
  await expect(page.getByLabel("Members: Who").nth(0)).toHaveValue("oona@tidewater.test");
  await page.getByLabel("Members: Who").nth(0).fill("nobody@tidewater.test");
  await add(page);
  await expect(page.locator("#members .problem")).toContainText("There is no person “nobody@tidewater.test”");
  await page.getByLabel("Members: Who").nth(0).fill("");
  await page.getByLabel("Members: Share, %").nth(0).fill("");
  await add(page);
  await told(page, "Team “Night shift” added");
  await undo(page);
});

test("a project inside another one, with a field of its own; removing what others belong to is refused", async ({ page }) => {
  await signIn(page);
  await openPage(page, "/projects/new", "form");
  await page.getByLabel("Name", { exact: true }).fill("Moon Garden: the pond");
  await page.getByLabel("Code").fill("moon-pond");
  await page.getByLabel("Inside").selectOption({ label: "Moon Garden" });
  await page.getByLabel("Client").fill("Observatory at Brack Point");
  await page.getByLabel("Opens").fill("2026-05-16");
  await add(page);
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Moon Garden: the pond");
  await page.goto("/projects?is.parent=moon");
  await expect(page.locator("#rows .name")).toHaveText(["Moon Garden: the dunes", "Moon Garden: the pond"]);
  await undo(page);
  await page.goto("/projects?q=Moon+Garden");
  await page.locator("#rows .name").first().click();
  await page.getByRole("button", { name: "Remove this project" }).click();
  await expect(page.getByRole("alert")).toContainText("still belong to “Moon Garden”, so it stays. Close it instead.");
});

test("a field of one's own becomes a column, a filter and a group", async ({ page }) => {
  await signIn(page);
  await openPage(page, "/fields/new", "form");
  await page.getByLabel("Name", { exact: true }).fill("Crate");
  await page.getByLabel("Kind").selectOption("choice");
  await page.getByLabel("Choices").fill("small;tall");
  await add(page);
  await openPage(page, "/tasks?q=Case+lights&col=title&col=field.Crate", "list");
  const cell = page.locator('#rows td[data-column="field.Crate"]');
  await cell.dblclick();
  await page.locator("td.is-edited select").selectOption("tall");
  await expect(cell).toHaveText("tall");
  await page.goto("/tasks?is.field.Crate=tall&group=field.Crate");
  await expect(page.locator("#rows .group")).toContainText("tall");
  await expect(page.locator("#rows .name")).toHaveText(["Case lights"]);
  await undo(page);
  await undo(page);
});

test("time off is a notch in Fit, and gone when taken back", async ({ page }) => {
  await signIn(page, "mira");
  await openPage(page, "/time-off/new", "form");
  await page.getByLabel("Who").fill("mira@tidewater.test");
  await page.getByLabel("First day").fill("2026-03-16");
  await page.getByLabel("Last day").fill("2026-03-20");
  await page.getByLabel("Kind").fill("vacation");
  await add(page);
  await told(page, "Time off of Mira Castellan added");
  await page.goto("/fit?q=Mira");
  const cell = cellOf(page, "Mira Castellan", "2026-03-16");
  await expect(cell).toHaveText("away");
  await undo(page);
  await expect(cell).not.toHaveText("away");
});

test("a task's description and comments are read as they were meant", async ({ page }) => {
  await signIn(page, "teo");
  await page.goto("/tasks?q=Departure+board");
  await page.locator("#rows .name").first().click();
  await page.getByText("Write one").click();
  await page.getByLabel("Description, in Markdown").fill("Flaps from *Lindhaven*.\n\n- 40 letters\n- 12 figures");
  await page.getByRole("button", { name: "Save the description" }).click();
  await expect(page.locator(".prose li")).toHaveText(["40 letters", "12 figures"]);
  await page.getByLabel("Comment", { exact: true }).fill("They **rattle**.");
  await page.getByRole("button", { name: "Comment", exact: true }).click();
  await expect(page.locator(".remark strong")).toHaveText("rattle");
  await expect(page.locator(".past")).toContainText("Comment added");
  await undo(page);
  await expect(page.locator(".remark")).toHaveCount(0);
  await undo(page);
  await expect(page.locator(".prose li")).toHaveCount(0);
});

test("who was slower sees both values beside the field and chooses", async ({ page, browser }) => {
  await signIn(page);
  await page.goto("/milestones");
  const href = await page.locator("#rows .name").first().getAttribute("href");
  await openPage(page, href, "form");
  const context = await browser.newContext({ baseURL: process.env.SNUG_URL });
  const other = await context.newPage();
  await signIn(other, "teo");
  await openPage(other, href, "form");
  const name = await page.getByLabel("Name", { exact: true }).inputValue();
  await other.getByLabel("Name", { exact: true }).fill("Theirs");
  await save(other);
  await page.getByLabel("Name", { exact: true }).fill("Mine");
  await save(page);
  await expect(page.getByRole("alert")).toContainText("Somebody else has changed this milestone");
  await expect(page.locator(".theirs")).toHaveText("Stands at Theirs now. Saving puts yours in its place.");
  await expect(page.getByLabel("Name", { exact: true })).toHaveValue("Mine");
  await save(page);
  await told(page, "Milestone “Mine” changed");
  await page.getByLabel("Name", { exact: true }).fill(name);
  await save(page);
  await context.close();
});

test("a token is shown once, sessions are listed, a wrong password changes nothing", async ({ page }) => {
  await signIn(page, "guest");
  await openPage(page, "/me");
  await page.getByLabel("What for").fill("a script");
  await page.getByRole("button", { name: "Make a token" }).click();
  await expect(page.locator(".fresh-token code")).toHaveText(/^snug_\w{40}$/);
  await page.goto("/me");
  await expect(page.locator(".fresh-token")).toHaveCount(0);
  await page.getByRole("button", { name: "End the token a script" }).click();
  await told(page, "worth nothing from now on");
  await expect(page.getByText("(this one)")).toBeVisible();
  await page.getByLabel("Current password").fill("not it");
  await page.getByLabel("New password").fill("something longer");
  await page.getByRole("button", { name: "Change the password" }).click();
  await expect(page.locator("#current-problem")).toHaveText("This is not your password.");
});

test("the guide is there, page by page", async ({ page }) => {
  await signIn(page, "guest");
  await page.goto("/help");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("First steps");
  for (const title of ["The Fit room", "Lists and forms", "Hours", "Files", "Words", "Keys"]) {
    await page.getByRole("navigation", { name: "Help pages" }).getByRole("link", { name: title }).click();
    await expect(page.getByRole("heading", { level: 1 })).toHaveText(title);
  }
});
