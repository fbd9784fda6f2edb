// Something in the hand: a shape, several, a slip, the head of a row. Its way is told to the server, which says what it would do; the
// rows of everyone touched are drawn as they would be. A stale answer is dropped.
import { send } from "/assets/frame/app.js";

/** Milliseconds between previews: ten a second. */
const PACE = 100;

export class Hold {
  /** `deed` and `fields` say what is held in `grid`; `tell(title, lines)` shows what the server says. */
  constructor(grid, deed, fields, tell) {
    Object.assign(this, { grid, deed, fields, tell, drawn: new Map(), asked: "", waiting: false, over: false, way: null });
  }

  /** Says where the hand is now. */
  async ask(way) {
    this.way = way;
    const text = JSON.stringify(way);
    if (this.over || this.waiting || text === this.asked) return;
    this.asked = text;
    this.waiting = true;
    const pace = new Promise((done) => setTimeout(done, PACE));
    const { place, room } = this.grid;
    const answer = await send(`${room.deeds}/preview`, { what: this.deed, ...this.fields, ...way, room: JSON.stringify(place.words()) });
    if (!this.over) this.show(answer);
    await pace;
    this.waiting = false;
    if (!this.over) this.ask(this.way);
  }

  show(answer) {
    if (answer.aborted) return;
    const rows = answer.ok ? answer.body.rows : {};
    for (const [key, html] of Object.entries(rows)) {
      const row = this.grid.place.rowsOf(key)[0];
      if (row && !this.drawn.has(key)) this.drawn.set(key, row.outerHTML);
      this.grid.rows.putRow(key, html);
    }
    // Rows that the hand has left look as before.
    for (const [key, html] of this.drawn) if (!(key in rows)) this.grid.rows.putRow(key, html);
    if (answer.ok) this.tell(answer.body.tip ?? "", answer.body.says);
    else this.tell(answer.body.message, []);
  }

  /** Does it. */
  async drop() {
    this.over = true;
    const { place, room } = this.grid;
    const answer = await send(`${room.deeds}/${this.deed}`, { ...this.fields, ...this.way, room: JSON.stringify(place.words()) });
    if (!answer.ok) this.putBack();
    return answer;
  }

  /** Gives it up. */
  giveUp() {
    this.over = true;
    this.putBack();
  }

  putBack() {
    for (const [key, html] of this.drawn) this.grid.rows.putRow(key, html);
  }

  /** Every row that was drawn otherwise, by its key. */
  touched() {
    return [...this.drawn.keys()];
  }
}
