// Who else looks at which row.
import { ask } from "/assets/frame/news.js";

/** Milliseconds between two times that one is heard of, and after which somebody who is not heard of is gone. */
const AGAIN = 12_000;
const GONE = 25_000;

export class Presence {
  constructor(grid) {
    this.grid = grid;
    this.others = new Map(); // page → {key, name, until}
    this.tab = Math.random().toString(36).slice(2, 12);
    grid.rows.whenDrawn((row) => this.show(row));
    setInterval(() => this.hereIAm(), AGAIN);
    this.hereIAm();
  }

  async hereIAm() {
    const { place, room } = this.grid;
    const { person } = place.words();
    if (!room.presence || !person || document.hidden) return;
    const body = new URLSearchParams({ person, tab: this.tab });
    await ask(room.presence, { method: "POST", body }).catch(() => null);
  }

  hear({ person, name, tab: whose }) {
    if (whose === this.tab) return;
    const key = String(person);
    const before = this.others.get(whose);
    this.others.set(whose, { key, name, until: Date.now() + GONE });
    const showAll = (one) => this.grid.place.rowsOf(one).forEach((row) => this.show(row));
    for (const one of new Set([before?.key, key])) if (one) showAll(one);
    setTimeout(() => showAll(key), GONE + 50);
  }

  /** Who else looks at a row stands beside its name. */
  show(row) {
    const who = row.querySelector(".who");
    who?.querySelector(".presence")?.remove();
    if (!this.others.size || !who) return;
    const here = [...this.others.values()].filter((one) => one.key === row.dataset.key && one.until > Date.now());
    if (!here.length) return;
    const names = [...new Set(here.map((one) => one.name))].join(", ");
    who.append(Object.assign(document.createElement("span"), { className: "presence", textContent: `${names} is here`, title: `${names} looks at this row` }));
  }
}
