// Drags: a shape moves, its ends stretch, its top edge changes how much, empty space is drawn on; a slip is dropped on a row, and a
// row's head on what takes it. Shapes move here; every figure comes from the server.
import { Hold } from "/assets/grid/hold.js";
import { hideTip, leaveAll, moveTip, newGhost, placeGhost, seenWith, showTip, takeAlong } from "/assets/grid/hand.js";
import { boxOf, meant, thickness } from "/assets/grid/shape.js";

/** Milliseconds for which a finger rests before it drags; a shorter touch scrolls. */
const REST = 350;
/** In longer windows a hand means weeks. */
const BY_WEEKS = 120;

const CURSORS = { start: "ew-resize", end: "ew-resize", top: "ns-resize", whole: "grab" };

/** Lets shapes, slips and heads of rows be dragged. `grid` is what `openGrid` makes. */
export function startDrags(grid) {
  const { place, room } = grid;
  let drag = null;
  grid.isDragging = () => drag !== null;

  place.element.addEventListener("pointermove", (event) => {
    const shape = !drag && event.target.closest?.("[data-shape]");
    if (!shape) return;
    const cursor = CURSORS[meantBy(shape, event)];
    if (shape.getAttribute("cursor") !== cursor) shape.setAttribute("cursor", cursor);
  });

  document.addEventListener("pointerdown", (event) => {
    if (event.button !== 0 || drag) return;
    const start = beginning(event);
    if (!start) return;
    if (event.pointerType !== "touch") {
      if (start.mode !== "slip" && start.mode !== "head") event.preventDefault();
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
    if (!place.mayChange) return null;
    const under = grid.rows.underPress(event);
    const at = { x: event.clientX, y: event.clientY, moved: false, way: {} };
    const slip = under.closest?.("[data-slip]");
    if (slip) return { ...at, mode: "slip", slip, hold: new Hold(grid, slip.dataset.slip, { seen: slip.dataset.seen }, tell) };
    const head = under.closest?.(".who")?.closest(room.takers);
    if (head) return { ...at, mode: "head", head, key: head.dataset.key };
    const track = under.closest?.(".track");
    const row = track?.closest(".row[data-key]");
    if (!row || under.closest("a")) return null;
    const shape = under.closest("[data-shape]");
    if (!shape && !row.matches(room.takers)) return null;
    const box = track.getBoundingClientRect();
    const base = { ...at, shape, track, row, box: null, day: place.dayAt(row, box, event.clientX), key: row.dataset.key, shift: event.shiftKey };
    if (!shape) return { ...base, mode: "draw" };
    const mode = meantBy(shape, event);
    const seen = mode === "whole" ? seenWith(shape) : shape.dataset.shape;
    return { ...base, mode, thick: thickness(shape, event.clientX), box: boxOf(shape), hold: new Hold(grid, room.move, { seen, row: row.dataset.key }, tell) };
  }

  /** Where nothing gets thicker by hand, the top edge is a part of the whole. */
  function meantBy(shape, event) {
    const mode = meant(shape, event);
    return mode === "top" && !place.hourOf(shape.closest(".row")) ? "whole" : mode;
  }

  const tell = (title, lines) => drag && showTip(title, lines);

  /** Where things lie is looked up once; while a hand moves they stay there, unless one scrolls. */
  function lookAround() {
    const origin = place.element.getBoundingClientRect();
    // What was taken hold of scrolls along.
    if (drag.box && drag.origin) for (const side of ["left", "right"]) drag.box[side] += origin.left - drag.origin.left;
    if (drag.box && drag.origin) drag.box.top += origin.top - drag.origin.top;
    drag.origin = origin;
    if (drag.track?.isConnected) drag.trackBox = drag.track.getBoundingClientRect();
  }
  place.scroller.addEventListener("scroll", () => drag?.moved && lookAround(), { passive: true });

  function lift() {
    document.documentElement.classList.add("dragging");
    lookAround();
    if (drag.mode === "head") showTip(nameOf(drag.head), [room.headSays], drag);
  }

  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (!drag.moved && Math.hypot(event.clientX - drag.x, event.clientY - drag.y) < 4) return;
    if (!drag.moved) {
      drag.moved = true;
      lift();
    }
    // A finger's moves keep telling of what it began on.
    const under = event.pointerType === "touch" ? document.elementFromPoint(event.clientX, event.clientY) : event.target;
    const way = wayOf(event, under);
    drag.way = way;
    drawGhost(event, way, under);
    if (drag.hold && way) drag.hold.ask(way);
  });

  const rowUnder = (under) => under?.closest?.(room.takers);

  /** The hand's way so far, in the words of the server's gesture. */
  function wayOf(event, under) {
    const { mode } = drag;
    if (mode === "slip") {
      const row = rowUnder(under);
      if (!row) return null;
      const box = row.querySelector(".track").getBoundingClientRect();
      return { to: row.dataset.key, at: place.dayText(place.dayAt(row, box, event.clientX)) };
    }
    if (mode === "head") return headWay(under);
    const moved = dayUnder(event, under) - drag.day;
    const weeks = event.shiftKey || place.days > BY_WEEKS;
    const shift = weeks ? Math.round(moved / 7) * 7 : moved;
    if (mode === "draw") return { from: Math.min(drag.day, drag.day + moved), to: Math.max(drag.day, drag.day + moved) };
    if (mode === "start") return { start_shift: shift };
    if (mode === "end") return { end_shift: shift };
    if (mode === "top") {
      const pixels = Math.max(1, drag.thick + drag.y - event.clientY);
      return { at: place.dayText(drag.day), minutes: Math.round((pixels / place.hourOf(drag.row)) * 60) };
    }
    const over = room.staysInRow ? null : rowUnder(under)?.dataset.key;
    if (!over || over === drag.key) return { shift };
    const split = room.splits && (event.ctrlKey || event.metaKey);
    return { shift, to: over, ...(split ? { split: "yes" } : {}) };
  }

  /** The day under the hand: of the row that it began in, or where rows have days of their own of the one beneath it. */
  function dayUnder(event, under) {
    const row = (room.rowsAreDays && rowUnder(under)) || drag.row;
    const box = row === drag.row ? drag.trackBox : row.querySelector(".track").getBoundingClientRect();
    return place.dayAt(row, box, event.clientX);
  }

  /** The head of a row is dropped on what takes it: that is what is held then. */
  function headWay(under) {
    const taker = under?.closest?.("[data-takes]");
    if (!taker) {
      drag.hold?.putBack();
      drag.hold = null;
      showTip(nameOf(drag.head), [room.headSays]);
      return null;
    }
    if (drag.hold?.fields.seen !== taker.dataset.seen) drag.hold = new Hold(grid, taker.dataset.takes, { seen: taker.dataset.seen }, tell);
    return { to: drag.key };
  }

  function drawGhost(event, way, under) {
    moveTip({ x: event.clientX, y: event.clientY });
    if (drag.mode === "head") return;
    if (drag.mode === "draw") showTip(room.drawSays, [place.rangeName(way.from, way.to)], { x: event.clientX, y: event.clientY });
    drag.ghost ??= newGhost();
    if (drag.mode === "slip") {
      const track = way && rowUnder(under)?.querySelector(".track").getBoundingClientRect();
      drag.ghost.hidden = !track;
      if (!track) return showTip(room.slipSays, []), moveTip({ x: event.clientX, y: event.clientY });
      const wide = (track.width / place.days) * 3;
      return placeGhost(drag.ghost, { left: event.clientX, width: wide, top: track.top + 2, height: track.height - 4 });
    }
    const track = drag.trackBox;
    const wide = track.width / place.days;
    if (room.rowsAreDays) {
      return freeGhost(event, way, under, wide);
    }
    const put = drag.shape ? {} : { left: track.left + way.from * wide, right: track.left + (way.to + 1) * wide };
    if (drag.shape) {
      put.left = drag.box.left + wide * (way.shift ?? way.start_shift ?? 0);
      put.right = drag.box.right + wide * (way.shift ?? way.end_shift ?? 0);
    }
    const down = drag.mode === "whole" && !room.staysInRow ? event.clientY - drag.y : 0;
    const grow = drag.mode === "top" ? drag.y - event.clientY : 0;
    const box = drag.shape ? drag.box : { top: track.top + 2, height: track.height - 4 };
    placeGhost(drag.ghost, {
      left: put.left,
      width: Math.max(wide / 2, put.right - put.left),
      top: box.top + down - grow,
      height: Math.max(4, box.height + grow),
    });
  }

  /** Where rows have days of their own, what is held goes with the hand; what is drawn or stretched is marked in the row beneath it. */
  function freeGhost(event, way, under, wide) {
    if (drag.mode === "whole") {
      const { left, right, top, height } = drag.box;
      return placeGhost(drag.ghost, { left: left + event.clientX - drag.x, width: right - left, top: top + event.clientY - drag.y, height });
    }
    const row = rowUnder(under) ?? drag.row;
    const track = row.querySelector(".track").getBoundingClientRect();
    const first = place.startOf(row);
    const day = dayUnder(event, under);
    const held = drag.mode === "draw" ? drag.day : day;
    const inside = (index) => Math.max(0, Math.min(place.days - 1, index - first));
    const [from, to] = [inside(Math.min(held, day)), inside(Math.max(held, day))];
    placeGhost(drag.ghost, { left: track.left + from * wide, width: (to - from + 1) * wide, top: track.top + 2, height: track.height - 4 });
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
      grid.letGo();
      if (done.mode === "slip" || done.mode === "head") return; // a click: its link says what to do
      if (done.shift && done.shape) return takeAlong(done.shape);
      return grid.openCell(done.row, place.fromOf(place.cellAt(done.row, done.day)));
    }
    // What follows a drag is no click.
    const swallow = (event) => (event.preventDefault(), event.stopPropagation());
    document.addEventListener("click", swallow, true);
    setTimeout(() => {
      document.removeEventListener("click", swallow, true);
      grid.letGo();
    }, 0);
    if (done.mode === "draw") {
      const from = place.fromOf(place.cellAt(done.row, done.day));
      return room.draw(grid, done.row, from, [place.dayText(done.way.from), place.dayText(done.way.to)]);
    }
    if (!done.hold || !done.way) return done.hold?.giveUp();
    done.hold.way = done.way;
    await grid.during(async () => {
      const answer = await done.hold.drop();
      await grid.afterChange(answer, null, done.hold);
      if (answer.ok) {
        leaveAll();
        await grid.refresh(done.hold.touched());
      }
    });
  });

  function giveUp() {
    finish().hold?.giveUp();
    grid.letGo();
  }
  document.addEventListener("pointercancel", () => drag && giveUp());
  document.addEventListener("dragstart", (event) => event.target.closest?.("[data-slip], .who") && event.preventDefault());
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Escape" || !drag) return;
    event.stopImmediatePropagation();
    giveUp();
  }, true);
}

const nameOf = (row) => row.querySelector(".name").textContent;
