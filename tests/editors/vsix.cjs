// SPDX-License-Identifier: MIT
// vsix.cjs EXTENSION TOOL GATE: the extension within as much of an editor as it needs. It starts the tool, which finds the mistake of the gate
// and mends it; without a tool it says what to do.
"use strict";
const assert = require("node:assert");
const fs = require("node:fs");
const Module = require("node:module");
const [extension, tool, gate] = process.argv.slice(2);

class Disposable {
  constructor(end) { this.end = end; }
  dispose() { if (this.end) this.end(); }
}
class EventEmitter {
  constructor() { this.listeners = new Set(); this.event = (listener) => { this.listeners.add(listener); return new Disposable(() => this.listeners.delete(listener)); }; }
  fire(what) { for (const listener of this.listeners) listener(what); }
  dispose() { this.listeners.clear(); }
}
class Position {
  constructor(line, character) { Object.assign(this, { line, character }); }
}
class Range {
  constructor(from, to, line, character) {
    this.start = line === undefined ? from : new Position(from, to);
    this.end = line === undefined ? to : new Position(line, character);
  }
}
class Uri {
  constructor(path) { Object.assign(this, { scheme: "file", authority: "", path, fsPath: path, query: "", fragment: "" }); }
  static file(path) { return new Uri(path); }
  static parse(text) { return new Uri(decodeURIComponent(text.replace("file://", ""))); }
  toString() { return `file://${encodeURI(this.path)}`; }
}
class Diagnostic {
  constructor(range, message, severity) { Object.assign(this, { range, message, severity }); }
}
class CodeAction {
  constructor(title, kind) { Object.assign(this, { title, kind }); }
}
class CodeActionKind {
  constructor(value) { this.value = value; }
  append(part) { return new CodeActionKind(this.value ? `${this.value}.${part}` : part); }
}
for (const [name, value] of Object.entries({ Empty: "", QuickFix: "quickfix", Refactor: "refactor", RefactorExtract: "refactor.extract", RefactorInline: "refactor.inline", RefactorRewrite: "refactor.rewrite", Source: "source", SourceOrganizeImports: "source.organizeImports", SourceFixAll: "source.fixAll" }))
  CodeActionKind[name] = new CodeActionKind(value);
class WorkspaceEdit {
  constructor() { this.texts = []; }
  set(uri, edits) { this.texts.push(...edits); }
  replace(uri, range, newText) { this.texts.push({ range, newText }); }
}
class TextEdit {
  constructor(range, newText) { Object.assign(this, { range, newText }); }
}
class CancellationTokenSource {
  constructor() { this.token = { isCancellationRequested: false, onCancellationRequested: new EventEmitter().event }; }
  cancel() {}
  dispose() {}
}
class CancellationError extends Error {}

// Whatever else the client asks for: a class, a list of numbers, a function that gives something to be ended, an event that never comes.
const anything = (known) => new Proxy(known, {
  get(target, name) {
    if (name in target || typeof name === "symbol") return target[name];
    if (/^on[A-Z]/.test(name)) return new EventEmitter().event;
    if (/^(register|create)/.test(name)) return () => new Disposable();
    if (/^[A-Z]/.test(name)) return anything(class {});
    return undefined;
  },
});

const told = new EventEmitter(), shown = [], actions = [], commands = new Map();
const document = {
  uri: Uri.file(fs.realpathSync(gate)), languageId: "fickle", version: 1, isClosed: false, isDirty: false,
  fileName: gate, getText: () => fs.readFileSync(gate, "utf8"),
};
let named = tool;
const channel = { append() {}, appendLine() {}, show() {}, clear() {}, dispose() {}, replace() {}, hide() {}, trace() {}, info() {}, warn() {}, error() {}, debug() {} };
const editor = anything({
  Disposable, EventEmitter, Position, Range, Uri, Diagnostic, CodeAction, CodeActionKind, WorkspaceEdit, TextEdit, CancellationTokenSource, CancellationError,
  version: "1.82.0",
  DiagnosticSeverity: { Error: 0, Warning: 1, Information: 2, Hint: 3 },
  env: { appName: "test", language: "en", uriScheme: "file" },
  workspace: anything({
    textDocuments: [document], workspaceFolders: undefined, notebookDocuments: [],
    getConfiguration: (section) => ({ get: (name, otherwise) => (section === "ficklegate" && name === "tool" ? named : otherwise), inspect: () => undefined }),
  }),
  window: anything({
    visibleTextEditors: [{ document }], activeTextEditor: { document }, tabGroups: { all: [], onDidChangeTabs: new EventEmitter().event },
    createOutputChannel: () => channel,
    showErrorMessage: (text) => { shown.push(text); return Promise.resolve(undefined); },
  }),
  commands: anything({ registerCommand: (name, does) => { commands.set(name, does); return new Disposable(() => commands.delete(name)); } }),
  languages: anything({
    match: (selector, which) => ([selector].flat().some((one) => one.language === which.languageId || one === which.languageId) ? 10 : 0),
    createDiagnosticCollection: () => ({ set: (uri, list) => told.fire(list), delete() {}, clear() {}, dispose() {} }),
    registerCodeActionsProvider: (selector, provider) => { actions.push(provider); return new Disposable(); },
  }),
  extensions: anything({ all: [] }),
});
const load = Module._load;
Module._load = (name, ...rest) => (name === "vscode" ? editor : load(name, ...rest));
const { activate, deactivate } = require(fs.realpathSync(extension));

(async () => {
  const first = new Promise((resolve) => told.event(resolve));
  await activate();
  assert.deepStrictEqual(shown, []);
  const mistakes = await first;
  assert.strictEqual(mistakes.length, 1);
  assert.match(mistakes[0].message, /tidd/);
  assert.ok(commands.has("fickle.trial") && commands.has("fickle.promise"), "the presses above trials and promises");
  const found = await actions[0].provideCodeActions(document, mistakes[0].range, { diagnostics: mistakes, triggerKind: 1 }, new CancellationTokenSource().token);
  assert.strictEqual(found.length, 1);
  assert.strictEqual(found[0].edit.texts[0].newText, "tide");
  await deactivate();
  named = "/nowhere/fickle";
  await activate();
  assert.strictEqual(shown.filter((text) => /ficklegate\.tool/.test(text)).length, 1, shown.join("\n"));
  console.log("vsix: the extension shows a mistake and its fix, knows the presses, and says where to look for a tool");
  process.exit(0);
})().catch((error) => {
  console.error(error);
  process.exit(1);
});
