// Slips: what somebody has to do on a day is moved, handed over, split, stretched, drawn, by pointer and by key alone.
import { expect } from "@playwright/test";
import { accessible, cell, dragLayer, openPage, pieceOf, row, signIn, test, told, undo } from "./steps.mjs";

const open = (page, search = "?weeks=2&from=2026-03-16") => openPage(page, `/schedule/slips${search}`, "slips");
const slip = (page, who, title) => row(page, who).locator("[data-shape]").filter({ hasText: title });
const when = (page, who, title) => slip(page, who, title).locator("title");

test("a slip is dragged to other days, and to somebody else", async ({ page }) => {
  await signIn(page);
  await open(page);
  await dragLayer(page, slip(page, "Noor", "Price boards"), 2, { release: false });
  await expect(page.locator(".tip")).toContainText("Price boards, 18 March – 24 March");
  await expect(page.locator(".tip")).toContainText("Noor Haddad");
  await page.mouse.up();
  await told(page, "Task “Price boards” moved");
  await expect(when(page, "Noor", "Price boards")).toContainText("18 March – 24 March");
  await undo(page);
  await expect(when(page, "Noor", "Price boards")).toContainText("16 March – 20 March");
  await dragLayer(page, slip(page, "Noor", "Price boards"), 0, { to: row(page, "Malik") });
  await told(page, "Task “Price boards” changed");
  await expect(slip(page, "Malik", "Price boards")).toBeAttached();
  await expect(slip(page, "Noor", "Price boards")).toHaveCount(0);
});

test("rows that come while a hand holds something wait until it lets go", async ({ page }) => {
  await signIn(page);
  await open(page);
  await dragLayer(page, slip(page, "Noor", "Price boards"), 1);
  await told(page, "Task “Price boards” moved");
  await expect(when(page, "Noor", "Price boards")).toContainText("17 March – 23 March");
  let [came, goOn, pending] = [null, null, 0];
  const first = new Promise((go) => (came = go));
  const letGo = new Promise((go) => (goOn = go));
  await page.route(/slips\/rows/, async (route) => {
    pending++;
    const response = await route.fetch();
    if (/Price boards[^<]*16 March – 20 March/.test(await response.text())) {
      came();
      await letGo;
    }
    await route.fulfill({ response });
    pending--;
  });
  await page.locator("[data-undo] button").click();
  await first;
  const held = await pieceOf(slip(page, "Noor", "Price boards"));
  await page.mouse.move(held.x + held.width / 4, held.y + held.height / 2);
  await page.mouse.down();
  goOn();
  const drawn = () => page.evaluate(() => new Promise((go) => requestAnimationFrame(() => requestAnimationFrame(go))));
  await expect.poll(async () => (await drawn(), pending)).toBe(0);
  await expect(when(page, "Noor", "Price boards")).toContainText("17 March – 23 March");
  await page.mouse.up();
  await expect(when(page, "Noor", "Price boards")).toContainText("16 March – 20 March");
  await page.unrouteAll({ behavior: "ignoreErrors" });
});

test("what lies under the hand is taken as soon as rows that ran by come to rest", async ({ page }) => {
  await signIn(page);
  await open(page);
  const shape = slip(page, "Noor", "Price boards");
  await shape.scrollIntoViewIfNeeded();
  const box = await pieceOf(shape);
  await page.mouse.move(box.x + box.width / 4, box.y + box.height / 2);
  await page.evaluate(() => {
    for (let times = 0; times < 5; times++) document.querySelector(".scroller").dispatchEvent(new Event("scroll"));
  });
  await page.mouse.down();
  await page.mouse.move(box.x + (box.width * 3) / 4, box.y + box.height / 2, { steps: 4 });
  await expect(page.locator(".tip")).toContainText("Price boards, 17 March – 23 March");
  await page.mouse.up();
  await told(page, "Task “Price boards” moved");
});

test("dropped with Ctrl on a second one, a slip is split between both", async ({ page }) => {
  await signIn(page);
  await open(page);
  const { x, y } = await dragLayer(page, slip(page, "Noor", "Price boards"), 0, { to: row(page, "Malik"), release: false });
  await expect(slip(page, "Noor", "Price boards")).toHaveCount(0);
  await page.keyboard.down("Control");
  await page.mouse.move(x, y + 4);
  await expect(slip(page, "Noor", "Price boards")).toBeAttached();
  await page.mouse.up();
  await page.keyboard.up("Control");
  await told(page, "Task “Price boards” changed");
  await expect(slip(page, "Malik", "Price boards")).toBeAttached();
  await expect(slip(page, "Noor", "Price boards")).toBeAttached();
});

test("by key alone: moved, stretched, handed over, split, back to the tray", async ({ page }) => {
  await signIn(page);
  await open(page);
  const press = async (...keys) => {
    for (const key of keys) await page.keyboard.press(key);
  };
  const grip = async (title) => {
    await cell(page, "Noor", "2026-03-18").focus();
    await press("g");
    // The slips of a day are gripped one after the other.
    for (let more = 0; more < 4 && !(await page.locator(".tip").textContent()).includes(title); more++) await press("g");
    await expect(page.locator(".tip")).toContainText(`Gripped: ${title}`);
  };
  await grip("Price boards");
  await press("ArrowRight", "Enter");
  await told(page, "Task “Price boards” moved");
  await expect(when(page, "Noor", "Price boards")).toContainText("17 March – 23 March");
  await grip("Price boards");
  await press("f", "ArrowRight", "ArrowRight", "Enter");
  await told(page, "Task “Price boards” stretched");
  await expect(when(page, "Noor", "Price boards")).toContainText("17 March – 25 March");
  await grip("Price boards");
  await press("t", "ArrowDown");
  await expect(page.locator(".tip")).toContainText("Price boards");
  await press("Enter");
  await told(page, "Task “Price boards” changed");
  await expect(page.locator("[data-shape]").filter({ hasText: "Price boards" })).toHaveCount(2);
  await grip("Price boards");
  await press("Delete");
  await told(page, "Task “Price boards” changed");
  await expect(page.locator("#grid [data-shape]").filter({ hasText: "Price boards" })).toHaveCount(0);
  await expect(page.locator("#waiting")).toContainText("Price boards");
});

test("the tray finds by a word, and a slip of it is dropped on somebody’s day", async ({ page }) => {
  await signIn(page);
  await open(page);
  await page.getByRole("searchbox", { name: "Find in the tray" }).fill("stamps");
  await expect(page.locator("#waiting .slip")).toHaveCount(1);
  const from = await page.locator("#waiting .slip").boundingBox();
  const to = await row(page, "Bas").locator(".track").boundingBox();
  await page.mouse.move(from.x + 20, from.y + 10);
  await page.mouse.down();
  await page.mouse.move(to.x + to.width / 14 + 4, to.y + 30, { steps: 8 });
  await expect(page.locator(".tip")).toContainText("Ticket stamps, 17 March");
  await page.mouse.up();
  await told(page, "Task “Ticket stamps” changed");
  await expect(slip(page, "Bas", "Ticket stamps")).toBeAttached();
  await expect(page.locator("#waiting")).toContainText("Nothing that waits fits these words");
});

test("days are drawn for a new task, and a day off is told before anything is done", async ({ page }) => {
  await signIn(page);
  await open(page);
  const track = await row(page, "Anton").locator(".track").boundingBox();
  const day = track.width / 14;
  await page.mouse.move(track.x + 7.5 * day, track.y + 6);
  await page.mouse.down();
  await page.mouse.move(track.x + 8.5 * day, track.y + 6, { steps: 5 });
  await expect(page.locator(".tip")).toContainText("23 March – 24 March");
  await page.mouse.up();
  const form = page.locator("#new form");
  await expect(form.getByLabel("Start")).toHaveValue("2026-03-23");
  await expect(form.getByLabel("Finish")).toHaveValue("2026-03-24");
  await form.getByLabel("What is to be done").fill("Straps for the crates");
  await form.getByLabel("Project").selectOption({ label: "Touring: Salt and Iron" });
  await form.getByLabel("Estimate").fill("twelve");
  await form.getByRole("button", { name: "Add it" }).click();
  await expect(form.locator(".says")).toContainText("“twelve”");
  await expect(form.getByLabel("What is to be done")).toHaveValue("Straps for the crates");
  await form.getByLabel("Estimate").fill("12h");
  await expect(form.locator(".says")).toContainText("Anton Rademaker-Villanueva");
  await form.getByRole("button", { name: "Add it" }).click();
  await told(page, "Task “Straps for the crates” added");
  await expect(when(page, "Anton", "Straps for the crates")).toContainText("12 h left, 23 March – 24 March");
  // Greta is off from Wednesday to Friday.
  await cell(page, "Noor", "2026-03-18").click();
  const sheet = page.locator("#sheet");
  await sheet.locator("summary", { hasText: "Price boards" }).click();
  const hand = sheet.locator("details[open] form[action$='/hand']");
  await hand.getByLabel("To somebody else").fill("greta@tidewater.test");
  await expect(hand.locator(".says")).toContainText("Greta Sund is off on 3 of these days");
  await expect(slip(page, "Noor", "Price boards")).toBeAttached();
});

test("filters leave those who have such work, looks are kept, and axe finds nothing", async ({ page }) => {
  await signIn(page);
  await open(page, "?from=2026-03-09&person=1");
  await page.locator("summary", { hasText: "Filter" }).click();
  await page.getByLabel("Kind of work").selectOption("text");
  await expect(page.locator(".row.person .name")).toHaveText(["Felix Osei", "Tom Abara", "Wren Achterberg"]);
  await page.locator("summary", { hasText: "Looks" }).click();
  await page.getByLabel("Keep this look as").fill("Texts of the week");
  await page.getByRole("button", { name: "Keep", exact: true }).click();
  await told(page, "Look “Texts of the week” kept");
  await accessible(page);
  await page.getByRole("link", { name: "Show all" }).click();
  await page.locator("summary", { hasText: "Looks" }).click();
  await page.getByRole("link", { name: "Texts of the week" }).click();
  await expect(page.locator(".row.person")).toHaveCount(3);
  for (const weeks of [2, 4, 8]) {
    await open(page, `?weeks=${weeks}`);
    await accessible(page, ["color-contrast", "aria-required-children", "label-content-name-mismatch"]);
  }
  await page.emulateMedia({ colorScheme: "dark" });
  await open(page);
  await cell(page, "Oona", "2026-03-17").click();
  await expect(page.locator("#sheet-title")).toBeVisible();
  await accessible(page, ["color-contrast"]);
  await open(page, "?q=nobody+is+called+so");
  await expect(page.getByText("Nobody has such work in these weeks")).toBeVisible();
});

test("without a script a day opens by its link, and whoever may only look cannot move anything", async ({ browser }) => {
  const context = await browser.newContext({ javaScriptEnabled: false, baseURL: process.env.SNUG_URL });
  const page = await context.newPage();
  await page.goto("/sign-in");
  await page.getByLabel("E-mail address").fill("guest@tidewater.test");
  await page.getByLabel("Password").fill("tidewater-2026");
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.goto("/schedule/slips?from=2026-03-09");
  await row(page, "Oona").locator(".cells a").nth(2).click();
  await expect(page.locator("#sheet")).toContainText("Oona Varga · Wed 11 March");
  await expect(page.locator("#sheet")).toContainText("Leads and managers schedule");
  await expect(page.locator("[data-shape]")).toHaveCount(0);
  await context.close();
});
