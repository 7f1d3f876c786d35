// SPDX-License-Identifier: MIT
// Readings that somebody labelled, one distribution above the other, and the limits of a rule among them: as they are, to
// be dragged, halfway, and with the fewest wrong.
import { el, shown } from "../dom";
import type { About, Edit, Labelled, Limit, Mistake } from "../module/types";
import { labelColour, theme } from "../picture/colours";

export interface LabelEvents {
  ask(name: number, column: string): Promise<Labelled>;
  move(limit: Limit, value: number, done: boolean): void;
  take(edits: Edit[]): void;
}

const ROW = 56, LEFT = 120, RIGHT = 20;

export class Labels {
  readonly element = el("section", { class: "labels", "aria-label": "Labelled readings" });
  private readonly rule = el("select", { "aria-label": "Rule" });
  private readonly column = el("select", { "aria-label": "Column with the labels" });
  private readonly canvas = el("canvas");
  private readonly lines = el("div", { class: "lines" });
  private readonly picture = el("div", { class: "spread" }, this.canvas, this.lines);
  private readonly words = el("div");
  private about: About | null = null;
  private found: Labelled | null = null;
  private dragging = false;

  constructor(private readonly events: LabelEvents) {
    this.element.append(el("div", { class: "bar" }, el("label", {}, "Rule ", this.rule), el("label", {}, "Label in ", this.column)), this.picture, this.words);
    for (const choice of [this.rule, this.column]) choice.addEventListener("change", () => void this.work());
    new ResizeObserver(() => this.draw()).observe(this.picture);
  }

  /** `columns`: of the recording that is shown; those that the gate reads hold no labels. */
  show(about: About, columns: string[]): void {
    this.about = about;
    const rules = about.names.map((name, i) => ({ name, i })).filter(({ i }) => about.ranges.some((range) => range.name === i));
    const read = new Set(about.names.filter((name) => name.read).map((name) => name.name));
    const spare = columns.filter((column) => !/^(t_ms|t_s|time)$/.test(column) && !read.has(column.replace(/\.raw$/, "")));
    this.fill(this.rule, rules.map(({ name, i }) => [String(i), name.name]));
    this.fill(this.column, spare.map((column) => [column, column]));
    if (!this.dragging) void this.work();
  }

  private fill(choice: HTMLSelectElement, options: [string, string][]): void {
    const before = choice.value;
    choice.replaceChildren(...options.map(([value, text]) => el("option", { value }, shown(text))));
    if (options.some(([value]) => value === before)) choice.value = before;
    choice.disabled = !options.length;
  }

  private async work(): Promise<void> {
    if (!this.about || !this.rule.value || !this.column.value) {
      this.found = null;
      this.tell("This recording has no column with labels. A column with the true label of each row, or of some rows, shows here how the readings of each lie.");
      this.draw();
      return;
    }
    const found: Labelled & Mistake = await this.events.ask(Number(this.rule.value), this.column.value);
    this.found = found.mistake || !found.labels?.length ? null : found;
    this.tell(found.mistake ? found.mistake.text : found.labels?.length ? "" : "No reading has a label of this rule in this column.");
    this.draw();
  }

  private tell(text: string): void {
    const found = this.found, name = this.about?.names[Number(this.rule.value)];
    this.words.replaceChildren();
    if (!found || !name) {
      this.words.append(el("p", { class: "hint" }, shown(text)));
      return;
    }
    const unit = this.about!.names[this.about!.limits.find((limit) => limit.name === Number(this.rule.value))?.sensor ?? 0]?.unit ?? "";
    this.words.append(
      el("p", {}, `${found.readings} labelled readings: ${found.wrong_now} on the wrong side now, ${found.wrong_best} with the best limits.`),
      el("p", { class: "hint" }, "Dashed: the limits as they are, to be dragged. Dotted: halfway between the medians. Solid: the fewest wrong."),
      el("table", {}, el("thead", {}, el("tr", {}, ...["between", "now", "wrong", "halfway", "wrong", "best", "wrong"].map((head) => el("th", { scope: "col" }, head)))),
        el("tbody", {}, ...found.cuts.filter((cut) => cut.tuned).map((cut) => el("tr", { title: shown(cut.because) },
          el("th", { scope: "row" }, `${shown(cut.below)} and ${shown(cut.above)}`),
          ...[`${cut.now} ${unit}`, cut.wrong_now, `${cut.halfway} ${unit}`, cut.wrong_halfway, `${cut.best} ${unit}`, cut.wrong_best].map((text) => el("td", {}, String(text))))))),
      found.edits.length ? el("button", { type: "button", click: () => this.events.take(found.edits) }, "Take the best limits") : el("p", { class: "hint" }, "The limits are as good as they can be."));
  }

  private draw(): void {
    const found = this.found, labels = found?.labels ?? [], width = Math.max(200, this.picture.clientWidth), height = Math.max(1, labels.length) * ROW + 22;
    const ratio = devicePixelRatio, ctx = this.canvas.getContext("2d")!;
    this.picture.hidden = !found;
    this.canvas.width = width * ratio;
    this.canvas.height = height * ratio;
    this.canvas.style.width = `${width}px`;
    this.canvas.style.height = `${height}px`;
    ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
    this.lines.replaceChildren();
    if (!found || !this.about) return;
    const name = this.about.names[Number(this.rule.value)]!, bins = labels[0]!.counts.length, span = bins * found.wide;
    const place = (value: number): number => LEFT + ((value - found.from) / span) * (width - LEFT - RIGHT);
    ctx.font = "12px system-ui, sans-serif";
    labels.forEach((label, row) => {
      const bottom = (row + 1) * ROW, most = Math.max(...label.counts, 1);
      ctx.fillStyle = theme.ink;
      ctx.fillText(shown(label.label), 6, bottom - 26);
      ctx.fillStyle = theme.quiet;
      ctx.fillText(`${label.readings} readings`, 6, bottom - 10);
      const colour = labelColour(name, label.label);
      ctx.fillStyle = colour === "transparent" ? theme.curve : colour;
      label.counts.forEach((count, i) => {
        const tall = (count / most) * (ROW - 12);
        if (count) ctx.fillRect(place(found.from + i * found.wide), bottom - tall, Math.max(1, place(found.from + (i + 1) * found.wide) - place(found.from + i * found.wide) - 0.5), tall);
      });
      ctx.fillStyle = theme.quiet;
      ctx.fillRect(LEFT, bottom, width - LEFT - RIGHT, 1);
    });
    ctx.fillStyle = theme.quiet;
    for (let i = 0; i <= 4; i++) {
      const value = found.from + (span * i) / 4;
      ctx.fillText(value.toFixed(name.decimals), Math.min(width - 40, place(value) - 8), height - 5);
    }
    for (const cut of found.cuts.filter((one) => one.tuned))
      for (const [kind, value] of [["halfway", cut.halfway], ["best", cut.best]] as const)
        this.lines.append(el("i", { class: kind, style: `left:${place(value)}px;height:${labels.length * ROW}px`, title: `${kind}: ${value}` }));
    this.handles(place, labels.length * ROW, found, span, width);
  }

  private handles(place: (value: number) => number, height: number, found: Labelled, span: number, width: number): void {
    for (const limit of this.about!.limits.filter((one) => one.name === Number(this.rule.value) && !one.distance)) {
      const handle = el("div", { class: "now", role: "slider", tabindex: "0", style: `left:${place(limit.value)}px;height:${height}px`,
        "aria-label": `limit ${limit.value}`, "aria-valuenow": String(limit.value), "aria-valuemin": String(found.from), "aria-valuemax": String(found.from + span) },
        el("span", {}, String(limit.value)));
      const to = (value: number, done: boolean): void => {
        const stepped = Number((Math.round(value / limit.step) * limit.step).toFixed(6));
        handle.style.left = `${place(stepped)}px`;
        handle.firstElementChild!.textContent = String(stepped);
        this.dragging = !done;
        this.events.move(limit, stepped, done);
      };
      handle.addEventListener("pointerdown", (event) => {
        if (!limit.moves) return;
        event.preventDefault();
        handle.setPointerCapture(event.pointerId);
        const at = (moved: PointerEvent): number =>
          found.from + ((moved.clientX - this.picture.getBoundingClientRect().left - LEFT) / (width - LEFT - RIGHT)) * span;
        const follow = (moved: PointerEvent): void => to(at(moved), false);
        handle.addEventListener("pointermove", follow);
        handle.addEventListener("pointerup", (moved) => {
          handle.removeEventListener("pointermove", follow);
          to(at(moved), true);
        }, { once: true });
      });
      handle.addEventListener("keydown", (event) => {
        const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
        if (!limit.moves || way === undefined) return;
        event.preventDefault();
        to(limit.value + way * limit.step * (event.shiftKey ? 10 : 1), true);
      });
      this.lines.append(handle);
    }
  }
}
