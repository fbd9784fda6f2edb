// The import page: files are dropped, their way is shown, and while they are taken over the page says so.

const drop = document.querySelector("[data-drop]");
if (drop) {
  const input = drop.querySelector("input[type=file]");
  const chosen = drop.querySelector(".chosen");
  const bar = drop.querySelector("progress");
  const say = () => (chosen.textContent = [...input.files].map((file) => file.name).join(", "));
  input.addEventListener("change", say);
  drop.addEventListener("dragover", (event) => {
    event.preventDefault();
    drop.classList.add("is-over-it");
  });
  drop.addEventListener("dragleave", () => drop.classList.remove("is-over-it"));
  drop.addEventListener("drop", (event) => {
    event.preventDefault();
    drop.classList.remove("is-over-it");
    input.files = event.dataTransfer.files;
    say();
  });
  drop.addEventListener("submit", (event) => {
    event.preventDefault();
    const request = new XMLHttpRequest();
    request.open("POST", drop.action);
    bar.hidden = false;
    drop.querySelector("button").disabled = true;
    request.upload.addEventListener("progress", ({ loaded, total }) => {
      bar.value = (loaded / total) * 100;
      // Sent whole: from here on the server compares, and nobody knows for how long.
      if (loaded === total) bar.removeAttribute("value");
    });
    request.addEventListener("load", () => {
      if (request.status === 200) return location.assign(request.responseURL);
      const answer = new DOMParser().parseFromString(request.responseText, "text/html");
      bar.hidden = true;
      drop.querySelector("button").disabled = false;
      chosen.textContent = answer.querySelector(".problem, main p")?.textContent ?? "That did not work.";
    });
    request.addEventListener("error", () => {
      bar.hidden = true;
      drop.querySelector("button").disabled = false;
      chosen.textContent = "The server does not answer. Nothing was changed; try again in a while.";
    });
    request.send(new FormData(drop));
  });
}

document.querySelector("[data-take]")?.addEventListener("submit", (event) => {
  event.target.querySelector("button").disabled = true;
  event.target.querySelector("progress").hidden = false;
});
document.documentElement.dataset.ready = "import";
