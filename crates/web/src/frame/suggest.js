// What a field offers while one types: a native list, filled by the server. Works on fields that come later, too.

/** Fields that take several, with `;` between them, and of what. */
const SEVERAL = { people: "person", milestones: "milestone", projects: "project" };

let number = 0;
let waiting;

document.addEventListener("input", (event) => {
  const field = event.target.closest?.("input[data-suggest]");
  if (!field) return;
  clearTimeout(waiting);
  waiting = setTimeout(() => offer(field), 120);
});

document.addEventListener("focusin", (event) => {
  const field = event.target.closest?.("input[data-suggest]");
  if (field && !field.list) offer(field);
});

async function offer(field) {
  const several = SEVERAL[field.dataset.suggest];
  const parts = field.value.split(";");
  const typed = several ? parts.at(-1).trim() : field.value;
  const kind = field.dataset.kind ?? field.closest("[data-kind]")?.dataset.kind ?? "";
  const asked = new URLSearchParams({ of: several ?? field.dataset.suggest, q: typed, kind, column: field.dataset.column ?? field.name });
  const response = await fetch(`/suggest?${asked}`).catch(() => null);
  if (!response?.ok) return;
  const offers = await response.json();
  let list = field.list;
  if (!list) {
    list = document.createElement("datalist");
    list.id = `offers-${++number}`;
    field.after(list);
    field.setAttribute("list", list.id);
  }
  const before = several && parts.length > 1 ? `${parts.slice(0, -1).join(";")};` : "";
  list.replaceChildren(...offers.map((one) => Object.assign(document.createElement("option"), { value: before + one.value, label: one.label })));
}
