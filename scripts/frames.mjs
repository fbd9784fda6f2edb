// Measures in Chromium, at a server that holds a large workspace: the main thread's time of a drag frame, the bytes of a first load,
// and how far one can scroll. Prints rows of a table. Usage: node scripts/frames.mjs URL EMAIL PASSWORD
import { chromium } from "@playwright/test";
import { execSync } from "node:child_process";

const [url, email, password] = process.argv.slice(2);
const args = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"];
const browser = await chromium.launch({ executablePath: execSync("command -v chromium").toString().trim(), args });
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, baseURL: url })).newPage();
const devtools = await page.context().newCDPSession(page);
await page.goto("/sign-in");
await page.fill("[name=email]", email);
await page.fill("[name=password]", password);

let bytes = 0;
await devtools.send("Network.enable");
await devtools.send("Network.setCacheDisabled", { cacheDisabled: true });
devtools.on("Network.loadingFinished", (event) => (bytes += event.encodedDataLength));
await page.click("button[type=submit]");
await page.waitForURL((address) => address.pathname === "/fit");
await page.waitForSelector("html[data-ready=fit]");
await page.waitForLoadState("load");
const room = "/fit?from=2026-03-09&span=12";
bytes = 0;
await page.goto(room);
await page.waitForSelector("html[data-ready=fit]");
const first = bytes;

await devtools.send("Performance.enable");
const metrics = async () => Object.fromEntries((await devtools.send("Performance.getMetrics")).metrics.map((one) => [one.name, one.value]));
/** Drags the first bar of a page about, and says how long the main thread takes for a frame of it. */
async function drag() {
  await page.waitForTimeout(1500);
  const box = await page.locator("[data-shape]").first().evaluate(async (shape) => {
    const { boxesOf } = await import("/assets/grid/shape.js");
    const { left, right, top, bottom } = boxesOf(shape)[0];
    return { x: left, y: top, width: right - left, height: bottom - top };
  });
  await page.evaluate(() => {
    window.frames_ = [];
    new PerformanceObserver((list) => window.frames_.push(...list.getEntries().map((entry) => entry.duration))).observe({ type: "longtask" });
  });
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  const MOVES = 180;
  const before = await metrics();
  for (let at = 0; at < MOVES; at++) {
    await page.mouse.move(box.x + box.width / 2 + at * 2, box.y + box.height / 2 + Math.sin(at / 9) * 60);
    await page.evaluate(() => new Promise(requestAnimationFrame));
}
const after = await metrics();
await page.keyboard.press("Escape");
await page.mouse.up();
const long = await page.evaluate(() => window.frames_);
const perFrame = ((after.TaskDuration - before.TaskDuration) * 1000) / MOVES;
return `${MOVES} frames with ${Math.round(MOVES / 6)} previews | ${perFrame.toFixed(1)} ms a frame | ${long.length} tasks over 50 ms |`;
}
console.log(`| main thread of a drag frame, ${await drag()}`);
console.log(`| first load, cache empty, as sent | ${Math.ceil(first / 1000)} kB | |`);

// From the top to the end and back: rows come as they are looked at, and those that are gone from sight leave.
const begun = Date.now();
await page.evaluate(() => document.querySelector(".scroller").scrollTo(0, 1e9));
await page.waitForFunction(() => {
  const box = document.querySelector(".scroller").getBoundingClientRect();
  return document.elementFromPoint(box.left + 400, box.bottom - 60)?.closest(".row.person");
});
const end = Date.now() - begun;
const nodes = await page.evaluate(() => document.querySelectorAll(".row").length);
console.log(`| to the last row at once | ${end} ms | ${nodes} rows in the page |`);

// The same in the Gantt of 30,000 tasks.
const gantt = "/schedule/gantt?from=2026-03-02";
await page.goto("about:blank");
const opened = Date.now();
await page.goto(gantt);
await page.waitForSelector("html[data-ready=gantt]");
const painted = await page.evaluate(() => performance.getEntriesByName("first-contentful-paint")[0]?.startTime ?? 0);
console.log(`| the Gantt, first paint and ready | ${Math.round(painted)} ms, ${Date.now() - opened} ms | |`);
await page.waitForTimeout(1500);
// The hand rests on the rows that run by.
await page.mouse.move(900, 400);
const scrolled = await metrics();
const SCROLLS = 90;
for (let at = 0; at < SCROLLS; at++) {
  await page.evaluate(() => document.querySelector(".scroller").scrollBy(0, 40));
  await page.evaluate(() => new Promise(requestAnimationFrame));
}
const done = await metrics();
console.log(`| main thread of a scroll frame there, ${SCROLLS} frames over ${Math.round((SCROLLS * 40) / 36)} rows | ${(((done.TaskDuration - scrolled.TaskDuration) * 1000) / SCROLLS).toFixed(1)} ms a frame | |`);
await page.reload();
await page.waitForSelector("html[data-ready=gantt]");
console.log(`| main thread of a drag frame there, ${await drag()}`);
// And in the other views of the room.
for (const [view, address] of [["slips", "/schedule/slips?from=2026-03-09&weeks=2"], ["calendar", "/schedule/calendar?from=2026-03-11&project=pr1,pr2,pr3,pr4,pr5,pr6,pr7,pr8"], ["long", "/schedule/long?from=2026-03-09"]]) {
  await page.goto(address);
  await page.waitForSelector(`html[data-ready=${view}]`);
  console.log(`| main thread of a drag frame, ${view}, ${await drag()}`);
}
await browser.close();
