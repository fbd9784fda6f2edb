// The live grid, whatever room it stands in: rows in chunks, shapes held by pointer, finger and key, a side sheet, and news of what
// others change. `docs/architecture.md`, “The live grid”, says how a room uses it.
import { send, tellChange, toast, whenStepped } from "/assets/frame/app.js";
import { follow, part } from "/assets/frame/news.js";
import { Place } from "/assets/grid/place.js";
import { Rows } from "/assets/grid/rows.js";
import { Sheet } from "/assets/grid/sheet.js";
import { Presence } from "/assets/grid/presence.js";
import { startDrags } from "/assets/grid/drag.js";
import { startKeys } from "/assets/grid/keys.js";
import { taken } from "/assets/grid/hand.js";
import { idOf } from "/assets/grid/shape.js";

/** Opens the grid of this page, as `room` describes it. */
export function openGrid(room) {
  return new Grid(room);
}

class Grid {
  constructor(room) {
    this.room = room;
    this.place = new Place(room);
    this.waiting = []; // what changed while something was in one's hand
    this.changing = 0; // changes that are on their way, or told and not drawn yet
    this.rows = new Rows(this.place, { holds: () => this.isHolding(), waits: (keys) => this.waiting.push(keys) });
    this.sheet = new Sheet(this);
    this.presence = new Presence(this);
    startKeys(this);
    startDrags(this);
    whenStepped((path) => this.step(path));
    for (const form of document.querySelectorAll("[data-undo], [data-redo]")) {
      form.addEventListener("submit", (event) => {
        event.preventDefault();
        this.step(form.getAttribute("action"));
      });
    }
    this.place.element.addEventListener("click", (event) => {
      const link = event.target.closest(".who > a");
      if (!link || event.ctrlKey || event.metaKey) return;
      event.preventDefault();
      this.turn(link);
    });
    this.rows.whenDrawn((row) => this.keepMarks(row));
    this.place.setTabStop();
    this.sheet.mark();
    follow(Number(this.place.element.dataset.revision), (message) => this.news(message));
  }

  // ----------------------------------------------------------------------------------------------------------------- changes

  /** Fetches a strip beside the rows again. */
  async refreshStrip([id, path]) {
    const html = await part(this.place.under(path));
    if (html !== null) document.getElementById(id).innerHTML = html;
  }

  /** Brings the room up to date after a change: the rows with these keys, or all. */
  async refresh(keys) {
    const { room, place } = this;
    const words = place.words();
    const key = room.selected(words);
    await Promise.all([
      keys && !room.isListByFigures?.(words) ? this.rows.refresh(keys) : this.rows.refreshAll(),
      ...(room.strips ?? []).map((strip) => this.refreshStrip(strip)),
      keys === null || keys.includes(key) || !place.rowsOf(key)[0]?.matches(room.takers) ? this.sheet.refresh() : null,
    ]);
    this.sheet.mark();
  }

  /** Says that the grid is busy while a change is made, until what came of it is drawn: until then shapes are what they were. */
  async during(change) {
    const { element } = this.place;
    this.changing += 1;
    element.setAttribute("aria-busy", "true");
    try {
      return await change();
    } finally {
      this.changing -= 1;
      if (!this.changing) element.removeAttribute("aria-busy");
    }
  }

  /** Tells what came of a change, and brings the room up to date. */
  async afterChange(answer, form = null, hold = null) {
    if (answer.aborted) return;
    if (answer.ok) {
      tellChange(answer.body, (path) => this.step(path));
      if (form) delete form.dataset.dirty;
      await this.refresh(answer.body.people?.map(String) ?? null);
      return;
    }
    const { standing, message } = answer.body;
    const says = standing ? [`It stands at ${standing.says} now. Yours was not saved.`] : [];
    const again = standing?.seen && hold?.way ? () => this.anyway(hold, standing.seen) : null;
    toast(message, says, null, true, again ? [["Do mine all the same", again], ["Leave theirs", () => {}]] : []);
    if (form) this.sheet.showProblem(form, answer.body);
    if (answer.status === 409 || answer.status === 404) await this.refresh(null);
  }

  /** Does what the hand did with what stands now. */
  async anyway(hold, seen) {
    await this.during(async () => this.afterChange(await send(`${this.room.deeds}/${hold.deed}`, { ...hold.fields, seen, ...hold.way })));
  }

  async step(path) {
    await this.during(async () => this.afterChange(await send(path, {})));
  }

  // ------------------------------------------------------------------------------------------------------- what one looks at

  /** Opens the side sheet on a cell of a row, without leaving the page. */
  async openCell(row, from, then) {
    this.place.turnTo(this.room.select(row.dataset.key, from));
    this.sheet.mark();
    this.presence.hereIAm();
    await this.sheet.refresh(true);
    then?.();
  }

  /** Opens or closes a row, folds or unfolds a group. */
  async turn(link) {
    const { place, room } = this;
    const { key } = link.closest(".row").dataset;
    // The address may have changed since the row was drawn.
    const { word, between, all } = room.turns(key);
    const turned = new Set((place.words()[word] ?? "").split(between).filter(Boolean));
    turned.has(key) ? turned.delete(key) : turned.add(key);
    place.turnTo({ [word]: [...turned].join(between) });
    await (all ? this.rows.refreshAll() : this.rows.refresh([key]));
    if (all) place.linkOf(key, place.columns[0])?.focus({ preventScroll: true });
  }

  /** What was taken along or selected stays so when its row is drawn anew. */
  keepMarks(row) {
    if (taken.size) for (const shape of row.querySelectorAll("[data-shape]")) shape.classList.toggle("taken", taken.has(idOf(shape)));
    const words = this.place.words();
    if (row.dataset.key === this.room.selected(words)) {
      this.place.cellOf(row.dataset.key, words.at)?.setAttribute("aria-selected", "true");
    }
  }

  // -------------------------------------------------------------------------------------------------------------------- live

  news(message) {
    if (message.kind === "presence") return this.presence.hear(message);
    if (!message.fresh) return;
    const keys = message.kind === "change" ? (message.people?.map(String) ?? null) : null;
    if (this.isHolding()) this.waiting.push(keys);
    else this.refresh(keys);
  }

  /** Whether something is in the hand. */
  isHolding() {
    return this.isDragging() || this.isGripping();
  }

  /** Nothing is in the hand any more: what came meanwhile is shown. */
  letGo() {
    if (!this.waiting.length || this.isHolding()) return;
    const all = this.waiting.some((keys) => keys === null) ? null : [...new Set(this.waiting.flat())];
    this.waiting = [];
    this.refresh(all);
  }
}
