// SPDX-License-Identifier: MIT
// Each expectation, held or not, and what no trial has tried.
import { download, el, shown, time } from "../dom";
import type { About, Reached, Tried, Untried } from "../module/types";

export interface TrialEvents {
  /** The trial's recording is to be looked at, and the line of an expectation. */
  open(trial: number, line: number): void;
  /** A recording is to be made that goes through every limit. */
  edges(): void;
  /** Readings that lead to something that was never tried are looked for, and played. */
  reach(one: Untried): Promise<Reached | null>;
}

export class Trials {
  readonly element = el("section", { class: "trials", "aria-label": "Trials" });

  constructor(private readonly events: TrialEvents) {}

  show(about: About, tried: Tried[]): void {
    const lists = about.trials.map((trial, i) => {
      const results = tried[i], list = el("ul");
      for (const result of results?.results ?? []) {
        const good = result.outcome === "held";
        list.append(el("li", {}, el("button", { type: "button", class: `result ${good ? "held" : "failed"}`, click: () => this.events.open(i, result.line) },
          el("span", { class: "outcome" }, result.outcome), el("span", {}, shown(result.expectation.trim())),
          good ? null : el("small", {}, shown(result.because)))));
      }
      return [el("h2", {}, shown(trial.name)), results?.mistake ? el("p", { class: "mistake" }, shown(results.mistake.text)) : list];
    });
    const last = tried[tried.length - 1], held = tried.flatMap((one) => one.results ?? []).filter((one) => one.outcome === "held").length;
    const all = tried.flatMap((one) => one.results ?? []).length;
    const untried = last?.untried ?? [];
    this.element.replaceChildren(
      about.trials.length ? el("p", { class: "sum" }, `${held} of ${all} held`, last?.all ? `; ${last.tried} of ${last.all} situations tried` : "")
        : el("p", { class: "hint" }, "This gate has no trials yet: trial \"name\" { readings \"file.csv\"; expect CONDITION at 2s }"),
      ...lists.flat(),
      ...(untried.length ? [el("h2", {}, "Never tried"),
        el("p", { class: "hint" }, "Press one, and readings that lead there are looked for."),
        el("button", { type: "button", click: () => this.events.edges() }, "Make a recording through every limit"),
        el("ul", { class: "untried" }, ...untried.slice(0, 200).map((one) => this.untriedRow(one)))] : []));
  }

  private untriedRow(one: Untried): HTMLElement {
    const said = el("small"), row = el("li", {}, el("button", { type: "button", class: "result", click: () => void look() },
      el("span", {}, el("b", {}, shown(one.name)), ` ${shown(one.what)}`), said));
    const look = async (): Promise<void> => {
      said.textContent = "looking for readings …";
      const reached = await this.events.reach(one);
      row.querySelector(".save")?.remove();
      said.textContent = reached ? Trials.reached(reached) : "";
      if (reached?.verdict === "found")
        row.append(el("button", { type: "button", class: "plain save", click: () => download(Trials.recordingOf(one), reached.text) }, "Save these readings"));
    };
    return row;
  }

  static recordingOf(one: Untried): string {
    return `${one.name}-${one.number}.csv`;
  }

  /** What came of looking, in words. */
  static reached({ verdict, after, because, mistake }: Reached): string {
    if (verdict === "found") return `it happens ${after ? `after ${time(after)}` : "at the first step"} of the readings that are shown now`;
    if (verdict === "never") return `it can never happen, proven: ${shown(because)}`;
    return mistake ? shown(mistake.text) : `not found: ${shown(because)}`;
  }

  static summary(tried: Tried[]): string {
    const all = tried.flatMap((one) => one.results ?? []), bad = all.length - all.filter((one) => one.outcome === "held").length;
    return all.length ? (bad ? `Trials: ${bad} failed` : `Trials: all ${all.length} held`) : "Trials";
  }
}
