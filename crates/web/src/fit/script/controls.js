// What stands around the grid: angles, measures, filters, layers, looks, what is taken along, the horizon's brush, the phone's list.
import { part } from "/assets/frame/news.js";
import { startHead } from "/assets/frame/head.js";
import { startTakingAlong } from "/assets/frame/picture.js";

const address = () => new URL(location.href);

/** What is selected goes along to another view of the room. */
function carry(url) {
  const next = new URL(url, location.href);
  for (const name of ["person", "group", "at", "open"]) {
    const value = address().searchParams.get(name);
    if (value) next.searchParams.set(name, value);
    else next.searchParams.delete(name);
  }
  return next;
}

export function startControls(grid) {
  // What is selected, and which rows are open, goes along to another angle, measure or filter.
  for (const link of document.querySelectorAll('.controls [aria-label="Angle"] a')) {
    link.addEventListener("click", (event) => {
      if (event.ctrlKey || event.metaKey) return;
      event.preventDefault();
      location.assign(carry(link.href));
    });
  }
  for (const form of document.querySelectorAll("[data-at-once], [data-filter], [data-layers]")) {
    form.addEventListener("submit", (event) => {
      event.preventDefault();
      const fields = new FormData(form);
      const next = carry(form.getAttribute("action"));
      for (const [name, value] of fields) if (value) next.searchParams.set(name, value);
      for (const name of ["person", "group", "at"]) if (address().searchParams.has(name)) next.searchParams.set(name, address().searchParams.get(name));
      // Another kind of cell has its own usual number of them.
      if (form.dataset.atOnce !== undefined && fields.get("zoom") === (address().searchParams.get("zoom") ?? "week")) {
        const span = address().searchParams.get("span");
        if (span) next.searchParams.set("span", span);
      }
      location.assign(next);
    });
  }
  for (const form of document.querySelectorAll("[data-at-once], [data-filter]")) {
    form.addEventListener("change", (event) => event.target.matches("select") && form.requestSubmit());
  }
  document.querySelector("[data-layers]").addEventListener("change", (event) => {
    const form = event.currentTarget;
    const boxes = [...form.querySelectorAll("input[type=checkbox]")];
    const turned = boxes.filter((box) => box.checked !== (box.dataset.usual === "true")).map((box) => box.value);
    const next = address();
    if (turned.length) next.searchParams.set("layers", turned.join(","));
    else next.searchParams.delete("layers");
    location.assign(next);
  });

  startHead(["person", "group", "at"]);

  // Taken along.
  startTakingAlong("fit.png");

  for (const strip of grid.room.strips) {
    const box = document.getElementById(strip[0]);
    if (!box.querySelector("svg, a, ul, span")) grid.refreshStrip(strip);
  }
  startBrush(grid.place);
  startPocket();
}

/** On the horizon one draws the window. */
function startBrush(place) {
  const horizon = document.getElementById("horizon");
  let brushing = null;
  const weekAt = (event) => document.elementFromPoint(event.clientX, event.clientY)?.closest?.("[data-week]")?.dataset.week;
  horizon.addEventListener("pointerdown", (event) => {
    const week = event.button === 0 && weekAt(event);
    if (week) brushing = { from: week, to: week };
  });
  horizon.addEventListener("dragstart", (event) => event.preventDefault());
  document.addEventListener("pointermove", (event) => {
    if (brushing) brushing.to = weekAt(event) ?? brushing.to;
  });
  document.addEventListener("pointerup", () => {
    if (!brushing) return;
    const [first, last] = [brushing.from, brushing.to].sort();
    brushing = null;
    if (first === last) return; // a click: the bar is a link
    const weeks = [...horizon.querySelectorAll("[data-week]")].map((bar) => bar.dataset.week);
    place.turnTo({ from: first, span: weeks.indexOf(last) - weeks.indexOf(first) + 1, zoom: null });
    location.reload();
  });
}

/** On a phone one's own weeks come first, and who is over. */
function startPocket() {
  const pocket = document.getElementById("pocket");
  const narrow = matchMedia("(max-width: 760px)");
  const fill = async () => {
    if (!narrow.matches || pocket.childElementCount) return (pocket.hidden = !narrow.matches);
    const html = await part(pocket.dataset.href);
    if (html === null) return;
    pocket.innerHTML = html;
    pocket.hidden = !narrow.matches;
      };
  narrow.addEventListener("change", fill);
  fill();
}
