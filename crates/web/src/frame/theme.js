// Runs before the page is drawn, so that a chosen theme does not flash.
const chosen = localStorage.getItem("snug-theme");
if (chosen) document.documentElement.dataset.theme = chosen;
