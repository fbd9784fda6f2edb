// Forms of records: offers while one types, and a warning before what was typed is left behind.
import "/assets/frame/mentions.js";
import "/assets/frame/suggest.js";

const form = document.querySelector("form[data-keep]");
let dirty = form?.querySelector("[aria-invalid], .theirs") !== null;
form?.addEventListener("input", () => (dirty = true));
form?.addEventListener("submit", () => (dirty = false));
addEventListener("beforeunload", (event) => {
  if (dirty && form) event.preventDefault();
});
document.querySelector(".remove")?.addEventListener("submit", () => (dirty = false));
form?.querySelector("[aria-invalid]")?.focus();
document.documentElement.dataset.ready = "form";
