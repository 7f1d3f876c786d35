// SPDX-License-Identifier: MIT
// How a gate is painted: a few classes of words. What it means is the module's concern.
import { StreamLanguage, type StreamParser } from "@codemirror/language";
import { conditions, levels, rows, statements } from "./words";

interface State {
  rowBegins: boolean;
}

const parser: StreamParser<State> = {
  startState: () => ({ rowBegins: true }),
  token(stream, state) {
    if (stream.sol()) state.rowBegins = true;
    if (stream.eatSpace()) return null;
    const begins = state.rowBegins;
    state.rowBegins = false;
    if (stream.peek() === "#") {
      stream.skipToEnd();
      return "comment";
    }
    if (stream.match(/^"(?:[^"]|"")*"?/)) return "string";
    if (stream.match(/^\d+(?:\.\d+)?(?:[A-Za-z%°/]+)?/)) return "number";
    const word = stream.match(/^[A-Za-z_][A-Za-z_0-9]*/) as RegExpMatchArray | null;
    if (word) {
      if (begins && statements.has(word[0])) return "keyword";
      if (conditions.has(word[0])) return "operatorKeyword";
      if (rows.has(word[0])) return "propertyName";
      return levels.has(word[0]) ? "atom" : "variableName";
    }
    if (/[{};]/.test(stream.next() ?? "")) {
      state.rowBegins = true;
      return "brace";
    }
    return "punctuation";
  },
};

export const gateLanguage = StreamLanguage.define(parser);
