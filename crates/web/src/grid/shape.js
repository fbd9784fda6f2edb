// A shape of a row's picture: one path of upright rectangles, in days and pixels (`grid/mod.rs` writes it). Where it is on
// the screen is read off its numbers, so that nothing is laid out for it.

const PIECE = /([Mm])(\d+) ([\d.]+)V([\d.]+)h(\d+)/g;

/** The rectangles of a shape on the screen: `{left, right, top, bottom}`. */
export function boxesOf(shape) {
  const svg = shape.ownerSVGElement;
  const box = svg.getBoundingClientRect();
  const day = box.width / svg.viewBox.baseVal.width;
  let [from, floor] = [0, 0];
  return [...shape.getAttribute("d").matchAll(PIECE)].map(([, begins, across, down, top, days]) => {
    // A small letter goes on from where the rectangle before began.
    from = (begins === "m" ? from : 0) + Number(across);
    floor = (begins === "m" ? floor : 0) + Number(down);
    return {
      left: box.left + from * day,
      right: box.left + (from + Number(days)) * day,
      top: box.top + Number(top),
      bottom: box.top + floor,
    };
  });
}

/** The box around all of them. */
export function boxOf(shape) {
  const boxes = boxesOf(shape);
  const [left, top] = [Math.min(...boxes.map((b) => b.left)), Math.min(...boxes.map((b) => b.top))];
  return { left, top, right: Math.max(...boxes.map((b) => b.right)), height: Math.max(...boxes.map((b) => b.bottom)) - top };
}

/** How thick it is at a point, in pixels. */
export function thickness(shape, x) {
  const boxes = boxesOf(shape);
  const { top, bottom } = boxes.find((box) => x >= box.left && x <= box.right) ?? boxes[0];
  return bottom - top;
}

/** Pixels within which a hand means an edge. */
const EDGE = 6;

/** What a hand at this point of a shape means: its start, its end, its top edge, or the whole. An end that lies outside the window
 *  cannot be meant. */
export function meant(shape, { clientX, clientY }) {
  const boxes = boxesOf(shape);
  const { left, right } = boxOf(shape);
  const under = boxes.find((box) => clientX >= box.left && clientX <= box.right) ?? boxes[0];
  const edge = Math.min(EDGE, (right - left) / 4);
  if (clientX - left < edge && shape.dataset.cutStart === undefined) return "start";
  if (right - clientX < edge && shape.dataset.cutEnd === undefined) return "end";
  return clientY - under.top < Math.min(5, (under.bottom - under.top) / 3) ? "top" : "whole";
}

/** The identity in a shape's tag, which names its version, too. */
export const idOf = (shape) => shape.dataset.shape.split("-")[0];
