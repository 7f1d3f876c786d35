// SPDX-License-Identifier: MIT
// The page as people use it, from the disk, in a real browser. What it shows is held against the tool.
import assert from "node:assert/strict";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { after, before, describe, test } from "node:test";
import { close, example, folder, open, replayed, run, saved, savedChanges, savedGate, start, stop } from "./browser.mjs";

const harbour = example("harbour/harbour.gate"), tide = example("harbour/spring-tide.csv");
const box = example("proofing_box/box.gate"), evening = example("proofing_box/evening.csv");

before(start);
after(stop);

const write = (name, text) => {
  writeFileSync(join(folder, name), text);
  return join(folder, name);
};
const outputIs = (page, name, words) => page.waitForFunction(([name, words]) => [...document.querySelectorAll(".output")].some((one) =>
  one.querySelector("b").textContent === name && one.querySelector(".words").textContent === words), [name, words]);
const settled = (page) => page.waitForFunction(() => !document.querySelector("#tab-trials").textContent.endsWith("Trials"));
const status = (page) => page.locator(".status");

/** Where a word of a line of the text is drawn. */
const wordAt = (page, line, word) => page.evaluate(([line, word]) => {
  const row = [...document.querySelectorAll(".cm-line")].find((one) => one.textContent.startsWith(line)), walk = document.createTreeWalker(row, NodeFilter.SHOW_TEXT);
  for (let node; (node = walk.nextNode());) {
    const at = node.textContent.indexOf(word), range = document.createRange();
    if (at < 0) continue;
    range.setStart(node, at);
    range.setEnd(node, at + word.length);
    const { x, y, width, height } = range.getBoundingClientRect();
    return [x + width / 2, y + height / 2];
  }
  throw new Error(`no ${word}`);
}, [line, word]);

/** The gate's text as the page holds it, with what it includes beside it. */
async function gateOf(page, name) {
  write("sounds.gate", readFileSync(example("harbour/sounds.gate"), "utf8"));
  return write(name, await savedGate(page));
}

describe("the page", { concurrency: 2 }, () => {
test("every answer over the whole harbour recording is that of the tool", async () => {
  const page = await open([harbour, tide]);
  assert.equal(await page.locator("h1").textContent(), "Pebble Quay");
  assert.equal(await savedChanges(page), replayed(harbour, tide));
  await settled(page);
  assert.equal(await page.locator("#tab-trials").textContent(), "Trials: all 103 held");
  await close(page);
});

for (const way of ["mouse", "touch"]) {
  test(`a limit is dragged by ${way}: the text, the strips and the trials change as the tool says`, async () => {
    const page = await open([harbour, tide], way === "touch" ? { hasTouch: true } : {});
    const before = await savedChanges(page), handle = page.locator(".limit", { hasText: "tide 60" }), at = await handle.boundingBox();
    const x = at.x + at.width / 2, y = at.y + at.height / 2;
    if (way === "mouse") {
      await page.mouse.move(x, y);
      await page.mouse.down();
      for (let i = 1; i <= 8; i++) await page.mouse.move(x, y + i);
      await page.mouse.up();
    } else {
      const touch = await page.context().newCDPSession(page), point = (by) => [{ x, y: y + by }];
      await touch.send("Input.dispatchTouchEvent", { type: "touchStart", touchPoints: point(0) });
      for (let i = 1; i <= 8; i++) await touch.send("Input.dispatchTouchEvent", { type: "touchMove", touchPoints: point(i) });
      await touch.send("Input.dispatchTouchEvent", { type: "touchEnd", touchPoints: [] });
    }
    await page.waitForFunction(() => document.querySelector("#tab-trials").classList.contains("bad"));
    const gate = await gateOf(page, "dragged.gate"), text = readFileSync(gate, "utf8");
    assert.notEqual(text, readFileSync(harbour, "utf8"));
    const cut = Number(/shallow \| ([\d.]+) \| fair/.exec(text)[1]);
    assert.ok(cut > 20 && cut < 60, `the cut is ${cut}`);
    const now = await savedChanges(page);
    assert.notEqual(now, before);
    assert.equal(now, replayed(gate, tide));
    await page.getByRole("button", { name: "Undo" }).click();
    await page.waitForFunction(() => !document.querySelector("#tab-trials").classList.contains("bad"));
    assert.equal(await savedChanges(page), before);
    await close(page);
  });
}

test("a limit moves by keys, and the number it came from changes", async () => {
  const page = await open([harbour, tide]);
  const handle = page.getByRole("slider", { name: "gale: limit gale_limit" });
  await handle.focus();
  await page.keyboard.press("ArrowUp");
  await page.waitForFunction(() => [...document.querySelectorAll(".cm-line")].some((line) => line.textContent.startsWith("number gale_limit = 14.1 m/s")));
  await page.keyboard.press("PageDown");
  await page.waitForFunction(() => [...document.querySelectorAll(".cm-line")].some((line) => line.textContent.startsWith("number gale_limit = 13.1 m/s")));
  assert.equal(await savedChanges(page), replayed(await gateOf(page, "keys.gate"), tide));
  await close(page);
});

test("a press for the next limit is not lost while another is under way", async () => {
  const page = await open([harbour, tide]), ends = [];
  await page.locator("#tab-hand").click();
  await page.getByRole("button", { name: "Stop time" }).click();
  const slider = page.locator(".input input[type=range]").first();
  for (const atOnce of [1, 3]) {
    await slider.fill(await slider.getAttribute("min"));
    for (let i = 0; i < 3; i += atOnce) {
      await slider.evaluate((one, presses) => {
        for (let k = 0; k < presses; k++) one.dispatchEvent(new KeyboardEvent("keydown", { key: "PageUp", bubbles: true, cancelable: true }));
      }, atOnce);
      await page.waitForFunction(() => !document.querySelector(".input[aria-busy=true]"));
    }
    ends.push(await slider.inputValue());
  }
  assert.equal(ends[1], ends[0]);
  await close(page);
});

test("each slider goes through every limit, and what was done replays to the same", async () => {
  const page = await open([harbour, tide]);
  await page.locator("#tab-hand").click();
  await page.getByRole("button", { name: "Stop time" }).click();
  const step = page.getByRole("button", { name: "One step" });
  const sliders = page.locator(".input input[type=range]"), count = await sliders.count();
  assert.equal(count, 7);
  const stops = new Map();
  for (let i = 0; i < count; i++) {
    const slider = sliders.nth(i), name = await slider.getAttribute("aria-label");
    await slider.fill(await slider.getAttribute("min"));
    await slider.focus();
    for (let last = ""; ;) {
      const now = await slider.inputValue();
      if (now === last) break;
      last = now;
      stops.set(name, [...(stops.get(name) ?? []), now]);
      await step.click();
      await slider.focus();
      await page.keyboard.press("PageUp");
      await page.waitForFunction(() => !document.querySelector(".input[aria-busy=true]"));
    }
  }
  for (const near of ["19.9", "20", "20.1", "139.9", "140", "140.1"]) assert.ok(stops.get("depth").includes(near), `depth never was ${near}`);
  for (const key of ["key", "level", "boat", "ack"]) {
    await page.getByRole("switch", { name: key }).check();
    for (let k = 0; k < 5; k++) await step.click();
  }
  const done = write("done.csv", await saved(page, () => page.getByRole("button", { name: "Save what was done" }).click()));
  const last = new Map(replayed(harbour, done).split("\n").slice(1).map((line) => line.split(",")).map(([, name, , is]) => [name, is]));
  for (const button of await page.locator(".answer").all()) {
    const [name, text] = [await button.locator("b").textContent(), await button.locator(".words").textContent()];
    assert.equal(text, last.get(name), name);
  }
  await close(page);
});

test("a sensor that fails stops the pump, and the reason stands there", async () => {
  const page = await open([harbour, tide]);
  await page.locator("#tab-hand").click();
  const pump = page.locator(".output", { hasText: "pump" });
  await page.getByRole("slider", { name: "bilge" }).fill("14");
  await outputIs(page, "pump", "forward 80%");
  await page.getByRole("button", { name: "fault of bilge" }).click();
  await outputIs(page, "pump", "stop");
  await pump.click();
  await page.waitForFunction(() => /bilge/.test(document.querySelector(".because").textContent));
  await close(page);
});

test("pressing a strip asks why", async () => {
  const page = await open([harbour, tide]);
  const strip = page.locator(".strip", { hasText: "may_land" }).locator(".press"), width = (await strip.boundingBox()).width;
  await strip.click({ position: { x: width * 0.5, y: 9 } });
  await page.waitForSelector(".why li");
  const at = / is at (.*)\?$/.exec(await page.locator(".why h2").textContent())[1];
  const [minutes, seconds] = /^(\d+) min ([\d.]+) s$/.exec(at).slice(1).map(Number);
  const native = run("why", harbour, tide, "may_land", "--at", `${Math.round((60 * minutes + seconds) * 1000)}ms`).split("\n");
  const lines = await page.locator(".why li").allTextContents();
  assert.ok(native.some((line) => line.includes("may_land is yes")), native.join("\n"));
  assert.match(lines[0], /^may_land is yes/);
  assert.ok(lines.length > 5);
  await close(page);
});

test("the best limits for labelled readings are those of the tool", async () => {
  const hive = write("hive.gate", readFileSync(example("beehive/beehive.gate"), "utf8")), weighings = example("beehive/weighings.csv");
  write("season.csv", readFileSync(example("beehive/season.csv"), "utf8"));
  const page = await open([hive, weighings]);
  await page.locator("#tab-labels").click();
  await page.getByText("480 labelled readings: 87 on the wrong side now, 0 with the best limits.").waitFor();
  await page.getByRole("button", { name: "Take the best limits" }).click();
  await page.waitForFunction(() => /all \d+ held/.test(document.querySelector("#tab-trials").textContent));
  run("tune", hive, weighings, "--label", "seen", "--write");
  assert.equal(await savedGate(page), readFileSync(hive, "utf8"));
  const handle = page.locator(".now").first(), at = await handle.boundingBox();
  await page.mouse.move(at.x + 7, at.y + 60);
  await page.mouse.down();
  for (let i = 1; i <= 5; i++) await page.mouse.move(at.x + 7 - i * 12, at.y + 60);
  await page.mouse.up();
  await page.waitForFunction(() => document.querySelector("#tab-trials").classList.contains("bad"));
  await close(page);
});

test("a mistake is marked, and its mend mends it", async () => {
  const page = await open([write("mend.gate", "sensor depth { unit cm }\nthreshold deep from depth { greater than 5 }\n")]);
  await page.waitForSelector(".error .mend");
  assert.match(await status(page).textContent(), /1 mistake/);
  await page.locator(".mend").first().dispatchEvent("click");
  await page.waitForFunction(() => !document.querySelector(".error"));
  assert.match(await savedGate(page), /deep from depth \{ over 5 \}/);
  await close(page);
});

test("what is saved opens again, and a recording can be dropped in", async () => {
  const page = await open([box, evening]);
  const gate = write("again.gate", await savedGate(page)), changes = await savedChanges(page);
  const other = await open([]);
  await other.locator("input[type=file]").setInputFiles([gate, evening]);
  await other.waitForFunction(() => document.querySelector(".choice select").value === "/evening.csv");
  await other.waitForFunction(() => /rows/.test(document.querySelector(".status").textContent));
  assert.equal(await savedChanges(other), changes);
  await close(other);
  await close(page);
});

test("the address holds a gate", async () => {
  const page = await open([box, evening]);
  await page.getByRole("button", { name: "Link" }).click();
  await page.waitForFunction(() => location.hash.startsWith("#gate="));
  const other = await open([], { hash: await page.evaluate(() => location.hash) });
  assert.equal(await savedGate(other), readFileSync(box, "utf8"));
  await close(other);
  const half = await open([], { hash: (await page.evaluate(() => location.hash)).slice(0, 60) });
  assert.match(await half.locator("h1").textContent(), /\w/);
  await close(half);
  await close(page);
});

test("texts are never taken for markup, and nothing is loaded", async () => {
  const evil = "<img src=x onerror=alert(1)>", gate = `gate "${evil}"\nsensor a\nbands b from a { low "<script>" | 5 | high "\u202Etfel" }\n` +
    `trial "${evil}" { readings "a.csv"; expect b is low at 0s }\n`;
  const page = await open([write("evil.gate", gate), write("a.csv", "t_ms,a\n0,<script>alert(1)</script>\n1000,7\n")]);
  assert.equal(await page.locator("h1").textContent(), evil);
  await settled(page);
  await page.locator("#tab-trials").click();
  assert.equal(await page.locator(".trials h2").first().textContent(), evil);
  assert.equal(await page.locator("img").count(), 0);
  const policy = await page.locator("meta[http-equiv]").getAttribute("content");
  assert.match(policy, /default-src 'none'/);
  assert.doesNotMatch(policy, /https?:|connect-src|script-src[^;]*'unsafe-inline'/);
  await close(page);
});

test("what is no gate and no recording is told, and the page goes on", async () => {
  const page = await open([box, evening]);
  await page.locator("input[type=file]").setInputFiles([write("torn.csv", "t_ms,box,door\n0,21,0\n1000\n")]);
  await page.waitForFunction(() => /torn\.csv, line 3/.test(document.querySelector(".status").textContent));
  await page.locator(".choice select").selectOption("/evening.csv");
  await page.waitForFunction(() => /rows/.test(document.querySelector(".status").textContent));
  await page.locator("input[type=file]").setInputFiles([{ name: "noise.gate", mimeType: "text/plain", buffer: Buffer.from([0xff, 0xfe, 0, 1, 2]) }]);
  await page.waitForFunction(() => document.querySelector(".status").classList.contains("bad"));
  await close(page);
});

test("a trap in the module is told, and the page goes on", async () => {
  const broken = () => {
    const real = WebAssembly.instantiate;
    void real; // the module runs in a worker: its script is changed on the way
    const Native = window.Worker;
    window.Worker = class extends Native {
      constructor(url, how) {
        super(url, how);
        const post = this.postMessage.bind(this);
        this.postMessage = (message) => post(window.spoil && message.call === "why" ? { ...message, call: "nothingOfThisName" } : message);
      }
    };
  };
  const page = await open([box, evening], { before: broken });
  await page.evaluate(() => (window.spoil = true));
  await page.locator(".strip .press").first().click();
  await page.waitForFunction(() => /report it/.test(document.querySelector(".status").textContent));
  await page.evaluate(() => (window.spoil = false));
  await page.getByRole("button", { name: "Undo" }).click();
  await page.locator(".limit").first().focus();
  await page.keyboard.press("ArrowUp");
  await page.waitForFunction(() => /rows/.test(document.querySelector(".status").textContent));
  await close(page);
});

test("lines of a board go through the gate", async () => {
  const standIn = () => {
    const lines = ["t_ms=0 bilge=3\n", "t_ms=500 bilge=", "14\nt_ms=1000 bilge=14\n"];
    const readable = new ReadableStream({
      async pull(out) {
        await new Promise((done) => setTimeout(done, 120));
        const line = lines.shift();
        if (line === undefined) await new Promise(() => undefined);
        out.enqueue(new TextEncoder().encode(line));
      },
    });
    Object.defineProperty(navigator, "serial", { value: { requestPort: async () => ({ open: async () => undefined, readable }) } });
  };
  const page = await open([harbour, tide], { before: standIn });
  await page.locator("#tab-hand").click();
  await page.getByRole("button", { name: "Listen to a board" }).click();
  await outputIs(page, "pump", "forward 80%");
  await close(page);
});

for (const theme of ["light", "dark"]) {
  test(`accessible in ${theme}`, async () => {
    const page = await open([harbour, tide], { colorScheme: theme });
    await settled(page);
    const axe = readFileSync(new URL("../node_modules/axe-core/axe.min.js", import.meta.url), "utf8");
    await page.evaluate(axe);
    for (const tab of ["#tab-why", "#tab-trials", "#tab-messages", "#tab-hand", "#tab-labels"]) {
      await page.locator(tab).click();
      const { violations } = await page.evaluate(() => axe.run());
      assert.deepEqual(violations.map((one) => `${tab} ${one.id}: ${one.nodes.slice(0, 3).map((node) => node.html.slice(0, 160)).join(" | ")}`), []);
    }
    await close(page);
  });
}

for (const [width, height] of [[1280, 800], [768, 1024], [390, 844]]) {
  test(`fits ${width}x${height}`, async () => {
    const page = await open([harbour, tide], { viewport: { width, height } });
    for (const tab of ["#tab-recording", "#tab-hand"]) {
      await page.locator(tab).click();
      const wide = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
      assert.ok(wide <= 0, `${tab} is ${wide} pixels too wide`);
    }
    if (width === 1280) assert.ok(await page.evaluate(() => document.documentElement.scrollHeight <= innerHeight), "one screen");
    await close(page);
  });
}

test("what was never tried is reached by a press, or said to be impossible", async () => {
  const page = await open([write("few.gate", "every 100ms\nsensor bilge { unit cm; step 0.1; trust 0..40 }\nhysteresis wet from bilge { on over 12; off under 5 }\n" +
    "latch jam { set when wet for 3s; clear when bilge under 2 }\nlamp red { on when jam; on when bilge over 50 }\ntrial \"dry\" { readings \"dry\"; expect not wet always }\n" +
    "scene \"dry\" { lasts 1s; bilge stays 3 }\n")]);
  await settled(page);
  await page.locator("#tab-trials").click();
  const jam = page.locator(".untried li", { hasText: "jam never yes" });
  await jam.locator(".result").click();
  await jam.getByText("it happens after 3 s of the readings that are shown now").waitFor();
  const readings = write("jam.csv", await saved(page, () => jam.getByRole("button", { name: "Save these readings" }).click()));
  assert.match(replayed(join(folder, "few.gate"), readings), /^3000,jam,no,yes$/m);
  assert.equal(await savedChanges(page), replayed(join(folder, "few.gate"), readings));
  const row = page.locator(".untried li", { hasText: "row 2" });
  await row.locator(".result").click();
  await row.getByText("it can never happen, proven").waitFor();
  await close(page);
});

test("a number in the text follows the pointer while Alt is held", async () => {
  const page = await open([box, evening]);
  await settled(page);
  const before = await savedGate(page), [x, y] = await wordAt(page, "number warm_to", "27.1");
  await page.keyboard.down("Alt");
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= 5; i++) await page.mouse.move(x + 4 * i, y);
  await page.mouse.up();
  await page.keyboard.up("Alt");
  assert.equal(await savedGate(page), before.replace("warm_to   = 27.1", "warm_to   = 27.6"));
  await page.waitForFunction(() => document.querySelector("#tab-trials").classList.contains("bad"));
  await page.getByRole("button", { name: "Undo" }).click();
  assert.equal(await savedGate(page), before);
  await close(page);
});

test("pointing at a rule shows its number line, as the checker draws it", async () => {
  const page = await open([box, evening]);
  await settled(page);
  await page.mouse.move(...await wordAt(page, "hysteresis", "heating"));
  const line = await page.locator(".numberline").textContent();
  assert.match(line, /heating/);
  assert.match(line, /on .*stays|stays/s);
  for (const part of line.split("\n").filter((part) => part.includes(".."))) assert.ok(run("check", box).includes(part.trim()), part);
  await close(page);
});

test("a buzzer is heard when sound is on, and only then", async () => {
  const listen = () => {
    window.heard = [];
    window.AudioContext = class {
      currentTime = 0;
      destination = {};
      async close() { window.heard.push("closed"); }
    };
    window.GainNode = class {
      gain = { setTargetAtTime: (value) => window.heard.push(value > 0 ? "loud" : "silent") };
      connect(to) { return to; }
    };
    window.OscillatorNode = class {
      frequency = { setValueAtTime: (hertz) => window.heard.push(hertz) };
      connect(to) { return to; }
      start() {}
    };
  };
  const gate = write("horn.gate", "every 100ms\nflag key\nbuzzer horn { 660Hz when key }\n");
  const page = await open([gate], { before: listen });
  await page.locator("#tab-hand").click();
  const key = page.getByRole("switch", { name: "key" });
  await key.check();
  await outputIs(page, "horn", "660Hz");
  assert.deepEqual(await page.evaluate(() => window.heard), []);
  await page.getByRole("checkbox", { name: /sound/i }).check();
  await page.waitForFunction(() => window.heard.includes(660) && window.heard.at(-1) === "loud");
  await key.uncheck();
  await page.waitForFunction(() => window.heard.at(-1) === "silent");
  await page.getByRole("checkbox", { name: /sound/i }).uncheck();
  await page.waitForFunction(() => window.heard.at(-1) === "closed");
  await close(page);
});

test("what is printed holds all of the text and the picture, without buttons", async () => {
  const page = await open([harbour, tide]);
  // The text is whole while the browser lays the paper out, which is when `change` comes and its listeners have run.
  await page.evaluate(() => {
    window.printed = new Promise((done) => matchMedia("print").addEventListener("change", () => setTimeout(() => {
      const lines = [...document.querySelectorAll(".cm-line")], bottom = (one) => one.getBoundingClientRect().bottom;
      done({ lines: lines.length, last: bottom(lines.at(-1)), end: bottom(document.querySelector(".left")),
        heights: [".cm-content", ".lane canvas, .picture canvas", ".strip"].map((one) => document.querySelector(one).getBoundingClientRect().height) });
    })));
  });
  await page.emulateMedia({ media: "print" });
  const paper = await page.evaluate(() => window.printed);
  assert.ok(paper.lines > 300 && paper.last <= paper.end + 1, JSON.stringify(paper));
  for (const height of paper.heights) assert.ok(height > 8, JSON.stringify(paper));
  assert.equal(await page.locator("header button:visible").count(), 0);
  assert.equal(await page.locator(".tabs:visible").count(), 0);
  await close(page);
});

test("an old browser is told what it lacks", async () => {
  const page = await open([box], { before: () => delete window.DecompressionStream });
  assert.match(await page.locator("#lacking").textContent(), /lacks DecompressionStream/);
  await close(page);
});
});
