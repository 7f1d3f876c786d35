// SPDX-License-Identifier: MIT
// The gate's text: painted, with the checker's messages at their place, and numbers that can be dragged sideways.
import { defaultKeymap, history, historyKeymap, indentWithTab, isolateHistory, redo, undo } from "@codemirror/commands";
import { HighlightStyle, bracketMatching, syntaxHighlighting } from "@codemirror/language";
import { type Diagnostic, lintGutter, lintKeymap, setDiagnostics } from "@codemirror/lint";
import { EditorState, Transaction } from "@codemirror/state";
import { EditorView, drawSelection, highlightActiveLine, hoverTooltip, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import type { Edit, Finding } from "../module/types";
import { gateLanguage } from "./grammar";
import { inText } from "./places";

const paint = HighlightStyle.define([
  { tag: tags.keyword, color: "var(--word)", fontWeight: "600" },
  { tag: [tags.operatorKeyword, tags.propertyName], color: "var(--join)" },
  { tag: tags.string, color: "var(--string)" },
  { tag: [tags.number, tags.atom], color: "var(--number)" },
  { tag: tags.comment, color: "var(--quiet)", fontStyle: "italic" },
]);

export class Editor {
  readonly view: EditorView;
  private states = new Map<string, EditorState>();
  private path = "";
  private begun: string | null = null; // what the number was before the drag

  constructor(parent: HTMLElement, private readonly changed: (path: string, text: string) => void,
    private readonly about: (word: string) => Promise<string>) {
    this.view = new EditorView({ parent, state: this.fresh("") });
    this.view.scrollDOM.tabIndex = 0; // it scrolls by keys as well
    this.view.contentDOM.addEventListener("pointerdown", (event) => this.dragNumber(event));
  }

  private fresh(text: string): EditorState {
    return EditorState.create({
      doc: text,
      extensions: [
        lineNumbers(), history(), drawSelection(), bracketMatching(), highlightActiveLine(), gateLanguage,
        syntaxHighlighting(paint), lintGutter(), EditorView.lineWrapping,
        keymap.of([...defaultKeymap, ...historyKeymap, ...lintKeymap, indentWithTab]),
        hoverTooltip(async (view, at) => {
          const word = view.state.wordAt(at), text = word && await this.about(view.state.sliceDoc(word.from, word.to));
          if (!text) return null;
          return { pos: word.from, end: word.to, above: true, create: () => {
            const dom = document.createElement("pre");
            dom.className = "numberline";
            dom.textContent = text;
            return { dom };
          } };
        }),
        EditorView.contentAttributes.of({ "aria-label": "The gate's text" }),
        EditorView.updateListener.of((update) => {
          if (update.docChanged) this.changed(this.path, update.state.doc.toString());
        }),
      ],
    });
  }

  /** Shows a file; each has its own history. */
  show(path: string, text: string): void {
    if (this.path) this.states.set(this.path, this.view.state);
    this.path = path;
    const kept = this.states.get(path);
    this.view.setState(kept && kept.doc.toString() === text ? kept : this.fresh(text));
  }

  shown(): string {
    return this.path;
  }

  text(): string {
    return this.view.state.doc.toString();
  }

  /** Forgets all files: another gate was opened. */
  forget(): void {
    this.states.clear();
    this.path = "";
  }

  undo(): void {
    undo(this.view);
  }
  redo(): void {
    redo(this.view);
  }

  /** A number that follows a hand. */
  drag(edit: Edit, done: boolean): void {
    const place = inText(this.text());
    this.follow(place(edit.from), place(edit.to), edit.text, done);
  }

  /** However many edits a drag takes, undoing it is one step. */
  private follow(from: number, to: number, text: string, done: boolean): void {
    this.begun ??= this.view.state.sliceDoc(from, to);
    const begun = this.begun, quietly = Transaction.addToHistory.of(false);
    if (done) {
      this.begun = null;
      this.view.dispatch({ changes: { from, to, insert: begun }, annotations: quietly });
      this.view.dispatch({ changes: { from, to: from + begun.length, insert: text }, annotations: isolateHistory.of("full") });
    } else {
      this.view.dispatch({ changes: { from, to, insert: text }, annotations: quietly });
    }
  }

  /** The place of a line comes into view. */
  reveal(line: number): void {
    const { doc } = this.view.state;
    const at = doc.line(Math.max(1, Math.min(line, doc.lines)));
    this.view.dispatch({ selection: { anchor: at.from }, effects: EditorView.scrollIntoView(at.from, { y: "center" }) });
    this.view.focus();
  }

  /** Selects what stands between two places in bytes and brings it into view; the focus stays where it is. */
  point(from: number, to: number): void {
    const place = inText(this.text()), anchor = place(from);
    this.view.dispatch({ selection: { anchor, head: place(to) }, effects: EditorView.scrollIntoView(anchor, { y: "center" }) });
  }

  mark(findings: Finding[]): void {
    const place = inText(this.text());
    const marks = findings.filter((finding) => finding.file === this.path).map((finding): Diagnostic => {
      const from = place(finding.from);
      return {
        from,
        to: Math.max(from, place(finding.to)),
        severity: finding.severity === "note" ? "info" : finding.severity,
        message: finding.instead ? `${finding.what}\n${finding.instead}` : finding.what,
        actions: finding.fix ? [{ name: "Mend it", apply: () => this.mend(finding) }] : [],
      };
    });
    this.view.dispatch(setDiagnostics(this.view.state, marks));
  }

  /** Several numbers of this file at once. */
  change(edits: Edit[]): void {
    const place = inText(this.text());
    this.view.dispatch({
      changes: edits.filter((edit) => edit.file === this.path).map((edit) => ({ from: place(edit.from), to: place(edit.to), insert: edit.text })),
    });
  }

  mend(finding: Finding): void {
    const place = inText(this.text());
    if (finding.fix && finding.file === this.path)
      this.view.dispatch({ changes: { from: place(finding.fix.from), to: place(finding.fix.to), insert: finding.fix.text } });
  }

  /** With Alt held, a number follows the pointer sideways: its last digit counts. */
  private dragNumber(event: PointerEvent): void {
    if (!event.altKey) return;
    const at = this.view.posAtCoords({ x: event.clientX, y: event.clientY });
    if (at === null) return;
    const line = this.view.state.doc.lineAt(at);
    for (const found of line.text.matchAll(/-?\d+(?:\.\d+)?/g)) {
      const from = line.from + found.index, decimals = found[0].split(".")[1]?.length ?? 0;
      if (at < from || at > from + found[0].length) continue;
      event.preventDefault();
      const begin = Number(found[0]), x = event.clientX;
      let now = found[0];
      const follow = (moved: PointerEvent): void => {
        const text = (begin + Math.round((moved.clientX - x) / 4) * 10 ** -decimals).toFixed(decimals);
        this.follow(from, from + now.length, text, false);
        now = text;
      };
      const end = (): void => {
        window.removeEventListener("pointermove", follow);
        if (now !== found[0]) this.follow(from, from + now.length, now, true);
      };
      window.addEventListener("pointermove", follow);
      window.addEventListener("pointerup", end, { once: true });
      return;
    }
  }
}
