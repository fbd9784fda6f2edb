// The first steps: another row, when the ones that stand ready are full.
const button = document.querySelector("[data-row]");
if (button) {
  button.hidden = false;
  button.addEventListener("click", () => {
    const rows = document.querySelector(".typing tbody");
    const row = rows.lastElementChild.cloneNode(true);
    const number = rows.children.length + 1;
    for (const input of row.querySelectorAll("input")) {
      if (input.type !== "date") input.value = "";
      input.setAttribute("aria-label", input.getAttribute("aria-label").replace(/\d+$/, number));
    }
    rows.append(row);
    row.querySelector("input").focus();
  });
}
document.documentElement.dataset.ready = "start";
