// Where things are in a grid: its rows, its columns of days, its address. What a room's own grid has besides, the room says
// (`docs/architecture.md`, “The live grid”).

const DAY_NAME = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "long", timeZone: "UTC" });

export class Place {
  /** The grid of this page, as a room describes it. */
  constructor(room) {
    this.room = room;
    this.element = document.getElementById("grid");
    this.sheet = document.getElementById("sheet");
    this.scroller = this.element.closest(".scroller");
    const { from, days, hour, mayChange } = this.element.dataset;
    Object.assign(this, { days: Number(days), hour: Number(hour), mayChange: mayChange === "true" });
    this.first = new Date(`${from}T00:00:00Z`);
    /** The first day of each column. */
    this.columns = [...this.element.querySelectorAll(".heads [data-from]")].map((head) => head.dataset.from);
    this.hatch();
  }

  // ------------------------------------------------------------------------------------------------------------- the address

  address() {
    return new URL(location.href);
  }
  words() {
    return Object.fromEntries(this.address().searchParams);
  }
  under(path) {
    return path + this.address().search;
  }

  /** Alters the address in place: `null` takes a word out. */
  turnTo(words) {
    const next = this.address();
    for (const [name, value] of Object.entries(words)) {
      if (value === null || value === "") next.searchParams.delete(name);
      else next.searchParams.set(name, value);
    }
    history.replaceState(null, "", next);
  }

  // ------------------------------------------------------------------------------------------------------------ rows and cells

  rows() {
    return [...this.element.querySelectorAll(".row[data-key]")];
  }
  rowsOf(key) {
    return this.element.querySelectorAll(`.row[data-key="${CSS.escape(key)}"]`);
  }
  cellsOf(row) {
    return [...row.querySelectorAll(".cells > [role=gridcell]")];
  }
  fromOf(cell) {
    const at = [...cell.parentElement.children].indexOf(cell);
    const { from } = cell.closest(".row").dataset;
    return from ? this.dayText(this.dayIndex(from) + at) : this.columns[at];
  }
  cellOf(key, from) {
    const row = this.rowsOf(key)[0];
    if (!row || !from) return undefined;
    return this.cellsOf(row)[row.dataset.from ? this.dayIndex(from) - this.startOf(row) : this.columns.indexOf(from)];
  }
  linkOf(key, from) {
    return this.cellOf(key, from)?.querySelector("a");
  }
  selected() {
    const words = this.words();
    const key = this.room.selected(words);
    return key ? this.cellOf(key, words.at) : null;
  }

  // -------------------------------------------------------------------------------------------------------------------- days

  dayText(index) {
    return new Date(this.first.getTime() + index * 864e5).toISOString().slice(0, 10);
  }
  /** Days from one to another, as one reads them. */
  rangeName(from, to) {
    const [first, last] = [from, to].map((index) => DAY_NAME.format(this.first.getTime() + index * 864e5));
    return first === last ? first : `${first} – ${last}`;
  }
  dayIndex(text) {
    return Math.round((new Date(`${text}T00:00:00Z`) - this.first) / 864e5);
  }

  /** Pixels of an hour in a row; none where nothing gets thicker by hand. */
  hourOf(row) {
    return Number(row.dataset.hour ?? this.hour);
  }

  /** The first day of a row: rows may have days of their own. */
  startOf(row) {
    return row.dataset.from ? this.dayIndex(row.dataset.from) : 0;
  }

  /** The cell in a row under a day. */
  cellAt(row, index) {
    if (row.dataset.from) return this.cellsOf(row)[index - this.startOf(row)];
    const day = this.dayText(index);
    return this.cellsOf(row)[Math.max(0, this.columns.findLastIndex((from) => from <= day))];
  }

  /** The day under a point of a row, whose track's box is known. */
  dayAt(row, box, x) {
    return this.startOf(row) + this.dayIn(box, x);
  }

  /** The day of a track under a point, whose box is known. */
  dayIn(box, x) {
    return Math.max(0, Math.min(this.days - 1, Math.floor(((x - box.left) / box.width) * this.days)));
  }

  // ------------------------------------------------------------------------------------------------------------------ looks

  /** One cell of the grid is reached by Tab; arrows go on from there. Without a script every link is. */
  setTabStop(cell = null) {
    const stop = cell?.querySelector("a") ?? this.element.querySelector('.cells a[tabindex="0"]') ?? this.element.querySelector(".cells a");
    for (const link of this.element.querySelectorAll('.cells a[tabindex="0"]')) if (link !== stop) link.tabIndex = -1;
    if (stop) stop.tabIndex = 0;
  }

  /** A row that is new: Tab passes over its links, and what is cut off can be read in full. */
  settle(row) {
    for (const link of row.querySelectorAll(".cells a, .who > a")) link.tabIndex = -1;
    for (const text of row.querySelectorAll(".who :is(.name, .role)")) text.title = text.textContent;
  }

  /** Hatching is as wide as it is high, however much the picture is stretched. */
  hatch() {
    const pattern = document.getElementById("spill-track");
    const track = this.element.querySelector(".heads .track");
    const fit = () => pattern.setAttribute("patternTransform", `scale(${this.days / Math.max(1, track.clientWidth)} 1) rotate(45)`);
    if (pattern && track) new ResizeObserver(fit).observe(track);
  }
}
