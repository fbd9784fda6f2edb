// Something in the hand: a booking, several, a slip of the tray, a person for an open seat. Its way is told to the server, which says
// what it would do; the rows of everyone touched are drawn as they would be. A stale answer is dropped.
import { send } from "/assets/frame/app.js";
import { room, rowsOf } from "/assets/fit/room.js";
import { putRow } from "/assets/fit/rows.js";

/** Milliseconds between previews: ten a second. */
const PACE = 100;

export class Hold {
  /** `deed` and `fields` say what is held; `tell(title, lines)` shows what the server says. */
  constructor(deed, fields, tell) {
    Object.assign(this, { deed, fields, tell, drawn: new Map(), asked: "", waiting: false, over: false, way: null });
  }

  /** Says where the hand is now. */
  async ask(way) {
    this.way = way;
    const text = JSON.stringify(way);
    if (this.over || this.waiting || text === this.asked) return;
    this.asked = text;
    this.waiting = true;
    const pace = new Promise((done) => setTimeout(done, PACE));
    const answer = await send("/bookings/preview", { what: this.deed, ...this.fields, ...way, room: JSON.stringify(room()) });
    if (!this.over) this.show(answer);
    await pace;
    this.waiting = false;
    if (!this.over) this.ask(this.way);
  }

  show(answer) {
    if (answer.aborted) return;
    const rows = answer.ok ? answer.body.rows : {};
    for (const [person, html] of Object.entries(rows)) {
      const row = rowsOf(person)[0];
      if (row && !this.drawn.has(person)) this.drawn.set(person, row.outerHTML);
      putRow(person, html);
    }
    // Rows that the hand has left look as before.
    for (const [person, html] of this.drawn) if (!(person in rows)) putRow(person, html);
    this.refused = answer.ok ? null : answer.body.message;
    if (answer.ok) this.tell(answer.body.tip ?? "", answer.body.says);
    else this.tell(answer.body.message, []);
  }

  /** Does it. */
  async drop() {
    this.over = true;
    const answer = await send(`/bookings/${this.deed}`, { ...this.fields, ...this.way });
    if (!answer.ok) this.putBack();
    return answer;
  }

  /** Gives it up. */
  giveUp() {
    this.over = true;
    this.putBack();
  }

  putBack() {
    for (const [person, html] of this.drawn) putRow(person, html);
  }

  /** Everyone whose row was drawn otherwise. */
  touched() {
    return [...this.drawn.keys()].map(Number);
  }
}

// --------------------------------------------------------------------------------------------------- the tip at the hand

let tip = null;
/** Shows what the server says beside the hand. */
export function showTip(title, lines, at = null) {
  tip ??= document.body.appendChild(Object.assign(document.createElement("div"), { className: "tip" }));
  tip.setAttribute("role", "status");
  const bold = Object.assign(document.createElement("b"), { textContent: title });
  tip.replaceChildren(bold, ...lines.map((text) => Object.assign(document.createElement("span"), { textContent: text })));
  if (at) moveTip(at);
}
export function moveTip({ x, y }) {
  if (!tip) return;
  // Moved, not laid out anew: a frame of a drag is short.
  tip.style.transform = `translate(${Math.max(4, Math.min(x + 14, innerWidth - 310))}px, ${Math.min(y + 16, innerHeight - 90)}px)`;
}
export function hideTip() {
  tip?.remove();
  tip = null;
}

/** The shape in the hand. It lies over everything, so that nothing else is drawn anew while it moves. */
export const newGhost = () => document.body.appendChild(Object.assign(document.createElement("div"), { className: "ghost" }));

/** Puts the shape in the hand where it is. Only what changed is laid out anew. */
export function placeGhost(ghost, { left, top, width, height }) {
  ghost.style.transform = `translate(${left}px, ${top}px)`;
  for (const [side, value] of [["width", width], ["height", height]]) {
    const text = `${Math.round(value)}px`;
    if (ghost.style[side] !== text) ghost.style[side] = text;
  }
}

// ------------------------------------------------------------------------------------------- bookings taken along together

export const taken = new Map(); // identity → the booking as the page saw it

/** Takes a booking along with others, or leaves it out. */
export function takeAlong(layer) {
  const id = layer.dataset.booking;
  if (taken.has(id)) taken.delete(id);
  else taken.set(id, layer.dataset.seen);
  for (const one of document.querySelectorAll(`[data-booking="${id}"]`)) one.classList.toggle("taken", taken.has(id));
}

export function leaveAll() {
  taken.clear();
  for (const one of document.querySelectorAll("[data-booking].taken")) one.classList.remove("taken");
}

/** What is held when this layer is: it alone, or everything that was taken along. */
export function seenWith(layer) {
  const id = layer.dataset.booking;
  if (!taken.has(id) || taken.size < 2) return layer.dataset.seen;
  return `[${[...taken.values()].join(",")}]`;
}
