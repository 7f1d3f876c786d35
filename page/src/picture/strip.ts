// SPDX-License-Identifier: MIT
// What one name was over time, as a strip; pressing it asks why.
import { el, shown } from "../dom";
import type { About, Played } from "../module/types";
import { fillOf, theme } from "./colours";
import { AXIS, RIGHT, hatch } from "./lane";
import { firstAfter } from "./thin";

const HEIGHT = 20;

export class Strip {
  readonly element = el("div", { class: "strip" });
  private readonly canvas = el("canvas", { height: String(HEIGHT) });
  private readonly value = el("span", { class: "value" });
  private readonly mark = el("div", { class: "mark", hidden: true });
  private readonly press = el("button", { class: "press", type: "button" }, this.canvas, this.mark);
  private data: Played["strips"][number] = { times: new Float64Array(), texts: new Uint32Array() };
  private texts: string[] = [];
  private view = { from: 0, to: 1, width: 100 };

  constructor(private about: About, readonly name: number, ask: (name: number, t: number) => void, look: (t: number | null) => void) {
    const own = about.names[name]!;
    this.element.append(el("div", { class: "label" }, el("b", {}, shown(own.name)), this.value), this.press);
    this.press.setAttribute("aria-label", `${shown(own.name)}, ${own.kind}: why is it what it is?`);
    this.press.addEventListener("click", (event) => ask(name, event.detail ? this.timeAt(event.clientX) : this.asked()));
    this.press.addEventListener("pointermove", (event) => look(this.timeAt(event.clientX)));
    this.press.addEventListener("pointerleave", () => look(null));
  }

  private drawnWidth = 0;
  private looked: number | null = null;

  /** Without a pointer it is about the moment that is looked at, or the last change. */
  private asked(): number {
    return this.looked ?? this.data.times[this.data.times.length - 1] ?? 0;
  }

  private timeAt(x: number): number {
    const box = this.canvas.getBoundingClientRect(), { from, to } = this.view;
    return Math.min(to, Math.max(from, from + ((x - box.left) / Math.max(1, box.width)) * (to - from)));
  }

  set(about: About, played: Played): void {
    const data = played.strips[this.name]!, before = this.data, were = this.texts;
    this.about = about;
    this.data = data;
    this.texts = played.texts;
    const same = before.times.length === data.times.length &&
      before.times.every((t, i) => t === data.times[i] && were[before.texts[i]!] === played.texts[data.texts[i]!]);
    if (!same) this.draw();
  }

  setView(from: number, to: number, width: number): void {
    this.view = { from, to, width: Math.max(10, width - AXIS - RIGHT) };
    this.press.style.marginLeft = `${AXIS}px`;
    this.draw();
  }

  textAt(t: number): string {
    const place = this.data.texts[firstAfter(this.data.times, t) - 1];
    return place === undefined ? "" : this.texts[place]!;
  }

  look(t: number | null): void {
    this.looked = t;
    this.value.textContent = t === null ? "" : shown(this.textAt(t));
    this.mark.hidden = t === null || t < this.view.from || t > this.view.to;
    if (t !== null) this.mark.style.left = `${((t - this.view.from) / (this.view.to - this.view.from)) * 100}%`;
  }

  repaint(): void {
    this.draw();
  }

  private draw(): void {
    const { from, to, width } = this.view, ratio = devicePixelRatio, ctx = this.canvas.getContext("2d")!;
    const name = this.about.names[this.name]!, { times, texts } = this.data;
    if (this.drawnWidth !== width * ratio) {
      this.drawnWidth = width * ratio;
      this.canvas.width = width * ratio;
      this.canvas.height = HEIGHT * ratio;
      this.canvas.style.width = `${width}px`;
      this.canvas.style.height = `${HEIGHT}px`;
    }
    ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
    ctx.clearRect(0, 0, width, HEIGHT);
    ctx.font = "11px system-ui, sans-serif";
    ctx.textBaseline = "middle";
    const { ink } = theme;
    const place = (t: number): number => ((t - from) / (to - from)) * width;
    for (let i = Math.max(0, firstAfter(times, from) - 1); i < times.length && times[i]! <= to; i++) {
      const text = this.texts[texts[i]!]!, fill = fillOf(name, text, this.about.colours);
      const begin = Math.max(0, place(times[i]!)), end = Math.min(width, i + 1 < times.length ? place(times[i + 1]!) : width);
      ctx.globalAlpha = fill.strength || 0.06;
      ctx.fillStyle = fill.strength ? (fill.hatched ? hatch(ctx) : fill.colour) : ink;
      if (fill.strength) ctx.fillRect(begin, 1, Math.max(0.6, end - begin), HEIGHT - 2);
      else ctx.fillRect(begin, HEIGHT / 2 - 1, Math.max(0.6, end - begin), 2);
      ctx.globalAlpha = 1;
      if (!fill.strength || end - begin < ctx.measureText(text).width + 8) continue;
      ctx.fillStyle = fill.strength > 0.6 && !fill.hatched ? legible(fill.colour) : ink;
      ctx.fillText(shown(text), begin + 4, HEIGHT / 2 + 0.5);
    }
  }
}

/** Black or white, whichever is read better on a colour. */
function legible(colour: string): string {
  const [r, g, b] = [1, 3, 5].map((i) => parseInt(colour.slice(i, i + 2), 16) / 255) as [number, number, number];
  return 0.2126 * r ** 2.2 + 0.7152 * g ** 2.2 + 0.0722 * b ** 2.2 > 0.3 ? "#15181c" : "#ffffff";
}
