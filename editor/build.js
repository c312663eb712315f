// Bundles the editor into the package, with the licence of what it is made of. `node build.js [FILE]`
import { readFileSync } from "node:fs";
import { build } from "esbuild";

const licence = readFileSync("node_modules/@codemirror/view/LICENSE", "utf8").trim();
const outfile = process.argv[2] ?? "../src/fleetquill/serve/page/editor.js";

await build({
  entryPoints: ["editor.js"], outfile, bundle: true, minify: true, format: "esm", target: "es2022", legalComments: "none",
  banner: { js: `/* Built from editor/ of the project, with CodeMirror, Lezer, style-mod, crelt and w3c-keyname:\n\n${licence}\n*/` },
});
