// SPDX-License-Identifier: MIT
// The module counts bytes of UTF-8, the editor counts units of UTF-16.

/** From a place in bytes to one in the text. */
export function inText(text: string): (bytes: number) => number {
  if (/^[\x00-\x7f]*$/.test(text)) return (bytes) => Math.min(bytes, text.length);
  const places: number[] = [];
  let unit = 0;
  for (const character of text) {
    const code = character.codePointAt(0)!;
    const size = code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
    for (let i = 0; i < size; i++) places.push(unit);
    unit += character.length;
  }
  return (bytes) => places[bytes] ?? text.length;
}
