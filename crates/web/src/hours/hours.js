// The week sheet: a cell is saved when one leaves it; totals come from the server.
import { send, tellChange, toast } from "/assets/frame/app.js";
import { follow, part } from "/assets/frame/news.js";

const box = document.getElementById("sheet-box");
const cells = () => [...box.querySelectorAll('input[name^="m."]')];
let stale = false;

async function refresh() {
  // What somebody is typing is not taken from under their hands.
  const typing = cells().find((cell) => cell === document.activeElement);
  if (typing && typing.value !== typing.defaultValue) return void (stale = true);
  stale = false;
  const asked = new URLSearchParams({ person: box.dataset.person, week: box.dataset.week });
  const sheet = await part(`/hours/sheet?${asked}`);
  if (sheet === null) return;
  const focused = document.activeElement?.name;
  // Cells that were refused keep what was typed.
  const refused = new Map(cells().filter((cell) => cell.hasAttribute("aria-invalid")).map((cell) => [cell.name, cell.value]));
  box.innerHTML = sheet;
  for (const cell of cells()) {
    if (refused.has(cell.name)) Object.assign(cell, { value: refused.get(cell.name), ariaInvalid: "true" });
    if (cell.name === focused) cell.focus();
  }
}

async function save(cell) {
  if (cell.value === cell.defaultValue) {
    cell.removeAttribute("aria-invalid");
    if (stale) refresh();
    return;
  }
  const fields = { person: box.dataset.person, week: box.dataset.week, [cell.name]: cell.value, [`s.${cell.name.slice(2)}`]: cell.dataset.seen };
  const answer = await send("/hours", fields);
  if (answer.ok) {
    cell.removeAttribute("aria-invalid");
    cell.defaultValue = cell.value;
    tellChange(answer.body);
    await refresh();
  } else {
    cell.setAttribute("aria-invalid", "true");
    toast(answer.body.message, [], null, true);
  }
}

box?.addEventListener("change", (event) => event.target.matches('input[name^="m."]') && save(event.target));
box?.addEventListener("keydown", (event) => {
  const cell = event.target.closest('input[name^="m."]');
  if (!cell) return;
  if (event.key === "Escape") cell.value = cell.defaultValue;
  const way = { ArrowUp: -7, ArrowDown: 7, Enter: 0 }[event.key];
  if (way === undefined) return;
  event.preventDefault();
  if (way === 0) cell.dispatchEvent(new Event("change", { bubbles: true }));
  else cells()[cells().indexOf(cell) + way]?.focus();
});
// What fills cells is worked out by the server; the sheet is drawn anew.
async function fill(take) {
  const answer = await send("/hours/fill", { person: box.dataset.person, week: box.dataset.week, take });
  if (!answer.ok) return toast(answer.body.message, [], null, true);
  tellChange(answer.body);
  await refresh();
}
box?.addEventListener("submit", (event) => {
  if (event.target.id !== "week") return;
  event.preventDefault();
  if (event.submitter?.name === "take") fill(event.submitter.value);
});
box?.addEventListener("beforeinput", (event) => {
  const cell = event.target.closest('input[name^="m."]');
  if (!cell || !["=", "+", "*"].includes(event.data)) return;
  event.preventDefault();
  const [, subject, day] = cell.name.match(/^m\.(.*)\.([^.]*)$/);
  fill({ "=": `cell ${subject}.${day}`, "+": `line ${subject}`, "*": `day ${day}` }[event.data]);
});

if (box) follow(Number(box.dataset.revision), ({ fresh }) => fresh && refresh());

document.querySelector("[data-whose] select")?.addEventListener("change", (event) => event.target.form.submit());
document.addEventListener("keydown", (event) => {
  if (event.target.matches("input, select, textarea") || document.querySelector("dialog[open]")) return;
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const act = {
    e: () => document.querySelector("[data-earlier]").click(),
    l: () => document.querySelector("[data-later]").click(),
    t: () => document.querySelector("#log [name=duration]")?.focus(),
  }[event.key];
  if (!act) return;
  event.preventDefault();
  act();
});
document.documentElement.dataset.ready = "hours";
