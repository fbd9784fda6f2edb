import { expect } from "@playwright/test";
import { PASSWORD, accessible, ready, test } from "./steps.mjs";

test("a wrong password is told in words and what was typed stays; the right one opens the Fit room", async ({ page }) => {
  await page.goto("/");
  await expect(page).toHaveURL(/sign-in/);
  await page.getByLabel("E-mail address").fill("mira@tidewater.test");
  await page.getByLabel("Password").fill("not the password");
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("alert")).toHaveText("This address and password do not belong together.");
  await expect(page.getByLabel("E-mail address")).toHaveValue("mira@tidewater.test");
  await page.getByLabel("Password").fill(PASSWORD);
  await page.getByRole("button", { name: "Sign in" }).click();
  await ready(page);
  await page.locator(".menu summary").click();
  await page.getByRole("button", { name: "Sign out" }).click();
  await page.goto("/fit");
  await expect(page).toHaveURL(/sign-in/);
});

for (const scheme of ["light", "dark"]) {
  test(`axe finds nothing at the door, ${scheme}`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: scheme });
    await page.goto("/sign-in");
    await accessible(page);
  });
}

test("an unknown address is a page of ours that says so", async ({ page }) => {
  const answer = await page.goto("/no-such-room");
  expect(answer.status()).toBe(404);
  await expect(page.getByRole("heading")).toHaveText("Not here");
  await accessible(page);
});
