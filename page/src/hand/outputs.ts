// SPDX-License-Identifier: MIT
// Outputs drawn as what they are.
import { el, shown } from "../dom";
import type { Name, Now } from "../module/types";

const SVG = "http://www.w3.org/2000/svg";

function svg(tag: string, given: Record<string, string>): SVGElement {
  const element = document.createElementNS(SVG, tag);
  for (const [name, value] of Object.entries(given)) element.setAttribute(name, value);
  return element;
}

function drawing(...parts: SVGElement[]): SVGElement {
  const root = svg("svg", { viewBox: "0 0 64 48", class: "drawing", "aria-hidden": "true" });
  root.append(...parts);
  return root;
}

type Painter = (now: Now) => void;

/** A glow whose strength is the lamp's, in its colour. */
function lamp(host: HTMLElement): Painter {
  const glow = svg("circle", { cx: "32", cy: "24", r: "22", class: "glow" }), bulb = svg("circle", { cx: "32", cy: "24", r: "13", class: "body" });
  host.append(drawing(glow, bulb));
  return (now) => {
    const on = now.form === "on", strength = on ? 0.35 + 0.65 * ((now.percent ?? 100) / 100) : 0;
    const colour = now.colour ? `#${now.colour.toString(16).padStart(6, "0")}` : "#f2b632";
    glow.setAttribute("style", `fill:${colour};opacity:${0.45 * strength}`);
    bulb.setAttribute("style", on ? `fill:${colour};fill-opacity:${strength}` : "");
  };
}

/** A contact that opens and closes. */
function relay(host: HTMLElement): Painter {
  const arm = svg("line", { x1: "14", y1: "30", x2: "48", y2: "30", class: "arm" });
  host.append(drawing(svg("circle", { cx: "14", cy: "30", r: "4", class: "body" }), svg("circle", { cx: "50", cy: "30", r: "4", class: "body" }), arm));
  return (now) => arm.setAttribute("transform", now.form === "on" ? "" : "rotate(-28 14 30)");
}

/** A wheel that turns as fast as it is strong. */
function motor(host: HTMLElement): Painter {
  const wheel = svg("g", { class: "wheel" });
  wheel.append(svg("circle", { cx: "32", cy: "24", r: "18", class: "body" }), svg("path", { d: "M32 24 L32 8 M32 24 L18 32 M32 24 L46 32", class: "arm" }));
  host.append(drawing(wheel));
  return (now) => {
    const turns = now.form === "forward" || now.form === "back", seconds = 0.6 / Math.max(0.08, (now.percent ?? 100) / 100);
    const style = turns ? `animation:turn ${seconds.toFixed(2)}s linear infinite ${now.form === "back" ? "reverse" : "normal"}` : "";
    if (wheel.getAttribute("style") !== style) wheel.setAttribute("style", style);
  };
}

function servo(host: HTMLElement): Painter {
  const arm = svg("line", { x1: "32", y1: "38", x2: "32", y2: "10", class: "arm" });
  host.append(drawing(svg("path", { d: "M8 38 A24 24 0 0 1 56 38", class: "outline" }), arm));
  return (now) => arm.setAttribute("transform", `rotate(${(now.number ?? 90) - 90} 32 38)`);
}

function buzzer(host: HTMLElement): Painter {
  const waves = svg("path", { d: "M40 14 Q50 24 40 34 M45 8 Q60 24 45 40", class: "outline" });
  host.append(drawing(svg("path", { d: "M12 18 H22 L34 8 V40 L22 30 H12 Z", class: "body" }), waves));
  return (now) => waves.setAttribute("style", `opacity:${now.form === "tone" ? 1 : 0.08}`);
}

function bar(host: HTMLElement): Painter {
  const lights = el("div", { class: "lights", "aria-hidden": "true" });
  host.append(lights);
  return (now) => {
    const count = Math.max(10, now.number ?? 0);
    while (lights.childElementCount < count) lights.append(el("i"));
    [...lights.children].forEach((light, i) =>
      light.toggleAttribute("data-on", now.form === "fill" ? i < (now.number ?? 0) : now.form === "light" && i + 1 === now.number));
  };
}

function display(host: HTMLElement): Painter {
  const lines = el("pre", { class: "display" });
  host.append(lines);
  return (now) => {
    lines.textContent = now.form === "show" ? (now.lines ?? []).map(shown).join("\n") : (now.lines ?? [""]).map(() => " ").join("\n");
  };
}

const painters: Record<string, (host: HTMLElement) => Painter> = { lamp, relay, motor, servo, buzzer, bar, display };

/** One output: its drawing, its name and the level in words. */
export class Output {
  readonly element = el("button", { class: "output", type: "button" });
  private readonly words = el("span", { class: "words" });
  private readonly paint: Painter;

  constructor(name: Name, ask: () => void) {
    const host = el("div", { class: "thing" });
    this.paint = (painters[name.kind] ?? display)(host);
    this.element.title = `${name.kind}: press to see why`;
    this.element.append(host, el("b", {}, shown(name.name)), this.words);
    this.element.addEventListener("click", ask);
  }

  show(now: Now): void {
    const words = shown(now.text) + (now.unsure ? " (unsure)" : "");
    this.paint(now);
    this.element.toggleAttribute("data-unsure", now.unsure === true);
    if (this.words.textContent === words) return;
    this.words.textContent = words;
  }
}
