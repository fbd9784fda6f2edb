// What is in view, taken along: as a picture of pixels, or on paper.

/** Lets buttons take a picture, made of the SVG at an address, as a PNG; and print the page. */
export function startTakingAlong(name) {
  for (const button of document.querySelectorAll("[data-print]")) button.addEventListener("click", () => window.print());
  document.querySelector("[data-png]")?.addEventListener("click", (event) => picture(event.currentTarget.dataset.png, name));
}

/** A picture as pixels twice as fine as the screen's. */
async function picture(path, name) {
  const image = new Image();
  image.src = path;
  await image.decode();
  const canvas = Object.assign(document.createElement("canvas"), { width: image.naturalWidth * 2, height: image.naturalHeight * 2 });
  canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
  const link = Object.assign(document.createElement("a"), { href: canvas.toDataURL("image/png"), download: name });
  link.click();
}
