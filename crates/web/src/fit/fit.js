// The Fit room's behaviour: what changes is told and shown, live changes arrive, the address follows. Shapes move here; every figure
// comes from the server.
import { send, tellChange, toast, whenStepped } from "/assets/frame/app.js";
import { follow, part } from "/assets/frame/news.js";
import { grid, room, rowsOf, setTabStop, turnTo, under } from "/assets/fit/room.js";
import { refreshAllRows, refreshRows, whenDrawn } from "/assets/fit/rows.js";
import { isDragging, startDrags } from "/assets/fit/drag.js";
import { isGripping, startKeys } from "/assets/fit/keys.js";
import { taken } from "/assets/fit/hold.js";
import { carry, mark, openBooking, openCell, refreshSheet, showProblem, startSheet } from "/assets/fit/sheet.js";
import { startHead } from "/assets/fit/head.js";

// ------------------------------------------------------------------------------------------------------------- changes

const strips = [["horizon", "/fit/horizon"], ["alerts", "/fit/alerts"], ["tray", "/fit/tray"]];
async function refreshStrip([id, path]) {
  const html = await part(under(path));
  if (html !== null) document.getElementById(id).innerHTML = html;
}

/** Brings the room up to date after a change: these people, or everybody. */
async function refresh(people) {
  const { band, alert, person, group } = room();
  await Promise.all([
    people && !band && !alert ? refreshRows(people) : refreshAllRows(),
    ...strips.map(refreshStrip),
    people === null || group || people.map(String).includes(person) ? refreshSheet() : null,
  ]);
  mark();
}

/** Tells what came of a change, and brings the room up to date. */
async function afterChange(answer, form = null, hold = null) {
  if (answer.aborted) return;
  if (answer.ok) {
    tellChange(answer.body, step);
    if (form) delete form.dataset.dirty;
    await refresh(answer.body.people ?? null);
    return;
  }
  const standing = answer.body.standing;
  const says = standing ? [`It stands at ${standing.says} now. Yours was not saved.`] : [];
  const again = standing?.booking && hold?.way ? () => anyway(hold, standing.booking) : null;
  toast(answer.body.message, says, null, true, again ? [["Do mine all the same", again], ["Leave theirs", () => {}]] : []);
  if (form) showProblem(form, answer.body);
  if (answer.status === 409 || answer.status === 404) await refresh(null);
}

/** Does what the hand did with the booking as it stands now. */
async function anyway(hold, booking) {
  await afterChange(await send(`/bookings/${hold.deed}`, { ...hold.fields, seen: JSON.stringify(booking), ...hold.way }));
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

// Who else is here: page → {person, name, until}.
const others = new Map();
const tab = Math.random().toString(36).slice(2, 12);
/** Milliseconds after which somebody who is not heard of is gone. */
const GONE = 25_000;

// -------------------------------------------------------------------------------------------------- rows that open, groups

/** Opens or closes a row, folds or unfolds a group. */
async function turn(link) {
  const row = link.closest(".row");
  if (row.dataset.person) {
    // The address may have changed since the row was drawn.
    const open = new Set((room().open ?? "").split(",").filter(Boolean));
    open.has(row.dataset.person) ? open.delete(row.dataset.person) : open.add(row.dataset.person);
    turnTo({ open: [...open].join(",") });
    await refreshRows([row.dataset.person]);
    return;
  }
  const turned = new Set((room().turned ?? "").split("~").filter(Boolean));
  turned.has(row.dataset.group) ? turned.delete(row.dataset.group) : turned.add(row.dataset.group);
  turnTo({ turned: [...turned].join("~") });
  const from = link.closest(".row").querySelector(".cell")?.dataset.from;
  await refreshAllRows();
  grid.querySelector(`.row[data-group="${CSS.escape(row.dataset.group)}"] .cell[data-from="${from}"] a`)?.focus({ preventScroll: true });
}
grid.addEventListener("click", (event) => {
  const link = event.target.closest("[data-turn]");
  if (!link || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  turn(link);
});

// What was taken along stays so when its row is drawn anew.
whenDrawn((row) => {
  for (const layer of row.querySelectorAll("[data-booking]")) layer.classList.toggle("taken", taken.has(layer.dataset.booking));
  const { person, at } = room();
  if (person && row.dataset.person === person) row.querySelector(`.cell[data-from="${at}"]`)?.setAttribute("aria-selected", "true");
  showPresence(row);
});

// ---------------------------------------------------------------------------------------------------------------- live

let waiting = []; // changes of others that came while something was in one's hand
const busy = () => isDragging() || isGripping();

function news(message) {
  if (message.kind === "presence") return hear(message);
  if (!message.fresh) return;
  const people = message.kind === "change" ? (message.people ?? null) : null;
  if (busy()) waiting.push(people);
  else refresh(people);
}
document.addEventListener("snug-drag-over", () => {
  if (!waiting.length || busy()) return;
  const all = waiting.some((people) => people === null) ? null : [...new Set(waiting.flat())];
  waiting = [];
  refresh(all);
});
follow(Number(grid.dataset.revision), news);

// ------------------------------------------------------------------------------------------------------------ presence

/** Milliseconds between two times that one is heard of. */
const AGAIN = 12_000;

async function hereIAm() {
  const { person } = room();
  if (!person || document.hidden) return;
  await fetch("/fit/presence", { method: "POST", headers: { "x-requested-with": "fetch" }, body: new URLSearchParams({ person, tab }) }).catch(() => null);
}
document.addEventListener("snug-here", hereIAm);
setInterval(hereIAm, AGAIN);

function hear({ person, name, tab: whose }) {
  if (whose === tab) return;
  const before = others.get(whose);
  others.set(whose, { person: String(person), name, until: Date.now() + GONE });
  for (const one of new Set([before?.person, String(person)])) if (one) rowsOf(one).forEach(showPresence);
  setTimeout(() => rowsOf(String(person)).forEach(showPresence), GONE + 50);
}

/** Who else looks at a row stands beside its name. */
function showPresence(row) {
  const who = row.querySelector(".who");
  who?.querySelector(".presence")?.remove();
  const here = [...others.values()].filter((one) => one.person === row.dataset.person && one.until > Date.now());
  if (!here.length || !who) return;
  const names = [...new Set(here.map((one) => one.name))].join(", ");
  who.append(Object.assign(document.createElement("span"), { className: "presence", textContent: `${names} is here`, title: `${names} looks at this row` }));
}

// ---------------------------------------------------------------------------------------------------------------- begin

setTabStop();
mark();
startSheet({ afterChange });
startKeys({ afterChange, refresh, turn });
startDrags({ openCell, openBooking, afterChange, refresh });
startHead({ carry, refreshStrip, strips, toast });
if (room().person) hereIAm();
document.documentElement.dataset.ready = "fit";
