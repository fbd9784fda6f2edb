// What one sees of something in the hand: the ghost of its shape, what the server says beside it, and what was taken along.
import { idOf } from "/assets/grid/shape.js";

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

/** Shapes taken along together: identity → tag. */
export const taken = new Map();

/** Takes a shape along with others, or leaves it out. */
export function takeAlong(shape) {
  const id = idOf(shape);
  if (taken.has(id)) taken.delete(id);
  else taken.set(id, shape.dataset.shape);
  for (const one of document.querySelectorAll(`[data-shape^="${id}-"]`)) one.classList.toggle("taken", taken.has(id));
}

export function leaveAll() {
  taken.clear();
  for (const one of document.querySelectorAll("[data-shape].taken")) one.classList.remove("taken");
}

/** What is held when this shape is: it alone, or everything that was taken along. */
export function seenWith(shape) {
  return taken.has(idOf(shape)) && taken.size > 1 ? [...taken.values()].join(",") : shape.dataset.shape;
}
