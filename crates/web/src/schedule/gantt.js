// The Gantt: its grid, and what stands around it. Shapes move here; every date and figure comes from the server.
import { send } from "/assets/frame/app.js";
import { startTakingAlong } from "/assets/frame/picture.js";
import { openGrid } from "/assets/grid/grid.js";

const press = (selector) => () => document.querySelector(selector)?.click();
const mode = () => (new URLSearchParams(location.search).get("mode") === "carry" ? "carry" : "push");

/** Draws a task's first dates on its empty row; one that has dates opens. */
async function draw(grid, row, from, days = null) {
  const { seen } = row.dataset;
  if (!days || !seen || row.querySelector("[data-shape]") || !row.matches(".leaf")) return grid.openCell(row, from);
  await grid.during(async () => grid.afterChange(await send("/schedule/tasks/dates", { seen, start: days[0], finish: days[1] })));
}

/** Opens one of the sheet's forms on a row. */
function open(grid, row, from, key) {
  return grid.openCell(row, from, () => {
    const details = document.querySelector(`#sheet [data-keep="${key}"]`);
    if (!details) return;
    details.open = true;
    details.querySelector("input:not([type=hidden])").focus();
  });
}

const link = (end) => (grid, row) => {
  const slip = row.querySelector(`[data-slip="link-${end}"]`);
  if (slip) grid.grip.take(slip);
};

export const grid = openGrid({
  rows: "/schedule/gantt/rows",
  row: (key) => `/schedule/gantt/rows/${key}`,
  sheet: "/schedule/gantt/sheet",
  strips: [["people", "/schedule/gantt/people"]],
  deeds: "/schedule/tasks",
  get move() {
    return mode();
  },
  takers: ".row:is(.leaf, .parent)",
  staysInRow: true,
  select: (key, at) => ({ row: key, at }),
  selected: ({ row }) => row ?? null,
  turns: () => ({ word: "fold", between: ",", all: true }),
  draw,
  grips: {
    Delete: ({ seen }) => ["tray", { seen }],
  },
  keys: {
    f: () => document.querySelector('[data-filter] input[type="search"]').focus(),
    e: press("[data-earlier]"),
    l: press("[data-later]:not(.row)"),
    n: press("[data-now]"),
    k: link("finish"),
    K: link("start"),
    a: (room, row, from) => open(room, row, from, "add"),
  },
  drawSays: "From here to here",
  slipSays: "Drop on the task that it holds",
  headSays: "Drop on the task or project that it is to be inside",
  nothingToGrip: ["No bar to grip here", ["Enter opens the task; give it dates there"]],
  alongSays: (many) => (many === 1 ? "1 task is taken along" : `${many} tasks are taken along`),
});

// A name opens its task.
grid.place.element.addEventListener("click", (event) => {
  const name = event.target.closest(".leaf-name");
  const row = name?.closest(".row");
  if (row) grid.openCell(row, grid.place.columns[0]);
});
for (const select of document.querySelectorAll("[data-filter] select")) select.addEventListener("change", () => select.form.requestSubmit());

// The outline is as wide as one wants it, by hand and by key; the browser keeps that.
const splitter = document.querySelector(".splitter");
const main = document.getElementById("main");
const KEPT = "gantt-outline";
function widen(pixels) {
  const width = Math.round(Math.max(160, Math.min(700, innerWidth - 300, pixels)));
  main.style.setProperty("--who", `${width}px`);
  splitter.setAttribute("aria-valuenow", width);
  localStorage.setItem(KEPT, width);
}
const width = () => grid.place.element.querySelector(".heads .who").getBoundingClientRect().width;
if (matchMedia("(min-width: 761px)").matches) {
  splitter.hidden = false;
  if (localStorage.getItem(KEPT)) widen(Number(localStorage.getItem(KEPT)));
  splitter.setAttribute("aria-valuenow", Math.round(width()));
  splitter.addEventListener("keydown", (event) => {
    const step = { ArrowLeft: -20, ArrowRight: 20 }[event.key];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    widen(width() + step);
  });
  splitter.addEventListener("pointerdown", (event) => {
    event.preventDefault();
    splitter.setPointerCapture(event.pointerId);
    const from = width() - event.clientX;
    const move = (moved) => widen(from + moved.clientX);
    splitter.addEventListener("pointermove", move);
    splitter.addEventListener("lostpointercapture", () => splitter.removeEventListener("pointermove", move), { once: true });
  });
}
startTakingAlong("gantt.png");

// Links of the row under the hand stand out.
const ways = grid.place.element.getElementsByClassName("ways");
let under = null;
grid.place.element.addEventListener("pointerover", (event) => {
  const key = event.target.closest?.(".row[data-key]")?.dataset.key;
  if (key === under) return;
  under = key;
  for (const { children } of ways) {
    for (const way of children) way.classList.toggle("of-row", way.dataset.from === key || way.dataset.to === key);
  }
});

document.documentElement.dataset.ready = "gantt";
