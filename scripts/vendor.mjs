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
  uplot: [
    ["dist/uPlot.iife.min.js", "uplot.min.js"],
    ["dist/uPlot.min.css", "uplot.min.css"],
    ["LICENSE", "uplot.LICENSE.txt"],
  ],
  "@fontsource/atkinson-hyperlegible-next": [
    ["files/atkinson-hyperlegible-next-latin-400-normal.woff2", "text-400.woff2"],
    ["files/atkinson-hyperlegible-next-latin-700-normal.woff2", "text-700.woff2"],
    ["LICENSE", "text-face.LICENSE.txt"],
  ],
  "@fontsource/barlow-semi-condensed": [
    ["files/barlow-semi-condensed-latin-500-normal.woff2", "figures-500.woff2"],
    ["files/barlow-semi-condensed-latin-600-normal.woff2", "figures-600.woff2"],
    ["LICENSE", "figures-face.LICENSE.txt"],
  ],
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
const theme = sass.compile(join(root, "assets", "theme.scss"), {
  style: "compressed",
  loadPaths: [modules],
  quietDeps: true,
  silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"],
});
writeFileSync(join(target, "bootstrap-theme.css"), theme.css);
writeFileSync(join(target, "versions.json"), JSON.stringify(versions, null, 2) + "\n");
