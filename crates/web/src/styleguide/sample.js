// The live grid on a page of its own: benches that are made up, and nothing that is kept.
import { openGrid } from "/assets/grid/grid.js";

openGrid({
  rows: "/styleguide/rows",
  row: (key) => `/styleguide/rows/${key}`,
  sheet: "/styleguide/sheet",
  deeds: "/styleguide/bars",
  move: "move",
  takers: ".row.bench",
  select: (key, at) => ({ bench: key, at }),
  selected: ({ bench }) => bench ?? null,
  draw: (grid, row, from) => grid.openCell(row, from),
  grips: {},
  keys: {},
  drawSays: "Something new",
  slipSays: "Drop on a bench",
  headSays: "Nothing takes a bench",
  nothingToGrip: ["No bar to grip here", ["choose another cell"]],
  alongSays: (many) => `${many} taken along`,
});
document.documentElement.dataset.ready = "sample";
