// SPDX-License-Identifier: MIT
// How a gate is painted: a few classes of words. What it means is the module's concern.
import { StreamLanguage, type StreamParser } from "@codemirror/language";

const declares = new Set(("gate every include number sensor flag threshold hysteresis bands condition latch count pulse sequence " +
  "lamp relay buzzer motor servo bar display trial scene promise").split(" "));
const joins = new Set(("and or not is in for starts ends previously faulty unsure over under at least most within outside near when if " +
  "otherwise none yes no while never always begins between goes expect assume can").split(" "));

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
      if (begins && declares.has(word[0])) return "keyword";
      return joins.has(word[0]) ? "operatorKeyword" : "variableName";
    }
    if (/[{};]/.test(stream.next() ?? "")) {
      state.rowBegins = true;
      return "brace";
    }
    return "punctuation";
  },
};

export const gateLanguage = StreamLanguage.define(parser);
