// The list of rows. It is there in chunks; those near the window are filled, the others are as tall as they would be, and empty.
import { part } from "/assets/frame/news.js";
import { grid, room, rowsOf, scroller, setTabStop, under } from "/assets/fit/room.js";

const body = document.getElementById("rows");
const PAGE = Number(grid.dataset.page);
let total = Number(grid.dataset.total);
let rowHeight = 74;

const drawn = []; // what has to be done to rows whenever they are new
/** Calls `then(row)` for every row that is there and every one that comes. */
export function whenDrawn(then) {
  drawn.push(then);
  for (const row of grid.querySelectorAll(".row:not(.heads)")) then(row);
}
const tellDrawn = (rows) => rows.forEach((row) => drawn.forEach((then) => then(row)));

/** Replaces a person's rows by their markup, keeping focus on the cell that had it. */
export function putRow(person, html) {
  for (const row of rowsOf(person)) put(row, html);
}

function put(row, html) {
  const focused = row.querySelector("a:focus")?.closest(".cell")?.dataset.from;
  const stop = row.querySelector('.cell > a[tabindex="0"]')?.closest(".cell").dataset.from;
  const holder = document.createElement("template");
  holder.innerHTML = html;
  const next = holder.content.firstElementChild;
  if (!next) return row.remove();
  row.replaceWith(next);
  const again = (from) => next.querySelector(`.cell[data-from="${from}"] a`);
  if (stop && again(stop)) again(stop).tabIndex = 0;
  if (focused) again(focused)?.focus({ preventScroll: true });
  tellDrawn([next]);
}

const isFilled = (chunk) => chunk.childElementCount > 0;
const near = new IntersectionObserver(
  (entries) => entries.forEach((entry) => entry.isIntersecting && !isFilled(entry.target) && !filling.has(entry.target) && fill(entry.target)),
  { root: scroller, rootMargin: "900px 0px" },
);
const far = new IntersectionObserver(
  (entries) => entries.forEach((entry) => !entry.isIntersecting && empty(entry.target)),
  { root: scroller, rootMargin: "4000px 0px" },
);

const filling = new WeakMap(); // chunk → what is under way for it

/** Fills a chunk. One that is under way is asked for again when it is there: the address may be another one now. */
function fill(chunk) {
  const going = filling.get(chunk);
  if (going) {
    going.again = true;
    return going.done;
  }
  const mine = { again: false };
  filling.set(chunk, mine);
  mine.done = (async () => {
    let html;
    do {
      mine.again = false;
      html = await part(`/fit/rows?${new URLSearchParams({ ...room(), offset: chunk.dataset.offset })}`);
    } while (mine.again && chunk.isConnected);
    filling.delete(chunk);
    if (html !== null && chunk.isConnected) fillWith(chunk, html);
  })();
  return mine.done;
}

function fillWith(chunk, html) {
  const focused = chunk.querySelector("a:focus")?.closest(".cell");
  const [person, from] = [focused?.closest(".row").dataset.person, focused?.dataset.from];
  chunk.innerHTML = html;
  chunk.style.height = "";
  const told = chunk.querySelector("template[data-total]");
  if (told && Number(told.dataset.total) !== total) {
    total = Number(told.dataset.total);
    layChunks();
  }
  told?.remove();
  chunk.querySelector(".more")?.remove();
  tellDrawn([...chunk.querySelectorAll(".row")]);
  for (const head of chunk.querySelectorAll("[data-later]")) later.observe(head);
  if (person) chunk.querySelector(`.row[data-person="${person}"] .cell[data-from="${from}"] a`)?.focus({ preventScroll: true });
  setTabStop();
}

/** A chunk that is far from the window gives its rows back, unless somebody is in it. */
function empty(chunk) {
  const busy = chunk.contains(document.activeElement) || document.documentElement.classList.contains("dragging");
  if (!isFilled(chunk) || busy) return;
  chunk.style.height = `${chunk.getBoundingClientRect().height}px`;
  chunk.replaceChildren();
}

/** Makes as many chunks as the list has. */
function layChunks() {
  const have = new Map([...body.querySelectorAll(".chunk")].map((chunk) => [Number(chunk.dataset.offset), chunk]));
  const filled = [...have.values()].find((chunk) => isFilled(chunk));
  if (filled) rowHeight = Math.max(20, filled.getBoundingClientRect().height / Math.max(1, filled.querySelectorAll(".row").length));
  let before = null;
  for (let offset = 0; offset < Math.max(total, 1); offset += PAGE) {
    let chunk = have.get(offset);
    if (!chunk) {
      chunk = document.createElement("div");
      chunk.className = "chunk";
      chunk.setAttribute("role", "presentation");
      chunk.dataset.offset = offset;
      chunk.style.height = `${Math.min(PAGE, total - offset) * rowHeight}px`;
      before ? before.after(chunk) : body.prepend(chunk);
    }
    have.delete(offset);
    near.observe(chunk);
    far.observe(chunk);
    before = chunk;
  }
  for (const chunk of have.values()) if (Number(chunk.dataset.offset) % PAGE === 0) chunk.remove();
}

// Heads whose sums take a while come when they are looked at, one after the other.
let queue = Promise.resolve();
const later = new IntersectionObserver(
  (entries) => {
    for (const { isIntersecting, target } of entries) {
      if (!isIntersecting) continue;
      later.unobserve(target);
      queue = queue.then(async () => {
        const html = target.isConnected && (await part(target.dataset.later));
        if (html) put(target, html);
      });
    }
  },
  { root: scroller, rootMargin: "200px 0px" },
);

export async function refreshRows(people) {
  const shown = people.filter((person) => rowsOf(person).length);
  const heads = [...grid.querySelectorAll(".row[data-group]:not(.later)")];
  await Promise.all([
    ...shown.map(async (person) => {
      const html = await part(under(`/fit/rows/${person}`));
      if (html) putRow(person, html);
    }),
    ...heads.map(async (head) => {
      const asked = new URLSearchParams(location.search);
      asked.set("group", head.dataset.group);
      const html = await part(`/fit/head?${asked}`);
      if (html && head.isConnected) put(head, html);
    }),
  ]);
  setTabStop();
}

/** Reads every chunk again that is filled. */
export async function refreshAllRows() {
  await Promise.all([...body.querySelectorAll(".chunk")].filter(isFilled).map(fill));
}

body.querySelector("template[data-total]")?.remove();
// Without scripts the list goes on on a page of its own.
body.querySelector(".more")?.remove();
for (const head of grid.querySelectorAll("[data-later]")) later.observe(head);
if (Number(grid.dataset.offset) % PAGE === 0) layChunks();
