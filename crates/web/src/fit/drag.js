// Drags: a layer moves, its ends stretch, its top edge changes how much, empty space is drawn on; a slip of the tray is dropped on
// somebody, and somebody on an open seat. Shapes move here; every figure comes from the server.
import { cellAt, dayAt, dayIndex, dayIn, days, dayText, grid, mayBook, scroller } from "/assets/fit/room.js";
import { Hold, hideTip, leaveAll, moveTip, newGhost, placeGhost, seenWith, showTip, takeAlong } from "/assets/fit/hold.js";

/** Pixels within which a hand means an edge. */
const EDGE = 6;
/** Milliseconds for which a finger rests before it drags; a shorter touch scrolls. */
const REST = 350;
/** In longer windows a hand means weeks. */
const BY_WEEKS = 120;

let drag = null;
export const isDragging = () => drag !== null;

const boxesOf = (layer) => [...layer.querySelectorAll("rect")].map((rect) => rect.getBoundingClientRect());
export function boxOf(layer) {
  const boxes = boxesOf(layer);
  const [left, top] = [Math.min(...boxes.map((b) => b.left)), Math.min(...boxes.map((b) => b.top))];
  return { left, top, right: Math.max(...boxes.map((b) => b.right)), height: Math.max(...boxes.map((b) => b.bottom)) - top };
}

/** What a hand at this point of a layer means. */
function meant(layer, event) {
  const boxes = boxesOf(layer);
  const { left, right } = boxOf(layer);
  const under = boxes.find((box) => event.clientX >= box.left && event.clientX <= box.right) ?? boxes[0];
  const edge = Math.min(EDGE, (right - left) / 4);
  const visible = (day) => dayIndex(day) >= 0 && dayIndex(day) < days;
  if (event.clientX - left < edge && visible(layer.dataset.start)) return "start";
  if (right - event.clientX < edge && visible(layer.dataset.end)) return "end";
  return event.clientY - under.top < Math.min(5, under.height / 3) ? "top" : "whole";
}

/** How thick a layer is at a point, in pixels. */
export function thickness(layer, x) {
  const boxes = boxesOf(layer);
  return (boxes.find((box) => x >= box.left && x <= box.right) ?? boxes[0]).height;
}

export function startDrags({ openCell, openBooking, afterChange, refresh }) {
  grid.addEventListener("pointermove", (event) => {
    const layer = !drag && event.target.closest?.("[data-booking]");
    if (!layer) return;
    const cursor = { start: "ew-resize", end: "ew-resize", top: "ns-resize", whole: "grab" };
    layer.setAttribute("cursor", cursor[meant(layer, event)]);
  });

  document.addEventListener("pointerdown", (event) => {
    if (event.button !== 0 || drag) return;
    const start = beginning(event);
    if (!start) return;
    if (event.pointerType !== "touch") {
      if (start.mode !== "slip" && start.mode !== "person") event.preventDefault();
      drag = start;
      return;
    }
    // A finger that rests drags; one that moves scrolls.
    const wait = setTimeout(() => {
      drag = start;
      drag.moved = true;
      lift();
    }, REST);
    const stop = () => clearTimeout(wait);
    const away = (move) => Math.hypot(move.clientX - start.x, move.clientY - start.y) > 8 && stop();
    document.addEventListener("pointermove", away);
    for (const end of ["pointerup", "pointercancel"]) {
      document.addEventListener(end, () => (stop(), document.removeEventListener("pointermove", away)), { once: true });
    }
  });
  // While a finger drags, nothing scrolls.
  document.addEventListener("touchmove", (event) => drag?.moved && event.preventDefault(), { passive: false });

  /** What a hand takes hold of at this point, if anything. */
  function beginning(event) {
    const at = { x: event.clientX, y: event.clientY, moved: false, way: {} };
    const slip = event.target.closest?.("[data-slip]");
    if (slip && mayBook) {
      const seat = slip.dataset.slip === "seat";
      const fields = seat ? { seen: slip.dataset.seen } : { task: slip.dataset.seen };
      return { ...at, mode: "slip", slip, hold: new Hold(seat ? "hand-over" : "drop", fields, tell), seat };
    }
    const who = event.target.closest?.(".row[data-person] .who");
    if (who && mayBook) return { ...at, mode: "person", who, person: who.closest(".row").dataset.person };
    const track = event.target.closest?.(".track");
    const row = track?.closest(".row[data-person], .row[data-seat]");
    if (!row || event.target.closest("a") || !mayBook) return null;
    const layer = event.target.closest("[data-booking]");
    if (!layer && row.dataset.seat) return null;
    const day = dayAt(track, event.clientX);
    const base = { ...at, layer, track, row, day, person: row.dataset.person ?? "", shift: event.shiftKey };
    if (!layer) return { ...base, mode: "draw" };
    const mode = meant(layer, event);
    const seen = mode === "whole" ? seenWith(layer) : layer.dataset.seen;
    return {
      ...base, mode, hour: Number(row.dataset.hour), thick: thickness(layer, event.clientX), box: boxOf(layer),
      hold: new Hold("move", { seen }, tell),
    };
  }

  const tell = (title, lines) => drag && showTip(title, lines);

  /** Where things lie is looked up once; while a hand moves they stay there, unless one scrolls. */
  function lookAround() {
    const origin = grid.getBoundingClientRect();
    // What was taken hold of scrolls along.
    if (drag.box && drag.origin) for (const side of ["left", "right"]) drag.box[side] += origin.left - drag.origin.left;
    if (drag.box && drag.origin) drag.box.top += origin.top - drag.origin.top;
    drag.origin = origin;
    if (drag.track?.isConnected) drag.trackBox = drag.track.getBoundingClientRect();
  }
  scroller.addEventListener("scroll", () => drag?.moved && lookAround(), { passive: true });

  function lift() {
    document.documentElement.classList.add("dragging");
    lookAround();
    if (drag.mode === "person") {
      const name = drag.who.querySelector(".name").textContent;
      drag.label = name;
      showTip(name, ["Drop on an open seat to fill it"], drag);
    }
  }

  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (!drag.moved && Math.hypot(event.clientX - drag.x, event.clientY - drag.y) < 4) return;
    if (!drag.moved) {
      drag.moved = true;
      lift();
    }
    const way = wayOf(event);
    drag.way = way;
    drawGhost(event, way);
    if (drag.hold && way) drag.hold.ask(way);
  });

  const rowUnder = (event) => document.elementFromPoint(event.clientX, event.clientY)?.closest?.(".row[data-person], .row[data-seat], [data-slip]");

  /** The hand's way so far, in the words of the server's gesture. */
  function wayOf(event) {
    const { mode } = drag;
    if (mode === "slip") {
      const row = rowUnder(event);
      if (!row?.dataset.person) return null;
      const at = dayText(dayAt(row.querySelector(".track"), event.clientX));
      return drag.seat ? { to: row.dataset.person } : { to: row.dataset.person, at };
    }
    if (mode === "person") {
      const seat = rowUnder(event);
      const open = seat?.dataset.seat || seat?.dataset.slip === "seat";
      if (!open) {
        drag.hold?.putBack();
        drag.hold = null;
        showTip(drag.label, ["Drop on an open seat to fill it"]);
        return null;
      }
      if (drag.hold?.fields.seen !== seat.dataset.seen) drag.hold = new Hold("hand-over", { seen: seat.dataset.seen }, tell);
      return { to: drag.person };
    }
    const moved = dayIn(drag.trackBox, event.clientX) - drag.day;
    const weeks = event.shiftKey || days > BY_WEEKS;
    const shift = weeks ? Math.round(moved / 7) * 7 : moved;
    if (mode === "draw") return { from: Math.min(drag.day, drag.day + moved), to: Math.max(drag.day, drag.day + moved) };
    if (mode === "start") return { start_shift: shift };
    if (mode === "end") return { end_shift: shift };
    if (mode === "top") {
      const pixels = Math.max(1, drag.thick + drag.y - event.clientY);
      return { at: dayText(drag.day), minutes: Math.round((pixels / drag.hour) * 60) };
    }
    const over = rowUnder(event)?.dataset.person;
    return { shift, ...(over && over !== drag.person ? { to: over } : {}) };
  }

  function drawGhost(event, way) {
    moveTip({ x: event.clientX, y: event.clientY });
    if (drag.mode === "person") return;
    drag.ghost ??= newGhost();
    if (drag.mode === "slip") {
      const row = way && rowUnder(event);
      const track = row?.querySelector?.(".track").getBoundingClientRect();
      drag.ghost.hidden = !track;
      if (!track) return showTip("Drop on somebody’s row", []), moveTip({ x: event.clientX, y: event.clientY });
      const wide = (track.width / days) * 3;
      return placeGhost(drag.ghost, { left: event.clientX, width: wide, top: track.top + 2, height: track.height - 4 });
    }
    const track = drag.trackBox;
    const wide = track.width / days;
    const place = drag.layer ? {} : { left: track.left + way.from * wide, right: track.left + (way.to + 1) * wide };
    if (drag.layer) {
      place.left = drag.box.left + wide * (way.shift ?? way.start_shift ?? 0);
      place.right = drag.box.right + wide * (way.shift ?? way.end_shift ?? 0);
    }
    const down = drag.mode === "whole" ? event.clientY - drag.y : 0;
    const grow = drag.mode === "top" ? drag.y - event.clientY : 0;
    const box = drag.layer ? drag.box : { top: track.top + 2, height: track.height - 4 };
    placeGhost(drag.ghost, {
      left: place.left,
      width: Math.max(wide / 2, place.right - place.left),
      top: box.top + down - grow,
      height: Math.max(4, box.height + grow),
    });
    if (drag.mode === "draw") showTip("Book here", [`${dayText(way.from)} to ${dayText(way.to)}`], { x: event.clientX, y: event.clientY });
  }

  function finish() {
    const done = drag;
    drag = null;
    document.documentElement.classList.remove("dragging");
    done.ghost?.remove();
    hideTip();
    return done;
  }

  document.addEventListener("pointerup", async () => {
    if (!drag) return;
    const done = finish();
    if (!done.moved) {
      if (done.mode === "slip" || done.mode === "person") return; // a click: its link says what to do
      if (done.shift && done.layer) return takeAlong(done.layer);
      const cell = cellAt(done.row, done.day);
      return done.row.dataset.person ? openCell(done.row, cell.dataset.from) : cell.querySelector("a").click();
    }
    // What follows a drag is no click.
    const swallow = (event) => (event.preventDefault(), event.stopPropagation());
    document.addEventListener("click", swallow, true);
    setTimeout(() => {
      document.removeEventListener("click", swallow, true);
      document.dispatchEvent(new Event("snug-drag-over"));
    }, 0);
    if (done.mode === "draw") {
      return openBooking(done.row, cellAt(done.row, done.day).dataset.from, dayText(done.way.from), dayText(done.way.to));
    }
    if (!done.hold || !done.way) return done.hold?.giveUp();
    done.hold.way = done.way;
    const answer = await done.hold.drop();
    await afterChange(answer, null, done.hold);
    if (answer.ok) {
      leaveAll();
      await refresh(done.hold.touched());
    }
  });

  function giveUp() {
    finish().hold?.giveUp();
    document.dispatchEvent(new Event("snug-drag-over"));
  }
  document.addEventListener("pointercancel", () => drag && giveUp());
  document.addEventListener("dragstart", (event) => event.target.closest?.("[data-slip], .who") && event.preventDefault());
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Escape" || !drag) return;
    event.stopImmediatePropagation();
    giveUp();
  }, true);
}
