// How far an import is, asked again and again until it has ended.

const way = document.querySelector("[data-way]");
const PACE = 700;

async function ask() {
  try {
    // Where it leads on is for the page itself, which is told how it ended.
    const answer = await fetch(way.dataset.way, { headers: { "x-requested-with": "fetch" }, redirect: "manual" });
    if (answer.type === "opaqueredirect") return location.assign(way.dataset.way);
    if (answer.ok && !way.contains(document.activeElement)) way.innerHTML = await answer.text();
  } catch {
    // The server may be back in a while.
  }
  setTimeout(ask, PACE);
}
setTimeout(ask, PACE);
document.documentElement.dataset.ready = "way";
