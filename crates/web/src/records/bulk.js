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

let asked = false;
function say() {
  const count = table.querySelectorAll(".chosen input[name]:checked").length;
  if (count > 0 && !asked) {
    asked = true;
    offer();
  }
  form.classList.toggle("has-some", count > 0);
  form.querySelector("[data-count]").textContent = `${count} ticked`;
  const tuck = form.querySelector("[data-tuck]");
  if (tuck) tuck.href = `/schedule/tuck-in?${new URLSearchParams({ go: "yes", dates: "unpinned", task: [...chosen].join(","), from: location.pathname + location.search })}`;
  all.checked = count > 0 && count === table.querySelectorAll(".chosen input[name]").length;
}

/** Puts another field for the value in place; one that is not ready can neither be typed in nor sent. */
function putField(about, ready) {
  const label = form.querySelector(".value");
  const field = Object.assign(fieldFor(about), { name: "value", disabled: !ready });
  form.querySelector("button").disabled = !ready;
  label.querySelector("input, select").replaceWith(field);
  label.querySelector("datalist")?.remove();
  label.hidden = about.input === "";
}

/** The field for the column that is chosen; how its values are typed is asked for, and nothing is typed until that is known. */
async function offer() {
  const column = form.elements.column.value;
  const plain = { input: "line", choices: [], kind: table.dataset.kind, column: column.replace(/^[-+]/, ""), value: "" };
  putField(plain, false);
  const response = await fetch(`${table.dataset.path}/bulk?${new URLSearchParams({ column })}`).catch(() => null);
  if (column !== form.elements.column.value) return;
  if (!response?.ok) return putField(plain, true);
  const { input, choices } = await response.json();
  putField({ ...plain, input, choices, value: choices[0]?.[0] ?? "" }, true);
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
  // A page that one comes back to may have boxes ticked still.
  for (const row of table.querySelectorAll("tr[data-id]")) if (boxOf(row)?.checked) note(row, true);
  say();
}
