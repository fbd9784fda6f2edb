// The hint at an estimate: what work of its kind took, and what the estimate would be then, both as the server says.
const kind = document.querySelector("form [name=kind]");
const estimate = document.querySelector("form [name=estimate_h]");
let waiting;
let last = 0;

if (kind && estimate) {
  const says = Object.assign(document.createElement("div"), { className: "estimate-hint", hidden: true });
  says.setAttribute("role", "status");
  estimate.after(says);

  const show = async () => {
    const asked = (last += 1);
    const query = new URLSearchParams({ kind: kind.value, estimate: estimate.value });
    const response = estimate.value.trim() ? await fetch(`/hours/hint?${query}`).catch(() => null) : null;
    const said = response?.ok ? await response.json() : {};
    if (asked !== last) return;
    says.hidden = !said.says;
    if (says.hidden) return says.replaceChildren();
    const take = Object.assign(document.createElement("button"), { type: "button", className: "button plain", textContent: said.label });
    take.addEventListener("click", () => {
      estimate.value = said.take;
      // One's own from here on; nothing more is said until something else is typed.
      last += 1;
      says.hidden = true;
      estimate.focus();
    });
    says.replaceChildren(Object.assign(document.createElement("small"), { textContent: said.says }), take);
  };
  for (const field of [kind, estimate]) {
    field.addEventListener("input", () => {
      clearTimeout(waiting);
      waiting = setTimeout(show, 250);
    });
  }
}
