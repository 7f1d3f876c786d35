// SPDX-License-Identifier: MIT
// Elements with their text. Texts are never taken for markup.

type Child = Node | string | null | undefined;

export function el<K extends keyof HTMLElementTagNameMap>(tag: K, given: Record<string, string | boolean | EventListener> = {},
  ...children: Child[]): HTMLElementTagNameMap[K] {
  const element = document.createElement(tag);
  for (const [name, value] of Object.entries(given)) {
    if (typeof value === "function") element.addEventListener(name, value);
    else if (typeof value === "boolean") element.toggleAttribute(name, value);
    else element.setAttribute(name, value);
  }
  element.append(...children.filter((child): child is Node | string => child !== null && child !== undefined));
  return element;
}

/** "12.5 s", "3 min 05 s". */
export function time(ms: number): string {
  if (ms >= 59950) ms = Math.round(ms / 100) * 100;
  if (ms < 60000) return `${(ms / 1000).toFixed(ms % 1000 ? (ms % 100 ? 3 : 1) : 0)} s`;
  return `${Math.floor(ms / 60000)} min ${((ms % 60000) / 1000).toFixed(ms % 1000 ? 1 : 0).padStart(2, "0")} s`;
}

/** Marks of direction and control characters are shown, so that no name can disguise itself. */
export function shown(text: string): string {
  return text.replace(/[\u0000-\u001f\u007f-\u009f\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff]/g,
    (c) => `\\u${c.charCodeAt(0).toString(16).padStart(4, "0")}`);
}

/** A file for the person who looks at the page. */
export function download(name: string, text: string): void {
  const url = URL.createObjectURL(new Blob([text], { type: "text/plain" }));
  el("a", { href: url, download: name }).click();
  setTimeout(() => URL.revokeObjectURL(url), 10000);
}
