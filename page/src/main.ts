// SPDX-License-Identifier: MIT
// The page: what belongs together, and in which order things are asked of the module.
import "uplot/dist/uPlot.min.css";
import "./style.css";
import { Labels } from "./ask/labels";
import { Trials } from "./ask/trials";
import { Why } from "./ask/why";
import { download, el, shown } from "./dom";
import { Editor } from "./gate/editor";
import { Hand } from "./hand/hand";
import { Client, Trap } from "./module/client";
import type { About, Broken, Limit, Moved, Played, Reached, Refused, Tried, Untried } from "./module/types";
import { isDark, readTheme } from "./picture/colours";
import { Picture } from "./picture/picture";

/** What `fickle page` put into the file. Contents are base64 of the bytes. */
interface Packed {
  gate: string;
  files: Record<string, string>;
  recordings: string[];
}

function bytesOf(base64: string): Uint8Array<ArrayBuffer> {
  return Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
}

async function unpacked(base64: string): Promise<ArrayBuffer> {
  const packed = bytesOf(base64);
  return new Response(new Blob([packed]).stream().pipeThrough(new DecompressionStream("gzip"))).arrayBuffer();
}

function base64Of(bytes: Uint8Array): string {
  let text = "";
  for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(text);
}

const HASH = "#gate=";

/** As it fits into an address: gzip, base64 with - and _ (RFC 4648). */
async function packedText(text: string): Promise<string> {
  const stream = new Blob([text]).stream().pipeThrough(new CompressionStream("gzip"));
  return base64Of(new Uint8Array(await new Response(stream).arrayBuffer())).replace(/\+/g, "-").replace(/\//g, "_").replace(/=+$/, "");
}

class Page {
  private about: About | null = null;
  private recording = { path: "", scene: false };
  private shownRecording = "";
  private readonly status = el("p", { class: "status", role: "status" });
  private readonly broken = el("p", { class: "broken", role: "alert", hidden: true });
  private readonly files = el("div", { class: "files", role: "tablist", "aria-label": "Files" });
  private readonly choice = el("select", { "aria-label": "Recording or scene" });
  private readonly title = el("h1", {}, "Fickle Gate");
  private readonly messages = el("ul");
  private readonly messagesPanel = el("section", { class: "messages", "aria-label": "Messages of the checker" }, this.messages);
  private readonly trialsTab = el("button", { type: "button", role: "tab", id: "tab-trials" }, "Trials");
  private readonly picture: Picture;
  private readonly hand: Hand;
  private readonly why = new Why();
  private readonly trials: Trials;
  private readonly labels: Labels;
  private readonly editor: Editor;
  private work: Promise<void> = Promise.resolve();
  private wanted: { limit: Limit; value: number; done: boolean } | null = null;
  private draining = false;
  private typing = 0;
  private quietly = false;

  constructor(private readonly client: Client, private packed: Packed) {
    this.picture = new Picture({ move: (limit, value, done) => this.move(limit, value, done), take: (limit) => this.revealLimit(limit), ask: (name, t) => void this.ask(name, t) });
    this.hand = new Hand(client, (state) => this.tellBroken(state.broken));
    this.trials = new Trials({ open: (trial, line) => this.openTrial(trial, line), edges: () => void this.tryEdges(), reach: (one) => this.reach(one) });
    this.labels = new Labels({
      ask: (name, column) => this.client.ask("labels", name, this.recording.path, column),
      move: (limit, value, done) => this.move(limit, value, done),
      take: (edits) => this.editor.change(edits),
    });
    const host = el("div", { class: "text" });
    this.editor = new Editor(host, (path, text) => this.edited(path, text), (word) => this.describe(word));
    document.getElementById("page")!.append(this.layout(host));
    this.choice.addEventListener("change", () => this.choose(this.choice.value));
    window.addEventListener("dragover", (event) => event.preventDefault());
    window.addEventListener("drop", (event) => {
      event.preventDefault();
      void this.take([...(event.dataTransfer?.files ?? [])]);
    });
  }

  private tabs(label: string, panels: [HTMLElement, HTMLElement, ((on: boolean) => void)?][]): HTMLElement {
    const show = (chosen: number): void => panels.forEach(([tab, panel, told], i) => {
      tab.setAttribute("aria-selected", String(i === chosen));
      tab.tabIndex = i === chosen ? 0 : -1;
      panel.hidden = i !== chosen;
      told?.(i === chosen);
    });
    panels.forEach(([tab, panel], i) => {
      panel.id ||= `panel-${tab.id}`;
      panel.setAttribute("role", "tabpanel");
      panel.setAttribute("aria-labelledby", tab.id);
      panel.tabIndex = 0;
      tab.setAttribute("aria-controls", panel.id);
      tab.addEventListener("click", () => show(i));
      tab.addEventListener("keydown", (event) => {
        const next = { ArrowRight: i + 1, ArrowLeft: i - 1 }[event.key];
        if (next === undefined) return;
        const to = (next + panels.length) % panels.length;
        show(to);
        panels[to]![0].focus();
      });
    });
    show(0);
    return el("div", { class: "tabs", role: "tablist", "aria-label": label }, ...panels.map(([tab]) => tab));
  }

  private layout(host: HTMLElement): HTMLElement {
    const tab = (id: string, text: string): HTMLElement => el("button", { type: "button", role: "tab", id }, text);
    const open = el("input", { type: "file", multiple: true, hidden: true, "aria-label": "Files to open", change: () => void this.take([...(open.files ?? [])]) });
    const theme = el("button", { type: "button", class: "plain", click: () => this.theme() }, "Light or dark");
    const right: [HTMLElement, HTMLElement, ((on: boolean) => void)?][] = [
      [tab("tab-recording", "Recording"), this.picture.element, (on) => on && this.picture.layout()],
      [tab("tab-hand", "By hand"), this.hand.element, (on) => this.hand.setVisible(on)],
      [tab("tab-labels", "Labels"), this.labels.element],
    ];
    const below: [HTMLElement, HTMLElement][] = [
      [tab("tab-why", "Why"), this.why.element],
      [this.trialsTab, this.trials.element],
      [tab("tab-messages", "Messages"), this.messagesPanel],
    ];
    const lower = this.tabs("Below the text", below);
    return el("main", {},
      el("header", {}, this.title, el("span", { class: "grow" }),
        el("label", { class: "choice" }, "Recording ", this.choice),
        el("button", { type: "button", click: () => open.click() }, "Open…"), open,
        el("button", { type: "button", click: () => this.editor.undo() }, "Undo"),
        el("button", { type: "button", click: () => this.editor.redo() }, "Redo"),
        el("button", { type: "button", click: () => download(this.editor.shown().replace(/^.*\//, ""), this.editor.text()) }, "Save gate"),
        el("button", { type: "button", class: "plain", click: () => void this.saveChanges() }, "Save changes"),
        el("button", { type: "button", class: "plain", click: () => void this.link() }, "Link"),
        theme),
      this.broken,
      el("div", { class: "columns" },
        el("div", { class: "left" }, this.files, host, lower, el("div", { class: "lower" }, ...below.map(([, panel]) => panel))),
        el("div", { class: "right" }, this.tabs("Recording or by hand", right), ...right.map(([, panel]) => panel))),
      this.status);
  }

  private saveChanges(): Promise<void> {
    return this.inTurn(async () => download("changes.csv", (await this.client.ask("changeTable")).text));
  }

  /** The gate in the address itself, for somebody else's browser; recordings are too large for that. */
  private async link(): Promise<void> {
    const files = Object.fromEntries((this.about?.files ?? [this.packed.gate]).filter((file) => this.client.has(file))
      .map((file) => [file, base64Of(new TextEncoder().encode(this.client.read(file)))]));
    location.hash = HASH + await packedText(JSON.stringify({ gate: this.packed.gate, files, recordings: [] }));
    await navigator.clipboard?.writeText(location.href).catch(() => undefined);
    this.say("The address of this page holds the gate now; it was copied.");
  }

  /** What no trial has tried: a recording that goes through every limit tries most of it. */
  private async tryEdges(): Promise<void> {
    const { text } = await this.client.ask("edges");
    if (text) await this.inTurn(() => this.playMade("/through-every-limit.csv", text));
  }

  /** Readings that lead to something no trial has tried. */
  private async reach(one: Untried): Promise<Reached | null> {
    let reached: Reached | null = null;
    this.say(`Looking for readings: ${one.name} ${one.what} …`);
    await this.inTurn(async () => {
      reached = await this.client.ask("reach", one.number);
      if (reached.verdict === "found") await this.playMade(`/${Trials.recordingOf(one)}`, reached.text);
      this.say(`${one.name} ${one.what}: ${Trials.reached(reached)}`);
    });
    return reached;
  }

  /** A recording that was made up here. */
  private async playMade(path: string, text: string): Promise<void> {
    this.client.write(path, text);
    if (!this.packed.recordings.includes(path)) this.packed.recordings.push(path);
    this.recording = { path, scene: false };
    this.showChoice();
    await this.play(true);
  }

  private theme(): void {
    const root = document.documentElement, dark = isDark();
    root.dataset["theme"] = dark ? "light" : "dark";
    this.repaint();
  }

  repaint(): void {
    readTheme();
    this.picture.repaint();
  }

  /** One thing after the other, so that answers never mix; what goes wrong is told and ends nothing. */
  private inTurn(job: () => Promise<unknown>): Promise<void> {
    this.work = this.work.then(job).then(() => undefined).catch((problem: unknown) => this.trouble(problem));
    return this.work;
  }

  private trouble(problem: unknown): void {
    const text = problem instanceof Error ? problem.message : String(problem);
    this.say(problem instanceof Trap
      ? `Something in Fickle Gate itself failed (${text}). Please report it with the text of this gate. The page goes on; undo the last change.`
      : text, true);
  }

  private say(text: string, bad = false): void {
    this.status.textContent = shown(text);
    this.status.classList.toggle("bad", bad);
  }

  // ---- files ----

  async start(): Promise<void> {
    for (const [path, data] of Object.entries(this.packed.files)) this.client.write(path, bytesOf(data));
    const text = this.client.read(this.packed.gate);
    this.quietly = true;
    this.editor.show(this.packed.gate, text);
    this.quietly = false;
    await this.inTurn(() => this.openGate(true));
    if (!this.about) document.getElementById("tab-messages")!.click();
  }

  /** Files that were chosen or dropped: a gate takes the place of this one, anything else is a recording. */
  private async take(files: File[]): Promise<void> {
    const most = 200 << 20;
    let gate = "", recording = "";
    for (const file of files) {
      if (file.size > most) {
        this.say(`${file.name} is larger than 200 MB; cut a part out of it: fickle replay GATE ${file.name} --from 0s --to 1h`, true);
        return;
      }
      const path = `/${file.name}`;
      this.client.write(path, new Uint8Array(await file.arrayBuffer()));
      if (/\.gate$/.test(file.name)) gate ||= path;
      else {
        recording ||= path;
        if (!this.packed.recordings.includes(path)) this.packed.recordings.push(path);
      }
    }
    if (gate) {
      this.packed.gate = gate;
      this.editor.forget();
      this.editor.show(gate, this.client.read(gate));
    }
    await this.inTurn(async () => {
      if (recording) this.recording = { path: recording, scene: false };
      await this.openGate(true);
    });
  }

  private edited(path: string, text: string): void {
    if (this.quietly || !path) return;
    this.client.write(path, text);
    clearTimeout(this.typing);
    if (!this.draining) this.typing = window.setTimeout(() => void this.inTurn(() => this.openGate(true)), 120);
  }

  private showFiles(files: string[]): void {
    const own = files.filter((file) => this.client.has(file));
    this.files.replaceChildren(...own.map((file) => el("button", { type: "button", role: "tab", "aria-selected": String(file === this.editor.shown()),
      click: () => this.showFile(file) }, shown(file.replace(/^\//, "")))));
    this.files.hidden = own.length < 2;
  }

  /** What a name in the text is: the number line of a rule, else its kind and unit. */
  private async describe(word: string): Promise<string> {
    const names = this.about?.names ?? [], i = names.findIndex((name) => name.name === word), name = names[i];
    if (!name) return "";
    const { text } = await this.client.ask("line", i, 60);
    return text.trimEnd() || `${name.kind} ${name.name}${name.unit ? `, in ${name.unit}` : ""}`;
  }

  private showFile(file: string): void {
    if (file !== this.editor.shown()) {
      this.quietly = true;
      this.editor.show(file, this.client.read(file));
      this.quietly = false;
    }
    if (this.about) {
      this.showFiles(this.about.files);
      this.editor.mark(this.about.findings);
    }
  }

  // ---- the gate ----

  private async openGate(whole: boolean): Promise<boolean> {
    const about = await this.client.ask("open", this.packed.gate);
    this.tellFindings(about);
    if (!about.good) return false;
    const first = !this.about;
    this.about = about;
    this.title.textContent = shown(about.title || this.packed.gate.replace(/^\//, ""));
    document.title = `${this.title.textContent} - Fickle Gate`;
    this.showFiles(about.files);
    this.showChoice();
    if (!whole) return true;
    await this.play(true);
    this.hand.show(about, this.picture.spans());
    if (first) this.why.hint();
    void this.runTrials().then(() => (first ? this.warm() : undefined)).catch((problem: unknown) => this.trouble(problem));
    return true;
  }

  private tellFindings(about: Moved | Refused): void {
    const findings = about.findings ?? [];
    const bad = findings.filter((finding) => finding.severity === "error").length;
    this.editor.mark(findings);
    this.messages.replaceChildren(...findings.map((finding) => el("li", { class: finding.severity },
      el("button", { type: "button", class: "finding", click: () => {
        this.showFile(finding.file);
        this.editor.reveal(finding.line);
      } }, el("span", { class: "outcome" }, `${finding.severity}, line ${finding.line}`), shown(finding.what), el("small", {}, shown(finding.instead))),
      finding.fix ? el("button", { type: "button", class: "mend", click: () => {
        this.showFile(finding.file);
        this.editor.mend(finding);
      } }, "Mend it") : null)));
    if (!findings.length) this.messages.append(el("li", { class: "hint" }, "Nothing to say about this gate."));
    if (about.good) {
      this.say("");
      return;
    }
    const mistake = "mistake" in about ? about.mistake : undefined;
    this.say(mistake ? mistake.text : `${bad} mistake${bad === 1 ? "" : "s"} in the text; the picture shows the gate as it was before.`, true);
  }

  // ---- recordings ----

  private showChoice(): void {
    const about = this.about!, scenes = about.scenes.map((scene) => ({ value: `scene:${scene}`, text: `scene: ${scene}` }));
    const options = [...this.packed.recordings.map((path) => ({ value: path, text: path.replace(/^\//, "") })), ...scenes];
    const now = this.recording.path ? (this.recording.scene ? "scene:" : "") + this.recording.path : "";
    if (!options.some((option) => option.value === now)) this.setRecording(options[0]?.value ?? "");
    this.choice.replaceChildren(...options.map((option) => el("option", { value: option.value }, shown(option.text))));
    this.choice.value = this.recording.path ? (this.recording.scene ? "scene:" : "") + this.recording.path : "";
    this.choice.disabled = !options.length;
  }

  private setRecording(value: string): void {
    const scene = value.startsWith("scene:");
    this.recording = { path: scene ? value.slice(6) : value, scene };
  }

  private choose(value: string): void {
    this.setRecording(value);
    void this.inTurn(() => this.play(true));
  }

  private async play(values: boolean): Promise<void> {
    const about = this.about, { path, scene } = this.recording;
    if (!about) return;
    if (!path) {
      this.say("There is no recording yet: open one, or move the sensors by hand.");
      return;
    }
    const played = await this.client.ask("play", path, scene, values);
    if ("mistake" in played && played.mistake) {
      this.say(`${path.replace(/^\//, "")}${played.mistake.line ? `, line ${played.mistake.line}` : ""}: ${played.mistake.text}`, true);
      return;
    }
    const result = played as Played, another = this.shownRecording !== path;
    this.shownRecording = path;
    this.showPlayed(about, result, another);
    this.say([`${result.rows} rows, ${(result.length / 1000).toFixed(1)} s, ${result.steps} steps, ${result.changes} changes`, ...result.notes].join(" · "));
  }

  private showPlayed(about: About, played: Played, another: boolean): void {
    this.picture.show(about, played, another);
    performance.mark("drawn");
    this.tellBroken(played.broken);
    if (played.values) this.labels.show(about, this.recording.scene ? [] : played.columns);
  }

  private tellBroken(broken: Broken[]): void {
    this.broken.hidden = !broken.length;
    this.broken.textContent = broken.map((one) =>
      `${one.promise ? `"${shown(one.promise)}"` : "A promise"} is broken at ${(one.t / 1000).toFixed(1)} s: ${shown(one.row)}. ${shown(one.because)}.`).join(" ");
  }

  private async runTrials(): Promise<void> {
    const about = this.about!;
    const tried: Tried[] = [];
    for (let i = 0; i < about.trials.length; i++) {
      if (this.about !== about) return; /* another gate by now */
      tried.push(await this.client.ask("trial", i));
    }
    if (this.about !== about) return;
    this.trials.show(about, tried);
    this.trialsTab.textContent = Trials.summary(tried);
    this.trialsTab.classList.toggle("bad", tried.some((one) => one.mistake || one.results?.some((result) => result.outcome !== "held")));
  }

  /** The first drag is as fast as those behind it: a browser compiles in full what ran often. A long recording would keep
   * the module busy for too long. */
  private async warm(): Promise<void> {
    const about = this.about, { path, scene } = this.recording, end = performance.now() + 1500, most = 4 << 20; // ms, bytes
    const idle = (): boolean => this.about === about && !this.draining && performance.now() < end;
    for (let i = 0; i < 150 && path && (scene || this.client.size(path) < most) && idle(); i++)
      await this.client.ask("warm", this.packed.gate, path, scene);
    await this.client.ask("warmed");
    performance.mark("warm");
  }

  private openTrial(trial: number, line: number): void {
    const one = this.about!.trials[trial]!, value = one.scene ? `scene:${one.readings}` : `/${one.readings}`;
    this.editor.reveal(line);
    if ([...this.choice.options].some((option) => option.value === value)) {
      this.choice.value = value;
      this.choose(value);
    }
  }

  // ---- limits by hand ----

  /** The number that is about to move comes into view. */
  private revealLimit(limit: Limit): void {
    this.showFile(limit.file);
    this.editor.point(limit.from, limit.to);
  }

  /** The newest place counts: while the module works, those in between are left out. */
  private move(limit: Limit, value: number, done: boolean): void {
    this.wanted = { limit, value, done };
    performance.mark("moved");
    if (!this.draining) void this.drain();
  }

  private async drain(): Promise<void> {
    this.draining = true;
    while (this.wanted) {
      const { limit, value, done } = this.wanted;
      this.wanted = null;
      await this.inTurn(() => this.moveTo(limit, value, done));
    }
    this.draining = false;
  }

  private async moveTo(limit: Limit, value: number, done: boolean): Promise<void> {
    const { edits, moved, played } = await this.client.ask("drag", this.packed.gate, limit.written, value, this.recording.path, this.recording.scene);
    if (!done && moved.good && this.about) {
      const about = this.about = { ...this.about, ...moved };
      if (played && !("mistake" in played && played.mistake)) this.showPlayed(about, played as Played, false);
      else this.picture.setAbout(about);
    }
    for (const edit of edits) {
      if (edit.file !== this.editor.shown()) this.showFile(edit.file);
      this.editor.drag(edit, done);
    }
    if (done) await this.openGate(true);
    else if (!moved.good) this.tellFindings(moved);
  }

  private async ask(name: number, t: number): Promise<void> {
    const about = this.about!;
    await this.inTurn(async () => {
      const at = Math.round(t);
      this.why.show(about.names[name]!.name, at, await this.client.ask("why", name, at));
      document.getElementById("tab-why")!.click();
    });
  }
}

/** What this page cannot do without, in words. */
function lacking(): string {
  const needs: [string, boolean][] = [
    ["WebAssembly", typeof WebAssembly === "object"],
    ["DecompressionStream", typeof DecompressionStream === "function"],
    ["workers", typeof Worker === "function"],
  ];
  const missing = needs.filter(([, there]) => !there).map(([name]) => name);
  return missing.length ? `This browser lacks ${missing.join(" and ")}; any browser of the last three years has them.` : "";
}

async function main(): Promise<void> {
  const missing = lacking();
  if (missing) {
    const note = document.getElementById("lacking")!;
    note.textContent = missing;
    note.hidden = false;
    document.documentElement.dataset["ready"] = "no";
    return;
  }
  readTheme();
  const own = (id: string): string => document.getElementById(id)!.textContent!.trim();
  const linked = location.hash.startsWith(HASH) ? location.hash.slice(HASH.length).replace(/-/g, "+").replace(/_/g, "/") : "";
  const files = await unpacked(linked || own("files")).catch(() => unpacked(own("files"))); // half a link
  const page = new Page(new Client(await unpacked(own("module"))), JSON.parse(new TextDecoder().decode(files)) as Packed);
  matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => page.repaint());
  await page.start();
  document.documentElement.dataset["ready"] = "yes";
}

void main();
