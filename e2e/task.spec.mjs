// What belongs to a task, on its page and in the side sheet; several tasks changed at once.
import { expect } from "@playwright/test";
import { accessible, openPage, signIn, test, told, undo } from "./steps.mjs";

const openTask = async (page, words) => {
  await page.goto(`/tasks?q=${encodeURIComponent(words)}`);
  await page.locator("#rows .name").first().click();
  await expect(page.locator("html[data-ready=form]")).toBeAttached();
};
const box = (page, id) => page.locator(`#${id}`);
const row = (page, name) => page.locator("#rows tr[data-id]").filter({ has: page.locator(".name", { hasText: new RegExp(`^${name}$`) }) });

test("a task's page: ticked off, stuck, pointed elsewhere, a picture added, somebody mentioned, and all of it in its history", async ({ page }) => {
  await signIn(page);
  await openTask(page, "Crater relief, milling");
  const list = box(page, "checklist");
  await expect(list.getByRole("heading")).toContainText("2 of 4");
  await list.getByRole("checkbox", { name: "Second pass with the small bit" }).click();
  await told(page, "Checklist line “Second pass with the small bit” changed");
  await expect(list.getByRole("heading")).toContainText("3 of 4");
  await list.getByLabel("A line for the checklist").fill("Varnish");
  await list.getByRole("button", { name: "Add" }).click();
  await expect(list.getByRole("checkbox")).toHaveText(["Clamp the first block", "Rough pass", "Second pass with the small bit", "Sand the rims", "Varnish"]);
  await list.getByRole("button", { name: "Take out: Varnish" }).click();
  await undo(page);
  await expect(list.getByRole("checkbox", { name: "Varnish" })).toBeVisible();

  const goes = box(page, "stuck");
  await goes.getByText("It is stuck").click();
  await goes.getByLabel("Stuck, because").fill("the small bit broke");
  await goes.getByLabel("Waiting on").fill("malik@tidewater.test");
  await goes.getByRole("button", { name: "Save" }).click();
  await expect(goes).toContainText("Stuck: the small bit broke waiting on Malik Strand");
  await accessible(page);
  await goes.getByRole("button", { name: "It goes on" }).click();
  await expect(goes).not.toContainText("small bit broke");

  const elsewhere = box(page, "references");
  await elsewhere.getByText("Point to something else").click();
  await elsewhere.getByLabel("Address").fill("https://bits.tidewater.test/small");
  await elsewhere.getByLabel("Title").fill("The small bit");
  await elsewhere.getByLabel("State there").fill("ordered");
  await elsewhere.getByRole("button", { name: "Add" }).click();
  await expect(elsewhere.getByRole("link", { name: "The small bit" })).toHaveAttribute("href", "https://bits.tidewater.test/small");

  const files = box(page, "files");
  await files.getByLabel(/Files to add/).setInputFiles("demo/files/path-plan.png");
  await files.getByRole("button", { name: "Add files" }).click();
  await told(page, "File added");
  const picture = files.getByRole("img", { name: "path-plan.png" });
  await expect.poll(() => picture.evaluate((img) => img.naturalWidth)).toBe(320);

  const talk = box(page, "comments");
  await talk.getByLabel("Comment").pressSequentially("It is here, @Ma");
  await talk.getByRole("button", { name: "Malik Strand" }).click();
  await expect(talk.getByLabel("Comment")).toHaveValue("It is here, @Malik Strand ");
  await talk.getByRole("button", { name: "Comment" }).click();
  await told(page, "Comment added");
  await expect(talk.getByRole("link", { name: "@Malik Strand" })).toBeVisible();
  await expect(goes).toContainText("Malik Strand");

  await box(page, "links").getByRole("link", { name: "By task" }).click();
  await expect(box(page, "links").getByRole("heading", { level: 3 })).toHaveText(["Crater relief, casting", "Crater relief, drawings"]);
  await expect(box(page, "history")).toContainText("Task “Crater relief, milling” changed");
  await accessible(page);
  await page.emulateMedia({ colorScheme: "dark" });
  await page.reload();
  await accessible(page, ["color-contrast"]);
});

test("in the side sheet one ticks off by key and keeps one's place, and puts another task inside", async ({ page }) => {
  await signIn(page);
  await openPage(page, "/schedule/gantt?project=trains&from=2026-03-02", "gantt");
  await page.locator(".row .name", { hasText: "Load in" }).click();
  const sheet = page.locator("#sheet");
  const line = sheet.getByRole("checkbox", { name: "Lift booked at the museum" });
  await line.focus();
  await page.keyboard.press("Enter");
  await told(page, "Checklist line “Lift booked at the museum” changed");
  await expect(line).toBeChecked();
  await expect(line).toBeFocused();
  await sheet.getByText("Put a task inside").click();
  await sheet.getByLabel("Which one").fill("T34");
  await sheet.getByRole("button", { name: "Put it inside" }).click();
  await told(page, "Task “Whistle repair” changed");
  await expect(page.locator(".row.parent .name", { hasText: "Load in" })).toBeVisible();
  await undo(page);
});

test("a member keeps what is theirs, follows what they like, and changes nothing else", async ({ page }) => {
  await signIn(page, "oona");
  await openTask(page, "Dust-proof sensors");
  await box(page, "checklist").getByLabel("A line for the checklist").fill("Seal the lids");
  await box(page, "checklist").getByRole("button", { name: "Add" }).click();
  await told(page, "Checklist line “Seal the lids” added");
  await openTask(page, "Crater relief, milling");
  await expect(box(page, "checklist").getByRole("button")).toHaveCount(0);
  await expect(box(page, "files").locator("form")).toHaveCount(0);
  await page.getByRole("button", { name: "Follow", exact: true }).click();
  await expect(page.getByRole("button", { name: "Following" })).toBeVisible();
  await expect(box(page, "stuck")).toContainText("Oona Varga");
});

test("several tasks are ticked by key, what it would do is shown, and it is done and taken back as one", async ({ page }) => {
  await signIn(page);
  await openPage(page, "/tasks?is.project=moon-dunes", "list");
  await row(page, "Dune frames").locator("td").nth(1).focus();
  await page.keyboard.press("x");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("x");
  const bulk = page.getByRole("form", { name: "Change several at once" });
  await expect(bulk).toContainText("2 ticked");
  await accessible(page);
  await bulk.getByLabel("Change").selectOption({ label: "Set finish to" });
  await bulk.getByLabel("Value").fill("2026-02-01");
  await bulk.getByRole("button", { name: "Show what it would do" }).click();
  await expect(page.getByRole("alert")).toContainText("2 of them cannot be changed like this");
  await expect(page.getByRole("button", { name: "Do it" })).toHaveCount(0);
  await accessible(page);
  await page.getByRole("link", { name: "Back, as it was" }).click();
  await expect(page.locator("html[data-ready=list]")).toBeAttached();
  await row(page, "Dune frames").getByRole("checkbox").check();
  await row(page, "Dune paint").getByRole("checkbox").check();
  await bulk.getByLabel("Change").selectOption({ label: "Tags: add" });
  await bulk.getByLabel("Value").fill("dunes;spring");
  await bulk.getByRole("button", { name: "Show what it would do" }).click();
  await expect(page.getByRole("row", { name: /Dune paint/ })).toContainText("dunes, spring");
  await page.getByRole("button", { name: "Do it" }).click();
  await told(page, "Tags: add dunes, spring: 2 tasks");
  await openPage(page, "/tasks?is.project=moon-dunes&col=title&col=tags&col=links", "list");
  await expect(row(page, "Dune paint")).toContainText("dunes, spring");
  await undo(page);
  await expect(row(page, "Dune paint")).not.toContainText("dunes, spring");
  // What holds what is told in the list, and opens.
  await row(page, "Dune paint").getByRole("link", { name: "held by 1 · holds 1" }).click();
  await expect(page.locator("#sheet")).toContainText("Held by");
});

test("back to the tray: several lose their dates, and what is done to links is not forgotten", async ({ page }) => {
  await signIn(page);
  await openPage(page, "/tasks?is.project=ticket&col=title&col=start&col=finish", "list");
  await page.getByRole("checkbox", { name: "Choose all that are shown" }).check();
  const bulk = page.getByRole("form", { name: "Change several at once" });
  await bulk.getByLabel("Change").selectOption({ label: "Back to the tray" });
  await bulk.getByRole("button", { name: "Show what it would do" }).click();
  await expect(page.getByRole("row", { name: /Desk top/ })).toContainText("23 March – 3 April");
  await page.getByRole("button", { name: "Do it" }).click();
  await told(page, "Back to the tray: 4 tasks");
  await expect(row(page, "Desk top").locator('[data-column="start"]')).toHaveText("");
  await undo(page);
  await expect(row(page, "Desk top").locator('[data-column="start"]')).toHaveText("23 Mar 2026");
});
