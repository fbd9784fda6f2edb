// The Fit room: its grid, and what stands around it. Shapes move here; every figure comes from the server.
import { openGrid } from "/assets/grid/grid.js";
import { startControls } from "/assets/fit/script/controls.js";

const press = (selector) => () => document.querySelector(selector)?.click();

/** Opens the form that books time, with the cell's or the drawn days. */
function book(grid, row, from, days = null) {
  return grid.openCell(row, from, () => {
    const details = document.getElementById("book");
    if (!details) return;
    details.open = true;
    const form = details.querySelector("form");
    if (days) [form.elements.start.value, form.elements.end.value] = days;
    form.elements.amount.focus();
  });
}

const isGroup = (key) => key?.includes(":");

export const grid = openGrid({
  rows: "/fit/rows",
  row: (key) => `/fit/rows/${key}`,
  sum: "/fit/head",
  sheet: "/fit/sheet",
  presence: "/fit/presence",
  strips: [["horizon", "/fit/horizon"], ["alerts", "/fit/alerts"], ["waiting", "/fit/tray"]],
  deeds: "/bookings",
  move: "move",
  takers: ".row.person",
  select: (key, at) => ({ person: isGroup(key) ? null : key, group: isGroup(key) ? key : null, at }),
  selected: ({ person, group }) => person ?? group ?? null,
  turns: (key) => (isGroup(key) ? { word: "turned", between: "~", all: true } : { word: "open", between: ",", all: false }),
  // Who is in such a list may change with every figure.
  isListByFigures: ({ band, alert }) => Boolean(band || alert),
  marked: (place) => document.querySelectorAll("[data-ics]").forEach((link) => (link.href = place.under("/fit/export/ics"))),
  draw: book,
  grips: {
    p: ({ seen, shape }) => ["certainty", { seen, certainty: shape.classList.contains("pencilled") ? "firm" : "pencilled" }],
    c: ({ seen, shift, to }) => ["copy", { seen, shift: shift || 7, ...(to ? { to } : {}) }],
    Delete: ({ all }) => ["remove", { seen: all }],
  },
  keys: {
    f: () => document.querySelector('[data-filter] input[type="search"]').focus(),
    e: press("[data-earlier]"),
    l: press("[data-later]:not(.row)"),
    n: press("[data-now]"),
    t: () => document.querySelector("#tray .slip")?.focus(),
    w: press("#alerts a"),
    b: (room, row, from) => book(room, row, from),
  },
  drawSays: "Book here",
  slipSays: "Drop on somebody’s row",
  headSays: "Drop on an open seat to fill it",
  nothingToGrip: ["No booking to grip here", ["b books time in this cell"]],
  alongSays: (many) => (many === 1 ? "1 booking is taken along" : `${many} bookings are taken along`),
});
startControls(grid);
document.documentElement.dataset.ready = "fit";
