// Calendars: an address that is read, what it does to a row, a file that is shown first, a secret address out.
import { expect } from "@playwright/test";
import { accessible, cell, openFit, signIn, test, told } from "./steps.mjs";

const NEXT_WEEK = "2026-03-16";
const base = () => process.env.SNUG_URL;

test.beforeEach(async ({ page }) => signIn(page));

const subscribe = async (page, name, address, person) => {
  const form = page.locator("form[action$=subscribe]");
  await form.locator("[name=name]").fill(name);
  await form.locator("[name=address]").fill(address);
  await form.locator("[name=person]").fill(person);
  await form.getByRole("button", { name: "Subscribe" }).click();
};

test("meetings of an address take their time from the row, and can be taken back", async ({ page }) => {
  const before = await cell(page, "Teo Lindqvist", NEXT_WEEK).textContent();
  await page.goto("/setup/calendars");
  await accessible(page);
  await subscribe(page, "Planning round", `${base()}/stand-in/meetings.ics`, "teo@tidewater.test");
  await told(page, "“Planning round” is read every hour");
  const line = page.locator("tr").filter({ hasText: "Planning round" });
  await expect(line).toContainText("meetings of Teo Lindqvist");
  await expect(line).toContainText(/read .* 23 changes/);
  await accessible(page);
  await openFit(page);
  await expect(cell(page, "Teo Lindqvist", NEXT_WEEK)).not.toHaveText(before);
  await cell(page, "Teo Lindqvist", NEXT_WEEK).click();
  // The workspace is an hour behind the calendar. The Monday round was moved to Tuesday, two hours long; Thursday's is as it always is.
  await expect(page.locator("#sheet .remarks")).toContainText("Meetings, Tue 17 March, 2 h from 13:00");
  await expect(page.locator("#sheet .remarks")).toContainText("Meetings, Thu 19 March, 1.5 h from 08:30");
  // The same meetings in a second calendar are the same time.
  const once = await cell(page, "Teo Lindqvist", NEXT_WEEK).textContent();
  await page.goto("/setup/calendars");
  await subscribe(page, "The round again", `${base()}/stand-in/meetings.ics`, "teo@tidewater.test");
  await expect(page.locator("tr").filter({ hasText: "The round again" })).toContainText(/read .* 23 changes/);
  await openFit(page);
  await expect(cell(page, "Teo Lindqvist", NEXT_WEEK)).toHaveText(once);
  await page.goto("/setup/calendars");
  await page.getByRole("button", { name: "Leave The round again" }).click();
  await told(page, "is read no longer");
  await page.locator("[data-undo] button").click();
  await openFit(page);
  await page.locator("[data-undo] button").click();
  await told(page, "Taken back: Calendar “Planning round” read");
  await expect(cell(page, "Teo Lindqvist", NEXT_WEEK)).toHaveText(before);
  await page.goto("/setup/calendars");
  await page.getByRole("button", { name: "Leave Planning round" }).click();
  await told(page, "is read no longer");
});

test("an address that does not answer says so and is kept", async ({ page }) => {
  await page.goto("/setup/calendars");
  await subscribe(page, "Gone", `${base()}/stand-in/gone.ics`, "mira@tidewater.test");
  await told(page, "could not be read");
  await expect(page.locator("tr").filter({ hasText: "Gone" }).locator(".problem")).toContainText("404 Not Found");
  await page.getByRole("button", { name: "Leave Gone" }).click();
  await expect(page.locator("tr").filter({ hasText: "Gone" })).toHaveCount(0);
  await subscribe(page, "Wrong", "notes.txt", "mira@tidewater.test");
  await expect(page.locator("[name=name]").first()).toHaveValue("Wrong");
  await expect(page.locator(".problem").first()).toContainText("https://example.org/calendar.ics");
});

const file = (lines) => ({ name: "leave.ics", mimeType: "text/calendar", buffer: Buffer.from(`BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//t//EN\r\nBEGIN:VEVENT\r\n${lines.join("\r\n")}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`) });

test("a file is shown before it is taken over; one that cannot be read is refused whole", async ({ page }) => {
  const bring = async (lines) => {
    await page.goto("/setup/calendars");
    const form = page.locator("form[action$=file]");
    await form.locator("[type=file]").setInputFiles(file(lines));
    await form.locator("[name=purpose]").selectOption("time off");
    await form.locator("[name=person]").fill("juno@tidewater.test");
    await form.getByRole("button", { name: "Show what it would do" }).click();
  };
  await bring(["UID:x", "SUMMARY:Sea air", "DTSTART;TZID=Nowhere/Land:20260316T090000"]);
  await expect(page.locator(".problems")).toContainText("Sea air: the time zone “Nowhere/Land” is not known");
  await bring(["UID:x", "SUMMARY:Sea air", "DTSTART;VALUE=DATE:20260316", "DTEND;VALUE=DATE:20260321"]);
  await expect(page.locator("main")).toContainText("1 new, 0 changed, 0 removed");
  await expect(page.locator("main")).toContainText("Sea air: 16 March – 20 March, the whole day");
  await accessible(page);
  await page.getByRole("button", { name: "Take over" }).click();
  await told(page, "One record taken over from leave.ics");
  await openFit(page);
  await cell(page, "Juno Ferreira", NEXT_WEEK).click();
  await expect(page.locator("#sheet .remarks")).toContainText("Sea air, 16 March – 20 March");
  await page.locator("[data-undo] button").click();
  await told(page, "Taken back");
});

test("one's own bookings are read under a secret address, until there is a new one", async ({ page, request }) => {
  const make = async () => {
    await page.goto("/setup/calendars");
    await page.locator("form[action$=own] [name=person]").fill("oona@tidewater.test");
    await page.getByRole("button", { name: "Make an address" }).click();
    return (await page.locator(".fresh-token").textContent()).split(": ")[1].trim();
  };
  const first = await make();
  const read = await request.get(first);
  expect(read.headers()["content-type"]).toContain("text/calendar");
  expect(await read.text()).toContain("SUMMARY:Moon Garden\\, 4 h a day");
  const second = await make();
  expect((await request.get(first)).status()).toBe(404);
  expect((await request.get(second)).status()).toBe(200);
});
