// The grip: with the keyboard one does everything that a drag does.
import { send } from "/assets/frame/app.js";
import { Hold } from "/assets/grid/hold.js";
import { hideTip, leaveAll, newGhost, placeGhost, seenWith, showTip, takeAlong, taken } from "/assets/grid/hand.js";
import { boxOf, boxesOf, thickness } from "/assets/grid/shape.js";

/** What the arrows mean: rows down, days on. */
export const STEPS = { ArrowRight: [0, 1], ArrowLeft: [0, -1], ArrowDown: [1, 0], ArrowUp: [-1, 0] };
/** A step of the thickness, in minutes. */
const THICK = 15;

/** What is gripped in a grid. */
export class Grip {
  constructor(grid) {
    this.grid = grid;
    this.held = null;
  }

  /** Grips the first shape under a cell, or a slip. */
  take(target) {
    const slip = target.closest?.("[data-slip]");
    if (slip) return this.takeSlip(slip);
    const cell = target.closest?.("[role=gridcell]");
    if (!cell?.closest(".row[data-key]")) return;
    const shapes = shapesUnder(cell);
    if (shapes.length) return this.takeShape(shapes[0], cell, 0);
    this.say(...this.grid.room.nothingToGrip, cell);
  }

  takeShape(shape, cell, at) {
    const { place, room } = this.grid;
    const row = cell.closest(".row");
    const box = cell.getBoundingClientRect();
    const track = shape.closest(".track").getBoundingClientRect();
    const shapeBox = boxOf(shape);
    this.held = {
      shape, at, cell: { key: row.dataset.key, from: place.fromOf(cell) },
      key: row.matches(room.takers) ? row.dataset.key : null,
      name: shape.querySelector("title").textContent,
      mode: "whole", shift: 0, start: 0, end: 0, thick: null, to: null,
      box: shapeBox, origin: track, first: place.dayAt(row, track, shapeBox.left + 1), row,
      day: place.dayAt(row, track, Math.max(box.left, shapeBox.left) + 1),
      base: Math.round((thickness(shape, box.left + 3) / place.hourOf(row)) * 60),
      hold: this.holding(room.move, { seen: seenWith(shape), row: row.dataset.key }),
    };
    this.draw();
    const rows = room.rowsAreDays ? " · ↑ ↓ week" : room.staysInRow ? "" : " · ↑ ↓ to another row";
    const thick = place.hour ? " · + − thicker" : "";
    this.say(`Gripped: ${this.held.name}`, [`← → day, Shift week${rows} · s, f its ends${thick} · Enter does it, Esc does not`]);
  }

  takeSlip(slip) {
    const { place, room } = this.grid;
    const start = slip.dataset.start ? place.dayIndex(slip.dataset.start) : 0;
    const day = Math.max(0, Math.min(place.days - 1, start));
    const rows = [...place.element.querySelectorAll(room.takers)];
    // One that lies in a row sets out from there; one of the tray from above the first.
    this.held = { slip, row: rows.findIndex((row) => row.contains(slip)), rows, day, hold: this.holding(slip.dataset.slip, { seen: slip.dataset.seen }) };
    this.say(`Gripped: ${slip.textContent.trim()}`, ["↑ ↓ choose the row, ← → choose the day, Enter drops it, Esc does not"], slip);
  }

  holding(deed, fields) {
    return new Hold(this.grid, deed, fields, (title, lines) => this.held && this.say(title, lines));
  }

  say(title, lines, near = null) {
    const { held } = this;
    const there = near ?? (held?.slip ? held.rows[held.row] ?? held.slip : held?.ghost) ?? this.grid.place.element;
    const box = there.getBoundingClientRect();
    showTip(title, lines, { x: Math.max(0, box.left), y: box.bottom });
    if (!held) setTimeout(() => !this.held && hideTip(), 2500);
  }

  draw() {
    const { held } = this;
    const { place } = this.grid;
    held.ghost ??= newGhost();
    if (held.slip) {
      const track = held.rows[held.row]?.querySelector(".track").getBoundingClientRect();
      held.ghost.hidden = !track;
      if (!track) return;
      const wide = track.width / place.days;
      placeGhost(held.ghost, { left: track.left + wide * held.day, width: wide * 3, top: track.top + 2, height: track.height - 4 });
      held.rows[held.row].scrollIntoView({ block: "nearest" });
      return;
    }
    const wide = held.origin.width / place.days;
    if (this.grid.room.rowsAreDays) return this.drawFree(wide);
    const target = held.to ? place.rowsOf(held.to)[0]?.querySelector(".track").getBoundingClientRect() : null;
    placeGhost(held.ghost, {
      left: held.box.left + wide * (held.shift + held.start),
      width: Math.max(wide / 2, held.box.right - held.box.left + wide * (held.end - held.start)),
      top: target ? target.top + (held.box.top - held.origin.top) : held.box.top,
      height: Math.max(6, held.box.height),
    });
  }

  /** Where rows have days of their own, the ghost goes to the row of its first day, or of the end that is stretched. */
  drawFree(wide) {
    const { held } = this;
    const { place } = this.grid;
    const length = Math.max(1, Math.round((held.box.right - held.box.left) / wide));
    const day = held.mode === "end" ? held.first + length - 1 + held.end : held.first + held.shift + held.start;
    const row = place.rows().find((one) => day >= place.startOf(one) && day < place.startOf(one) + place.days);
    held.ghost.hidden = !row;
    if (!row) return;
    const track = row.querySelector(".track").getBoundingClientRect();
    const left = track.left + (day - place.startOf(row)) * wide;
    const width = held.mode === "whole" ? held.box.right - held.box.left : wide;
    placeGhost(held.ghost, { left, width, top: track.top + (held.box.top - held.origin.top), height: Math.max(6, held.box.height) });
    row.scrollIntoView({ block: "nearest" });
  }

  wayOf() {
    const { held } = this;
    const { place } = this.grid;
    if (held.slip) return { to: held.rows[held.row]?.dataset.key, at: place.dayText(held.day) };
    const way = { shift: held.shift, start_shift: held.start, end_shift: held.end };
    if (held.to) way.to = held.to;
    if (held.to && held.split) way.split = "yes";
    if (held.thick !== null) Object.assign(way, { at: place.dayText(held.day), minutes: held.thick });
    return way;
  }

  move() {
    this.draw();
    this.held.hold.ask(this.wayOf());
  }

  /** What a key does while something is gripped. */
  key(event) {
    const step = STEPS[event.key];
    const { held } = this;
    const deed = held.shape && this.grid.room.grips[event.key];
    const own = {
      Escape: () => this.giveUp(),
      Enter: () => this.drop(),
      ...(held.shape && {
        g: () => this.next(),
        m: () => this.mode("whole", "As a whole"),
        s: () => this.mode("start", "Its start: ← → stretch it"),
        f: () => this.mode("end", "Its finish: ← → stretch it"),
        ...(this.grid.place.hour && { "+": () => this.thicker(1), "=": () => this.thicker(1), "-": () => this.thicker(-1) }),
        x: () => this.along(),
        ...(this.grid.room.splits && { [this.grid.room.splits.key]: () => this.split() }),
      }),
    }[event.key];
    event.preventDefault();
    event.stopPropagation();
    if (step && step[0] && this.grid.room.rowsAreDays) this.arrow([0, step[0]], 7);
    else if (step) this.arrow(step, event.shiftKey ? 7 : 1);
    else if (own) own();
    else if (deed) this.now(...deed({ ...held, seen: held.shape.dataset.shape, all: seenWith(held.shape) }));
  }

  arrow([down, right], weeks) {
    const { held } = this;
    const { place, room } = this.grid;
    if (held.slip) {
      held.row = Math.max(0, Math.min(held.rows.length - 1, held.row + down + (held.row < 0 && !down ? 1 : 0)));
      held.day = Math.max(0, Math.min(place.days - 1, held.day + right * weeks));
      return this.move();
    }
    if (down && held.mode === "whole" && held.key && !room.staysInRow) {
      const keys = [...new Set([...place.element.querySelectorAll(room.takers)].map((row) => row.dataset.key))];
      const at = keys.indexOf(held.to ?? held.key) + down;
      if (keys[at]) held.to = keys[at] === held.key ? null : keys[at];
    }
    if (right && held.mode === "whole") held.shift += right * weeks;
    if (right && held.mode === "start") held.start += right * weeks;
    if (right && held.mode === "end") held.end += right * weeks;
    this.move();
  }

  mode(which, says) {
    this.held.mode = which;
    this.say(says, [this.held.name]);
  }

  /** Whoever it is dropped on does it together with who has it, or in their place. */
  split() {
    this.held.split = !this.held.split;
    this.say(this.held.split ? this.grid.room.splits.says : "In place of the first one", [this.held.name]);
    if (this.held.to) this.move();
  }

  thicker(by) {
    const step = this.grid.room.thick ?? THICK;
    this.held.thick = Math.max(step, (this.held.thick ?? this.held.base) + by * step);
    this.move();
  }

  /** The next shape of the same cell. */
  next() {
    const { cell, at } = this.held;
    this.letGo().giveUp();
    const again = this.grid.place.cellOf(cell.key, cell.from);
    const shapes = again ? shapesUnder(again) : [];
    if (shapes.length) this.takeShape(shapes[(at + 1) % shapes.length], again, (at + 1) % shapes.length);
  }

  along() {
    const { cell, shape } = this.held;
    takeAlong(shape);
    this.letGo().giveUp();
    this.focus(cell);
    const many = this.grid.room.alongSays(taken.size);
    this.say(many, ["g on one of them grips them all, Esc leaves them"], document.activeElement);
  }

  focus({ key, from }) {
    this.grid.place.linkOf(key, from)?.focus();
  }

  letGo() {
    const { hold, ghost } = this.held;
    ghost?.remove();
    hideTip();
    this.held = null;
    this.grid.letGo();
    return hold;
  }

  giveUp() {
    const { cell, slip } = this.held;
    this.letGo().giveUp();
    cell ? this.focus(cell) : slip?.focus();
  }

  async drop() {
    const { cell, slip, shape, row, hold: held } = this.held;
    held.way = this.wayOf();
    const idle = shape && Object.values(held.way).every((value) => !value || value === "yes");
    const stayed = slip && (row < 0 || this.held.rows[row].contains(slip));
    if (idle || stayed) return this.giveUp();
    this.letGo();
    await this.grid.during(async () => this.done(await held.drop(), held, cell));
  }

  /** A deed of the grip that needs no way. */
  async now(deed, fields) {
    const { cell } = this.held;
    const held = this.letGo();
    held.giveUp();
    await this.grid.during(async () => this.done(await send(`${this.grid.room.deeds}/${deed}`, fields), held, cell));
  }

  async done(answer, held, cell) {
    await this.grid.afterChange(answer, null, held);
    if (answer.ok) {
      leaveAll();
      await this.grid.refresh(held.touched());
    }
    if (cell) this.focus(cell);
  }
}

/** The shapes that touch a cell, from the floor up. */
function shapesUnder(cell) {
  const box = cell.getBoundingClientRect();
  const touches = (shape) => boxesOf(shape).some((one) => one.right > box.left + 1 && one.left < box.right - 1);
  return [...cell.closest(".row").querySelectorAll("[data-shape]")].filter(touches);
}
