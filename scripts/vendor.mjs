// Copies fonts, styles and scripts from npm packages into the application, with their licences beside them,
// and compiles the Bootstrap theme. Run `npm ci && npm run vendor` after changing a version or assets/theme.scss.
import { copyFileSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import * as sass from "sass";

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const modules = join(root, "node_modules");
const target = join(root, "src", "stonechat", "web", "static", "vendor");

const files = {
  "htmx.org": [["dist/htmx.min.js", "htmx.min.js"], ["LICENSE", "htmx.LICENSE.txt"]],
  bootstrap: [["LICENSE", "bootstrap.LICENSE.txt"]], // its styles are compiled below; none of its scripts is used
  "qrcode-generator": [["dist/qrcode.js", "qrcode.js"]], // its licence stands in its first lines
  uplot: [
    ["dist/uPlot.iife.min.js", "uplot.min.js"],
    ["dist/uPlot.min.css", "uplot.min.css"],
    ["LICENSE", "uplot.LICENSE.txt"],
  ],
  "@fontsource/atkinson-hyperlegible-next": [
    ["files/atkinson-hyperlegible-next-latin-400-normal.woff2", "text-400.woff2"],
    ["files/atkinson-hyperlegible-next-latin-700-normal.woff2", "text-700.woff2"],
    ["files/atkinson-hyperlegible-next-latin-ext-400-normal.woff2", "text-ext-400.woff2"],
    ["files/atkinson-hyperlegible-next-latin-ext-700-normal.woff2", "text-ext-700.woff2"],
    ["LICENSE", "text-face.LICENSE.txt"],
  ],
  "@fontsource/barlow-semi-condensed": [
    ["files/barlow-semi-condensed-latin-500-normal.woff2", "figures-500.woff2"],
    ["files/barlow-semi-condensed-latin-600-normal.woff2", "figures-600.woff2"],
    ["files/barlow-semi-condensed-latin-ext-500-normal.woff2", "figures-ext-500.woff2"],
    ["files/barlow-semi-condensed-latin-ext-600-normal.woff2", "figures-ext-600.woff2"],
    ["LICENSE", "figures-face.LICENSE.txt"],
  ],
};

// Other alphabets, symbols and emoji, for names as riders write them: one weight, fetched by a browser only where needed.
const others = {
  "noto-sans": ["latin-ext", "vietnamese", "cyrillic", "cyrillic-ext", "greek", "greek-ext", "devanagari"],
  "noto-sans-hebrew": ["hebrew"],
  "noto-sans-arabic": ["arabic"],
  "noto-sans-thai": ["thai"],
  "noto-sans-georgian": ["georgian"],
  "noto-sans-armenian": ["armenian"],
  "noto-sans-symbols": ["symbols"],
  "noto-sans-symbols-2": ["symbols"],
  "noto-emoji": ["emoji"],
};
const faces = [
  ["Atkinson Hyperlegible Next", 400, "text-ext-400.woff2", "atkinson-hyperlegible-next", "latin-ext"],
  ["Atkinson Hyperlegible Next", 700, "text-ext-700.woff2", "atkinson-hyperlegible-next", "latin-ext"],
  ["Barlow Semi Condensed", 500, "figures-ext-500.woff2", "barlow-semi-condensed", "latin-ext"],
  ["Barlow Semi Condensed", 600, "figures-ext-600.woff2", "barlow-semi-condensed", "latin-ext"],
];
for (const [name, subsets] of Object.entries(others)) {
  const pairs = subsets.map((subset) => [`files/${name}-${subset}-400-normal.woff2`, `other-${name.replace("noto-", "")}-${subset}.woff2`]);
  files[`@fontsource/${name}`] = [...pairs, ["LICENSE", `other-${name.replace("noto-", "")}.LICENSE.txt`]];
  if (/symbols/.test(name)) continue; // large, and every browser has its own; the prints need them
  for (const [k, subset] of subsets.entries()) faces.push(["Stonechat Others", 400, pairs[k][1], name, subset]);
}
const ranges = (name, subset) => {
  const known = JSON.parse(readFileSync(join(modules, "@fontsource", name, "unicode.json"), "utf8"));
  return known[subset] || "U+1F000-1FAFF"; // emoji are cut into numbered parts there, with signs that others hold too
};

rmSync(target, { recursive: true, force: true });
mkdirSync(target, { recursive: true });
const versions = {};
for (const [name, pairs] of Object.entries(files)) {
  versions[name] = JSON.parse(readFileSync(join(modules, name, "package.json"), "utf8")).version;
  for (const [from, to] of pairs) {
    if (/\.min\.js$/.test(to)) {
      const text = readFileSync(join(modules, name, from), "utf8").replace(/\n?\/\/# sourceMappingURL=.*\s*$/, "\n");
      writeFileSync(join(target, to), text);
    } else copyFileSync(join(modules, name, from), join(target, to));
  }
}
const face = ([family, weight, file, name, subset]) =>
  `@font-face { font-family: "${family}"; src: url("${file}") format("woff2"); font-weight: ${weight}; font-display: swap; unicode-range: ${ranges(name, subset)}; }`;
writeFileSync(join(target, "faces.css"), faces.map(face).join("\n") + "\n");
const theme = sass.compile(join(root, "assets", "theme.scss"), {
  style: "compressed",
  loadPaths: [modules],
  quietDeps: true,
  silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"],
});
writeFileSync(join(target, "bootstrap-theme.css"), theme.css);
writeFileSync(join(target, "versions.json"), JSON.stringify(versions, null, 2) + "\n");
