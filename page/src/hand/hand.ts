// SPDX-License-Identifier: MIT
// Sensors moved by hand: a slider for each with its limits marked, a switch for each flag, a fault button; outputs as
// what they are. Time runs, stands still or goes step by step.
import { download, el, shown, time } from "../dom";
import type { Client } from "../module/client";
import type { About, HandNow, Name } from "../module/types";
import { Output } from "./outputs";
import { canSerial, listenTo } from "./serial";
import { Sound } from "./sound";

const TICK = 50; // ms between two looks

export class Hand {
  readonly element = el("section", { class: "hand", "aria-label": "By hand" });
  private readonly inputs = el("div", { class: "inputs" });
  private readonly answers = el("div", { class: "answers" });
  private readonly outputs = el("div", { class: "outputs" });
  private readonly clock = el("output", { class: "clock", "aria-label": "time of this run" }, "0 s");
  private readonly because = el("p", { class: "because", "aria-live": "polite" }, "Press on an output or an answer to see why.");
  private readonly run = el("button", { type: "button", click: () => this.setRuns(!this.runs) }, "Stop time");
  private readonly sound = new Sound();
  private readonly board = el("button", { type: "button", click: () => void this.listen() }, "Listen to a board");
  private about: About | null = null;
  private spans = new Map<number, [number, number]>();
  private shows = new Map<number, { show(now: { text: string }): void }>();
  private runs = true;
  private t = 0;
  private asked: number | null = null;
  private timer = 0;
  private busy = false;
  private visible = false;

  constructor(private readonly client: Client, private readonly broke: (result: HandNow) => void) {
    const sound = el("input", { type: "checkbox", change: () => this.sound.switch(sound.checked) });
    this.element.append(
      el("div", { class: "bar" }, this.run, el("button", { type: "button", click: () => void this.step() }, "One step"),
        el("button", { type: "button", click: () => void this.begin() }, "Begin anew"), this.clock,
        el("label", {}, sound, " sound"),
        el("button", { type: "button", class: "plain", click: () => void this.save() }, "Save what was done")),
      el("div", { class: "hands" }, this.inputs, el("div", { class: "shown" }, this.because, this.outputs, this.answers)));
    if (canSerial()) this.bar().append(this.board);
  }

  /** `spans`: what each sensor read in the recording, so that its slider reaches there. */
  show(about: About, spans: Map<number, [number, number]>): void {
    const before = JSON.stringify([this.about?.names, this.about?.limits.map((limit) => limit.value), [...this.spans]]);
    this.about = about;
    this.spans = spans;
    if (before !== JSON.stringify([about.names, about.limits.map((limit) => limit.value), [...spans]])) this.build();
    void this.begin();
  }

  private bar(): HTMLElement {
    return this.element.querySelector(".bar")!;
  }

  /** Lines of a board on a serial port go through the gate; what the hands hold counts more. */
  private async listen(): Promise<void> {
    for (const row of this.inputs.querySelectorAll<HTMLElement>("[data-name]")) {
      row.dataset["value"] = "";
      await this.hold(Number(row.dataset["name"]));
    }
    this.setRuns(true);
    await listenTo((lines) => this.client.ask("hear", lines, this.t), (text) => (this.because.textContent = text));
  }

  setVisible(visible: boolean): void {
    this.visible = visible;
    clearInterval(this.timer);
    if (visible) this.timer = window.setInterval(() => void this.tick(), TICK);
  }

  private setRuns(runs: boolean): void {
    this.runs = runs;
    this.run.textContent = runs ? "Stop time" : "Let time run";
  }

  /** The run begins at 0 with what the hands hold. */
  async begin(): Promise<void> {
    if (!this.about) return;
    await this.client.ask("hand");
    this.t = 0;
    for (const input of this.inputs.querySelectorAll<HTMLElement>("[data-name]")) await this.hold(Number(input.dataset["name"]));
    await this.look();
  }

  private async tick(): Promise<void> {
    if (!this.visible || !this.runs || this.busy) return;
    this.t += TICK;
    await this.look();
  }

  private async step(): Promise<void> {
    this.setRuns(false);
    this.t += this.about?.every || 100;
    await this.look();
  }

  private async look(): Promise<void> {
    this.busy = true;
    try {
      const state = await this.client.ask("until", this.t);
      if (state.mistake) return;
      this.clock.textContent = time(Math.max(0, state.t));
      state.now.forEach((now, i) => {
        if (!now) return;
        this.shows.get(i)?.show(now);
        if (this.about!.names[i]!.kind === "buzzer") this.sound.play(i, now);
      });
      if (state.broken.length) this.broke(state);
      if (this.asked !== null) await this.tell(this.asked);
    } finally {
      this.busy = false;
    }
  }

  private async tell(name: number): Promise<void> {
    this.asked = name;
    const { text } = await this.client.ask("because", name);
    this.because.textContent = `${this.about!.names[name]!.name}: ${shown(text)}`;
  }

  private async save(): Promise<void> {
    download("by-hand.csv", (await this.client.ask("done")).text);
  }

  private async hold(name: number): Promise<void> {
    const row = this.inputs.querySelector<HTMLElement>(`[data-name="${name}"]`)!;
    await this.client.ask("hold", name, row.dataset["value"] ?? "");
  }

  private build(): void {
    const about = this.about!;
    this.shows.clear();
    this.asked = null;
    this.inputs.replaceChildren();
    this.outputs.replaceChildren();
    this.answers.replaceChildren();
    about.names.forEach((name, i) => {
      if (name.read) this.inputs.append(name.kind === "flag" ? this.flag(name, i) : this.slider(name, i));
      else if (name.output) {
        const output = new Output(name, () => void this.tell(i));
        this.shows.set(i, output);
        this.outputs.append(output.element);
      } else if (name.answers && name.kind !== "sensor") {
        const text = el("span", { class: "words" });
        this.shows.set(i, { show: (now) => {
          if (text.textContent !== now.text) text.textContent = shown(now.text);
        } });
        this.answers.append(el("button", { type: "button", class: "answer", click: () => void this.tell(i) }, el("b", {}, shown(name.name)), text));
      }
    });
  }

  private flag(name: Name, i: number): HTMLElement {
    const box = el("input", { type: "checkbox", role: "switch", "aria-label": shown(name.name) });
    const row = el("div", { class: "input", "data-name": String(i), "data-value": "0" }, el("b", {}, shown(name.name)), el("label", {}, box, " yes"),
      this.fault(name, i, () => (box.checked ? "1" : "0")));
    box.addEventListener("change", () => void this.set(row, i, box.checked ? "1" : "0"));
    return row;
  }

  private slider(name: Name, i: number): HTMLElement {
    const span = this.spans.get(i) ?? [Infinity, -Infinity];
    const low = Math.min(name.low ?? 0, span[0]), high = Math.max(name.high ?? 100, span[1]), step = 10 ** -name.decimals, middle = ((low + high) / 2).toFixed(name.decimals);
    const range = el("input", { type: "range", min: String(low), max: String(high), step: String(step), value: middle, "aria-label": shown(name.name) });
    const value = el("output", { class: "value" }, `${middle} ${shown(name.unit)}`), ticks = el("div", { class: "ticks" });
    const row = el("div", { class: "input", "data-name": String(i), "data-value": middle }, el("b", {}, shown(name.name)),
      el("div", { class: "slide" }, range, ticks), value, this.fault(name, i, () => range.value));
    for (const limit of this.about!.limits)
      if (limit.sensor === i && !limit.distance && limit.value > low && limit.value < high)
        ticks.append(el("i", { style: `left:${((limit.value - low) / (high - low)) * 100}%`, title: `${shown(this.about!.names[limit.name]!.name)} ${limit.value}` }));
    const to = (next: number): void => {
      range.value = next.toFixed(name.decimals);
      value.textContent = `${Number(range.value).toFixed(name.decimals)} ${shown(name.unit)}`;
      range.setAttribute("aria-valuetext", value.textContent);
      void this.set(row, i, range.value);
    };
    // The next limit is looked for from where the slider stands by then, so that no press is lost.
    let asked = Promise.resolve(), waiting = 0;
    const toLimit = (way: number): void => {
      waiting++;
      row.ariaBusy = "true";
      asked = asked.catch(() => undefined).then(async () => {
        const next = await this.client.ask("next", i, Number(range.value), way);
        if (next.value !== null) to(next.value);
      }).finally(() => {
        row.ariaBusy = String(--waiting > 0);
      });
    };
    range.addEventListener("input", () => to(Number(range.value)));
    range.addEventListener("keydown", (event) => {
      const way = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
      if (way !== undefined && event.shiftKey) to(Number(range.value) + way * 10 * step);
      else if (event.key === "PageUp" || event.key === "PageDown") toLimit(event.key === "PageUp" ? 1 : -1);
      else return;
      event.preventDefault();
    });
    return row;
  }

  private fault(name: Name, i: number, value: () => string): HTMLElement {
    const button = el("button", { type: "button", class: "fault", "aria-pressed": "false", "aria-label": `fault of ${shown(name.name)}` }, "fault");
    button.addEventListener("click", () => {
      const fails = button.getAttribute("aria-pressed") !== "true";
      button.setAttribute("aria-pressed", String(fails));
      void this.set(button.parentElement!, i, fails ? "faulty" : value());
    });
    return button;
  }

  /** What is held by hand ends a fault, unless it is one. */
  private async set(row: HTMLElement, i: number, value: string): Promise<void> {
    row.dataset["value"] = value;
    row.querySelector(".fault")!.setAttribute("aria-pressed", String(value === "faulty"));
    await this.hold(i);
    if (!this.runs) await this.look();
  }
}
