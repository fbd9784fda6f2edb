// The Gantt: what is moved moves what follows, links are made and taken away, by pointer and by key alone.
import { expect } from "@playwright/test";
import { accessible, dragLayer, openPage, pieceOf, signIn, test, told, undo } from "./steps.mjs";

const MOON = "/schedule/gantt?project=moon&from=2026-03-02";
const open = (page, address = MOON) => openPage(page, address, "gantt");
const row = (page, name) => page.locator(".row").filter({ has: page.locator(".name", { hasText: new RegExp(`^${name}$`) }) });
const bar = (page, name) => row(page, name).locator("[data-shape]");
const when = (page, name) => bar(page, name).locator("title");
const cellOf = (page, name, at) => row(page, name).locator(".cells a").nth(at);

test("a bar is dragged: what follows is shown where it would be, moves in one entry, and comes back by Undo", async ({ page }) => {
  await signIn(page);
  await open(page);
  await dragLayer(page, bar(page, "Dune skins"), 5, { release: false });
  const tip = page.locator(".tip");
  await expect(tip).toContainText("Dune skins, 30 March – 17 April");
  await expect(tip).toContainText("1 task moves with it, by 5 days");
  await expect(row(page, "Dune paint").locator(".would")).toBeAttached();
  await expect(when(page, "Dune paint")).toHaveText("Dune paint, 30 March – 24 April");
  await page.mouse.up();
  await told(page, "Task “Dune skins” moved");
  await expect(when(page, "Dune skins")).toHaveText("Dune skins, 30 March – 17 April");
  await expect(when(page, "Dune paint")).toHaveText("Dune paint, 2 April – 29 April");
  await undo(page);
  await expect(when(page, "Dune skins")).toHaveText("Dune skins, 23 March – 10 April");
  await expect(when(page, "Dune paint")).toHaveText("Dune paint, 30 March – 24 April");
  // Given up, it stays, and nothing is left of where it would have been.
  await dragLayer(page, bar(page, "Dune skins"), 5, { release: false });
  await expect(tip).toContainText("30 March");
  await page.keyboard.press("Escape");
  await page.mouse.up();
  await expect(page.locator(".would")).toHaveCount(0);
  // A bar stops at the first day that its links allow.
  await dragLayer(page, bar(page, "Dune skins"), -10, { release: false });
  await expect(tip).toContainText("It stays where it is");
  await page.mouse.up();
  await told(page, "Nothing to change");
});

test("a move that would push what is begun is refused in a sentence, and nothing moves", async ({ page }) => {
  await signIn(page);
  await open(page, "/schedule/gantt?project=moon&from=2026-02-09");
  const before = await when(page, "Crater relief, drawings").textContent();
  await dragLayer(page, bar(page, "Crater relief, drawings"), 7, { release: false });
  const sentence = "“Crater relief, milling” is begun and would have to start on";
  await expect(page.locator(".tip")).toContainText(sentence);
  await page.mouse.up();
  await expect(page.locator("#toast")).toContainText(sentence);
  await expect(when(page, "Crater relief, drawings")).toHaveText(before);
});

test("by key alone: moved, stretched, linked, taken to the tray", async ({ page }) => {
  await signIn(page);
  await open(page);
  const press = async (...keys) => {
    for (const key of keys) await page.keyboard.press(key);
  };
  await cellOf(page, "Dune skins", 3).focus();
  await press("g");
  await expect(page.locator(".tip")).toContainText("Gripped: Dune skins");
  await press("Shift+ArrowRight");
  await expect(page.locator(".tip")).toContainText("30 March – 17 April");
  await press("Enter");
  await told(page, "Task “Dune skins” moved");
  await undo(page);
  await cellOf(page, "Path lights", 5).focus();
  await press("g", "f", "ArrowLeft", "ArrowLeft", "ArrowLeft", "Enter");
  await told(page, "Task “Path lights” stretched");
  await expect(when(page, "Path lights")).toHaveText("Path lights, 6 April – 21 April");
  await cellOf(page, "Path lights", 5).focus();
  await press("k");
  await expect(page.locator(".tip")).toContainText("Gripped: Link from the finish of Path lights");
  await press("ArrowDown", "ArrowDown", "ArrowDown", "ArrowDown");
  await expect(page.locator(".tip")).toContainText("“Path lights” → “Crater relief, casting”");
  await press("Enter");
  await told(page, "Link added");
  await cellOf(page, "Crater relief, casting", 5).focus();
  await press("Enter");
  await expect(page.locator("#sheet")).toContainText("22 April – 13 May");
  await press("Escape");
  await cellOf(page, "Path lights", 5).focus();
  await press("g", "Delete");
  await told(page, "Task “Path lights” changed");
  await expect(bar(page, "Path lights")).toHaveCount(0);
});

test("a link is drawn from a bar’s end to another one, told in the sheet, and taken away there", async ({ page }) => {
  await signIn(page);
  await open(page);
  const from = row(page, "Path lights");
  await from.hover();
  const end = await from.locator('[data-slip="link-start"]').boundingBox();
  const to = await pieceOf(bar(page, "Dune paint"));
  await page.mouse.move(end.x + end.width / 2, end.y + end.height / 2);
  await page.mouse.down();
  await page.mouse.move(to.x + 10, to.y, { steps: 6 });
  await expect(page.locator(".tip")).toContainText("start → start: “Path lights” → “Dune paint”");
  await page.mouse.up();
  await told(page, "Link added");
  await cellOf(page, "Dune paint", 4).click();
  const sheet = page.locator("#sheet");
  await expect(sheet.locator(".link-list li").filter({ hasText: "Path lights" })).toContainText("start → start");
  await accessible(page);
  await sheet.getByRole("button", { name: "Unlink Path lights" }).click();
  await told(page, "Link removed");
  await expect(sheet.getByText("Path lights")).toHaveCount(0);
});

test("the sheet puts a broken link right, links by the other task’s name, and refuses a circle with its names", async ({ page }) => {
  await signIn(page);
  await open(page);
  await expect(row(page, "Crater relief, casting").locator(".flag")).toBeAttached();
  await cellOf(page, "Crater relief, casting", 3).click();
  const sheet = page.locator("#sheet");
  await expect(sheet).toContainText("1 link is broken");
  await sheet.getByRole("button", { name: "Put right" }).click();
  await told(page, "Task “Crater relief, casting” moved");
  await expect(row(page, "Crater relief, casting").locator(".flag")).toHaveCount(0);
  await expect(sheet).not.toContainText("broken");
  await sheet.getByText("Link it").click();
  const form = sheet.locator('form[action="/schedule/tasks/link"]');
  await form.getByLabel("The other task").fill("T03");
  await expect(form.locator(".says")).toContainText("This would close a circle: Crater relief, milling → Crater relief, casting → Crater relief, milling.");
  await form.getByRole("button", { name: "Link", exact: true }).click();
  await expect(page.locator("#toast")).toContainText("This would close a circle");
  await expect(form.getByLabel("The other task")).toHaveValue("T03");
});

test("what is inside is folded away and stays so; a task is added and gets its dates by drawing", async ({ page }) => {
  await signIn(page);
  await open(page);
  await row(page, "Crater relief").locator(".who > a").click();
  await expect(row(page, "Crater relief, milling")).toHaveCount(0);
  await page.reload();
  await expect(row(page, "Crater relief, milling")).toHaveCount(0);
  await cellOf(page, "Moon Garden: the dunes", 2).focus();
  await page.keyboard.press("a");
  await page.locator("#sheet").getByLabel("Title").fill("Sand nets");
  await page.keyboard.press("Enter");
  await told(page, "Task “Sand nets” added");
  const track = await row(page, "Sand nets").locator(".track").boundingBox();
  const day = track.width / 49;
  await page.mouse.move(track.x + day * 21.5, track.y + 20);
  await page.mouse.down();
  await page.mouse.move(track.x + day * 24.5, track.y + 20, { steps: 5 });
  await page.mouse.up();
  await expect(when(page, "Sand nets")).toHaveText("Sand nets, 23 March – 26 March");
});

test("news of others is drawn without losing what is in the hand", async ({ page, browser }) => {
  await signIn(page);
  await open(page);
  await dragLayer(page, bar(page, "Dune skins"), 5, { release: false });
  await expect(page.locator(".tip")).toContainText("30 March");
  const other = await (await browser.newContext()).newPage();
  await signIn(other, "teo");
  await other.goto(`${process.env.SNUG_URL}${MOON}`);
  await expect(other.locator("html[data-ready=gantt]")).toBeAttached();
  await dragLayer(other, bar(other, "Path lights"), 7);
  await told(other, "Task “Path lights” moved");
  await expect(page.locator(".tip")).toContainText("30 March");
  await page.mouse.up();
  await told(page, "Task “Dune skins” moved");
  await expect(when(page, "Path lights")).toHaveText("Path lights, 13 April – 30 April");
  await other.context().close();
});

test("axe finds nothing, light and dark; a guest looks on; on a phone one ticks off and moves a day", async ({ page }) => {
  await signIn(page);
  await open(page, `${MOON}&beside=B-moon`);
  await accessible(page);
  await page.emulateMedia({ colorScheme: "dark" });
  await open(page, `${MOON}&beside=B-moon`);
  await accessible(page, ["color-contrast"]);
  await page.emulateMedia({ colorScheme: "light" });
  await open(page, "/schedule/gantt?q=nothing+is+called+so");
  await expect(page.getByText("Nothing fits this filter")).toBeVisible();
  await accessible(page);
  await page.setViewportSize({ width: 390, height: 780 });
  await open(page);
  await accessible(page);
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await row(page, "Path lights").locator(".name").click();
  const sheet = page.locator("#sheet");
  await sheet.getByText("Other dates").click();
  const seen = sheet.locator('input[name="seen"]').first();
  const before = await seen.inputValue();
  await sheet.getByRole("textbox", { name: "Start" }).fill("2026-04-07");
  await sheet.getByRole("button", { name: "Save" }).click();
  await told(page, "Task “Path lights” changed");
  // Ticked off is what stands now: the sheet is drawn anew.
  await expect(seen).not.toHaveValue(before);
  await sheet.getByRole("button", { name: "Tick off" }).click();
  await told(page, "Task “Path lights” changed");
  await expect(sheet).toContainText("done");
  await accessible(page);
});

test("a guest sees the Gantt and can change nothing in it", async ({ page }) => {
  await signIn(page, "guest");
  await open(page);
  await expect(page.locator("[data-slip], [data-shape]")).toHaveCount(0);
  await cellOf(page, "Dune paint", 4).click();
  await expect(page.locator("#sheet")).toContainText("Leads and managers schedule.");
  await expect(page.locator("#sheet form")).toHaveCount(0);
});

test("the outline is widened by key and by hand, and the picture is taken along", async ({ page }) => {
  await signIn(page);
  await open(page);
  const head = page.locator(".heads .who");
  const splitter = page.getByRole("separator", { name: "Width of the outline" });
  const wide = (await head.boundingBox()).width;
  await splitter.focus();
  await page.keyboard.press("ArrowRight");
  await expect.poll(async () => (await head.boundingBox()).width).toBe(wide + 20);
  const box = await splitter.boundingBox();
  await page.mouse.move(box.x + 4, box.y + 20);
  await page.mouse.down();
  await page.mouse.move(box.x - 76, box.y + 20, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => (await head.boundingBox()).width).toBe(wide - 60);
  await page.reload();
  await expect(page.locator("html[data-ready=gantt]")).toBeAttached();
  expect((await head.boundingBox()).width).toBe(wide - 60);
  await page.getByText("Take along").click();
  const [picture] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "Picture, PNG" }).click()]);
  expect(picture.suggestedFilename()).toBe("gantt.png");
  const svg = await (await page.request.get("/schedule/gantt/export/svg?project=moon&from=2026-03-02")).text();
  for (const words of ["Dune skins, 23 March – 10 April", "Moon Garden handover"]) expect(svg).toContain(words);
});

test("columns are chosen: what is whole has what is inside it, and what is stuck says so", async ({ page }) => {
  await signIn(page);
  await open(page);
  await page.getByText("Columns", { exact: true }).click();
  const chooser = page.locator("[data-cols]");
  for (const name of ["Finish", "Done", "Float"]) await chooser.getByLabel(name).check();
  await accessible(page);
  await chooser.getByRole("button", { name: "Show these" }).click();
  await expect(page.locator(".heads .who > span")).toHaveText(["Task", "Who", "Finish", "Done", "Float", "Left"]);
  await expect(row(page, "Crater relief").locator(".who > span")).toHaveText(["", "3 Apr", "53 %", "20 d", "66.75 h"]);
  await expect(row(page, "Dune frames").locator(".flag title")).toHaveText("stuck: the tenth frame has no oak yet");
  await expect(page).toHaveURL(/project=moon/);
});

test("a plan is kept, and tells later what slipped and what was added", async ({ page }) => {
  await signIn(page);
  await page.goto("/schedule/baselines");
  await page.getByLabel("Project").selectOption("moon");
  await page.getByLabel("Name").fill("Before the spring");
  await page.getByRole("button", { name: "Keep it" }).click();
  await expect(page.getByText("Everything stands as it was meant.")).toBeVisible();
  await accessible(page);
  await open(page);
  await dragLayer(page, bar(page, "Path lights"), 7);
  await told(page, "Task “Path lights” moved");
  await page.goto("/schedule/baselines");
  await page.getByRole("link", { name: "Before the spring" }).click();
  await expect(page.getByText("1 task finishes later, the farthest by 6 days")).toBeVisible();
  await expect(page.getByRole("row", { name: /Path lights/ })).toContainText("6 days later");
  await page.getByRole("row", { name: /Before the spring/ }).getByRole("link", { name: /in the Gantt/ }).click();
  await expect(row(page, "Path lights").locator(".beside")).toBeAttached();
  await expect(row(page, "Path lights").locator(".slip")).toHaveText("+6 d");
});
