// How far an import is, asked again and again until it has ended.

const way = document.querySelector("[data-way]");
const PACE = 700;

async function ask() {
  try {
    const answer = await fetch(way.dataset.way, { headers: { "x-requested-with": "fetch" } });
    // It has ended: the page of imports says how.
    if (answer.redirected) return location.assign(answer.url);
    if (answer.ok && !way.contains(document.activeElement)) way.innerHTML = await answer.text();
  } catch {
    // The server may be back in a while.
  }
  setTimeout(ask, PACE);
}
setTimeout(ask, PACE);
document.documentElement.dataset.ready = "way";
