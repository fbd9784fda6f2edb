// Drags on the strata: a layer moves, its ends stretch, its top edge changes how much, empty space is drawn on. The hand's way is
// sent to the server, which says what it would do; a stale answer is dropped.
import { send } from "/assets/frame/app.js";

/** Pixels within which a hand means an edge. */
const EDGE = 6;
/** Milliseconds between previews: ten a second. */
const PACE = 100;

export function startDrags({ grid, room, putRow, openCell, openBooking, afterChange, refresh }) {
  const days = Number(grid.dataset.days);
  const first = new Date(`${grid.dataset.from}T00:00:00Z`);
  const dayText = (index) => new Date(first.getTime() + index * 864e5).toISOString().slice(0, 10);
  let drag = null;

  const dayAt = (track, x) => {
    const box = track.getBoundingClientRect();
    return Math.max(0, Math.min(days - 1, Math.floor(((x - box.left) / box.width) * days)));
  };

  /** The box of a layer, and what a hand at this point means. */
  function meant(layer, event) {
    const boxes = [...layer.querySelectorAll("rect")].map((rect) => rect.getBoundingClientRect());
    const left = Math.min(...boxes.map((box) => box.left));
    const right = Math.max(...boxes.map((box) => box.right));
    const under = boxes.find((box) => event.clientX >= box.left && event.clientX <= box.right) ?? boxes[0];
    const edge = Math.min(EDGE, (right - left) / 4);
    const visible = (day) => day >= grid.dataset.from && day <= dayText(days - 1);
    if (event.clientX - left < edge && visible(layer.dataset.start)) return "start";
    if (right - event.clientX < edge && visible(layer.dataset.end)) return "end";
    return event.clientY - under.top < Math.min(5, under.height / 3) ? "top" : "whole";
  }

  grid.addEventListener("pointermove", (event) => {
    const layer = !drag && event.target.closest?.("[data-booking]");
    if (!layer) return;
    const cursor = { start: "ew-resize", end: "ew-resize", top: "ns-resize", whole: "grab" };
    layer.setAttribute("cursor", cursor[meant(layer, event)]);
  });

  grid.addEventListener("pointerdown", (event) => {
    const track = event.target.closest?.(".track");
    const row = track?.closest(".row[data-person]");
    if (!row || event.button !== 0 || event.target.closest("a") || event.pointerType === "touch") return;
    const layer = event.target.closest("[data-booking]");
    event.preventDefault();
    drag = {
      layer, track, row,
      person: row.dataset.person,
      mode: layer ? meant(layer, event) : "draw",
      x: event.clientX, y: event.clientY,
      day: dayAt(track, event.clientX),
      seen: layer?.dataset.seen,
      hour: Number(row.dataset.hour),
      thick: layer ? thickness(layer, event) : 0,
      moved: false, previewed: new Map(), number: 0,
    };
  });

  /** How thick a layer is under the hand, in pixels. */
  function thickness(layer, event) {
    const boxes = [...layer.querySelectorAll("rect")].map((rect) => rect.getBoundingClientRect());
    return (boxes.find((box) => event.clientX >= box.left && event.clientX <= box.right) ?? boxes[0]).height;
  }

  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (!drag.moved && Math.hypot(event.clientX - drag.x, event.clientY - drag.y) < 4) return;
    drag.moved = true;
    document.documentElement.classList.add("dragging");
    const way = wayOf(event);
    drag.way = way;
    drawGhost(event, way);
    if (drag.mode !== "draw") ask(way);
  });

  /** The hand's way so far, in the words of the server's gesture. */
  function wayOf(event) {
    const { mode, track, day } = drag;
    const shift = dayAt(track, event.clientX) - day;
    if (mode === "draw") return { from: Math.min(day, day + shift), to: Math.max(day, day + shift) };
    if (mode === "start") return { start_shift: shift };
    if (mode === "end") return { end_shift: shift };
    if (mode === "top") {
      const pixels = Math.max(1, drag.thick + drag.y - event.clientY);
      return { at: dayText(day), minutes: Math.round((pixels / drag.hour) * 60) };
    }
    const over = document.elementFromPoint(event.clientX, event.clientY)?.closest?.(".row[data-person]");
    const to = over && over.dataset.person !== drag.person ? { to: over.dataset.person } : {};
    return { shift, ...to };
  }

  function drawGhost(event, way) {
    drag.ghost ??= grid.appendChild(Object.assign(document.createElement("div"), { className: "ghost" }));
    drag.tip ??= document.body.appendChild(Object.assign(document.createElement("div"), { className: "tip" }));
    const origin = grid.getBoundingClientRect();
    const track = drag.track.getBoundingClientRect();
    const wide = track.width / days;
    const place = drag.layer ? { left: Infinity, right: 0 } : { left: track.left + way.from * wide, right: track.left + (way.to + 1) * wide };
    if (drag.layer) {
      drag.box ??= boxOf(drag.layer);
      place.left = drag.box.left + wide * (way.shift ?? way.start_shift ?? 0);
      place.right = drag.box.right + wide * (way.shift ?? way.end_shift ?? 0);
    }
    const down = drag.mode === "whole" ? event.clientY - drag.y : 0;
    const grow = drag.mode === "top" ? drag.y - event.clientY : 0;
    const box = drag.layer ? drag.box : { top: track.top + 20, height: 50 };
    Object.assign(drag.ghost.style, {
      left: `${place.left - origin.left}px`,
      width: `${Math.max(wide / 2, place.right - place.left)}px`,
      top: `${box.top - origin.top + down - grow}px`,
      height: `${Math.max(4, box.height + grow)}px`,
    });
    Object.assign(drag.tip.style, { left: `${Math.min(event.clientX + 14, innerWidth - 310)}px`, top: `${event.clientY + 16}px` });
    if (drag.mode === "draw") tell("Book here", [`${dayText(way.from)} to ${dayText(way.to)}`]);
  }

  function boxOf(layer) {
    const boxes = [...layer.querySelectorAll("rect")].map((rect) => rect.getBoundingClientRect());
    const [left, top] = [Math.min(...boxes.map((b) => b.left)), Math.min(...boxes.map((b) => b.top))];
    return { left, top, right: Math.max(...boxes.map((b) => b.right)), height: Math.max(...boxes.map((b) => b.bottom)) - top };
  }

  function tell(title, lines) {
    const bold = Object.assign(document.createElement("b"), { textContent: title });
    drag.tip.replaceChildren(bold, ...lines.map((text) => Object.assign(document.createElement("span"), { textContent: text })));
  }

  /** Asks what the way would do, at most ten times a second; the rows of everyone touched are drawn as they would be. */
  async function ask(way) {
    const text = JSON.stringify(way);
    if (!drag || text === drag.asked || drag.waiting) return;
    drag.asked = text;
    drag.waiting = true;
    const mine = drag;
    const number = ++mine.number;
    const pace = new Promise((done) => setTimeout(done, PACE));
    const answer = await send("/bookings/preview", { what: "move", seen: mine.seen, room: JSON.stringify(room()), ...way });
    await pace;
    mine.waiting = false;
    if (drag !== mine || number !== mine.number) return;
    if (answer.ok) {
      for (const [person, html] of Object.entries(answer.body.rows)) {
        const row = grid.querySelector(`.row[data-person="${person}"]`);
        if (row && !mine.previewed.has(person)) mine.previewed.set(person, row.outerHTML);
        putRow(person, html);
      }
      // Rows the hand has left look as before.
      for (const [person, html] of mine.previewed) if (!(person in answer.body.rows)) putRow(person, html);
      mine.track = grid.querySelector(`.row[data-person="${mine.person}"] .track`) ?? mine.track;
      tell(answer.body.tip ?? "", answer.body.says);
    } else if (!answer.aborted) {
      tell(answer.body.message, []);
    }
    if (mine.way && JSON.stringify(mine.way) !== mine.asked) ask(mine.way);
  }

  function finish(putBack) {
    const done = drag;
    drag = null;
    document.documentElement.classList.remove("dragging");
    done.ghost?.remove();
    done.tip?.remove();
    if (putBack) for (const [person, html] of done.previewed) putRow(person, html);
    return done;
  }

  document.addEventListener("pointerup", async (event) => {
    if (!drag) return;
    const done = finish(false);
    const cells = [...done.track.querySelectorAll(".cell[data-from]")];
    const cell = cells[Math.floor((done.day / days) * cells.length)];
    if (!done.moved) return openCell(done.person, cell.dataset.from);
    if (done.mode === "draw") return openBooking(done.person, cell.dataset.from, dayText(done.way.from), dayText(done.way.to));
    if (event.pointerType === "cancel") return;
    const answer = await send("/bookings/move", { seen: done.seen, ...done.way });
    if (!answer.ok) for (const [person, html] of done.previewed) putRow(person, html);
    await afterChange(answer);
    if (answer.ok) await refresh([...done.previewed.keys()].map(Number));
  });

  document.addEventListener("pointercancel", () => drag && finish(true));
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Escape" || !drag) return;
    event.stopImmediatePropagation();
    finish(true);
  }, true);
}
