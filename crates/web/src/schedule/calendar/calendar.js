// The calendar: rows of days. Shapes move here; every date and figure comes from the server.
import { startHead } from "/assets/frame/head.js";
import { openGrid } from "/assets/grid/grid.js";

const press = (selector) => () => document.querySelector(selector)?.click();

/** Opens the form for a new task, with the day or the days that were drawn. */
function addTask(grid, row, from, days = null) {
  return grid.openCell(row, from, () => {
    const details = document.getElementById("new");
    if (!details) return;
    details.open = true;
    const form = details.querySelector("form");
    if (days) [form.elements.start.value, form.elements.finish.value] = days;
    form.elements.title.focus();
  });
}

startHead(["at"]);

if (document.getElementById("grid")) {
  const rowOf = (at) => [...document.querySelectorAll("#rows .row")].filter((row) => row.dataset.from <= at).at(-1)?.dataset.key ?? null;
  openGrid({
    rows: "/schedule/calendar/rows",
    row: (key) => `/schedule/calendar/rows/${key}`,
    sheet: "/schedule/calendar/sheet",
    deeds: "/schedule/calendar",
    move: "slip",
    takers: ".row.week",
    staysInRow: true,
    rowsAreDays: true,
    select: (_, at) => ({ at }),
    selected: ({ at }) => (at ? rowOf(at) : null),
    // Every row may look otherwise: who is in view hangs on the tasks of all of them.
    isListByFigures: () => true,
    draw: addTask,
    grips: {
      Delete: ({ seen }) => ["tray", { seen }],
    },
    keys: {
      e: press("[data-earlier]"),
      l: press("[data-later]"),
      n: press("[data-now]"),
      a: (grid, row, from) => addTask(grid, row, from),
    },
    drawSays: "A new task from here to here",
    slipSays: "",
    nothingToGrip: ["No bar to grip here", ["a adds a task"]],
    alongSays: (many) => (many === 1 ? "1 task is taken along" : `${many} tasks are taken along`),
  });
}

document.documentElement.dataset.ready = "calendar";
