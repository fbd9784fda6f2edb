// What the program is made of: checks that every package has a licence that ours goes with, and writes a CycloneDX list where a file is
// named. Needs nothing but cargo and node.
import { execFileSync } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";

/** Licences that a program under MIT or Apache-2.0 may be made with; of the weaker ones of copyleft those that ask for their own files only. */
const ALLOWED = new Set([
  "0BSD", "Apache-2.0", "BSD-1-Clause", "BSD-2-Clause", "BSD-3-Clause", "BSL-1.0", "CC0-1.0", "CDLA-Permissive-2.0", "ISC", "MIT", "MIT-0",
  "MPL-2.0", "Unicode-3.0", "Unicode-DFS-2016", "Unlicense", "Zlib", "LLVM-exception", "OFL-1.1",
]);

/** Whether an SPDX expression can be met by allowed licences alone: one side of OR, both of AND. */
function met(expression) {
  const tokens = expression.replaceAll("/", " OR ").match(/[()]|[^\s()]+/g) ?? [];
  let at = 0;
  const one = () => {
    if (tokens[at] === "(") {
      at++;
      const inner = any();
      at++;
      return inner;
    }
    const licence = ALLOWED.has(tokens[at++].replace(/\+$/, ""));
    if (tokens[at] !== "WITH") return licence;
    at += 2;
    return licence && ALLOWED.has(tokens[at - 1]);
  };
  const all = () => {
    let fine = one();
    while (tokens[at] === "AND") {
      at++;
      fine = one() && fine;
    }
    return fine;
  };
  const any = () => {
    let fine = all();
    while (tokens[at] === "OR") {
      at++;
      fine = all() || fine;
    }
    return fine;
  };
  return tokens.length > 0 && any();
}

const run = (program, ...args) => execFileSync(program, args, { encoding: "utf8", maxBuffer: 1 << 28, stdio: ["ignore", "pipe", "inherit"] });
const host = /^host: (.*)$/m.exec(run("rustc", "-vV"))[1];
const metadata = JSON.parse(run("cargo", "metadata", "--format-version", "1", "--locked", "--quiet", "--filter-platform", host));
// What is used to build and to test is no part of the program: the list begins at it and follows what it is linked with.
const nodes = new Map(metadata.resolve.nodes.map((node) => [node.id, node]));
const program = metadata.packages.find((it) => it.name === "snug-roster").id;
const [reached, next] = [new Set([program]), [program]];
while (next.length) {
  for (const dependency of nodes.get(next.pop()).deps) {
    const linked = dependency.dep_kinds.some((kind) => kind.kind === null);
    if (linked && !reached.has(dependency.pkg)) next.push(...[dependency.pkg].filter((id) => reached.add(id)));
  }
}
const crates = metadata.packages.filter((it) => reached.has(it.id) && it.source);
// Of the packages of Node these are copied into the application; the others make or test it.
const COPIED = /^(@alpinejs\/csp|@fontsource-variable\/.*|lucide-static)$/;
const locked = JSON.parse(readFileSync("package-lock.json", "utf8")).packages;
const named = Object.entries(locked).map(([path, it]) => ({ ...it, name: path.replace(/^.*node_modules\//, "") }));
const copied = named.filter((it) => COPIED.test(it.name));

const refused = [...crates, ...copied].filter((it) => !met(it.license ?? ""));
if (refused.length) {
  const line = (it) => `${it.name} ${it.version}: ${it.license ?? "no licence"}`;
  console.error(`Licences that ours does not go with:\n  ${refused.map(line).join("\n  ")}`);
  process.exit(1);
}
const [, , file] = process.argv;
if (file) {
  const component = (kind, it) => ({
    type: "library", name: it.name, version: it.version, purl: `pkg:${kind}/${it.name.replace("@", "%40")}@${it.version}`,
    ...(it.license && { licenses: [{ expression: it.license.replaceAll("/", " OR ") }] }),
  });
  const components = [...crates.map((it) => component("cargo", it)), ...copied.map((it) => component("npm", it))];
  const version = metadata.packages.find((it) => it.id === program).version;
  const about = { component: { type: "application", name: "snug-roster", version } };
  writeFileSync(file, JSON.stringify({ bomFormat: "CycloneDX", specVersion: "1.5", version: 1, metadata: about, components }, null, 1));
  console.log(`${components.length} packages: ${file}`);
}
