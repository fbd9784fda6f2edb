import { expect } from "@playwright/test";
import { openPage, signIn, test, told } from "./steps.mjs";

test("files are dropped, shown with what they would do, taken over, and taken back", async ({ page }) => {
  await signIn(page);
  await openPage(page, "/setup/import", "import");
  const drop = (name, text) => page.locator("input[type=file]").setInputFiles({ name, mimeType: "text/csv", buffer: Buffer.from(text) });
  await drop("people.csv", "email,name,role\nlone@tidewater.test,Lone Wick,\nbad,,\n");
  await expect(page.locator(".chosen")).toHaveText("people.csv");
  await page.getByRole("button", { name: "Show what they would do" }).click();
  await expect(page.getByRole("region", { name: "Preview" })).toContainText("people.csv, line 3");
  await drop("people.csv", "email,name,role\nlone@tidewater.test,Lone Wick,rigger\nteo@tidewater.test,Teo Lindqvist,electronics\n");
  await page.getByRole("button", { name: "Show what they would do" }).click();
  const preview = page.getByRole("region", { name: "Preview" });
  await expect(preview.getByRole("row", { name: /people.csv/ })).toContainText("1");
  await page.getByRole("button", { name: /Take over 2 records/ }).click();
  await told(page, "2 records taken over from people.csv");
  await expect(page.locator("#toast").getByRole("link", { name: "People" })).toHaveAttribute("href", "/people");
  await page.locator("#toast").getByRole("button", { name: "Undo" }).click();
  await told(page, "Taken back: Imported from people.csv");
});

test("an administrator changes a setting, sees its example and takes it back from the activity", async ({ page }) => {
  await signIn(page, "ada");
  await openPage(page, "/setup/settings", "form");
  await page.getByLabel("Snug mark, %").fill("none");
  await page.getByRole("button", { name: "Save the settings" }).click();
  await expect(page.locator("small.problem")).toHaveText("Write a whole number.");
  await expect(page.getByLabel("Snug mark, %")).toHaveValue("none");
  await page.getByLabel("Snug mark, %").fill("90");
  await page.getByLabel("Dates are written").selectOption("month-day");
  await page.getByRole("button", { name: "Save the settings" }).click();
  await expect(page.getByText("With 90 %, a week of 40 h is snug from 36 h on.")).toBeVisible();
  await page.goto("/fit");
  await expect(page.getByRole("columnheader", { name: /March 9/ })).toBeVisible();
  await page.goto("/setup/activity");
  await page.locator(".entries li").first().getByRole("button", { name: /Take back/ }).click();
  await told(page, "Taken back: Settings changed");
  await page.goto("/fit");
  await expect(page.getByRole("columnheader", { name: /9 March/ })).toBeVisible();
});

test("an invitation is mailed, and the mailbox of the demo has its link", async ({ page, browser }) => {
  await signIn(page, "ada");
  await openPage(page, "/setup/members");
  await page.getByLabel("E-mail address").fill("hana@tidewater.test");
  await page.getByLabel("Name", { exact: true }).fill("Hana Ito");
  await page.getByRole("button", { name: "Send the invitation" }).click();
  await told(page, "An invitation is on its way to hana@tidewater.test");
  await page.goto("/mailbox");
  const href = await page.getByRole("link", { name: /\/join\// }).getAttribute("href");
  const context = await browser.newContext({ baseURL: process.env.SNUG_URL });
  const hana = await context.newPage();
  await hana.goto(href);
  await hana.getByLabel("Password").fill("mounts and metal");
  await hana.getByRole("button", { name: "Go in" }).click();
  await expect(hana.locator("html[data-ready=fit]")).toBeAttached();
  await hana.goto("/hours");
  await expect(hana.getByRole("heading", { level: 1 })).toHaveText("Hana Ito");
  await context.close();
});
