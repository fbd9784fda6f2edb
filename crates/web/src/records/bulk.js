// Rows are ticked to be changed at once; what that would do is a page of its own.
import { fieldFor } from "/assets/records/field.js";

const form = document.getElementById("bulk");
const table = document.getElementById("list");
const chosen = new Set();
const boxOf = (row) => row.querySelector(".chosen input");
const all = table?.querySelector("[data-choose-all]");

/** Rows that were read anew are ticked as they were. */
export function tickAgain() {
  if (!form) return;
  for (const row of table.querySelectorAll("tr[data-id]")) {
    const box = boxOf(row);
    if (box) box.checked = chosen.has(row.dataset.id);
  }
  say();
}

/** Ticks a row, or no longer. */
export function turn(row) {
  const box = form && boxOf(row);
  if (!box) return;
  box.checked = !box.checked;
  note(row, box.checked);
  say();
}

function note(row, on) {
  on ? chosen.add(row.dataset.id) : chosen.delete(row.dataset.id);
}

function say() {
  const count = table.querySelectorAll(".chosen input[name]:checked").length;
  form.classList.toggle("has-some", count > 0);
  form.querySelector("[data-count]").textContent = `${count} ticked`;
  all.checked = count > 0 && count === table.querySelectorAll(".chosen input[name]").length;
}

function offer() {
  const { dataset, value: column } = form.elements.column.selectedOptions[0];
  const label = form.querySelector(".value");
  const choices = JSON.parse(dataset.choices || "[]");
  const field = fieldFor({ input: dataset.input, choices, kind: table.dataset.kind, column: column.replace(/^[-+]/, ""), value: choices[0]?.[0] ?? "" });
  Object.assign(field, { name: "value" });
  label.querySelector("input, select").replaceWith(field);
  label.querySelector("datalist")?.remove();
  label.hidden = dataset.input === "";
}

if (form) {
  all.hidden = false;
  all.addEventListener("change", () => {
    for (const row of table.querySelectorAll("tr[data-id]")) {
      const box = boxOf(row);
      if (!box) continue;
      box.checked = all.checked;
      note(row, all.checked);
    }
    say();
  });
  table.addEventListener("change", (event) => {
    if (!event.target.matches(".chosen input[name]")) return;
    note(event.target.closest("tr"), event.target.checked);
    say();
  });
  form.elements.column.addEventListener("change", offer);
  offer();
  // A page that one comes back to may have boxes ticked still.
  for (const row of table.querySelectorAll("tr[data-id]")) if (boxOf(row)?.checked) note(row, true);
  say();
}
