// The outline: work is broken down by keyboard alone, and pasted from a spreadsheet.
import { expect } from "@playwright/test";
import { accessible, openPage, signIn, test, told, undo } from "./steps.mjs";

const open = (page, address = "/schedule/outline?project=moon") => openPage(page, address, "outline");
const input = (page, title) => page.locator(`.line input.title[value="${title}"]`);
const line = (page, title) => page.locator(".line").filter({ has: page.locator(`input.title[value="${title}"]`) });
const depth = (page, title) => line(page, title).getAttribute("data-depth");
const paste = (page, text) =>
  page.evaluate((pasted) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData("text/plain", pasted);
    document.activeElement.dispatchEvent(new ClipboardEvent("paste", { clipboardData, bubbles: true, cancelable: true }));
  }, text);

test("twenty tasks are typed by keyboard alone: next, in, out, and moved with what is inside them", async ({ page }) => {
  await signIn(page);
  await open(page);
  await input(page, "Path lights").focus();
  await page.keyboard.press("Enter");
  for (let at = 1; at <= 20; at++) {
    const blank = page.locator(".line.blank input");
    await expect(blank).toBeFocused();
    await expect(blank).toHaveValue("");
    // Every fourth begins a group; what follows is inside it.
    if (at % 4 === 2) await page.keyboard.press("Tab");
    if (at > 1 && at % 4 === 1) await page.keyboard.press("Shift+Tab");
    await page.keyboard.type(`Net ${at}`);
    await page.keyboard.press("Enter");
    await expect(input(page, `Net ${at}`)).toBeAttached();
  }
  const top = await depth(page, "Path lights");
  for (let at = 1; at <= 20; at++) expect(await depth(page, `Net ${at}`), `Net ${at}`).toBe(String(Number(top) + (at % 4 === 1 ? 0 : 1)));
  await page.keyboard.press("ArrowUp");
  await expect(input(page, "Net 20")).toBeFocused();
  await page.keyboard.press("Alt+ArrowLeft");
  await expect(line(page, "Net 20")).toHaveAttribute("data-depth", top);
  await expect(input(page, "Net 20")).toBeFocused();
  // A branch goes along: what Net 17 holds goes into the task above with it.
  await input(page, "Net 17").focus();
  await page.keyboard.press("Tab");
  await expect(line(page, "Net 18")).toHaveAttribute("data-depth", String(Number(top) + 2));
  await undo(page);
  await expect(line(page, "Net 18")).toHaveAttribute("data-depth", String(Number(top) + 1));
  // Another title, and one that cannot be: it says why and keeps what was typed.
  await input(page, "Net 1").fill("Safety nets");
  await page.keyboard.press("ArrowDown");
  await told(page, "Task “Safety nets” changed");
  await input(page, "Net 2").fill(" ");
  await page.keyboard.press("Enter");
  await expect(page.locator("#toast")).toContainText("Say what is to be done.");
  // Escape, then Tab leaves the outline.
  await input(page, "Net 5").focus();
  await page.keyboard.press("Escape");
  await page.keyboard.press("Tab");
  await expect(input(page, "Net 5")).not.toBeFocused();
  await expect(line(page, "Net 5")).toHaveAttribute("data-depth", top);
});

test("a line goes before the one above it by key, and by its grip before another one or into it", async ({ page }) => {
  await signIn(page);
  await open(page);
  const dunes = () => page.locator(".line.task").filter({ has: page.locator('input[value^="Dune "]') }).locator("input.title").evaluateAll((all) => all.map((one) => one.value));
  expect(await dunes()).toEqual(["Dune frames", "Dune skins", "Dune paint"]);
  await input(page, "Dune paint").focus();
  await page.keyboard.press("Alt+ArrowUp");
  await expect.poll(dunes).toEqual(["Dune frames", "Dune paint", "Dune skins"]);
  await expect(input(page, "Dune paint")).toBeFocused();
  await page.keyboard.press("Alt+ArrowUp");
  await expect.poll(dunes).toEqual(["Dune paint", "Dune frames", "Dune skins"]);
  const drag = async (from, to, part) => {
    await line(page, from).hover();
    const grip = await line(page, from).locator(".grip").boundingBox();
    const box = await line(page, to).boundingBox();
    await page.mouse.move(grip.x + 5, grip.y + 12);
    await page.mouse.down();
    await page.mouse.move(grip.x + 20, grip.y + 30, { steps: 2 });
    await page.mouse.move(box.x + 200, box.y + box.height * part, { steps: 4 });
    await page.mouse.up();
  };
  await drag("Dune skins", "Dune paint", 0.1);
  await expect.poll(dunes).toEqual(["Dune skins", "Dune paint", "Dune frames"]);
  await drag("Path lights", "Dune frames", 0.7);
  const within = String(Number(await depth(page, "Dune frames")) + 1);
  await expect(line(page, "Path lights")).toHaveAttribute("data-depth", within);
  await undo(page);
  await expect(line(page, "Path lights")).toHaveAttribute("data-depth", await depth(page, "Dune frames"));
});

test("cells of a spreadsheet are shown as the tasks that they become, and come back by one Undo", async ({ page }) => {
  await signIn(page);
  await open(page);
  await input(page, "Crater lighting test").focus();
  const dialog = page.locator("#pasted");
  await paste(page, "Title\tEstimate\tAssignees\nStage\t\t\n  Cut timber\tmany\tnobody");
  await expect(dialog).toContainText("Line 3, estimate: “many” is no duration");
  await expect(dialog.getByRole("button", { name: /Write/ })).toBeHidden();
  await dialog.getByRole("button", { name: "Leave it" }).click();
  await input(page, "Crater lighting test").focus();
  const rows = Array.from({ length: 19 }, (_, at) => `  Part ${at + 1}\t${at + 1}h\tOona Varga`);
  await paste(page, ["Title\tEstimate\tAssignees", "Stage\t\t", ...rows].join("\n"));
  await expect(dialog.locator(".line")).toHaveCount(20);
  await expect(dialog.locator(".line").nth(3)).toContainText("Part 33 h · Oona Varga");
  await accessible(page);
  await dialog.getByRole("button", { name: "Write 20 tasks down" }).click();
  await told(page, "Tasks written down");
  expect(Number(await depth(page, "Part 19"))).toBe(Number(await depth(page, "Stage")) + 1);
  await expect(line(page, "Part 19")).toContainText("Oona Varga");
  await undo(page);
  await expect(input(page, "Part 19")).toHaveCount(0);
});

test("axe finds nothing in the outline, light and dark, filtered to nothing, and for a guest who only reads", async ({ page }) => {
  await signIn(page);
  await open(page);
  await accessible(page);
  await page.emulateMedia({ colorScheme: "dark" });
  await open(page);
  await accessible(page, ["color-contrast"]);
  await open(page, "/schedule/outline?q=nothing+is+called+so");
  await expect(page.getByText("Nothing fits this filter")).toBeVisible();
  await accessible(page);
  await page.getByRole("button", { name: "Mira Castellan" }).or(page.locator(".menu summary")).first().click();
  await page.getByRole("button", { name: "Sign out" }).click();
  await signIn(page, "guest");
  await page.setViewportSize({ width: 390, height: 780 });
  await open(page);
  await expect(page.locator(".line input")).toHaveCount(0);
  await accessible(page);
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
});
