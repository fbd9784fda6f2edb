// Reports: days of one's own are asked for where they are chosen, the chart is drawn, the page is printed.
const form = document.querySelector("[data-report]");
const days = form?.querySelector(".own-days");
form?.elements.range?.addEventListener("change", (event) => {
  days.hidden = event.target.value !== "days";
});
document.querySelector("[data-print]")?.addEventListener("click", () => window.print());

/** A colour of the design system. */
const token = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** Draws what the page says of a chart; every value comes from it. */
function draw(figure) {
  const said = JSON.parse(figure.dataset.chart);
  const ink = token("--ink");
  const axis = { ticks: { color: ink, autoSkip: said.upright }, grid: { color: token("--line") } };
  window.Chart.defaults.font.family = getComputedStyle(document.body).fontFamily;
  const canvas = figure.querySelector("canvas");
  return new window.Chart(canvas, {
    type: said.line ? "line" : "bar",
    data: {
      labels: said.labels,
      datasets: [{ label: said.label, data: said.values, backgroundColor: token("--brand"), borderColor: token("--brand"), maxBarThickness: 22 }],
    },
    options: {
      indexAxis: said.upright ? "x" : "y",
      animation: false,
      maintainAspectRatio: false,
      scales: { x: axis, y: axis },
      plugins: {
        legend: { display: false },
        tooltip: { callbacks: { label: (item) => said.words[item.dataIndex] } },
      },
    },
  });
}

const figure = document.querySelector("[data-chart]");
if (figure) {
  figure.style.height = `${figure.dataset.height}px`;
  let chart = draw(figure);
  // In the other theme, and on paper, it has other colours.
  window.matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => {
    chart.destroy();
    chart = draw(figure);
  });
}
document.documentElement.dataset.ready = "report";
