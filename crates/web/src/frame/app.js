// What every page has: the theme, the list of keys, messages.
import { ask, heard, plan } from "/assets/frame/news.js";

document.addEventListener("alpine:init", () => {
  window.Alpine.data("frameMenu", () => ({
    toggleTheme() {
      const root = document.documentElement;
      const dark = root.dataset.theme
        ? root.dataset.theme === "dark"
        : matchMedia("(prefers-color-scheme: dark)").matches;
      root.dataset.theme = dark ? "light" : "dark";
      localStorage.setItem("snug-theme", root.dataset.theme);
    },
    showKeys() {
      document.getElementById("keys")?.showModal();
    },
    openFinder,
  }));
});

let hiding;

/** Shows what an answer says came of a change, with the way back: after an undo that is Redo. */
export function tellChange({ message, says, undo, redo, steps, revision }, go = step) {
  toast(message, says, undo ? () => go("/undo") : null, false, redo ? [["Redo", () => go("/redo")]] : []);
  if (steps) showSteps(steps, revision);
}

/** Shows a message; `undo` offers to take back what it confirms, `ways` what else could be done: a name and a deed each. */
export function toast(message, says = [], undo = null, problem = false, ways = []) {
  const box = document.getElementById("toast");
  if (!box) return;
  box.replaceChildren();
  box.className = problem ? "is-problem" : "";
  const title = document.createElement("b");
  title.textContent = message;
  box.append(title);
  for (const line of says) {
    const p = document.createElement("span");
    p.textContent = line;
    box.append(p);
  }
  for (const [name, deed] of undo ? [["Undo", undo], ...ways] : ways) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "button plain";
    button.textContent = name;
    button.addEventListener("click", () => {
      box.hidden = true;
      deed();
    });
    box.append(button);
  }
  box.hidden = false;
  clearTimeout(hiding);
  hiding = setTimeout(() => (box.hidden = true), problem ? 12000 : 8000);
}

// What is typed on the page stays; whoever signs in again in another tab can send it.
document.addEventListener("session-ended", () =>
  toast("Your session has ended", ["What stands on this page stays."], null, true, [["Sign in", () => location.assign("/sign-in")]]),
);

/** Sends a form's fields; resolves to `{ok, status, body}` whatever comes back. */
export async function send(address, fields, signal) {
  try {
    const response = await ask(address, { method: "POST", body: new URLSearchParams(fields), signal });
    if (response.status === 401) location.assign("/sign-in");
    const answer = { ok: response.ok, status: response.status, body: await response.json() };
    heard(answer.body.revision);
    return answer;
  } catch (error) {
    if (error.name === "AbortError") return { ok: false, aborted: true, body: {} };
    const message = "The server does not answer. Nothing was changed; try again in a while.";
    return { ok: false, status: 0, body: { message } };
  }
}

/** Undoes or redoes; a page that draws itself anew says how, any other is loaded again. */
let onStep = null;
export function whenStepped(handler) {
  onStep = handler;
}
export async function step(path) {
  if (onStep) return onStep(path);
  const form = document.querySelector(`form[action="${path}"]`);
  form.elements.back.value = location.pathname + location.search;
  form.requestSubmit();
}

// ------------------------------------------------------------------------------------------------------- one plan a page

// A form that is sent without a script says of which plan its page was made, too.
document.addEventListener("submit", ({ target: form, submitter, defaultPrevented }) => {
  // What a script sends says so itself.
  if (defaultPrevented) return;
  const by = submitter?.hasAttribute("formaction") ? "formAction" : "action";
  const sender = by === "action" ? form : submitter;
  if ((submitter?.formMethod || form.method) !== "post" || !document.querySelector("[data-plan]")) return;
  const address = new URL(sender.getAttribute(by.toLowerCase()) ?? location.href, location.href);
  address.searchParams.set("in-plan", plan);
  sender.setAttribute(by.toLowerCase(), address.pathname + address.search);
});

// Pages of another plan are told where this one was opened: their session works here now.
const plans = new BroadcastChannel("snug-plan");
if (document.querySelector("[data-plan]")) plans.postMessage(plan);
plans.addEventListener("message", ({ data }) => {
  if (data === plan) return;
  const name = data === "0" ? "the live plan" : "a draft";
  toast("This page shows another plan", [`In another tab you work in ${name} now.`], null, true, [
    ["Load it again", () => location.reload()],
  ]);
});

/** The change after which the steps that are shown were told. */
let stepsOf = 0;

/** What undo and redo would do next, as told after a change; an answer that comes late does not take a newer one's place. */
function showSteps(steps, revision) {
  if (revision < stepsOf) return;
  stepsOf = revision;
  for (const kind of ["undo", "redo"]) {
    const button = document.querySelector(`[data-${kind}] button`);
    button.disabled = !steps[kind];
    const word = kind === "undo" ? "Undo" : "Redo";
    button.title = steps[kind] ? `${word}: ${steps[kind]}` : `Nothing of yours to ${kind}`;
  }
}

// ----------------------------------------------------------------------------------------------------------- the finder

const finder = document.getElementById("finder");
const list = document.getElementById("finder-list");
let looking;

function openFinder() {
  if (!finder || finder.open) return;
  finder.showModal();
  finder.querySelector("input").select();
  look();
}

async function look() {
  const q = finder.querySelector("input").value;
  const response = await fetch(`/finder?q=${encodeURIComponent(q)}`).catch(() => null);
  if (!response?.ok || q !== finder.querySelector("input").value) return;
  list.innerHTML = await response.text();
  list.dataset.for = q;
  choose(0);
}

const options = () => [...list.querySelectorAll("[role=option]")];
function choose(at) {
  const all = options();
  const next = all[Math.max(0, Math.min(at, all.length - 1))];
  all.forEach((one) => one.setAttribute("aria-selected", String(one === next)));
  finder.querySelector("input").setAttribute("aria-activedescendant", next?.id ?? "");
  next?.scrollIntoView({ block: "nearest" });
}

finder?.addEventListener("input", () => {
  clearTimeout(looking);
  looking = setTimeout(look, 80);
});
finder?.addEventListener("keydown", (event) => {
  const all = options();
  const at = all.findIndex((one) => one.getAttribute("aria-selected") === "true");
  if (event.key === "ArrowDown") choose(at + 1);
  else if (event.key === "ArrowUp") choose(at - 1);
  else return;
  event.preventDefault();
});
finder?.querySelector("form").addEventListener("submit", async (event) => {
  event.preventDefault();
  // Whoever types and presses Enter at once means what was typed, not what was shown before.
  if (list.dataset.for !== finder.querySelector("input").value) await look();
  const chosen = list.querySelector('[aria-selected="true"]');
  if (chosen) location.assign(chosen.getAttribute("href"));
});
finder?.addEventListener("click", (event) => event.target === finder && finder.close());

document.addEventListener("keydown", (event) => {
  if (event.target.matches("input, select, textarea") || document.querySelector("dialog[open]")) return;
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const act = {
    "/": openFinder,
    "?": () => document.getElementById("keys")?.showModal(),
    u: () => document.querySelector("[data-undo] button:enabled") && step("/undo"),
    U: () => document.querySelector("[data-redo] button:enabled") && step("/redo"),
  }[event.key];
  if (!act) return;
  event.preventDefault();
  act();
});

// A message that the server left hides by itself, like one that a script shows.
if (document.querySelector("#toast:not([hidden])")) {
  hiding = setTimeout(() => (document.getElementById("toast").hidden = true), 8000);
}
