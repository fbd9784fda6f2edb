// What the parts of the Fit room share: its address, its cells.

export const grid = document.getElementById("grid");
export const sheet = document.getElementById("sheet");
export const scroller = grid.closest(".scroller");
export const mayBook = grid.dataset.mayBook === "true";
export const days = Number(grid.dataset.days);
const first = new Date(`${grid.dataset.from}T00:00:00Z`);

export const address = () => new URL(location.href);
export const room = () => Object.fromEntries(address().searchParams);
export const under = (path) => path + address().search;
export const dayText = (index) => new Date(first.getTime() + index * 864e5).toISOString().slice(0, 10);
export const dayIndex = (text) => Math.round((new Date(`${text}T00:00:00Z`) - first) / 864e5);

/** Alters the address in place: `null` takes a word out. */
export function turnTo(words) {
  const next = address();
  for (const [name, value] of Object.entries(words)) {
    if (value === null || value === "") next.searchParams.delete(name);
    else next.searchParams.set(name, value);
  }
  history.replaceState(null, "", next);
}

/** The row that a line of the grid is: a person's, a group's, an open seat's. */
export const rowsOf = (person) => grid.querySelectorAll(`.row[data-person="${person}"]`);
export const cellOf = (person, from) => grid.querySelector(`.row[data-person="${person}"] .cell[data-from="${from}"]`);

/** The cell in a row under a day. */
export function cellAt(row, index) {
  const day = dayText(index);
  const cells = [...row.querySelectorAll(".cell[data-from]")];
  return cells.findLast((cell) => cell.dataset.from <= day) ?? cells[0];
}

/** The day under a point of a track. */
export const dayAt = (track, x) => dayIn(track.getBoundingClientRect(), x);

/** The same, where the track's box is known. */
export function dayIn(box, x) {
  return Math.max(0, Math.min(days - 1, Math.floor(((x - box.left) / box.width) * days)));
}

// One cell of the grid is reached by Tab; arrows go on from there.
export function setTabStop(cell = null) {
  const stop = cell?.querySelector("a") ?? grid.querySelector('.cell > a[tabindex="0"]') ?? grid.querySelector(".row:not(.heads) .cell > a");
  for (const link of grid.querySelectorAll('.cell > a[tabindex="0"]')) if (link !== stop) link.tabIndex = -1;
  if (stop) stop.tabIndex = 0;
}
