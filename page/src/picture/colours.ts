// SPDX-License-Identifier: MIT
// One colour for one answer in every place. Told apart also in grey and by colour-blind eyes: hue and lightness differ.
import type { Name } from "../module/types";

const labels = ["#2f6f8f", "#d9a441", "#7a9e5b", "#a34f5e", "#5d5a9b", "#c47a3d", "#4f9d94", "#8c6d8a"];
const dark = ["#5aa5c7", "#e3b965", "#9cc27b", "#cf7f8d", "#918ed6", "#dd9a63", "#77c4ba", "#b594b3"];

/** The theme's colours, asked for once: to ask the style sheet at each stroke would be slow. */
export const theme = { dark: false, ink: "#000", quiet: "#000", curve: "#000" };

export function readTheme(): void {
  const root = document.documentElement, style = getComputedStyle(root), chosen = root.dataset["theme"];
  theme.dark = chosen ? chosen === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  for (const name of ["ink", "quiet", "curve"] as const) theme[name] = style.getPropertyValue(`--${name}`).trim();
}

export function isDark(): boolean {
  return theme.dark;
}

export function labelColour(name: Name, answer: string): string {
  const i = name.labels.indexOf(answer), palette = isDark() ? dark : labels;
  return i < 0 ? "transparent" : palette[i % palette.length]!;
}

export type Fill = { colour: string; strength: number; hatched: boolean };

/** What a strip shows of an answer or level: its colour, how strong, hatched where it is unsure. */
export function fillOf(name: Name, text: string, colours: Record<string, string>): Fill {
  const accent = isDark() ? "#5fb3a1" : "#1f7a6b";
  if (text === "unsure" || text === "faulty") return { colour: isDark() ? "#8a8f98" : "#8b8f96", strength: 0.5, hatched: true };
  if (name.labels.length) return { colour: labelColour(name, text), strength: 0.85, hatched: false };
  if (name.kind === "count") return { colour: accent, strength: text === "0" ? 0 : 0.45, hatched: false };
  if (!name.output) return { colour: accent, strength: text === "yes" ? 0.8 : 0, hatched: false };
  const rest = /^(off|quiet|stop|blank)$/.test(text);
  const percent = Number(/(\d+)%/.exec(text)?.[1] ?? "100") / 100;
  const written = /"([0-9a-f]{6})"/.exec(text)?.[1], named = Object.keys(colours).find((word) => text.split(" ").includes(word));
  const colour = written ? `#${written}` : named ? colours[named]! : name.kind === "lamp" ? "#f2b632" : accent;
  return { colour, strength: rest ? 0 : 0.3 + 0.6 * percent, hatched: false };
}
