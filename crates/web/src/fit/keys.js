// The keyboard: arrows between cells, and a grip that does everything a drag does.
import { cellAt, dayIndex, days, dayText, grid, mayBook, setTabStop, sheet } from "/assets/fit/room.js";
import { Hold, hideTip, leaveAll, newGhost, placeGhost, seenWith, showTip, takeAlong, taken } from "/assets/fit/hold.js";
import { boxOf, isDragging, thickness } from "/assets/fit/drag.js";
import { closeSheet, openBooking, openCell } from "/assets/fit/sheet.js";
import { send } from "/assets/frame/app.js";

const ROWS = ".row[data-person], .row[data-group], .row[data-seat]";
const steps = { ArrowRight: [0, 1], ArrowLeft: [0, -1], ArrowDown: [1, 0], ArrowUp: [-1, 0] };
/** A step of the thickness, in minutes. */
const THICK = 15;

let grip = null;
export const isGripping = () => grip !== null;

export function startKeys({ afterChange, refresh, turn }) {
  grid.addEventListener("keydown", (event) => {
    const cell = event.target.closest?.(".cell");
    const step = steps[event.key];
    if (grip || !cell || !step || event.altKey || event.ctrlKey || event.metaKey) return;
    const rows = [...grid.querySelectorAll(ROWS)];
    const row = rows.indexOf(cell.closest(".row"));
    const at = [...cell.parentElement.children].indexOf(cell) + step[1];
    let to = row + step[0];
    while (step[0] && rows[to] && !rows[to].querySelector(".cell")) to += step[0];
    const next = rows[to]?.querySelectorAll(".cell")[at];
    if (!next) return;
    event.preventDefault();
    setTabStop(next);
    next.querySelector("a").focus();
    next.scrollIntoView({ block: "nearest" });
  });

  document.addEventListener("keydown", (event) => {
    const typing = event.target.matches("input, select, textarea") || document.querySelector("dialog[open]");
    if (typing || event.ctrlKey || event.metaKey || event.altKey || isDragging()) return;
    if (grip) return inGrip(event);
    if (event.key === "Escape") {
      if (taken.size) return leaveAll();
      if (!sheet.hidden) closeSheet();
      return;
    }
    const cell = event.target.closest?.(".cell");
    const row = cell?.closest(".row");
    const act = {
      f: () => document.querySelector('[data-filter] input[type="search"]').focus(),
      e: () => document.querySelector("[data-earlier]").click(),
      l: () => document.querySelector("[data-later]:not(.row)").click(),
      n: () => document.querySelector("[data-now]").click(),
      t: () => document.querySelector("#tray .slip")?.focus(),
      w: () => document.querySelector("#alerts a")?.click(),
      b: row ? () => openBooking(row, cell.dataset.from) : null,
      d: row?.querySelector("[data-turn]") ? () => turn(row.querySelector("[data-turn]")) : null,
      g: mayBook ? () => take(event.target) : null,
    }[event.key];
    if (!act) return;
    event.preventDefault();
    act();
  });

  grid.addEventListener("click", (event) => {
    const link = event.target.closest(".cell > a");
    if (!link || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    openCell(link.closest(".row"), link.closest(".cell").dataset.from, () => {
      if (event.detail === 0) document.getElementById("sheet-title")?.focus();
    });
  });

  // ------------------------------------------------------------------------------------------------------------ the grip

  /** Grips the first booking under a cell, or a slip of the tray. */
  function take(target) {
    const slip = target.closest?.("[data-slip]");
    if (slip) return takeSlip(slip);
    const cell = target.closest?.(".cell");
    if (!cell) return;
    const layers = layersUnder(cell);
    if (!layers.length) return say("No booking to grip here", ["b books time in this cell"], cell);
    hold(layers[0], cell, 0);
  }

  /** The layers that touch a cell, from the floor up. */
  function layersUnder(cell) {
    const box = cell.getBoundingClientRect();
    const over = (layer) => [...layer.querySelectorAll("rect")].some((rect) => {
      const one = rect.getBoundingClientRect();
      return one.right > box.left + 1 && one.left < box.right - 1;
    });
    return [...cell.closest(".row").querySelectorAll("[data-booking]")].filter(over);
  }

  function hold(layer, cell, at) {
    const row = cell.closest(".row");
    const box = cell.getBoundingClientRect();
    grip = {
      kind: "booking", cell: { row: row.dataset.person ?? row.dataset.seat, from: cell.dataset.from }, at,
      id: layer.dataset.booking, name: layer.querySelector("title").textContent, pencilled: layer.classList.contains("pencilled"),
      person: row.dataset.person, mode: "whole", shift: 0, start: 0, end: 0, thick: null, to: null,
      seen: layer.dataset.seen, box: boxOf(layer), day: Math.max(dayIndex(cell.dataset.from), dayIndex(layer.dataset.start)),
      base: Math.round((thickness(layer, box.left + 3) / Number(row.dataset.hour)) * 60),
      hold: new Hold("move", { seen: seenWith(layer) }, tell), layer, origin: layer.closest(".track").getBoundingClientRect(),
    };
    draw();
    say(`Gripped: ${grip.name}`, ["← → day, Shift week · ↑ ↓ to somebody · s, f its ends · + − thicker · Enter does it, Esc does not"]);
  }

  function takeSlip(slip) {
    const seat = slip.dataset.slip === "seat";
    const fields = seat ? { seen: slip.dataset.seen } : { task: slip.dataset.seen };
    const rows = [...grid.querySelectorAll(".row[data-person]")];
    const start = slip.dataset.start ? dayIndex(slip.dataset.start) : 0;
    grip = { kind: "slip", slip, seat, row: -1, rows, day: Math.max(0, Math.min(days - 1, start)), hold: new Hold(seat ? "hand-over" : "drop", fields, tell) };
    say(`Gripped: ${slip.textContent.trim()}`, ["↑ ↓ choose who, ← → choose the day, Enter drops it, Esc does not"], slip);
  }

  const tell = (title, lines) => grip && say(title, lines);

  function say(title, lines, near = null) {
    const box = (near ?? (grip?.kind === "slip" ? grip.rows[grip.row] ?? grip.slip : grip?.ghost) ?? grid).getBoundingClientRect();
    showTip(title, lines, { x: Math.max(0, box.left), y: box.bottom });
    if (!grip) setTimeout(() => !grip && hideTip(), 2500);
  }

  function draw() {
    grip.ghost ??= newGhost();
    if (grip.kind === "slip") {
      const track = grip.rows[grip.row]?.querySelector(".track").getBoundingClientRect();
      grip.ghost.hidden = !track;
      if (!track) return;
      placeGhost(grip.ghost, { left: track.left + (track.width / days) * grip.day, width: (track.width / days) * 3, top: track.top + 2, height: track.height - 4 });
      grip.rows[grip.row].scrollIntoView({ block: "nearest" });
      return;
    }
    const wide = grip.origin.width / days;
    const target = grip.to ? grid.querySelector(`.row[data-person="${grip.to}"] .track`)?.getBoundingClientRect() : null;
    const top = target ? target.top + (grip.box.top - grip.origin.top) : grip.box.top;
    placeGhost(grip.ghost, {
      left: grip.box.left + wide * (grip.shift + grip.start),
      width: Math.max(wide / 2, grip.box.right - grip.box.left + wide * (grip.end - grip.start)),
      top,
      height: Math.max(6, grip.box.height),
    });
  }

  function wayOf() {
    if (grip.kind === "slip") {
      const person = grip.rows[grip.row]?.dataset.person;
      return grip.seat ? { to: person } : { to: person, at: dayText(grip.day) };
    }
    const way = { shift: grip.shift, start_shift: grip.start, end_shift: grip.end };
    if (grip.to) way.to = grip.to;
    if (grip.thick !== null) Object.assign(way, { at: dayText(grip.day), minutes: grip.thick });
    return way;
  }

  function move() {
    draw();
    grip.hold.ask(wayOf());
  }

  function inGrip(event) {
    const step = steps[event.key];
    const weeks = event.shiftKey ? 7 : 1;
    const bookings = grip.kind === "booking";
    let act = {
      Escape: giveUp,
      Enter: drop,
      g: bookings ? next : null,
      m: bookings ? () => mode("whole", "As a whole") : null,
      s: bookings ? () => mode("start", "Its start: ← → stretch it") : null,
      f: bookings ? () => mode("end", "Its finish: ← → stretch it") : null,
      "+": bookings ? () => thicker(1) : null,
      "=": bookings ? () => thicker(1) : null,
      "-": bookings ? () => thicker(-1) : null,
      p: bookings ? () => now("certainty", { seen: grip.seen, certainty: grip.pencilled ? "firm" : "pencilled" }) : null,
      c: bookings ? () => now("copy", { seen: grip.seen, shift: grip.shift || 7, ...(grip.to ? { to: grip.to } : {}) }) : null,
      Delete: bookings ? () => now("remove", { seen: seenWith(grip.layer) }) : null,
      x: bookings ? along : null,
    }[event.key];
    if (step) act = () => arrow(step, weeks);
    event.preventDefault();
    event.stopPropagation();
    act?.();
  }

  function arrow([down, right], weeks) {
    if (grip.kind === "slip") {
      grip.row = Math.max(0, Math.min(grip.rows.length - 1, grip.row + down + (grip.row < 0 && !down ? 1 : 0)));
      grip.day = Math.max(0, Math.min(days - 1, grip.day + right * weeks));
      return move();
    }
    if (down && grip.mode === "whole" && grip.person) {
      const people = [...new Set([...grid.querySelectorAll(".row[data-person]")].map((row) => row.dataset.person))];
      const at = people.indexOf(grip.to ?? grip.person) + down;
      if (people[at]) grip.to = people[at] === grip.person ? null : people[at];
    }
    if (right && grip.mode === "whole") grip.shift += right * weeks;
    if (right && grip.mode === "start") grip.start += right * weeks;
    if (right && grip.mode === "end") grip.end += right * weeks;
    move();
  }

  function mode(which, says) {
    grip.mode = which;
    say(says, [grip.name]);
  }

  function thicker(by) {
    grip.thick = Math.max(THICK, (grip.thick ?? grip.base) + by * THICK);
    move();
  }

  /** The next booking of the same cell. */
  function next() {
    const { cell, at } = grip;
    const row = grid.querySelector(`.row[data-person="${cell.row}"], .row[data-seat="${cell.row}"]`);
    letGo().giveUp();
    const again = row && cellAt(row, dayIndex(cell.from));
    const layers = again ? layersUnder(again) : [];
    if (layers.length) hold(layers[(at + 1) % layers.length], again, (at + 1) % layers.length);
  }

  function along() {
    takeAlong(grip.layer);
    const { cell } = grip;
    letGo().giveUp();
    focusCell(cell);
    say(taken.size === 1 ? "1 booking is taken along" : `${taken.size} bookings are taken along`, ["g on one of them grips them all, Esc leaves them"], document.activeElement);
  }

  function focusCell(cell) {
    grid.querySelector(`.row[data-person="${cell.row}"] .cell[data-from="${cell.from}"] a, .row[data-seat="${cell.row}"] .cell[data-from="${cell.from}"] a`)?.focus();
  }

  function letGo() {
    const { hold, ghost } = grip;
    ghost?.remove();
    hideTip();
    grip = null;
    document.dispatchEvent(new Event("snug-drag-over"));
    return hold;
  }

  function giveUp() {
    const { cell, slip } = grip;
    letGo().giveUp();
    cell ? focusCell(cell) : slip?.focus();
  }

  async function drop() {
    const { cell, hold: held } = grip;
    held.way = wayOf();
    const idle = grip.kind === "booking" && Object.values(held.way).every((value) => !value);
    if (idle || (grip.kind === "slip" && grip.row < 0)) return giveUp();
    letGo();
    await done(await held.drop(), held, cell);
  }

  /** A deed of the grip that needs no way. */
  async function now(deed, fields) {
    const { cell } = grip;
    const held = letGo();
    held.giveUp();
    await done(await send(`/bookings/${deed}`, fields), held, cell);
  }

  async function done(answer, held, cell) {
    await afterChange(answer, null, held);
    if (answer.ok) {
      leaveAll();
      await refresh(held.touched());
    }
    if (cell) focusCell(cell);
  }
}
