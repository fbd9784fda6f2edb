// What stands above a view: boxes that open one at a time, and saved looks.
import { send, toast } from "/assets/frame/app.js";
import { part } from "/assets/frame/news.js";

const address = () => new URL(location.href);

/** `selected` are the words of the address that say what is selected, which is no part of a look. */
export function startHead(selected) {
  // Only one box of the head is open at a time, and Esc closes it.
  const boxes = [...document.querySelectorAll(".controls details.choose")];
  for (const box of boxes) {
    box.addEventListener("toggle", () => box.open && boxes.forEach((other) => (other.open = other === box)));
    box.addEventListener("keydown", (event) => {
      if (event.key !== "Escape" || !box.open) return;
      event.stopPropagation();
      box.open = false;
      box.querySelector("summary").focus();
    });
  }
  document.addEventListener("click", (event) => boxes.forEach((box) => !box.contains(event.target) && (box.open = false)));

  const looks = document.querySelector("[data-looks]");
  looks?.addEventListener("submit", async (event) => {
    event.preventDefault();
    const form = event.target;
    const fields = new FormData(form);
    const now = address();
    for (const name of selected) now.searchParams.delete(name);
    // As one looks now, with the rows that were opened since.
    if (fields.has("address")) fields.set("address", now.pathname + now.search);
    const answer = await send(form.getAttribute("action"), fields);
    toast(answer.body.message, [], null, !answer.ok);
    const html = answer.ok && (await part(`/looks/${looks.dataset.looks}${now.search}`));
    if (html) looks.innerHTML = html;
  });
}
