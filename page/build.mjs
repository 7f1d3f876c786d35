// SPDX-License-Identifier: MIT
// Puts script, style, module and an example into one HTML file: build.mjs MODULE.wasm EXAMPLE OUT.html, after
// `vite build`. The same sources give the same bytes.
import { createHash } from "node:crypto";
import { readFileSync, readdirSync, writeFileSync } from "node:fs";
import { gzipSync } from "node:zlib";

const [module, example, out] = process.argv.slice(2);
const asset = (ending) => {
  const found = readdirSync("dist/assets").filter((name) => name.endsWith(ending));
  if (found.length !== 1) throw new Error(`one ${ending} file in dist/assets was expected, not ${found.length}`);
  return readFileSync(`dist/assets/${found[0]}`, "utf8");
};
// Nothing in a script may look like its end.
const script = asset(".js").replaceAll("</script", "<\\/script").replaceAll("<!--", "<\\!--");
const packed = gzipSync(readFileSync(module), { level: 9 }).toString("base64");
const hash = createHash("sha256").update(script).digest("base64");
// Nothing may be loaded from anywhere, and no script runs but this one.
const policy = [
  "default-src 'none'",
  `script-src 'sha256-${hash}' 'wasm-unsafe-eval' blob:`,
  "style-src 'unsafe-inline'",
  "img-src data: blob:",
  "font-src data:",
  "worker-src blob:",
  "base-uri 'none'",
  "form-action 'none'",
].join("; ");
const names = ["box.gate", "evening.csv"];
const files = Object.fromEntries(names.map((name) => [`/${name}`, readFileSync(`${example}/${name}`).toString("base64")]));
const packed_files = gzipSync(JSON.stringify({ files, gate: "/box.gate", recordings: ["/evening.csv"] }), { level: 9 }).toString("base64");
const page = readFileSync("index.html", "utf8")
  .replace("<!-- policy -->", () => `<meta http-equiv="Content-Security-Policy" content="${policy}">`)
  .replace("<!-- style -->", () => `<style>${asset(".css")}</style>`)
  .replace(/<script type="module" src="[^"]*"><\/script>/, "")
  .replace('id="files">', () => `id="files">${packed_files}`)
  .replace("<!-- module -->", () => `<script type="text/plain" id="module">${packed}</script>`)
  .replace("<!-- script -->", () => `<script type="module">${script}</script>`);
writeFileSync(out, page);
