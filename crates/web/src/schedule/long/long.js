// The long view: teams against weeks or months. Shapes move here; every figure comes from the server.
import { startHead } from "/assets/frame/head.js";
import { openGrid } from "/assets/grid/grid.js";

const press = (selector) => () => document.querySelector(selector)?.click();

/** Opens the form for new work, with the column or the days that were drawn. */
function addWork(grid, row, from, days = null) {
  return grid.openCell(row, from, () => {
    const details = document.getElementById("new");
    if (!details) return;
    details.open = true;
    const form = details.querySelector("form");
    if (days) [form.elements.start.value, form.elements.finish.value] = days;
    form.elements.title.focus();
  });
}

openGrid({
  rows: "/schedule/long/rows",
  row: (key) => `/schedule/long/rows/${key}`,
  sheet: "/schedule/long/sheet",
  deeds: "/schedule/long",
  move: "item",
  takers: ".row.team",
  splits: { key: "t", says: "Together: both teams do half of it" },
  /** A step of the thickness, in minutes. */
  thick: 240,
  select: (key, at) => ({ row: key, at }),
  selected: ({ row }) => row ?? null,
  draw: addWork,
  grips: {
    Delete: ({ seen }) => ["tray", { seen }],
  },
  keys: {
    f: () => document.querySelector('[data-filter] input[type="search"]').focus(),
    e: press("[data-earlier]"),
    l: press("[data-later]"),
    n: press("[data-now]"),
    a: (grid, row, from) => addWork(grid, row, from),
  },
  drawSays: "New work from here to here",
  slipSays: "",
  nothingToGrip: ["No item to grip here", ["a adds work for the team"]],
  alongSays: (many) => (many === 1 ? "1 item is taken along" : `${many} items are taken along`),
});

for (const select of document.querySelectorAll("[data-filter] select")) select.addEventListener("change", () => select.form.requestSubmit());
startHead(["row", "at", "offset"]);

document.documentElement.dataset.ready = "long";
