// SPDX-License-Identifier: MIT
// NOTICES.txt: the licences of the packages that became part of the extension.
import { readFileSync, readdirSync, writeFileSync } from "node:fs";

const parts = Object.keys(JSON.parse(readFileSync("out/parts.json", "utf8")).inputs);
const folders = new Set(parts.map((part) => /^(.*node_modules\/(?:@[^/]+\/)?[^/]+)\//.exec(part)?.[1]).filter(Boolean));
const notices = [...folders].sort().map((folder) => {
  const { name, version } = JSON.parse(readFileSync(`${folder}/package.json`, "utf8"));
  const licence = readdirSync(folder).find((file) => /^licen[cs]e/i.test(file));
  if (!licence) throw new Error(`${name} has no licence text`);
  return `${name} ${version}\n\n${readFileSync(`${folder}/${licence}`, "utf8").replaceAll("\r", "").trim()}\n`;
});
writeFileSync("NOTICES.txt", notices.join("\n----\n\n"));
