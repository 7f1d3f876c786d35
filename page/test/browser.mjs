// SPDX-License-Identifier: MIT
// A real browser with a page from the disk, and what the tests ask of it.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "playwright-core";

const fickle = process.env.FICKLE, examples = process.env.EXAMPLES;
if (!fickle || !examples) throw new Error("FICKLE names the tool, EXAMPLES the folder of examples");
export const folder = mkdtempSync(join(tmpdir(), "page-"));
export const example = (name) => join(examples, name);

export function run(...words) {
  return execFileSync(fickle, words, { cwd: folder, encoding: "utf8", stdio: ["ignore", "pipe", "ignore"] });
}

/** `fickle replay --as csv` without its reasons, as the page writes changes. */
export function replayed(...words) {
  const cells = /("(?:[^"]|"")*"|[^,]*)(?:,|$)/g;
  return run("replay", ...words, "--as", "csv", "--quiet").trim().split("\n").map((line) =>
    [...line.matchAll(cells)].slice(0, 4).map((cell) => cell[1]).join(",")).join("\n");
}

let browser;
export async function start() {
  browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
    args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
      "--disable-component-update", "--disable-sync", "--autoplay-policy=no-user-gesture-required"],
  });
}
export async function stop() {
  await browser.close();
}

/** Writes a page and opens it; `troubles` gathers what should never come. */
export async function open(words, how = {}) {
  const { before, hash, ...context } = how;
  const name = join(folder, `${Math.random().toString(36).slice(2)}.html`);
  run("page", ...words, "-o", name, "--quiet");
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true, ...context })).newPage();
  page.setDefaultTimeout(60000); // machines may be busy
  page.troubles = [];
  page.on("console", (message) => ["error", "warning"].includes(message.type()) && page.troubles.push(message.text()));
  page.on("pageerror", (problem) => page.troubles.push(problem.message));
  page.on("request", (request) => /^(file|blob|data):/.test(request.url()) || page.troubles.push(`asked for ${request.url()}`));
  if (before) await page.addInitScript(before);
  await page.goto(`file://${name}${hash ?? ""}`);
  await page.waitForSelector("html[data-ready]");
  return page;
}

export async function saved(page, press) {
  const [download] = await Promise.all([page.waitForEvent("download"), press()]);
  return readFileSync(await download.path(), "utf8");
}
export const savedGate = (page) => saved(page, () => page.getByRole("button", { name: "Save gate" }).click());
export const savedChanges = async (page) => (await saved(page, () => page.getByRole("button", { name: "Save changes" }).click())).trim();

export async function close(page) {
  assert.deepEqual(page.troubles, []);
  await page.context().close();
}
