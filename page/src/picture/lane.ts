// SPDX-License-Identifier: MIT
// A sensor over time: its curve, the bands of its rules as pale areas, and its limits as lines that can be dragged.
import uPlot from "uplot";
import { el, shown } from "../dom";
import type { About, Limit } from "../module/types";
import { isDark, labelColour, theme } from "./colours";
import { type Curve, firstAfter, thinned } from "./thin";

export const AXIS = 52, RIGHT = 10;
const HEIGHT = 84, FLAT = 46; // of a sensor with limits, and without

export interface LaneEvents {
  /** A limit is moved by hand; `done`: it was let go. */
  move(limit: Limit, value: number, done: boolean): void;
  /** A limit was taken hold of. */
  take(limit: Limit): void;
  zoom(from: number, to: number): void;
  look(t: number | null): void;
}

export class Lane {
  readonly element = el("div", { class: "lane" });
  private readonly label = el("div", { class: "label" });
  private readonly value = el("span", { class: "value" });
  private plot: uPlot;
  private readonly height: number;
  private handles: HTMLElement[] = [];
  private curve: Curve | null = null;
  private faulty: boolean[] = [];
  private drawn = "";
  private low = 0;
  private high = 1;
  private dragging = false;

  constructor(private about: About, readonly sensor: number, private readonly events: LaneEvents, width: number) {
    const name = about.names[sensor]!;
    this.label.append(el("b", {}, shown(name.name)), el("span", { class: "unit" }, name.unit ? ` ${shown(name.unit)}` : ""), this.value);
    const host = el("div", { class: "plot" });
    this.height = this.limits().length ? HEIGHT : FLAT;
    this.element.append(this.label, host);
    this.plot = new uPlot(this.options(width), [[], []], host);
  }

  private options(width: number): uPlot.Options {
    const ink = (): string => theme.quiet, line = (): string => theme.curve;
    return {
      width, height: this.height, padding: [6, RIGHT, 4, 0], legend: { show: false },
      cursor: { y: false, drag: { x: true, y: false, setScale: false }, sync: { key: "picture", scales: ["x", null] }, points: { size: 6 } },
      scales: { x: { time: false }, y: { range: () => [this.low, this.high] } },
      axes: [
        { show: false },
        { size: AXIS, stroke: ink, font: "11px system-ui, sans-serif", grid: { show: false }, ticks: { size: 4, stroke: ink }, space: 22 },
      ],
      series: [{}, { stroke: line, width: 1.5, points: { show: false }, spanGaps: false }],
      hooks: {
        drawClear: [(u) => this.drawBands(u)],
        draw: [(u) => this.drawGaps(u)],
        setSelect: [(u) => {
          if (u.select.width > 3) this.events.zoom(u.posToVal(u.select.left, "x") * 1000, u.posToVal(u.select.left + u.select.width, "x") * 1000);
          u.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false);
        }],
        setCursor: [(u) => {
          const left = u.cursor.left ?? -1;
          if (u.cursor.event) this.events.look(left < 0 ? null : u.posToVal(left, "x") * 1000);
        }],
      },
    };
  }

  private limits(): Limit[] {
    return this.about.limits.filter((limit) => limit.sensor === this.sensor && !limit.distance);
  }

  /** Pale areas: who owns which readings. Only bands have names of their own; of the others the limits say enough. */
  private drawBands(u: uPlot): void {
    const { ctx } = u, box = u.bbox;
    ctx.save();
    for (const range of this.about.ranges.filter((one) => one.sensor === this.sensor)) {
      const name = this.about.names[range.name]!;
      if (!name.labels.length) continue;
      const top = u.valToPos(Math.min(this.high, range.high === null ? this.high : range.high + 10 ** -name.decimals), "y", true);
      const bottom = u.valToPos(Math.max(this.low, range.low ?? this.low), "y", true);
      if (bottom <= top) continue;
      ctx.globalAlpha = isDark() ? 0.3 : 0.22;
      ctx.fillStyle = labelColour(name, range.answer);
      ctx.fillRect(box.left, top, box.width, bottom - top);
      if (bottom - top < 12 * devicePixelRatio) continue;
      ctx.globalAlpha = 0.75;
      ctx.fillStyle = isDark() ? "#d6d9dd" : "#3a4048";
      ctx.font = `${10 * devicePixelRatio}px system-ui, sans-serif`;
      ctx.textBaseline = "middle";
      ctx.textAlign = "left";
      ctx.fillText(shown(range.answer), box.left + 4 * devicePixelRatio, (top + bottom) / 2);
    }
    ctx.restore();
  }

  /** Faulty stretches are hatched over the whole height. */
  private drawGaps(u: uPlot): void {
    const xs = u.data[0] as number[], { ctx } = u, box = u.bbox;
    ctx.save();
    ctx.beginPath();
    ctx.rect(box.left, box.top, box.width, box.height);
    ctx.clip();
    ctx.globalAlpha = 0.35;
    ctx.fillStyle = hatch(ctx);
    for (let i = 0; i < xs.length; i++) {
      if (!this.faulty[i]) continue;
      let end = i;
      while (end + 1 < xs.length && this.faulty[end + 1]) end++;
      const from = u.valToPos(xs[i]!, "x", true), to = u.valToPos(xs[Math.min(end + 1, xs.length - 1)]!, "x", true);
      ctx.fillRect(from, box.top, Math.max(2, to - from), box.height);
      i = end;
    }
    ctx.restore();
  }

  /** `fit`: the scale may change. While a limit is dragged it does not. */
  setAbout(about: About, fit: boolean): void {
    this.about = about;
    if (fit && !this.dragging) this.fit();
    const ours = JSON.stringify([this.limits(), about.ranges.filter((range) => range.sensor === this.sensor)]);
    if (ours === this.drawn && !fit) return; /* another lane's limit moves */
    this.drawn = ours;
    this.placeHandles();
    this.plot.redraw(false, true);
  }

  repaint(): void {
    this.plot.redraw(false, true);
  }

  private fit(): void {
    let [low, high] = this.span();
    for (const limit of this.limits()) [low, high] = [Math.min(low, limit.value), Math.max(high, limit.value)];
    const name = this.about.names[this.sensor]!;
    if (low > high) [low, high] = [name.low ?? 0, name.high ?? 1];
    const room = (high - low || 1) * 0.12;
    [this.low, this.high] = [low - room, high + room];
  }

  /** The lowest and the highest that was read. */
  span(): [number, number] {
    let low = Infinity, high = -Infinity;
    for (const value of this.curve?.values ?? []) {
      if (value < low) low = value;
      if (value > high) high = value;
    }
    return [low, high];
  }

  setCurve(curve: Curve): void {
    this.curve = curve;
    this.fit();
  }

  setView(from: number, to: number, width: number): void {
    if (width !== this.plot.width) this.plot.setSize({ width, height: this.height });
    const name = this.about.names[this.sensor]!, turn = name.circle ? ((name.high ?? 360) - (name.low ?? 0)) / 2 : Infinity;
    const { xs, ys, faulty } = thinned(this.curve ?? { times: new Float64Array(), values: new Float32Array() }, from, to, width - AXIS, turn);
    this.faulty = faulty;
    this.plot.batch(() => {
      this.plot.setData([xs, ys], false);
      this.plot.setScale("x", { min: from / 1000, max: to / 1000 });
      this.plot.setScale("y", { min: this.low, max: this.high });
    });
    this.placeHandles();
  }

  /** What the sensor was at this time. */
  look(t: number | null): void {
    const name = this.about.names[this.sensor]!;
    if (t === null || !this.curve) {
      this.value.textContent = "";
      return;
    }
    const value = this.curve.values[firstAfter(this.curve.times, t) - 1];
    this.value.textContent = value === undefined ? "" : Number.isNaN(value) ? "faulty" : value.toFixed(name.decimals);
  }

  private placeHandles(): void {
    const limits = this.limits();
    while (this.handles.length > limits.length) this.handles.pop()!.remove();
    limits.forEach((limit, i) => {
      const handle = this.handles[i] ?? this.makeHandle(i);
      const rule = this.about.names[limit.name]!, unit = this.about.names[this.sensor]!.unit;
      const shared = limit.number && this.about.limits.some((other) => other.number === limit.number && other.name !== limit.name);
      handle.style.top = `${this.plot.valToPos(limit.value, "y")}px`;
      handle.hidden = limit.value < this.low || limit.value > this.high;
      handle.setAttribute("aria-label", `${shown(rule.name)}: limit${limit.number ? ` ${shown(limit.number)}` : ""}`);
      handle.setAttribute("aria-valuenow", String(limit.value));
      handle.setAttribute("aria-valuemin", String(this.low));
      handle.setAttribute("aria-valuemax", String(this.high));
      handle.setAttribute("aria-valuetext", `${limit.value} ${unit}`);
      handle.toggleAttribute("aria-disabled", !limit.moves);
      handle.title = limit.moves
        ? `${shown(rule.name)}: ${limit.value} ${shown(unit)}${limit.number ? `, the number ${shown(limit.number)}` : ""}${shared ? ", which other rules use too" : ""}`
        : `${shown(rule.name)}: ${limit.value} ${shown(unit)}; it is worked out from other numbers`;
      handle.querySelector("span")!.textContent = `${shown(rule.name)} ${limit.value}`;
    });
  }

  private makeHandle(i: number): HTMLElement {
    const handle = el("div", { class: "limit", role: "slider", tabindex: "0" }, el("span"));
    const step = (limit: Limit, by: number): void => { /* from where it stands by now: keys come faster than answers */
      const value = round(Number(handle.getAttribute("aria-valuenow")) + by * limit.step, limit.step);
      handle.setAttribute("aria-valuenow", String(value));
      handle.style.top = `${this.plot.valToPos(value, "y")}px`;
      this.events.move(limit, value, true);
    };
    handle.addEventListener("pointerdown", (event) => {
      const limit = this.limits()[i];
      if (!limit?.moves) return;
      event.preventDefault();
      event.stopPropagation();
      handle.focus();
      handle.setPointerCapture(event.pointerId);
      this.events.take(limit);
      this.dragging = true;
      let value = limit.value;
      const follow = (moved: PointerEvent): void => {
        const y = moved.clientY - this.plot.over.getBoundingClientRect().top;
        const next = round(Math.min(this.high, Math.max(this.low, this.plot.posToVal(y, "y"))), limit.step);
        if (next === value) return;
        value = next;
        handle.style.top = `${this.plot.valToPos(value, "y")}px`;
        this.events.move(limit, value, false);
      };
      const end = (): void => {
        handle.removeEventListener("pointermove", follow);
        this.dragging = false;
        this.events.move(limit, value, true);
      };
      handle.addEventListener("pointermove", follow);
      handle.addEventListener("pointerup", end, { once: true });
      handle.addEventListener("pointercancel", end, { once: true });
    });
    handle.addEventListener("keydown", (event) => {
      const limit = this.limits()[i], way = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[event.key];
      if (!limit?.moves || way === undefined) return;
      event.preventDefault();
      this.events.take(limit);
      step(limit, way * (event.shiftKey ? 10 : 1));
    });
    this.plot.over.append(handle);
    this.handles[i] = handle;
    return handle;
  }

  destroy(): void {
    this.plot.destroy();
    this.element.remove();
  }
}

function round(value: number, step: number): number {
  const decimals = Math.max(0, Math.round(-Math.log10(step)));
  return Number((Math.round(value / step) * step).toFixed(decimals));
}

/** Slanted lines, which grey and colour-blind eyes see as well. */
export function hatch(ctx: CanvasRenderingContext2D): CanvasPattern | string {
  const size = 6 * devicePixelRatio, tile = document.createElement("canvas");
  tile.width = tile.height = size;
  const pen = tile.getContext("2d")!;
  pen.strokeStyle = isDark() ? "#aab0b8" : "#70767e";
  pen.lineWidth = 1.2 * devicePixelRatio;
  pen.beginPath();
  for (const at of [-size, 0, size]) {
    pen.moveTo(at, size);
    pen.lineTo(at + size, 0);
  }
  pen.stroke();
  return ctx.createPattern(tile, "repeat") ?? "#999";
}
