// The table twin: it is copied as text with tabs, so that a spreadsheet takes it, and printed.
import { toast } from "/assets/frame/app.js";

document.querySelector("[data-copy]").addEventListener("click", async () => {
  const rows = [...document.querySelectorAll("#twin tr")];
  const text = rows.map((row) => [...row.children].map((cell) => cell.textContent.trim().replace(/\s+/g, " ")).join("\t")).join("\n");
  try {
    await navigator.clipboard.writeText(text);
    toast("The table is on the clipboard");
  } catch {
    // Where the browser does not let a page at the clipboard, the table is selected, so that Ctrl C takes it.
    getSelection().selectAllChildren(document.getElementById("twin"));
    toast("The table is selected: copy it with Ctrl C");
  }
});
document.querySelector("[data-print]").addEventListener("click", () => window.print());
document.documentElement.dataset.ready = "table";
