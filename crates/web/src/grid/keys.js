// The keyboard: arrows between cells, and one letter a deed.
import { leaveAll, taken } from "/assets/grid/hand.js";
import { Grip, STEPS } from "/assets/grid/grip.js";

/** Lets a grid be worked by keys. */
export function startKeys(grid) {
  const { place, room } = grid;
  const grip = new Grip(grid);
  grid.grip = grip;
  grid.isGripping = () => grip.held !== null;

  place.element.addEventListener("keydown", (event) => {
    const cell = event.target.closest?.(".cells > [role=gridcell]");
    const step = STEPS[event.key];
    if (grip.held || !cell || !step || event.altKey || event.ctrlKey || event.metaKey) return;
    const rows = place.rows();
    const at = [...cell.parentElement.children].indexOf(cell) + step[1];
    let to = rows.indexOf(cell.closest(".row")) + step[0];
    while (step[0] && rows[to] && !place.cellsOf(rows[to]).length) to += step[0];
    const next = rows[to] && place.cellsOf(rows[to])[at];
    if (!next) return;
    event.preventDefault();
    place.setTabStop(next);
    next.querySelector("a").focus();
    next.scrollIntoView({ block: "nearest" });
  });

  document.addEventListener("keydown", (event) => {
    const typing = event.target.matches("input, select, textarea") || document.querySelector("dialog[open]");
    if (typing || event.ctrlKey || event.metaKey || event.altKey || grid.isDragging()) return;
    if (grip.held) return grip.key(event);
    if (event.key === "Escape") {
      if (taken.size) return leaveAll();
      if (!place.sheet.hidden) grid.sheet.close();
      return;
    }
    const cell = event.target.closest?.(".cells > [role=gridcell]");
    const row = cell?.closest(".row[data-key]");
    const link = row?.querySelector(".who > a");
    const own = room.keys[event.key];
    const act = {
      d: link && (() => grid.turn(link)),
      g: place.mayChange && (() => grip.take(event.target)),
    }[event.key] ?? (own && (own.length < 2 || row) ? () => own(grid, row, cell && place.fromOf(cell)) : null);
    if (!act) return;
    event.preventDefault();
    act();
  });

  place.element.addEventListener("click", (event) => {
    const link = event.target.closest(".cells a");
    if (!link || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    const cell = link.closest("[role=gridcell]");
    grid.openCell(cell.closest(".row"), place.fromOf(cell), () => {
      if (event.detail === 0) document.getElementById("sheet-title")?.focus();
    });
  });
}
