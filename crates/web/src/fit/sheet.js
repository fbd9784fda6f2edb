// The side sheet: it opens on what is selected, its forms say what they would do while they are filled in, and a conflict shows both
// values and lets one choose.
import { send } from "/assets/frame/app.js";
import { part } from "/assets/frame/news.js";
import { address, cellOf, grid, room, setTabStop, sheet, turnTo, under } from "/assets/fit/room.js";

/** Opens the side sheet on a cell of a row, without leaving the page. */
export async function openCell(row, from, then) {
  const { person, group, seat } = row.dataset;
  turnTo({ person: person ?? null, group: group ?? (seat ? `seat:${seat}` : null), at: from });
  mark();
  document.dispatchEvent(new CustomEvent("snug-here", { detail: person }));
  await refreshSheet(true);
  then?.();
}

const selected = () => {
  const { person, group, at } = room();
  if (person) return cellOf(person, at);
  return group ? grid.querySelector(`.row[data-group="${CSS.escape(group)}"] .cell[data-from="${at}"]`) : null;
};

export function mark() {
  grid.querySelectorAll('.cell[aria-selected="true"]').forEach((cell) => cell.setAttribute("aria-selected", "false"));
  const cell = selected();
  cell?.setAttribute("aria-selected", "true");
  if (cell) setTabStop(cell);
  for (const link of document.querySelectorAll("[data-ics]")) link.href = under("/fit/export/ics");
}

export async function refreshSheet(fresh = false) {
  const { person, group, at } = room();
  if (!person && !group) return;
  // What somebody is typing is not taken from under their hands.
  const isTyped = () => !fresh && sheet.querySelector("form[data-dirty]");
  if (isTyped()) return;
  const html = await part(under("/fit/sheet"));
  // Another cell was chosen meanwhile, which asks for itself; or somebody has begun to type.
  const now = room();
  if (now.person !== person || now.group !== group || now.at !== at) return;
  if (isTyped()) return;
  if (!html) return fresh || sheet.hidden ? null : closeSheet();
  // What is open stays so, also what was opened while the answer was on its way.
  const open = fresh ? [] : [...sheet.querySelectorAll("details[open][data-keep]")].map((details) => details.dataset.keep);
  sheet.innerHTML = html;
  sheet.hidden = false;
  sheet.parentElement.classList.add("with-sheet");
  for (const key of open) sheet.querySelector(`[data-keep="${key}"]`)?.setAttribute("open", "");
}

export function closeSheet() {
  const cell = selected();
  turnTo({ person: null, group: null, at: null });
  sheet.hidden = true;
  sheet.parentElement.classList.remove("with-sheet");
  mark();
  cell?.querySelector("a").focus();
}

/** Opens the form that books time, with the cell's or the drawn days. */
export function openBooking(row, at, start, end) {
  return openCell(row, at, () => {
    const details = sheet.querySelector("#book");
    if (!details) return;
    details.open = true;
    const form = details.querySelector("form");
    if (start) form.elements.start.value = start;
    if (end) form.elements.end.value = end;
    form.elements.amount.focus();
  });
}

function line(text, kind = "") {
  return Object.assign(document.createElement("span"), { className: kind, textContent: text });
}

function button(text, act) {
  const one = Object.assign(document.createElement("button"), { type: "button", className: "button plain", textContent: text });
  one.addEventListener("click", act);
  return one;
}

/** What is wrong with a form, beside it: the sentence, what could have been meant, and where somebody was quicker both values. */
export function showProblem(form, problem) {
  const says = form.querySelector(".says");
  const field = problem.field && form.elements[problem.field];
  if (says) {
    const lines = [line(problem.message, "problem")];
    for (const meant of problem.ask ?? []) {
      lines.push(button(meant, () => {
        form.elements.amount.value = meant;
        form.requestSubmit();
      }));
    }
    const theirs = problem.standing?.booking;
    if (theirs) {
      lines.push(line(`Theirs: ${problem.standing.says}`));
      lines.push(button("Take theirs", () => {
        delete form.dataset.dirty;
        refreshSheet(true);
      }));
      lines.push(button("Keep mine", () => {
        form.elements.seen.value = JSON.stringify(theirs);
        form.requestSubmit();
      }));
    }
    says.replaceChildren(...lines);
  }
  if (field?.setAttribute) {
    field.setAttribute("aria-invalid", "true");
    field.focus();
  }
}

export function startSheet({ afterChange }) {
  sheet.addEventListener("click", async (event) => {
    if (event.target.closest("[data-close]")) {
      event.preventDefault();
      return closeSheet();
    }
    const takers = event.target.closest("[data-takers]");
    if (takers && event.target.matches("button") && !event.target.closest("form")) {
      event.target.disabled = true;
      const html = await part(takers.dataset.takers);
      if (html) takers.innerHTML = html;
      else event.target.disabled = false;
    }
  });

  let asking; // the preview that is under way or about to be asked for
  const askNoMore = () => {
    clearTimeout(asking?.timer);
    asking?.abort.abort();
  };

  sheet.addEventListener("submit", async (event) => {
    const form = event.target.closest("form[data-act]");
    if (!form) return;
    event.preventDefault();
    // What it would do is no longer of interest, and must not take the place of what it did.
    askNoMore();
    const submit = form.querySelector("button[type=submit]");
    submit.disabled = true;
    const answer = await send(form.getAttribute("action"), new FormData(form));
    submit.disabled = false;
    await afterChange(answer, form);
  });

  // What a form would do is said while it is filled in.
  const later = (event) => {
    const form = event.target.closest("form[data-preview]");
    if (!form) return;
    form.dataset.dirty = "";
    event.target.removeAttribute("aria-invalid");
    askNoMore();
    const abort = new AbortController();
    asking = { abort, timer: setTimeout(() => ask(form, abort.signal), 250) };
  };
  sheet.addEventListener("input", later);
}

async function ask(form, signal) {
  const says = form.querySelector(".says");
  if (form.elements.amount && !form.elements.amount.value) return says.replaceChildren();
  const fields = new FormData(form);
  fields.set("what", form.dataset.what ?? (fields.get("seen") ? "change" : "place"));
  fields.set("room", JSON.stringify(room()));
  const answer = await send("/bookings/preview", fields, signal);
  if (answer.aborted) return;
  if (!answer.ok) return says.replaceChildren(line(answer.body.message, "problem"));
  const tip = form.dataset.what === "unit" && answer.body.tip ? [line(`It becomes ${answer.body.tip}`)] : [];
  says.replaceChildren(...tip, ...answer.body.says.map((text) => line(text)));
}

/** What is selected goes along to another view of the room. */
export function carry(url) {
  const next = new URL(url, location.href);
  for (const name of ["person", "group", "at", "open"]) {
    const value = address().searchParams.get(name);
    if (value) next.searchParams.set(name, value);
    else next.searchParams.delete(name);
  }
  return next;
}
