// Lists: the keyboard grid, typing in a cell, more rows as one scrolls, live changes. What is typed is checked by the server; a cell that
// is refused keeps what was typed and says why.
import { send, tellChange, toast } from "/assets/frame/app.js";
import { follow, part } from "/assets/frame/news.js";
import { fieldFor } from "/assets/records/field.js";
import { tickAgain, turn } from "/assets/records/bulk.js";
import "/assets/frame/suggest.js";

const table = document.getElementById("list");
const body = document.getElementById("rows");
let editing = null;

if (table) {
  setTabStop();
  watchMore();
  follow(Number(table.dataset.revision), ({ fresh }) => fresh && refresh());
}

/** Reads the rows anew, unless somebody is typing in one; then it waits until they are done. */
let stale = false;
async function refresh() {
  if (editing) return void (stale = true);
  stale = false;
  const at = position(document.activeElement?.closest?.("td"));
  const rows = await part(`${table.dataset.path}/rows${table.dataset.room}`);
  if (rows === null) return;
  if (editing) return void (stale = true);
  body.innerHTML = rows;
  tickAgain();
  watchMore();
  setTabStop(at && cellAt(...at));
  if (at) cellAt(...at)?.focus();
}

// ---------------------------------------------------------------------------------------------------------------- grid

const rowsOf = () => [...body.querySelectorAll("tr[data-id]")];
const position = (cell) => (cell ? [rowsOf().indexOf(cell.parentElement), [...cell.parentElement.children].indexOf(cell)] : null);
const cellAt = (row, column) => rowsOf()[row]?.children[column];

function setTabStop(cell = null) {
  const stop = cell ?? body.querySelector("td[role=gridcell]:not(.chosen)");
  body.querySelectorAll('td[tabindex="0"]').forEach((other) => (other.tabIndex = -1));
  if (stop) stop.tabIndex = 0;
}

const ways = { ArrowRight: [0, 1], ArrowLeft: [0, -1], ArrowDown: [1, 0], ArrowUp: [-1, 0] };
body?.addEventListener("keydown", (event) => {
  if (editing || event.ctrlKey || event.metaKey || event.altKey) return;
  const cell = event.target.closest("td[role=gridcell]");
  if (!cell) return;
  const way = ways[event.key];
  if (way) {
    const [row, column] = position(cell);
    const next = cellAt(row + way[0], column + way[1]);
    if (!next) return;
    event.preventDefault();
    setTabStop(next);
    next.focus();
  } else if (event.key === "x" || (cell.matches(".chosen") && [" ", "Enter"].includes(event.key))) {
    event.preventDefault();
    turn(cell.parentElement);
  } else if (event.key === "Enter" || event.key === "F2") {
    const link = event.key === "Enter" && cell.querySelector("a");
    event.preventDefault();
    if (link) link.click();
    else edit(cell);
  }
});
body?.addEventListener("dblclick", (event) => {
  const cell = event.target.closest("td[role=gridcell]");
  if (cell && !event.target.closest("a, input, select")) edit(cell);
});
body?.addEventListener("focusin", (event) => {
  const cell = event.target.closest("td[role=gridcell]");
  if (cell && !editing) setTabStop(cell);
});

// --------------------------------------------------------------------------------------------------------------- typing

function edit(cell) {
  if (editing || cell.matches(".chosen") || cell.getAttribute("aria-readonly") === "true") return;
  const head = table.querySelector(`th[data-column="${CSS.escape(cell.dataset.column)}"]`);
  const choices = JSON.parse(head.dataset.choices || "[]");
  const field = fieldFor({ input: head.dataset.input, choices, kind: table.dataset.kind, column: cell.dataset.column, value: cell.dataset.raw });
  field.setAttribute("aria-label", `${head.textContent.trim()}, ${cell.parentElement.querySelector(".name")?.textContent ?? ""}`);
  const kept = [...cell.childNodes];
  editing = { cell, field, kept };
  cell.replaceChildren(field);
  cell.classList.add("is-edited");
  field.focus();
  field.select?.();
  field.addEventListener("keydown", (event) => {
    if (event.key === "Escape") leave();
    if (event.key === "Enter") save();
    if (event.key === "Tab") save();
    if (["Escape", "Enter"].includes(event.key)) event.preventDefault();
    event.stopPropagation();
  });
  field.addEventListener("change", () => (field.tagName === "SELECT" || field.type === "checkbox") && save());
  field.addEventListener("blur", () => editing?.field === field && !editing.saving && save());
}

const typed = ({ field }) => (field.type === "checkbox" ? (field.checked ? "yes" : "") : field.value);

function leave() {
  const { cell, kept } = editing;
  editing = null;
  cell.classList.remove("is-edited");
  cell.replaceChildren(...kept);
  cell.focus();
  if (stale) refresh();
}

async function save() {
  const mine = editing;
  if (!mine || mine.saving) return;
  if (typed(mine) === mine.cell.dataset.raw) return leave();
  mine.saving = true;
  const row = mine.cell.parentElement;
  const fields = { column: mine.cell.dataset.column, value: typed(mine), seen: row.dataset.seen, room: table.dataset.room };
  const answer = await send(`${table.dataset.path}/${row.dataset.id}/cell`, fields);
  mine.saving = false;
  if (answer.ok) {
    const at = position(mine.cell);
    editing = null;
    row.outerHTML = answer.body.row;
    tickAgain();
    const cell = cellAt(...at);
    setTabStop(cell);
    if (document.activeElement === document.body) cell?.focus();
    tellChange(answer.body);
    if (stale) refresh();
    return;
  }
  mine.field.setAttribute("aria-invalid", "true");
  const standing = answer.body.standing?.says;
  const says = standing ? [`It stands so now: ${standing}`, "Yours was not saved. Press Esc to see theirs, then type again."] : [];
  toast(answer.body.message, says, null, true);
  if (standing) stale = true;
  mine.field.focus();
}

// ------------------------------------------------------------------------------------------------------------ more rows

function watchMore() {
  const seen = new IntersectionObserver((entries) => {
    for (const entry of entries) if (entry.isIntersecting) load(entry.target, seen);
  });
  body.querySelectorAll("[data-more]").forEach((link) => seen.observe(link));
}

async function load(link, seen) {
  seen.unobserve(link);
  const rows = await part(link.getAttribute("href"));
  if (rows === null || !link.isConnected) return;
  link.closest("tr").outerHTML = rows;
  tickAgain();
  watchMore();
}

body?.addEventListener("click", (event) => {
  const link = event.target.closest("[data-more]");
  if (!link) return;
  event.preventDefault();
  load(link, { unobserve() {} });
});

// ----------------------------------------------------------------------------------------------------------------- keys

document.querySelector("[data-filter]")?.addEventListener("change", (event) => {
  if (event.target.matches("select")) event.currentTarget.requestSubmit();
});

document.addEventListener("keydown", (event) => {
  if (event.target.matches("input, select, textarea") || document.querySelector("dialog[open]")) return;
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const act = {
    c: () => document.querySelector("[data-new]")?.click(),
    f: () => document.querySelector("[data-filter] input[type=search]").focus(),
  }[event.key];
  if (!act) return;
  event.preventDefault();
  act();
});

document.documentElement.dataset.ready = "list";
