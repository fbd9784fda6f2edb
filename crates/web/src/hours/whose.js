// Whoever is chosen is shown at once.
document.querySelector("[data-whose] select")?.addEventListener("change", (event) => event.target.form.submit());
document.documentElement.dataset.ready = "whose";
