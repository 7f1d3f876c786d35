// SPDX-License-Identifier: MIT
// The recording as a picture: lanes of sensors above strips of answers and outputs, all on one time axis.
import { el, time } from "../dom";
import type { About, Limit, Played } from "../module/types";
import { AXIS, Lane, RIGHT } from "./lane";
import { Strip } from "./strip";

export interface PictureEvents {
  move(limit: Limit, value: number, done: boolean): void;
  take(limit: Limit): void;
  ask(name: number, t: number): void;
}

const LABEL = 128;

export class Picture {
  readonly element = el("section", { class: "picture", "aria-label": "The recording" });
  private readonly axis = el("div", { class: "axis" });
  private readonly whole = el("button", { type: "button", class: "plain", hidden: true, click: () => this.zoom(0, this.length) }, "whole recording");
  private readonly lanesBox = el("div", { class: "lanes", tabindex: "0", role: "group", "aria-label": "Sensors" });
  private readonly stripsBox = el("div", { class: "strips", tabindex: "0", role: "group", "aria-label": "Answers and outputs" });
  private lanes: Lane[] = [];
  private strips: Strip[] = [];
  private length = 1;
  private from = 0;
  private to = 1;
  private shape = "";

  constructor(private readonly events: PictureEvents) {
    this.element.append(this.lanesBox, this.stripsBox, el("div", { class: "axisrow" }, this.axis, this.whole));
    new ResizeObserver(() => this.layout()).observe(this.element);
    this.element.addEventListener("wheel", (event) => this.wheel(event), { passive: false });
    this.element.addEventListener("dblclick", () => this.zoom(0, this.length));
  }

  private width(): number {
    return Math.max(160, this.lanesBox.clientWidth - LABEL - 2);
  }

  private wheel(event: WheelEvent): void {
    if (!event.ctrlKey && !event.altKey && Math.abs(event.deltaX) <= Math.abs(event.deltaY)) return; /* the list scrolls */
    event.preventDefault();
    const span = this.to - this.from;
    if (event.ctrlKey || event.altKey) {
      const box = this.element.getBoundingClientRect();
      const share = Math.min(1, Math.max(0, (event.clientX - box.left - LABEL - AXIS) / Math.max(1, this.width() - AXIS - RIGHT)));
      const centre = this.from + share * span, next = span * (event.deltaY > 0 ? 1.25 : 0.8);
      this.zoom(centre - share * next, centre + (1 - share) * next);
    } else {
      this.pan((event.deltaX / this.width()) * span);
    }
  }

  private pan(by: number): void {
    const span = this.to - this.from, from = Math.min(Math.max(0, this.from + by), Math.max(0, this.length - span));
    this.zoom(from, from + span);
  }

  zoom(from: number, to: number): void {
    this.from = Math.max(0, Math.min(from, this.length - 1));
    this.to = Math.min(this.length, Math.max(to, this.from + 1));
    this.layout();
  }

  look(t: number | null): void {
    for (const lane of this.lanes) lane.look(t);
    for (const strip of this.strips) strip.look(t);
  }

  /** What is shown: sensors that have limits or are read, and whatever has an answer. */
  private build(about: About): void {
    const shape = JSON.stringify(about.names.map((name) => [name.name, name.kind, name.unit, name.labels]));
    if (shape === this.shape) return;
    this.shape = shape;
    for (const lane of this.lanes) lane.destroy();
    this.stripsBox.replaceChildren();
    this.lanes = [];
    this.strips = [];
    about.names.forEach((name, i) => {
      if (name.kind === "sensor") {
        if (!name.read && !about.ranges.some((range) => range.sensor === i)) return;
        const lane = new Lane(about, i, { move: this.events.move, take: this.events.take, zoom: (from, to) => this.zoom(from, to), look: (t) => this.look(t) }, this.width());
        this.lanes.push(lane);
        this.lanesBox.append(lane.element);
      } else if (name.answers) {
        const strip = new Strip(about, i, this.events.ask, (t) => this.look(t));
        this.strips.push(strip);
        this.stripsBox.append(strip.element);
      }
    });
  }

  /** A recording was played; `another`: it is not the one that was shown. */
  show(about: About, played: Played, another: boolean): void {
    this.build(about);
    const length = Math.max(1, played.length), whole = this.from === 0 && this.to === this.length;
    this.length = length;
    if (another || whole || this.to > length) [this.from, this.to] = [0, length];
    if (played.times && played.values)
      for (const lane of this.lanes) lane.setCurve({ times: played.times, values: played.values[about.names[lane.sensor]!.index]! });
    for (const strip of this.strips) strip.set(about, played);
    for (const lane of this.lanes) lane.setAbout(about, played.values !== null);
    if (played.values) this.layout();
  }

  /** The gate has changed, and there is nothing to play. */
  setAbout(about: About): void {
    this.build(about);
    for (const lane of this.lanes) lane.setAbout(about, false);
  }

  /** The lowest and the highest of each sensor, by the number of its name. */
  spans(): Map<number, [number, number]> {
    return new Map(this.lanes.map((lane) => [lane.sensor, lane.span()]));
  }

  /** In the colours of another theme. */
  repaint(): void {
    for (const lane of this.lanes) lane.repaint();
    for (const strip of this.strips) strip.repaint();
  }

  layout(): void {
    const width = this.width();
    for (const lane of this.lanes) lane.setView(this.from, this.to, width);
    for (const strip of this.strips) strip.setView(this.from, this.to, width);
    this.whole.hidden = this.from === 0 && this.to === this.length;
    this.axis.style.marginLeft = `${LABEL + AXIS}px`;
    this.axis.style.width = `${width - AXIS - RIGHT}px`;
    const count = Math.max(2, Math.floor(width / 140));
    this.axis.replaceChildren(...Array.from({ length: count + 1 }, (_, i) => el("span", {}, time(Math.round(this.from + ((this.to - this.from) * i) / count)))));
  }
}
