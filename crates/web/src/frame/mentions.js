// Whom one mentions: after @ in a text the people are offered whose names fit.

const BEFORE = /(^|[^\p{L}\p{N}_])@([\p{L}\p{N}_.'-]+(?: [\p{L}\p{N}_.'-]*){0,3})$/u;
let waiting;

for (const field of document.querySelectorAll("textarea[data-mentions]")) {
  const offers = Object.assign(document.createElement("div"), { className: "mention-offers", hidden: true });
  offers.setAttribute("role", "group");
  offers.setAttribute("aria-label", "Whom you mean");
  field.after(offers);
  const close = () => (offers.hidden = true);

  const take = (from, name) => {
    const at = field.selectionStart;
    field.setRangeText(`@${name} `, from, at, "end");
    close();
    field.focus();
  };

  field.addEventListener("input", () => {
    clearTimeout(waiting);
    const typed = BEFORE.exec(field.value.slice(0, field.selectionStart));
    if (!typed) return close();
    const from = field.selectionStart - typed[2].length - 1;
    waiting = setTimeout(async () => {
      const response = await fetch(`/suggest?${new URLSearchParams({ of: "person", q: typed[2] })}`).catch(() => null);
      if (!response?.ok) return close();
      const people = (await response.json()).slice(0, 6);
      offers.replaceChildren(...people.map(({ value, label }) => {
        // Where two are called alike the address says who is meant.
        const alike = people.filter((other) => other.label === label).length > 1;
        const one = Object.assign(document.createElement("button"), { type: "button", className: "button plain", textContent: alike ? `${label}, ${value}` : label });
        one.addEventListener("click", () => take(from, alike ? value : label));
        return one;
      }));
      offers.hidden = people.length === 0;
    }, 120);
  });
  field.addEventListener("keydown", (event) => {
    if (offers.hidden) return;
    if (event.key === "Escape") close();
    else if (event.key === "ArrowDown") offers.querySelector("button").focus();
    else return;
    event.preventDefault();
  });
  offers.addEventListener("keydown", (event) => {
    const to = { ArrowDown: "nextElementSibling", ArrowRight: "nextElementSibling", ArrowUp: "previousElementSibling", ArrowLeft: "previousElementSibling" }[event.key];
    if (event.key === "Escape") close();
    if (event.key === "Escape" || (to === "previousElementSibling" && !event.target[to])) field.focus();
    else if (to) event.target[to]?.focus();
    else return;
    event.preventDefault();
  });
}
