import { expect } from "@playwright/test";
import { PASSWORD, accessible, openPage, signIn, test, told } from "./steps.mjs";

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

test("a large import shows how far it is, and can be stopped", async ({ page }) => {
  test.setTimeout(120_000);
  await signIn(page);
  const lines = Array.from({ length: 30000 }, (_, at) => `LB${at},oona@tidewater.test,moon,2026-05-04,2026-05-08,0.01,h/day,large\n`);
  const buffer = Buffer.from(`ref,email,project,start,end,amount,unit,note\n${lines.join("")}`);
  const begin = async () => {
    await openPage(page, "/setup/import", "import");
    await page.locator("input[type=file]").setInputFiles({ name: "bookings.csv", mimeType: "text/csv", buffer });
    await page.getByRole("button", { name: "Show what they would do" }).click();
    await page.getByRole("button", { name: /Take over 30000 records/ }).click();
    await expect(page.getByRole("heading", { name: "Taking over bookings.csv" })).toBeVisible();
  };
  await begin();
  await page.getByRole("button", { name: "Stop" }).click();
  await told(page, "Stopped; nothing was taken over");
  await begin();
  await expect(page.getByRole("progressbar")).toBeVisible();
  await accessible(page);
  await expect(page.locator("#toast")).toContainText("30000 records taken over from bookings.csv", { timeout: 60_000 });
});

test("an administrator ends the sessions of somebody, and reads that in the security log", async ({ page, browser }) => {
  const elsewhere = await browser.newPage();
  await signIn(elsewhere, "teo");
  await signIn(page, "ada");
  await openPage(page, "/setup/members");
  await page.getByRole("button", { name: "End sessions of Teo Lindqvist" }).click();
  await told(page, "Every session of teo@tidewater.test has ended");
  // The page that was open is told, and leads to the door.
  await expect(elsewhere.locator("#toast")).toContainText("Your session has ended");
  await elsewhere.locator("#toast").getByRole("button", { name: "Sign in" }).click();
  await expect(elsewhere).toHaveURL(/sign-in$/);
  await page.getByRole("link", { name: "Security" }).click();
  await page.getByLabel("What", { exact: true }).selectOption("sessions ended");
  await page.getByRole("button", { name: "Filter" }).click();
  await expect(page.getByRole("row", { name: /Sessions ended/ })).toContainText("teo@tidewater.test");
  await elsewhere.close();
});

test("two-step sign-in is set up after the password, and each of its pages is accessible", async ({ page }) => {
  await signIn(page);
  await openPage(page, "/me/two-step");
  await page.getByLabel("Your password").fill("not this one");
  await page.getByRole("button", { name: "Go on" }).click();
  await expect(page.getByRole("alert")).toHaveText("This is not your password.");
  await accessible(page);
  await page.getByLabel("Your password").fill(PASSWORD);
  await page.getByRole("button", { name: "Go on" }).click();
  await expect(page.getByRole("img", { name: /The key as a picture/ })).toBeVisible();
  await accessible(page);
  await page.getByLabel("Code").fill("000000");
  await page.getByRole("button", { name: "Turn it on" }).click();
  await expect(page.getByRole("alert")).toContainText("This code does not fit");
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
