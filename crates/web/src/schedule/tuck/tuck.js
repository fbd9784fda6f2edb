// Looking harder: how far the search is, a way to stop it, and then the best that it has found.
import { ask, plan } from "/assets/frame/news.js";
import { toast } from "/assets/frame/app.js";

const box = document.getElementById("found-box");

box?.addEventListener("click", (event) => {
  const link = event.target.closest("[data-harder]");
  if (!link) return;
  event.preventDefault();
  look(link, box.querySelector(".harder"));
});

function look(link, bar) {
  const id = crypto.randomUUID().replaceAll("-", "");
  const words = new URL(link.href).searchParams;
  words.set("id", id);
  words.set("in-plan", plan);
  const source = new EventSource(`/schedule/tuck-in/harder?${words}`);
  const [progress, says, stop] = ["progress", "[role=status]", "[data-stop]"].map((one) => bar.querySelector(one));
  link.hidden = true;
  bar.hidden = false;
  stop.disabled = false;
  says.textContent = "Looking harder…";
  stop.focus();
  stop.onclick = () => {
    stop.disabled = true;
    ask("/schedule/tuck-in/stop", { method: "POST", body: new URLSearchParams({ id }) });
  };
  const over = () => {
    source.close();
    bar.hidden = true;
    link.hidden = false;
  };
  source.addEventListener("progress", ({ data }) => {
    const [part, passes] = data.split(" ").map(Number);
    progress.value = part;
    says.textContent = `${passes.toLocaleString("en")} ways tried`;
  });
  source.addEventListener("found", ({ data }) => {
    source.close();
    box.innerHTML = data;
    box.querySelector("h2").focus();
  });
  source.addEventListener("problem", ({ data }) => {
    over();
    toast(data, [], null, true);
  });
  source.addEventListener("error", () => {
    over();
    toast("The search was cut off; what stands here is what was found before", [], null, true);
  });
}
