// The Fit room's behaviour: the keyboard grid, the side sheet, drags, live changes. Shapes move here; every figure comes from the
// server.
import { toast, send, showSteps, whenStepped } from "/assets/frame/app.js";
import { follow } from "/assets/frame/news.js";
import { startDrags } from "/assets/fit/drag.js";

const grid = document.getElementById("grid");
const sheet = document.getElementById("sheet");
const address = () => new URL(location.href);
const room = () => Object.fromEntries(address().searchParams);

/** Fetches a fragment of the page; null when it cannot be had. */
async function fragment(path) {
  try {
    const response = await fetch(path, { headers: { "x-requested-with": "fetch" } });
    if (response.redirected && response.url.includes("/sign-in")) location.assign("/sign-in");
    return response.ok ? await response.text() : null;
  } catch {
    return null;
  }
}

const under = (path) => path + address().search;

// ---------------------------------------------------------------------------------------------------------------- rows

/** Replaces a row by its markup, keeping focus on the cell that had it. */
export function putRow(person, html) {
  const rows = grid.querySelectorAll(`.row[data-person="${person}"]`);
  for (const row of rows) {
    const focused = row.querySelector("a:focus")?.closest(".cell")?.dataset.from;
    row.outerHTML = html;
    if (focused) cellOf(person, focused)?.querySelector("a").focus({ preventScroll: true });
  }
}

const cellOf = (person, from) => grid.querySelector(`.row[data-person="${person}"] .cell[data-from="${from}"]`);

async function refreshRows(people) {
  const shown = people.filter((person) => grid.querySelector(`.row[data-person="${person}"]`));
  await Promise.all(
    shown.map(async (person) => {
      const html = await fragment(under(`/fit/rows/${person}`));
      if (html) putRow(person, html);
    }),
  );
  setTabStop();
}

async function refreshAllRows() {
  const html = await fragment(under("/fit/rows"));
  if (html) document.getElementById("rows").innerHTML = html;
  setTabStop();
}

async function refreshHorizon() {
  const html = await fragment(under("/fit/horizon"));
  if (html) document.getElementById("horizon").innerHTML = html;
}

/** Brings the room up to date after a change: these people, or everybody. */
export async function refresh(people) {
  const heads = grid.querySelector(".row.head");
  const filtered = address().searchParams.get("band");
  await Promise.all([
    people && !heads && !filtered ? refreshRows(people) : refreshAllRows(),
    refreshHorizon(),
    people === null || people.map(String).includes(room().person) ? refreshSheet() : null,
  ]);
}

// More rows come as one scrolls to the end.
const seen = new IntersectionObserver((entries) => {
  for (const entry of entries) if (entry.isIntersecting) loadMore(entry.target);
});
async function loadMore(link) {
  seen.unobserve(link);
  const html = await fragment(link.getAttribute("href"));
  if (html) link.closest(".more").outerHTML = html;
  watchMore();
}
function watchMore() {
  grid.querySelectorAll("[data-more]").forEach((link) => seen.observe(link));
}
watchMore();
grid.addEventListener("click", (event) => {
  const link = event.target.closest("[data-more]");
  if (!link) return;
  event.preventDefault();
  loadMore(link);
});

// ---------------------------------------------------------------------------------------------------------- side sheet

/** Opens the side sheet on a cell, without leaving the page. */
export async function openCell(person, from, then) {
  const next = address();
  next.searchParams.set("person", person);
  next.searchParams.set("at", from);
  history.replaceState(null, "", next);
  mark();
  await refreshSheet(true);
  then?.();
}

function mark() {
  const { person, at } = room();
  grid.querySelectorAll('.cell[aria-selected="true"]').forEach((cell) => cell.setAttribute("aria-selected", "false"));
  const cell = person && cellOf(person, at);
  cell?.setAttribute("aria-selected", "true");
  if (cell) setTabStop(cell);
}

async function refreshSheet(fresh = false) {
  if (!room().person) return;
  // What somebody is typing is not taken from under their hands.
  if (!fresh && sheet.querySelector("form[data-dirty]")) return;
  const open = fresh ? [] : [...sheet.querySelectorAll("details[open][data-booking-form]")].map((d) => d.dataset.bookingForm);
  const html = await fragment(under("/fit/sheet"));
  if (!html) return;
  sheet.innerHTML = html;
  sheet.hidden = false;
  sheet.parentElement.classList.add("with-sheet");
  for (const id of open) sheet.querySelector(`[data-booking-form="${id}"]`)?.setAttribute("open", "");
}

function closeSheet() {
  const { person, at } = room();
  const next = address();
  next.searchParams.delete("person");
  next.searchParams.delete("at");
  history.replaceState(null, "", next);
  sheet.hidden = true;
  sheet.parentElement.classList.remove("with-sheet");
  mark();
  cellOf(person, at)?.querySelector("a").focus();
}

sheet.addEventListener("click", (event) => {
  if (!event.target.closest("[data-close]")) return;
  event.preventDefault();
  closeSheet();
});

/** Opens the form that books time, with the cell's or the drawn days. */
export function openBooking(person, at, start, end) {
  return openCell(person, at, () => {
    const details = sheet.querySelector("#book");
    if (!details) return;
    details.open = true;
    const form = details.querySelector("form");
    if (start) form.elements.start.value = start;
    if (end) form.elements.end.value = end;
    form.elements.amount.focus();
  });
}

// ------------------------------------------------------------------------------------------------------------- changes

/** Tells what came of a change, and brings the room up to date. */
export async function afterChange(answer, form = null) {
  if (answer.aborted) return;
  if (answer.ok) {
    toast(answer.body.message, answer.body.says, answer.body.undo ? () => step("/undo") : null);
    if (form) delete form.dataset.dirty;
    await refresh(answer.body.people ?? null);
    if (answer.body.steps) showSteps(answer.body.steps);
    return;
  }
  const standing = answer.body.standing;
  const says = standing ? [`It stands at ${standing.says} now. Yours was not saved; look again and choose.`] : [];
  toast(answer.body.message, says, null, true);
  if (form) showProblem(form, answer.body);
  if (answer.status === 409 || answer.status === 404) await refresh(null);
}

function showProblem(form, problem) {
  const says = form.querySelector(".says");
  const field = problem.field && form.elements[problem.field];
  if (says) says.replaceChildren(line(problem.message, "problem"), ...(problem.standing ? [line(`Theirs: ${problem.standing.says}`)] : []));
  if (field) {
    field.setAttribute("aria-invalid", "true");
    field.focus();
  }
}

function line(text, kind = "") {
  const span = document.createElement("span");
  span.className = kind;
  span.textContent = text;
  return span;
}

async function step(path) {
  await afterChange(await send(path, {}));
}

whenStepped(step);

for (const form of document.querySelectorAll("[data-undo], [data-redo]")) {
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    step(form.getAttribute("action"));
  });
}

sheet.addEventListener("submit", async (event) => {
  const form = event.target.closest("form[data-act]");
  if (!form) return;
  event.preventDefault();
  const button = form.querySelector("button");
  button.disabled = true;
  const answer = await send(form.getAttribute("action"), new FormData(form));
  button.disabled = false;
  await afterChange(answer, form);
});

// What a form would do is said while it is filled in.
let asking;
sheet.addEventListener("input", (event) => {
  const form = event.target.closest("form[data-preview]");
  if (!form) return;
  form.dataset.dirty = "";
  event.target.removeAttribute("aria-invalid");
  clearTimeout(asking?.timer);
  asking?.abort?.abort();
  const abort = new AbortController();
  asking = { abort, timer: setTimeout(() => ask(form, abort.signal), 250) };
});

async function ask(form, signal) {
  const says = form.querySelector(".says");
  if (!form.elements.amount.value) return says.replaceChildren();
  const fields = new FormData(form);
  fields.set("what", fields.get("seen") ? "change" : "place");
  fields.set("room", JSON.stringify(room()));
  const answer = await send("/bookings/preview", fields, signal);
  if (answer.aborted) return;
  const lines = answer.ok ? answer.body.says.map((text) => line(text)) : [line(answer.body.message, "problem")];
  says.replaceChildren(...lines);
}

// ------------------------------------------------------------------------------------------------------------ keyboard

const cells = () => [...grid.querySelectorAll('[role="gridcell"].cell > a')];

/** One cell of the grid is reached by Tab; arrows go on from there. */
function setTabStop(cell = null) {
  const all = cells();
  const stop = cell?.querySelector("a") ?? all.find((link) => link.tabIndex === 0) ?? all[0];
  all.forEach((link) => (link.tabIndex = link === stop ? 0 : -1));
}

const steps = { ArrowRight: [0, 1], ArrowLeft: [0, -1], ArrowDown: [1, 0], ArrowUp: [-1, 0] };

grid.addEventListener("keydown", (event) => {
  const cell = event.target.closest?.(".cell");
  const step = steps[event.key];
  if (!cell || !step || event.altKey || event.ctrlKey || event.metaKey) return;
  const rows = [...grid.querySelectorAll(".row[data-person]")];
  const row = rows.indexOf(cell.closest(".row"));
  const inRow = [...cell.parentElement.children];
  const next = rows[row + step[0]]?.querySelectorAll(".cell")[inRow.indexOf(cell) + step[1]];
  if (!next) return;
  event.preventDefault();
  setTabStop(next);
  next.querySelector("a").focus();
});

grid.addEventListener("click", (event) => {
  const link = event.target.closest(".cell > a");
  if (!link || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  const person = link.closest(".row").dataset.person;
  openCell(person, link.closest(".cell").dataset.from, () => {
    if (event.detail === 0) document.getElementById("sheet-title")?.focus();
  });
});

document.addEventListener("keydown", (event) => {
  const typing = event.target.matches("input, select, textarea") || document.querySelector("dialog[open]");
  if (event.key === "Escape" && !sheet.hidden && !document.querySelector("dialog[open]")) return closeSheet();
  if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
  const cell = event.target.closest?.(".cell");
  const act = {
    f: () => document.querySelector('[data-filter] input[type="search"]').focus(),
    e: () => document.querySelector("[data-earlier]").click(),
    l: () => document.querySelector("[data-later]").click(),
    n: () => document.querySelector("[data-now]").click(),
    b: cell ? () => openBooking(cell.closest(".row").dataset.person, cell.dataset.from) : null,
  }[event.key];
  if (!act) return;
  event.preventDefault();
  act();
});

// A choice in a select filters at once; without scripts there is the button.
document.querySelector("[data-filter]").addEventListener("change", (event) => {
  if (event.target.matches("select")) event.currentTarget.requestSubmit();
});

// ----------------------------------------------------------------------------------------------------------- the brush

const horizon = document.getElementById("horizon");
if (!horizon.querySelector("[data-horizon]")) refreshHorizon();
let brushing = null;
const weekAt = (event) => document.elementFromPoint(event.clientX, event.clientY)?.closest?.("[data-week]")?.dataset.week;
horizon.addEventListener("pointerdown", (event) => {
  const week = event.button === 0 && weekAt(event);
  if (!week) return;
  brushing = { from: week, to: week };
});
horizon.addEventListener("dragstart", (event) => event.preventDefault());
document.addEventListener("pointermove", (event) => {
  if (brushing) brushing.to = weekAt(event) ?? brushing.to;
});
document.addEventListener("pointerup", () => {
  if (!brushing) return;
  const [first, last] = [brushing.from, brushing.to].sort();
  brushing = null;
  if (first === last) return; // a click: the bar is a link
  const weeks = [...horizon.querySelectorAll("[data-week]")].map((bar) => bar.dataset.week);
  const next = address();
  next.searchParams.set("from", first);
  next.searchParams.set("weeks", weeks.indexOf(last) - weeks.indexOf(first) + 1);
  next.searchParams.delete("by");
  location.assign(next);
});

// ---------------------------------------------------------------------------------------------------------------- live

let revision = Number(grid.dataset.revision);

function news(message) {
  if (message.kind === "reload" || (message.kind === "hello" && message.revision > revision)) refresh(null);
  if (message.kind === "change" && message.revision > revision) refresh(message.people);
  if (message.revision) revision = Math.max(revision, message.revision);
}

follow(news);

setTabStop();
mark();
startDrags({ grid, room, putRow, openCell, openBooking, afterChange, refresh });
document.documentElement.dataset.ready = "fit";
