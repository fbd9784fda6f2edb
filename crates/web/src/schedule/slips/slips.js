// Slips: people against days. Shapes move here; every figure comes from the server.
import { part } from "/assets/frame/news.js";
import { startHead } from "/assets/frame/head.js";
import { openGrid } from "/assets/grid/grid.js";

const press = (selector) => () => document.querySelector(selector)?.click();

/** Opens the form for a new task, with the day or the days that were drawn. */
export function addTask(grid, row, from, days = null) {
  return grid.openCell(row, from, () => {
    const details = document.getElementById("new");
    if (!details) return;
    details.open = true;
    const form = details.querySelector("form");
    if (days) [form.elements.start.value, form.elements.finish.value] = days;
    form.elements.title.focus();
  });
}

export const grid = openGrid({
  rows: "/schedule/slips/rows",
  row: (key) => `/schedule/slips/rows/${key}`,
  sheet: "/schedule/slips/sheet",
  strips: [["waiting", "/schedule/slips/waiting"]],
  deeds: "/schedule/slips",
  move: "slip",
  takers: ".row.person",
  splits: { key: "t", says: "Together: the first one keeps a part" },
  select: (key, at) => ({ person: key, at }),
  selected: ({ person }) => person ?? null,
  // Who has such work may change with every task.
  isListByFigures: ({ project, stage, kind, priority }) => Boolean(project || stage || kind || priority),
  draw: addTask,
  grips: {
    Delete: ({ seen }) => ["tray", { seen }],
  },
  keys: {
    f: () => document.querySelector('[data-filter] input[type="search"]').focus(),
    e: press("[data-earlier]"),
    l: press("[data-later]"),
    n: press("[data-now]"),
    t: () => document.querySelector("#tray input").focus(),
    a: (room, row, from) => addTask(room, row, from),
  },
  drawSays: "A new task from here to here",
  slipSays: "Drop on somebody’s day",
  nothingToGrip: ["No slip to grip here", ["a adds a task"]],
  alongSays: (many) => (many === 1 ? "1 slip is taken along" : `${many} slips are taken along`),
});

for (const select of document.querySelectorAll("[data-filter] select")) select.addEventListener("change", () => select.form.requestSubmit());
startHead(["person", "at", "offset"]);

// The finder of the tray looks while one types.
const finder = document.querySelector("[data-find]");
let typed;
async function find() {
  const words = finder.elements.find.value;
  grid.place.turnTo({ find: words || null });
  const html = await part(grid.place.under("/schedule/slips/waiting"));
  if (html !== null && finder.elements.find.value === words) document.getElementById("waiting").innerHTML = html;
}
finder.addEventListener("input", () => {
  clearTimeout(typed);
  typed = setTimeout(find, 150);
});
finder.addEventListener("submit", (event) => {
  event.preventDefault();
  find();
});

document.documentElement.dataset.ready = "slips";
