// SPDX-License-Identifier: MIT
// How long a drag takes until the strips are new, beside a replay by the tool: speed.mjs GATE HANDLE RECORDING...
import { execFileSync } from "node:child_process";
import { open, start, stop } from "./browser.mjs";

const BUDGET = 4; // times a replay by the tool
const [gate, handle, ...recordings] = process.argv.slice(2);
const at = (sorted, share) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))];

function native(recording) {
  const times = [];
  for (let i = 0; i < 9; i++) {
    const begin = performance.now();
    execFileSync(process.env.FICKLE, ["replay", gate, recording, "--as", "csv", "--quiet"], { stdio: ["ignore", "pipe", "ignore"], maxBuffer: 1 << 28 });
    times.push(performance.now() - begin);
  }
  return at(times.sort((a, b) => a - b), 0.5);
}

await start();
let over = false;
for (const recording of recordings) {
  const page = await open([gate, recording]);
  const line = page.locator(".limit", { hasText: handle }).first(), box = await line.boundingBox(), x = box.x + 50, y = box.y + box.height / 2;
  await page.waitForFunction(() => performance.getEntriesByName("warm").length);
  await page.evaluate(() => performance.clearMarks());
  await page.mouse.move(x, y);
  await page.mouse.down();
  const times = [];
  for (let i = 1; i <= 100; i++) {
    await page.mouse.move(x, y + 1 + (i % 12));
    await page.waitForFunction(() => performance.getEntriesByName("drawn").length);
    await page.waitForTimeout(30); // nothing is asked of the page meanwhile
    times.push(await page.evaluate(() => {
      const [moved, drawn] = ["moved", "drawn"].map((name) => performance.getEntriesByName(name).at(-1).startTime);
      performance.clearMarks();
      return drawn - moved;
    }));
  }
  await page.mouse.up();
  times.sort((a, b) => a - b);
  const own = native(recording), half = at(times, 0.5), most = at(times, 0.95);
  console.log(`${recording.replace(/.*\//, "")}: a drag shows its answers in ${half.toFixed(1)} ms (half of all), ${most.toFixed(1)} ms (95 of 100); ` +
    `the tool replays it in ${own.toFixed(1)} ms, so half take ${(half / own).toFixed(2)} times as long`);
  over ||= half > BUDGET * own;
  await page.context().close();
}
await stop();
if (over) {
  console.error(`a drag takes more than ${BUDGET} times a replay by the tool`);
  process.exit(1);
}
