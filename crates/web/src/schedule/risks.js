// The board of risks: a slip that is dropped in another column gets that response; so does one whose list says so.
import { send, tellChange, toast } from "/assets/frame/app.js";
import { ask } from "/assets/frame/news.js";

/** Gives a risk a response, and shows the board as it is then. */
async function respond(id, seen, response) {
  const answer = await send(`/schedule/risks/${id}/response`, { seen, response });
  if (answer.aborted) return;
  if (!answer.ok) return toast(answer.body.message, [], null, true);
  const page = await ask(location.href).then((got) => got.text());
  const next = new DOMParser().parseFromString(page, "text/html").querySelector(".risk-board");
  const board = document.querySelector(".risk-board");
  if (next) board.replaceChildren(...next.children);
  tellChange(answer.body, async (path) => {
    await send(path, {});
    location.reload();
  });
  board.querySelector(`[data-risk="${id}"] select`)?.focus();
}

document.addEventListener("change", (event) => {
  const form = event.target.closest("[data-respond]");
  if (form) respond(form.closest("[data-risk]").dataset.risk, form.elements.seen.value, form.elements.response.value);
});
document.addEventListener("submit", (event) => event.target.matches("[data-respond]") && event.preventDefault());

let held = null;
document.addEventListener("dragstart", (event) => {
  held = event.target.closest?.("[data-risk]");
  if (held) event.dataTransfer.effectAllowed = "move";
});
document.addEventListener("dragover", (event) => {
  const column = held && event.target.closest?.("[data-response]");
  document.querySelectorAll("[data-response].is-over-it").forEach((one) => one.classList.toggle("is-over-it", one === column));
  if (!column) return;
  column.classList.add("is-over-it");
  event.preventDefault();
});
document.addEventListener("drop", (event) => {
  const column = held && event.target.closest?.("[data-response]");
  if (!column) return;
  event.preventDefault();
  if (!column.contains(held)) respond(held.dataset.risk, held.dataset.seen, column.dataset.response);
});
document.addEventListener("dragend", () => {
  held = null;
  document.querySelectorAll(".is-over-it").forEach((one) => one.classList.remove("is-over-it"));
});

document.documentElement.dataset.ready = "risks";
