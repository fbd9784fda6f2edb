// What several specs do.
import AxeBuilder from "@axe-core/playwright";
import { test as plain, expect } from "@playwright/test";

export const PASSWORD = "tidewater-2026";

/** A spec with a workspace of its own at two servers, made anew from the demo. */
export const test = plain.extend({
  world: [
    async ({}, use) => {
      const world = await (await fetch(process.env.SNUG_WORLDS, { method: "POST" })).json();
      Object.assign(process.env, { SNUG_URL: world.url, SNUG_URL_2: world.second });
      await use(world);
    },
    { auto: true },
  ],
  baseURL: async ({ world }, use) => use(world.url),
  /** Nothing that a script throws goes by unseen; of a spec that fails, what was asked of the server last is said. */
  page: async ({ page }, use, spec) => {
    const [thrown, asked] = [[], []];
    page.on("pageerror", (error) => thrown.push(error.stack));
    const isPart = (one) => !one.url().includes("/assets/");
    page.on("request", (one) => isPart(one) && asked.push(`asked ${one.method()} ${one.url()} ${one.postData() ?? ""}`.slice(0, 300)));
    page.on("response", (one) => isPart(one) && asked.push(`  got ${one.status()} ${one.url()}`.slice(0, 200)));
    await use(page);
    if (spec.status !== spec.expectedStatus) console.log(asked.slice(-30).join("\n"));
    expect(thrown).toEqual([]);
  },
});

/** Signs in and opens the Fit room. */
export async function signIn(page, who = "mira", base = process.env.SNUG_URL) {
  await page.goto(`${base}/sign-in`);
  await page.getByLabel("E-mail address").fill(`${who}@tidewater.test`);
  await page.getByLabel("Password").fill(PASSWORD);
  await page.getByRole("button", { name: "Sign in" }).click();
  await ready(page);
}

/** The message that one means is told: “Booking changed” is not “Taken back: Booking changed”, which may still stand there. */
export function said(page, message) {
  const box = page.locator("#toast");
  const older = page.locator("b", { hasText: /^Taken back/ });
  return expect(message.startsWith("Taken back") ? box : box.filter({ hasNot: older })).toContainText(message);
}

/** It is told, and a grid has drawn what came of it, so that what is gripped next is gripped as it stands. */
export async function told(page, message) {
  await said(page, message);
  await expect(page.locator('#grid[aria-busy="true"]')).toHaveCount(0);
}

/** Takes the last change back, and waits until that is told. */
export async function undo(page) {
  await page.locator("[data-undo] button").click();
  await told(page, "Taken back");
}

/** The Fit room, with its script at work. */
export async function openFit(page, search = "") {
  await page.goto(`/fit${search}`);
  await ready(page);
}

/** Any page, with its script at work. */
export async function openPage(page, path, ready = null) {
  await page.goto(path);
  if (ready) await expect(page.locator(`html[data-ready=${ready}]`)).toBeAttached();
}

export const ready = (page) => expect(page.locator("html[data-ready=fit]")).toBeAttached();
export const row = (page, name) => page.locator(".row.person").filter({ has: page.locator(".name", { hasText: name }) });
/** The cell in the column that begins on a day. */
export const cell = (page, name, from) =>
  row(page, name).locator(`xpath=.//*[@role="gridcell"][count(//*[@role="columnheader"][@data-from="${from}"]/preceding-sibling::*) + 1]/a`);

/** The box of the first of the rectangles that a shape is drawn of. */
export const pieceOf = (shape) =>
  shape.evaluate((path) => {
    const box = path.ownerSVGElement.getBoundingClientRect();
    const [, from, floor, top, days] = path.getAttribute("d").match(/^M(\d+) ([\d.]+)V([\d.]+)h(\d+)/).map(Number);
    const day = box.width / path.ownerSVGElement.viewBox.baseVal.width;
    return { x: box.left + from * day, y: box.top + top, width: days * day, height: floor - top };
  });

/** The same cell's figures by the API: what the core says. */
export async function figures(request, email, from) {
  const url = `${process.env.SNUG_URL}/api/v1/load?from=2026-03-09&to=2026-04-19&by=week&group=person`;
  const response = await request.get(url, { headers: { authorization: `Bearer ${process.env.SNUG_TOKEN}` } });
  expect(response.ok()).toBeTruthy();
  return (await response.json()).find((one) => one.key === email && one.start === from);
}

/** A label as the room writes it, from the core's figures. */
export function labelOf(figure) {
  const hours = (minutes) => `${Math.round(minutes / 6) / 10} h`;
  const labels = { away: "away", snug: "snug", brim: "0 h left", open: `${hours(figure.room_min)} room` };
  return labels[figure.band] ?? `+${hours(Math.max(figure.spill_min, figure.peak_min))}`;
}

/** axe finds nothing on the page as it stands; by some rules only, if they are given. */
export async function accessible(page, rules = null) {
  const axe = new AxeBuilder({ page });
  const result = await (rules ? axe.withRules(rules) : axe).analyze();
  expect(result.violations.map((v) => `${v.id}: ${v.nodes.map((node) => node.target.join(" ")).join(", ")}`)).toEqual([]);
}

/** Drags from the middle of a layer by days and, if a row is given, to that row; says where it came to. */
export async function dragLayer(page, layer, days, { to = null, release = true } = {}) {
  const track = layer.locator("xpath=ancestor::div[contains(@class,'track')]");
  let start, end;
  // Rows may just be drawn anew: what is looked for is found in the new ones.
  await expect(async () => {
    await layer.scrollIntoViewIfNeeded({ timeout: 1000 });
    const from = await pieceOf(layer);
    const { x: left, width } = await track.boundingBox();
    const wide = width / Number(await page.locator("#grid").getAttribute("data-days"));
    // The middle of a day: on the line between two, a part of a pixel would decide which is meant.
    const day = Math.floor((from.x + from.width / 2 - left) / wide + 0.01);
    start = { x: left + (day + 0.5) * wide, y: from.y + from.height * 0.7 };
    const over = to && (await to.locator(".track").boundingBox());
    end = { x: start.x + days * wide, y: to ? over.y + over.height / 2 : start.y };
  }).toPass();
  await page.mouse.move(start.x, start.y);
  await page.mouse.down();
  await page.mouse.move(start.x + 6, start.y, { steps: 2 });
  await page.mouse.move(end.x, end.y, { steps: 8 });
  if (release) await page.mouse.up();
  return end;
}
