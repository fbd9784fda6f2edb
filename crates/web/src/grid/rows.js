// The list of rows. It is there in chunks; those near the window are filled, the others are as tall as they would be, and empty.
import { part } from "/assets/frame/news.js";

/** Pixels beyond the window within which rows are there before one scrolls to them, and beyond which they leave. */
const NEAR = 900;
const FAR = 4000;

export class Rows {
  /** While `hand.holds()`, rows stay as they are; `hand.waits(keys)` hears which would have been drawn anew. */
  constructor(place, hand) {
    Object.assign(this, { place, hand });
    this.body = document.getElementById("rows");
    const { page, total, offset } = place.element.dataset;
    Object.assign(this, { page: Number(page), total: Number(total), rowHeight: 74, drawn: [], filling: new WeakMap() });
    // Sums that take a while come when they are looked at, one after the other.
    this.queue = Promise.resolve();
    const seen = (entries) => entries.forEach(({ isIntersecting, target }) => isIntersecting && this.add(target));
    this.later = new IntersectionObserver(seen, { root: place.scroller, rootMargin: "200px 0px" });

    this.body.querySelector("template[data-total]")?.remove();
    // Without scripts the list goes on on a page of its own.
    this.body.querySelector(".more")?.remove();
    this.lookForSums(this.body);
    this.whenDrawn((row) => place.settle(row));
    if (Number(offset) % this.page === 0) this.layChunks();
    // Looked at once a frame of scrolling: an observer of each chunk would be asked in every frame of a drag, too.
    place.scroller.addEventListener("scroll", () => {
      this.lookAround();
      this.letGoOfHand();
    }, { passive: true });
    new ResizeObserver(() => this.lookAround()).observe(place.scroller);
  }

  /** Calls `then(row)` for every row that is there and every one that comes. */
  whenDrawn(then) {
    this.drawn.push(then);
    this.place.rows().forEach(then);
  }
  tellDrawn(rows) {
    rows.forEach((row) => this.drawn.forEach((then) => then(row)));
  }

  /** Replaces the rows with a key by their markup, keeping focus on the cell that had it. */
  putRow(key, html) {
    for (const row of this.place.rowsOf(key)) this.put(row, html);
  }

  put(row, html) {
    const { place } = this;
    const at = (selector) => place.cellsOf(row).findIndex((cell) => cell.querySelector(selector));
    const [focused, stop] = [at("a:focus"), at('a[tabindex="0"]')];
    const holder = document.createElement("template");
    holder.innerHTML = html;
    const next = holder.content.querySelector(".row");
    if (!next) return row.remove();
    row.replaceWith(next);
    this.tellDrawn([next]);
    const link = (index) => place.cellsOf(next)[index]?.querySelector("a");
    if (link(stop)) link(stop).tabIndex = 0;
    link(focused)?.focus({ preventScroll: true });
  }

  // ------------------------------------------------------------------------------------------------------------------ chunks

  /** While rows run by under a hand that rests, none of them is looked up and marked as the one beneath it. */
  letGoOfHand() {
    clearTimeout(this.resting);
    this.ran = (this.ran ?? 0) + 1;
    // One leap is no run: what comes to lie under the hand can be taken at once. And what is held looks for the row beneath it.
    if (this.ran > 3 && !document.documentElement.classList.contains("dragging")) this.body.classList.add("runs");
    this.resting = setTimeout(() => {
      this.ran = 0;
      this.body.classList.remove("runs");
    }, 100);
  }

  /** What a press is on. Rows that just ran by are taken like those that rest. */
  underPress({ target, clientX, clientY }) {
    if (!this.body.classList.contains("runs")) return target;
    this.body.classList.remove("runs");
    return document.elementFromPoint(clientX, clientY) ?? target;
  }

  /** Fills the chunks near the window, and empties those far from it, before the next frame. */
  lookAround() {
    if (this.looking) return;
    this.looking = true;
    requestAnimationFrame(() => {
      this.looking = false;
      const { top, bottom } = this.place.scroller.getBoundingClientRect();
      const chunks = this.body.querySelectorAll(".chunk");
      const below = (line) => {
        // The first chunk that ends below a line.
        let [low, high] = [0, chunks.length];
        while (low < high) {
          const middle = (low + high) >> 1;
          if (chunks[middle].getBoundingClientRect().bottom > line) high = middle;
          else low = middle + 1;
        }
        return low;
      };
      for (let at = below(top - NEAR); at < chunks.length && chunks[at].getBoundingClientRect().top < bottom + NEAR; at++) {
        if (!isFilled(chunks[at]) && !this.filling.has(chunks[at])) this.fill(chunks[at]);
      }
      const kept = [below(top - FAR), below(bottom + FAR)];
      chunks.forEach((chunk, at) => isFilled(chunk) && (at < kept[0] || at > kept[1]) && this.empty(chunk));
    });
  }

  /** Fills a chunk. One that is under way is asked for again when it is there: the address may be another one now. */
  fill(chunk) {
    const going = this.filling.get(chunk);
    if (going) {
      going.again = true;
      return going.done;
    }
    const mine = { again: false };
    this.filling.set(chunk, mine);
    mine.done = (async () => {
      let html;
      do {
        mine.again = false;
        html = await part(`${this.place.room.rows}?${new URLSearchParams({ ...this.place.words(), offset: chunk.dataset.offset })}`);
      } while (mine.again && chunk.isConnected);
      this.filling.delete(chunk);
      if (html === null || !chunk.isConnected) return;
      if (isFilled(chunk) && this.hand.holds()) this.hand.waits(null);
      else this.fillWith(chunk, html);
    })();
    return mine.done;
  }

  fillWith(chunk, html) {
    const focused = chunk.querySelector("a:focus")?.closest("[role=gridcell]");
    const [key, from] = focused ? [focused.closest(".row").dataset.key, this.place.fromOf(focused)] : [];
    chunk.innerHTML = html;
    chunk.style.height = "";
    const told = chunk.querySelector("template[data-total]");
    if (told && Number(told.dataset.total) !== this.total) {
      this.total = Number(told.dataset.total);
      this.layChunks();
    }
    told?.remove();
    chunk.querySelector(".more")?.remove();
    this.tellDrawn([...chunk.querySelectorAll(".row")]);
    this.lookForSums(chunk);
    if (key) this.place.linkOf(key, from)?.focus({ preventScroll: true });
    this.place.setTabStop();
    this.lookAround();
  }

  /** A chunk that is far from the window gives its rows back, unless somebody is in it. */
  empty(chunk) {
    const busy = chunk.contains(document.activeElement) || document.documentElement.classList.contains("dragging");
    if (!isFilled(chunk) || busy) return;
    chunk.style.height = `${chunk.getBoundingClientRect().height}px`;
    chunk.replaceChildren();
  }

  /** Makes as many chunks as the list has. */
  layChunks() {
    const { body, page, total } = this;
    const have = new Map([...body.querySelectorAll(".chunk")].map((chunk) => [Number(chunk.dataset.offset), chunk]));
    const filled = [...have.values()].find(isFilled);
    if (filled) this.rowHeight = Math.max(20, filled.getBoundingClientRect().height / Math.max(1, filled.querySelectorAll(".row").length));
    let before = null;
    for (let offset = 0; offset < Math.max(total, 1); offset += page) {
      let chunk = have.get(offset);
      if (!chunk) {
        chunk = Object.assign(document.createElement("div"), { className: "chunk" });
        chunk.setAttribute("role", "presentation");
        chunk.dataset.offset = offset;
        chunk.style.height = `${Math.min(page, total - offset) * this.rowHeight}px`;
        before ? before.after(chunk) : body.prepend(chunk);
      }
      have.delete(offset);
      before = chunk;
    }
    for (const chunk of have.values()) if (Number(chunk.dataset.offset) % page === 0) chunk.remove();
    this.lookAround();
  }

  // -------------------------------------------------------------------------------------------------------------------- sums

  lookForSums(within) {
    for (const head of within.querySelectorAll("[data-later]")) this.later.observe(head);
  }

  /** Fetches the row that sums up a group. */
  async sum(head) {
    const asked = new URLSearchParams(location.search);
    asked.set("group", head.dataset.key);
    const html = head.isConnected && (await part(`${this.place.room.sum}?${asked}`));
    if (html && head.isConnected) this.put(head, html);
  }

  add(head) {
    this.later.unobserve(head);
    this.queue = this.queue.then(() => this.sum(head));
  }

  // ----------------------------------------------------------------------------------------------------------------- refresh

  /** Reads these rows again, and the sums that they may be in. */
  async refresh(keys) {
    const { place } = this;
    const shown = keys.filter((key) => place.rowsOf(key).length);
    const sums = place.room.sum ? [...place.element.querySelectorAll(".row.head:not(.later)")] : [];
    await Promise.all([
      ...shown.map(async (key) => {
        const html = await part(place.under(place.room.row(key)));
        if (html && this.hand.holds()) this.hand.waits([key]);
        else if (html) this.putRow(key, html);
      }),
      ...sums.map((head) => this.sum(head)),
    ]);
    place.setTabStop();
  }

  /** Reads every chunk again that is filled. */
  async refreshAll() {
    await Promise.all([...this.body.querySelectorAll(".chunk")].filter(isFilled).map((chunk) => this.fill(chunk)));
  }
}

const isFilled = (chunk) => chunk.childElementCount > 0;
