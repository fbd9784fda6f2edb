// What every page has: the theme, the list of keys, messages.

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
  }));
});

let hiding;

/** Shows a message; `undo` offers to take back what it confirms. */
export function toast(message, says = [], undo = null, problem = false) {
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
  if (undo) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "button plain";
    button.textContent = "Undo";
    button.addEventListener("click", undo);
    box.append(button);
  }
  box.hidden = false;
  clearTimeout(hiding);
  hiding = setTimeout(() => (box.hidden = true), problem ? 12000 : 8000);
}

/** Sends a form's fields; resolves to `{ok, status, body}` whatever comes back. */
export async function send(address, fields, signal) {
  try {
    const response = await fetch(address, {
      method: "POST",
      headers: { "x-requested-with": "fetch" },
      body: new URLSearchParams(fields),
      signal,
    });
    if (response.status === 401) location.assign("/sign-in");
    return { ok: response.ok, status: response.status, body: await response.json() };
  } catch (error) {
    if (error.name === "AbortError") return { ok: false, aborted: true, body: {} };
    const message = "The server does not answer. Nothing was changed; try again in a while.";
    return { ok: false, status: 0, body: { message } };
  }
}
