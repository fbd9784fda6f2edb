// The outline: lines are typed, pasted and put inside one another by keys. What a line may be is said by the server.
import { send, tellChange, toast, whenStepped } from "/assets/frame/app.js";
import { follow, part } from "/assets/frame/news.js";

const list = document.getElementById("outline");
const mayChange = list.dataset.mayChange === "true";
const lines = () => [...list.querySelectorAll(".line")];
const depthOf = (line) => Number(line.dataset.depth);
const inputOf = (line) => line?.querySelector("input.title");
const isBlank = (line) => line.classList.contains("blank");

/**
 * Reads the lines again. A blank one that is being written stays; whoever is in a line when the answer comes stays there, with what is
 * typed and selected; else the line that is named has the focus.
 */
async function refresh(focus = null) {
  const html = await part(`/schedule/outline/rows${location.search}`);
  if (html === null) return;
  const blank = list.querySelector(".line.blank");
  const here = document.activeElement?.closest?.("#outline .line");
  const typing = here && document.activeElement === inputOf(here) ? document.activeElement : null;
  const kept = typing && { isTyped: typing.value !== typing.defaultValue, value: typing.value, selected: [typing.selectionStart, typing.selectionEnd] };
  list.innerHTML = html;
  if (blank) putBlank(blank.dataset.under, blank);
  if (here && isBlank(here)) return inputOf(here).focus();
  const input = inputOf(byKey(here?.dataset.key ?? focus ?? ""));
  input?.focus();
  if (!input || !kept) return;
  if (kept.isTyped) input.value = kept.value;
  input.setSelectionRange(...kept.selected);
}

/** Where lines that go into something end: the line after which a new one stands. */
function lastInside(under) {
  const all = lines().filter((line) => !isBlank(line));
  const head = all.findIndex((line) => line.dataset.key === under);
  let at = head;
  while (all[at + 1] && depthOf(all[at + 1]) > depthOf(all[head])) at++;
  return [all[at], all[head]];
}

/** A line to be written, where it will stand. */
function putBlank(under, blank = null) {
  const [after, head] = lastInside(under);
  if (!head) return null;
  const line = blank ?? document.createElement("li");
  list.querySelectorAll(".line.blank").forEach((other) => other !== line && other.remove());
  const depth = depthOf(head) + 1;
  line.className = `line task blank in${Math.min(depth, 12)}`;
  Object.assign(line.dataset, { under, depth, key: "" });
  if (!blank) {
    const input = Object.assign(document.createElement("input"), { className: "title", autocomplete: "off", maxLength: 300, placeholder: "Write a task" });
    input.setAttribute("aria-label", `New task, level ${depth}`);
    line.append(Object.assign(document.createElement("span"), { className: "turn" }), input);
  }
  after.after(line);
  return inputOf(line);
}

/** Does something, tells it, and reads the lines again; `null` where it is refused. */
async function deed(name, fields, focus = null) {
  const answer = await send(`/schedule/tasks/${name}`, fields);
  if (answer.aborted) return null;
  if (!answer.ok) {
    const { standing, message } = answer.body;
    toast(message, standing ? [`It stands at ${standing.says} now. Yours was not saved.`] : [], null, true);
    if (answer.status === 409 || answer.status === 404) await refresh();
    return null;
  }
  tellChange(answer.body, step);
  await refresh(focus);
  return answer.body;
}

async function step(path) {
  const answer = await send(path, {});
  if (answer.ok) tellChange(answer.body, step);
  await refresh();
}
whenStepped(step);
for (const form of document.querySelectorAll("[data-undo], [data-redo]")) {
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    step(form.getAttribute("action"));
  });
}

/** Saves what was typed in a line. Whether it is saved; an empty new line is nothing. */
async function commit(line) {
  const input = inputOf(line);
  if (!input) return true;
  const title = input.value.trim();
  if (isBlank(line)) {
    if (!title) return false;
    input.value = "";
    const done = await deed("add", { to: line.dataset.under, title });
    if (!done) inputOf(list.querySelector(".line.blank")).value = title;
    return done;
  }
  if (title === input.defaultValue) return true;
  const done = await deed("title", { seen: line.dataset.tag, title }, line.dataset.key);
  if (!done) inputOf(list.querySelector(`[data-key="${line.dataset.key}"]`)).value = title;
  return done;
}

/** The line before at the same level, into which Tab puts this one. */
function brother(line) {
  const all = lines();
  for (let at = all.indexOf(line) - 1; at >= 0; at--) {
    if (depthOf(all[at]) < depthOf(line)) return null;
    if (depthOf(all[at]) === depthOf(line) && all[at].dataset.tag) return all[at];
  }
  return null;
}

const byKey = (key) => list.querySelector(`[data-key="${CSS.escape(key)}"]`);

/** Puts a line, with all that is inside it, into another one: before one of those that are there, or last. */
async function put(line, into, before = "") {
  if (!into) return;
  if (isBlank(line)) return putBlank(into.dataset.key, line)?.focus();
  const { key } = line.dataset;
  if (!(await commit(line))) return;
  const seen = byKey(into.dataset.key).dataset.tag || into.dataset.key;
  await deed("inside", { seen, to: key, before }, key);
}

const into = (line) => put(line, brother(line));
function outOf(line) {
  const parent = byKey(line.dataset.under);
  if (parent?.classList.contains("task")) put(line, byKey(parent.dataset.under));
}

/** Puts a line before or after the one beside it; at the end of them, into the task or project above or below. */
function along(line, way) {
  const beside = lines().filter((other) => !isBlank(other) && other.dataset.tag && other.dataset.under === line.dataset.under);
  const at = beside.indexOf(line);
  if (isBlank(line) || !beside[at + way]) return across(line, way);
  put(line, byKey(line.dataset.under), (way < 0 ? beside[at - 1] : beside[at + 2])?.dataset.key);
}

/** Puts a line into the task, or the project, above or below the one that it is in. */
function across(line, way) {
  const all = lines().filter((other) => !isBlank(other));
  const home = all.findIndex((other) => other.dataset.key === line.dataset.under);
  for (let at = home + way; all[at]; at += way) {
    if (depthOf(all[at]) === depthOf(line) - 1) return put(line, all[at]);
  }
}

let leaving = false;
const KEYS = {
  Enter: async (line) => {
    const { under } = line.dataset;
    if (isBlank(line) && !inputOf(line).value.trim()) return;
    if (await commit(line)) (inputOf(list.querySelector(".line.blank")) ?? putBlank(under))?.focus();
    const blank = list.querySelector(".line.blank");
    if (blank && blank.dataset.under !== under) putBlank(under, blank)?.focus();
  },
  Tab: into,
  "Shift+Tab": outOf,
  "Alt+ArrowRight": into,
  "Alt+ArrowLeft": outOf,
  "Alt+ArrowUp": (line) => along(line, -1),
  "Alt+ArrowDown": (line) => along(line, 1),
  ArrowUp: (line) => next(line, -1),
  ArrowDown: (line) => next(line, 1),
};

function next(line, way) {
  const all = lines().filter((other) => inputOf(other));
  inputOf(all[all.indexOf(line) + way])?.focus();
}

if (mayChange) {
  list.addEventListener("keydown", (event) => {
    const line = event.target.matches?.("input.title") && event.target.closest(".line");
    if (!line || event.isComposing || event.ctrlKey || event.metaKey) return;
    if (event.key === "Escape") {
      leaving = true;
      inputOf(line).value = isBlank(line) ? "" : inputOf(line).defaultValue;
      return;
    }
    const name = `${event.altKey ? "Alt+" : ""}${event.shiftKey ? "Shift+" : ""}${event.key}`;
    const act = KEYS[name];
    if (leaving && event.key === "Tab") return;
    leaving = false;
    if (!act) return;
    event.preventDefault();
    act(line);
  });
  list.addEventListener("focusout", (event) => {
    const line = event.target.closest?.(".line");
    if (line && line.isConnected && event.relatedTarget && !line.contains(event.relatedTarget)) commit(line);
  });
  list.addEventListener("paste", (event) => {
    const line = event.target.closest(".line");
    const text = event.clipboardData.getData("text/plain").replace(/\r\n?/g, "\n").replace(/\n+$/, "");
    if (!/[\n\t]/.test(text)) return;
    event.preventDefault();
    show(line.dataset.under, text);
  });
  document.querySelector("[data-write]").addEventListener("submit", (event) => {
    event.preventDefault();
    const { to, text } = event.target.elements;
    show(to.value, text.value, () => (text.value = ""));
  });
  list.addEventListener("click", (event) => {
    const line = event.target.matches("[data-write-here]") && event.target.closest(".line");
    if (line) putBlank(line.dataset.key)?.focus();
  });
}

// A line is dragged by its grip: onto the upper edge of another one to stand before it, else into it.
let held = null;
function mark(event) {
  const over = document.elementFromPoint(event.clientX, event.clientY)?.closest("#outline .line");
  list.querySelectorAll(".takes-before, .takes-inside").forEach((line) => line.classList.remove("takes-before", "takes-inside"));
  held.drop = null;
  if (!over || over === held.line || isBlank(over)) return;
  const box = over.getBoundingClientRect();
  const before = over.dataset.tag && event.clientY < box.top + box.height / 3;
  over.classList.add(before ? "takes-before" : "takes-inside");
  held.drop = before ? [byKey(over.dataset.under), over.dataset.key] : [over, ""];
}
function letGo() {
  held?.line.classList.remove("is-held");
  list.querySelectorAll(".takes-before, .takes-inside").forEach((line) => line.classList.remove("takes-before", "takes-inside"));
  const was = held;
  held = null;
  return was;
}
if (mayChange) {
  list.addEventListener("pointerdown", (event) => {
    const grip = event.target.closest(".grip");
    if (!grip || event.button !== 0) return;
    event.preventDefault();
    held = { line: grip.closest(".line"), drop: null };
    held.line.classList.add("is-held");
    list.setPointerCapture(event.pointerId);
  });
  list.addEventListener("pointermove", (event) => held && mark(event));
  list.addEventListener("pointerup", () => {
    const { line, drop } = letGo() ?? {};
    if (drop) put(line, ...drop);
  });
  list.addEventListener("pointercancel", letGo);
  document.addEventListener("keydown", (event) => held && event.key === "Escape" && letGo());
}

/** Shows what pasted lines would become, and writes them down if one says so. */
async function show(to, text, then = () => {}) {
  const dialog = document.getElementById("pasted");
  const [found, says, take] = [dialog.querySelector(".found"), dialog.querySelector(".says"), dialog.querySelector('[value="take"]')];
  const answer = await send("/schedule/tasks/preview", { what: "write", to, text });
  if (answer.aborted) return;
  const rows = (answer.ok ? answer.body.lines : []).map(({ depth, title, says: more }) => {
    const row = Object.assign(document.createElement("li"), { className: `line in${Math.min(depth, 12)}` });
    row.append(Object.assign(document.createElement("span"), { textContent: title }), Object.assign(document.createElement("span"), { className: "soft", textContent: more }));
    return row;
  });
  found.replaceChildren(...rows);
  says.textContent = answer.ok ? "" : answer.body.message;
  take.hidden = !answer.ok;
  take.textContent = rows.length === 1 ? "Write it down" : `Write ${rows.length} tasks down`;
  dialog.returnValue = "";
  dialog.addEventListener("close", async () => {
    if (dialog.returnValue === "take" && (await deed("write", { to, text }))) then();
  }, { once: true });
  dialog.showModal();
}

list.addEventListener("click", (event) => {
  const link = event.target.closest("a.turn");
  if (!link || event.ctrlKey || event.metaKey) return;
  event.preventDefault();
  const address = new URL(location.href);
  const folded = new Set((address.searchParams.get("fold") ?? "").split(",").filter(Boolean));
  const { key } = link.closest(".line").dataset;
  folded.has(key) ? folded.delete(key) : folded.add(key);
  folded.size ? address.searchParams.set("fold", [...folded].join(",")) : address.searchParams.delete("fold");
  history.replaceState(null, "", address);
  refresh().then(() => byKey(key)?.querySelector("a.turn")?.focus());
});
for (const select of document.querySelectorAll("[data-filter] select")) select.addEventListener("change", () => select.form.requestSubmit());

// What others change is read again, unless somebody is typing.
follow(Number(list.dataset.revision), (message) => {
  if (message.kind === "change" && message.fresh && !list.contains(document.activeElement)) refresh();
});
document.documentElement.dataset.ready = "outline";
