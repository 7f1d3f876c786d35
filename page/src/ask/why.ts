// SPDX-License-Identifier: MIT
// The chain of reasons at one moment.
import { el, shown, time } from "../dom";
import type { Mistake, Reason } from "../module/types";

export class Why {
  readonly element = el("section", { class: "why", "aria-label": "Why", "aria-live": "polite" });

  constructor() {
    this.hint();
  }

  hint(): void {
    this.element.replaceChildren(el("p", { class: "hint" }, "Press on any strip at any moment, and the reasons stand here."));
  }

  show(name: string, t: number, answer: { reasons?: Reason[] } & Mistake): void {
    const list = el("ul"), step = answer.reasons?.[0]?.t ?? t;
    for (const reason of answer.reasons ?? [])
      list.append(el("li", { style: `padding-left:${reason.depth * 1.1}em`, ...(reason.decides ? { class: "decides" } : {}) },
        shown(reason.text), reason.t === step ? null : el("span", { class: "quiet" }, ` (at ${time(reason.t)})`)));
    this.element.replaceChildren(el("h2", {}, `Why is ${shown(name)} what it is at ${time(step)}?`),
      answer.mistake ? el("p", { class: "mistake" }, shown(answer.mistake.text)) : list);
  }
}
