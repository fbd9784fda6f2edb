// Drafts: tried in every room, held against the live plan, merged with choices, shared and dropped.
import { expect } from "@playwright/test";
import { accessible, dragLayer, openFit, openPage, row, signIn, test, told, undo } from "./steps.mjs";

async function make(page, name, { shared = false } = {}) {
  await page.goto("/drafts");
  await page.getByLabel("Name", { exact: true }).first().fill(name);
  if (shared) await page.getByLabel(/^Shared: everybody/).check();
  await page.getByRole("button", { name: "Make a draft" }).click();
  await expect(page.locator(".bar.is-draft")).toContainText(name);
}

/** Gives a task another title, in whatever plan one works. */
async function retitle(page, from, to) {
  await openPage(page, `/tasks?q=${encodeURIComponent(from)}&col=title`, "list");
  await page.locator("#rows .name").filter({ hasText: from }).click();
  await openPage(page, page.url(), "form");
  await page.locator(".record-form [name=title]").fill(to);
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await told(page, "changed");
}

test("a hand, a form and undo work in a draft, and the live plan stays as it is until it is merged", async ({ page, browser }) => {
  await signIn(page);
  const other = await (await browser.newContext()).newPage();
  await signIn(other, "teo");
  await make(page, "Anton later");
  await openFit(page);
  const tour = (where) => row(where, "Anton Rademaker").locator("[data-shape]").filter({ hasText: "Touring" });
  const before = await tour(page).getAttribute("d");
  await dragLayer(page, tour(page), 7);
  await told(page, "Booking");
  await expect(tour(page)).not.toHaveAttribute("d", before);
  await expect(row(page, "Anton Rademaker").locator(".in-live"), "what the live plan has is drawn beside it").toBeAttached();
  await expect(tour(other)).toHaveAttribute("d", before);
  await undo(page);
  await expect(tour(page)).toHaveAttribute("d", before);
  await page.locator("[data-redo] button").click();
  await told(page, "Brought back");

  await page.goto("/drafts");
  await page.getByRole("link", { name: "Compare Anton later" }).click();
  await expect(page.getByRole("heading", { name: "Records that differ" })).toBeVisible();
  await expect(page.getByText("Booking of Anton Rademaker-Villanueva on Touring: Salt and Iron changed")).toBeVisible();
  await page.getByRole("link", { name: "Merge", exact: true }).click();
  await page.getByRole("button", { name: "Merge into the live plan" }).click();
  await told(page, "Draft “Anton later” merged: 1 record changed");
  await expect(page.locator(".bar.is-draft")).toHaveCount(0);
  await expect(tour(other), "others see it at once").not.toHaveAttribute("d", before);
  await undo(page);
  await expect(tour(other)).toHaveAttribute("d", before);
});

test("what the live plan has changed meanwhile is shown with both values, and what is chosen goes in", async ({ page, browser }) => {
  await signIn(page);
  await make(page, "Other words");
  await retitle(page, "Crate drawings", "Crate drawings, tried");
  await retitle(page, "Lift rehearsal", "Lift rehearsal, tried");
  await retitle(page, "Ticket stamps", "Ticket stamps, tried");
  const other = await (await browser.newContext()).newPage();
  await signIn(other, "teo");
  await retitle(other, "Crate drawings", "Crate drawings, live");
  await retitle(other, "Lift rehearsal", "Lift rehearsal, live");
  await page.goto("/drafts");
  await page.getByRole("link", { name: "Merge Other words" }).click();
  await expect(page.getByText("2 to choose about")).toBeVisible();
  const conflict = (title) => page.locator(".is-conflict").filter({ hasText: title });
  await expect(conflict("Crate drawings")).toContainText("Crate drawings, live");
  await expect(conflict("Crate drawings")).toContainText("Crate drawings, tried");
  await accessible(page);
  await conflict("Crate drawings").getByLabel("Take the draft’s").check();
  await conflict("Lift rehearsal").getByLabel("Leave it as the live plan has it").check();
  // Somebody is quicker once more: nothing goes in before one has chosen about that, too.
  await retitle(other, "Ticket stamps", "Ticket stamps, live");
  await page.getByRole("button", { name: "Merge into the live plan" }).click();
  await expect(page.locator("#toast")).toContainText("Nothing was merged; choose below");
  await expect(page.getByText("3 to choose about")).toBeVisible();
  await conflict("Crate drawings").getByLabel("Take the draft’s").check();
  await conflict("Lift rehearsal").getByLabel("Leave it as the live plan has it").check();
  await conflict("Ticket stamps").getByLabel("Take the draft’s").check();
  await page.getByRole("button", { name: "Merge into the live plan" }).click();
  await told(page, "2 records changed");
  for (const title of ["Crate drawings, tried", "Lift rehearsal, live", "Ticket stamps, tried"]) {
    await openPage(other, `/tasks?q=${encodeURIComponent(title)}&col=title`, "list");
    await expect(other.locator("#rows .name").filter({ hasText: title })).toBeVisible();
  }
});

test("every view shows where the live plan has what a draft moved", async ({ page }) => {
  await signIn(page);
  await page.goto("/drafts");
  await page.getByRole("button", { name: "Work in Casting two weeks later" }).click();
  const views = { "/schedule/gantt?from=2026-03-30": "gantt", "/schedule/slips?from=2026-04-06": "slips", "/schedule/calendar?from=2026-04-10": "calendar", "/schedule/long?from=2026-03-30": "long" };
  const ghosts = page.locator("#rows .in-live");
  for (const [path, ready] of Object.entries(views)) {
    await openPage(page, path, ready);
    await expect(ghosts.first(), path).toBeAttached();
    await expect(page.getByText("in the live plan").locator("visible=true").first(), `${path} says what it is`).toBeVisible();
    await accessible(page);
  }
  await openPage(page, "/schedule/calendar?from=2026-04-10", "calendar");
  await expect(page.locator(".cal-live", { hasText: "Crater relief, casting" })).toHaveAttribute("title", "In the live plan: Crater relief, casting");
  await openPage(page, "/schedule/slips?from=2026-04-06", "slips");
  await expect(row(page, "Hana Ito").locator(".in-live"), "Hana casts in that week").toBeAttached();
  await expect(row(page, "Ada Brandt").locator(".in-live"), "and Ada has nothing to do with it").toHaveCount(0);
  await page.getByRole("button", { name: "Leave" }).click();
  for (const [path, ready] of Object.entries(views)) {
    await openPage(page, path, ready);
    await expect(ghosts, `${path} of the live plan`).toHaveCount(0);
  }
});

test("a draft is private until it is shared, and whoever works in one that is dropped is back in the live plan", async ({ page, browser }) => {
  await signIn(page);
  await make(page, "Mine alone");
  const other = await (await browser.newContext()).newPage();
  await signIn(other, "teo");
  await other.goto("/drafts");
  await expect(other.getByRole("heading", { name: "Casting two weeks later" }), "Mira shares it").toBeVisible();
  await expect(other.getByText("Mine alone")).toHaveCount(0);
  const id = (await page.locator(".bar-merge").getAttribute("href")).match(/\d+/)[0];
  expect((await other.request.post(`${process.env.SNUG_URL}/drafts/${id}/enter`, { form: { back: "/fit" } })).status()).toBe(404);
  await page.goto("/drafts");
  await page.getByLabel("Name, share or drop Mine alone").click();
  const box = page.locator(".draft-more[open]");
  await box.getByLabel("Shared").check();
  await box.getByRole("button", { name: "Save" }).click();
  await told(page, "Draft “Mine alone” is shared");
  await other.reload();
  await other.getByRole("button", { name: "Work in Mine alone" }).click();
  await expect(other.locator(".bar.is-draft")).toContainText("Mine alone");
  await page.getByLabel("Name, share or drop Mine alone").click();
  await page.getByRole("button", { name: "Drop Mine alone" }).click();
  await told(page, "Draft “Mine alone” dropped");
  await openFit(other);
  await expect(other.locator("#toast")).toContainText("The draft that you worked in is gone");
  await expect(other.locator(".bar.is-draft")).toHaveCount(0);
});

test("a page of another plan changes nothing, and says where one works now", async ({ page }) => {
  await signIn(page);
  const second = await page.context().newPage();
  await openFit(second);
  await openPage(page, "/tasks/new", "form");
  await make(second, "In another tab");
  await expect(page.locator("#toast")).toContainText("This page shows another plan");
  await page.locator(".record-form [name=title]").fill("Nowhere to go");
  await page.getByLabel("Project", { exact: true }).selectOption({ label: "Night Trains" });
  await page.getByRole("button", { name: "Add", exact: true }).click();
  await expect(page.getByText(/you work in the draft “In another tab” now\. Nothing was changed/)).toBeVisible();
  await openPage(second, "/tasks?q=Nowhere", "list").catch(() => {});
  await expect(second.getByText("Nothing fits this filter")).toBeVisible();
});

test("the list and the comparison are accessible in light and dark, and fit a phone", async ({ page }) => {
  await signIn(page);
  for (const scheme of ["light", "dark"]) {
    await page.emulateMedia({ colorScheme: scheme });
    await page.goto("/drafts");
    await page.getByRole("button", { name: "Work in Casting two weeks later" }).click();
    await accessible(page);
    await page.goto("/drafts");
    await accessible(page);
    await page.getByRole("link", { name: "Compare Casting two weeks later" }).click();
    await expect(page.getByRole("cell", { name: "People over" }).or(page.getByRole("rowheader", { name: "People over" }))).toBeVisible();
    await accessible(page);
    await page.getByRole("button", { name: "Leave" }).click();
  }
  await page.setViewportSize({ width: 390, height: 800 });
  for (const path of ["/drafts", page.url().replace("merge", "compare")]) {
    await page.goto(path);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  }
});

test("another size in the long view is tried in a draft with one click", async ({ page }) => {
  await signIn(page);
  await openPage(page, "/schedule/long?from=2026-03-30", "long");
  const workshop = page.locator(".row.team").filter({ has: page.locator(".name", { hasText: /^Workshop$/ }) });
  await workshop.locator(".cells a").nth(3).click();
  const item = page.locator("#sheet details.booking").filter({ hasText: "Shell of the dome" });
  await item.locator("summary").click();
  await item.getByLabel(/^What is left of it/).fill("400h");
  await item.getByRole("button", { name: "Try it in a draft" }).last().click();
  await expect(page.locator(".bar.is-draft")).toContainText("Task “");
  await page.getByRole("link", { name: "Compare", exact: true }).click();
  await expect(page.locator(".slim").getByRole("link", { name: "Task “Shell of the dome” changed" })).toBeVisible();
});
