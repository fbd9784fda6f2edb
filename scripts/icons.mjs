// Makes crates/web/assets/icons.svg, one file with the icons that the pages use, from the package lucide-static.
import { readFileSync, writeFileSync } from "node:fs";

const NAMES = ["search", "plus", "check", "x", "chevron-left", "chevron-right", "download", "triangle-alert"];

const symbol = (name) => {
  const svg = readFileSync(`node_modules/lucide-static/icons/${name}.svg`, "utf8");
  const shapes = svg.slice(svg.indexOf(">", svg.indexOf("<svg")) + 1, svg.lastIndexOf("</svg>")).replace(/\s+/g, " ").trim();
  return `<symbol id="${name}" viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">${shapes}</symbol>`;
};

const out = process.argv[2] ?? "crates/web/assets/icons.svg";
writeFileSync(out, `<svg xmlns="http://www.w3.org/2000/svg"><!-- Lucide, ISC licence -->${NAMES.map(symbol).join("")}</svg>\n`);
