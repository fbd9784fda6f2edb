// The side sheet: it opens on what is selected, its forms say what they would do while they are filled in, and a conflict shows both
// values and lets one choose.
import { send } from "/assets/frame/app.js";
import { part } from "/assets/frame/news.js";
import "/assets/frame/suggest.js";

/** Milliseconds without a key after which one asks what a form would do. */
const PAUSE = 250;

export class Sheet {
  constructor(grid) {
    this.grid = grid;
    this.box = grid.place.sheet;
    this.asking = null; // the preview that is under way or about to be asked for
    this.box.addEventListener("click", (event) => this.click(event));
    this.box.addEventListener("submit", (event) => this.submit(event));
    this.box.addEventListener("input", (event) => this.typed(event));
  }

  /** Marks the cell that is selected. */
  mark() {
    const { place, room } = this.grid;
    place.element.querySelectorAll('[role=gridcell][aria-selected="true"]').forEach((cell) => cell.setAttribute("aria-selected", "false"));
    const cell = place.selected();
    cell?.setAttribute("aria-selected", "true");
    if (cell) place.setTabStop(cell);
    room.marked?.(place);
  }

  async refresh(fresh = false) {
    const { place, room } = this.grid;
    const chosen = () => `${room.selected(place.words())} ${place.words().at}`;
    const before = chosen();
    if (!room.selected(place.words())) return;
    // What somebody is typing is not taken from under their hands.
    const isTyped = () => !fresh && this.box.querySelector("form[data-dirty]");
    if (isTyped()) return;
    const html = await part(place.under(room.sheet));
    // Another cell was chosen meanwhile, which asks for itself; or somebody has begun to type.
    if (chosen() !== before || isTyped()) return;
    if (!html) return fresh || this.box.hidden ? null : this.close();
    // What is open stays so, also what was opened while the answer was on its way.
    const open = fresh ? [] : [...this.box.querySelectorAll("details[open][data-keep]")].map((details) => details.dataset.keep);
    this.box.innerHTML = html;
    this.box.hidden = false;
    this.box.parentElement.classList.add("with-sheet");
    for (const key of open) this.box.querySelector(`[data-keep="${key}"]`)?.setAttribute("open", "");
  }

  close() {
    const { place, room } = this.grid;
    const cell = place.selected();
    place.turnTo(room.select(null, null));
    this.box.hidden = true;
    this.box.parentElement.classList.remove("with-sheet");
    this.mark();
    cell?.querySelector("a").focus();
  }

  async click(event) {
    if (event.target.closest("[data-close]")) {
      event.preventDefault();
      return this.close();
    }
    const takers = event.target.closest("[data-takers]");
    if (!takers || !event.target.matches("button") || event.target.closest("form")) return;
    event.target.disabled = true;
    const html = await part(takers.dataset.takers);
    if (html) takers.innerHTML = html;
    else event.target.disabled = false;
  }

  askNoMore() {
    clearTimeout(this.asking?.timer);
    this.asking?.abort.abort();
  }

  async submit(event) {
    const form = event.target.closest("form[data-act]");
    if (!form) return;
    event.preventDefault();
    // What it would do is no longer of interest, and must not take the place of what it did.
    this.askNoMore();
    const submit = form.querySelector("button[type=submit]");
    const back = this.whereIn(form);
    const fields = new FormData(form, event.submitter);
    submit.disabled = true;
    await this.grid.during(async () => {
      const answer = await send(form.getAttribute("action"), fields);
      submit.disabled = false;
      if (answer.ok && answer.body.go) return location.assign(answer.body.go);
      await this.grid.afterChange(answer, form);
    });
    back();
  }

  /** Puts the focus where it was when a form was sent, once the sheet is drawn anew. */
  whereIn(form) {
    const alike = () => [...this.box.querySelectorAll(`form[action="${form.getAttribute("action")}"]`)];
    const [at, which] = [alike().indexOf(form), [...form.elements].indexOf(document.activeElement)];
    return () => {
      if (document.activeElement !== document.body) return;
      const again = alike();
      (again[at] ?? again.at(-1))?.elements[which]?.focus();
    };
  }

  /** What a form would do is said while it is filled in. */
  typed(event) {
    const form = event.target.closest("form[data-preview]");
    if (!form) return;
    form.dataset.dirty = "";
    event.target.removeAttribute("aria-invalid");
    this.askNoMore();
    const abort = new AbortController();
    this.asking = { abort, timer: setTimeout(() => this.ask(form, abort.signal), PAUSE) };
  }

  async ask(form, signal) {
    const { place, room } = this.grid;
    const says = form.querySelector(".says");
    if (form.elements.amount && !form.elements.amount.value) return says.replaceChildren();
    const fields = new FormData(form);
    fields.set("what", form.dataset.preview);
    fields.set("room", JSON.stringify(place.words()));
    const answer = await send(`${room.deeds}/preview`, fields, signal);
    if (answer.aborted) return;
    if (!answer.ok) return says.replaceChildren(line(answer.body.message, "problem"));
    const becomes = form.dataset.preview === "unit" && answer.body.tip ? [line(`It becomes ${answer.body.tip}`)] : [];
    says.replaceChildren(...becomes, ...answer.body.says.map((text) => line(text)));
  }

  /** What is wrong with a form, beside it: the sentence, what could have been meant, and where somebody was quicker both values. */
  showProblem(form, problem) {
    const says = form.querySelector(".says");
    const field = problem.field && form.elements[problem.field];
    if (says) {
      const lines = [line(problem.message, "problem")];
      for (const meant of problem.ask ?? []) {
        lines.push(button(meant, () => {
          field.value = meant;
          form.requestSubmit();
        }));
      }
      const theirs = problem.standing?.seen;
      if (theirs) {
        lines.push(line(`Theirs: ${problem.standing.says}`));
        lines.push(button("Take theirs", () => {
          delete form.dataset.dirty;
          this.refresh(true);
        }));
        lines.push(button("Keep mine", () => {
          form.elements.seen.value = theirs;
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
}

function line(text, kind = "") {
  return Object.assign(document.createElement("span"), { className: kind, textContent: text });
}

function button(text, act) {
  const one = Object.assign(document.createElement("button"), { type: "button", className: "button plain", textContent: text });
  one.addEventListener("click", act);
  return one;
}
