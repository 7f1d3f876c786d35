// SPDX-License-Identifier: MIT
// The module's calls with texts and arrays instead of addresses. Nothing is worked out here.
import type { About, Dragged, Edit, HandNow, Labelled, Mistake, Moved, Played, Reached, Reason, Refused, Tried } from "./types";
import { Folder } from "./wasi";

type Calls = Record<string, (...given: (number | bigint)[]) => number> & { memory: WebAssembly.Memory };
const VALUES = 1, SCENE = 2; // as module.h has them
const CHANGE_SIZE = 16;

export class Module {
  readonly folder = new Folder();
  private calls!: Calls;
  private page = 0;
  private spare = 0;

  static async start(bytes: ArrayBuffer): Promise<Module> {
    const module = new Module();
    const { instance } = await WebAssembly.instantiate(bytes, { wasi_snapshot_preview1: module.folder.calls });
    module.calls = instance.exports as unknown as Calls;
    module.folder.attach(module.calls.memory);
    module.calls["_initialize"]!();
    module.page = module.calls["fg_page_start"]!();
    return module;
  }

  private bytes(): Uint8Array {
    return new Uint8Array(this.calls.memory.buffer);
  }

  /** Calls with texts handed in as UTF-8 that ends in NUL, and reads the JSON that comes back. */
  private ask<T>(name: string, ...given: (number | string)[]): T {
    const at = this.call(name, ...given);
    if (!at) throw new Error("there is not enough memory");
    const all = this.bytes();
    return JSON.parse(new TextDecoder().decode(all.subarray(at, all.indexOf(0, at)))) as T;
  }

  private call(name: string, ...given: (number | string)[]): number {
    const taken: number[] = [];
    const numbers = given.map((value) => {
      if (typeof value === "number") return value;
      const text = new TextEncoder().encode(value);
      const at = this.calls["fg_page_take"]!(text.length + 1);
      if (!at) throw new Error("there is not enough memory");
      this.bytes().set(text, at);
      this.bytes()[at + text.length] = 0;
      taken.push(at);
      return at;
    });
    const at = this.calls[name]!(this.page, ...numbers);
    for (const memory of taken) this.calls["fg_page_give_back"]!(memory);
    return at;
  }

  open(path: string): About | Refused {
    return this.ask("fg_page_open", path);
  }
  private openMoved(path: string): Moved | Refused {
    return this.ask("fg_page_open_moved", path);
  }

  /** Changes name by name, so that each strip is drawn from its own. */
  private strips(): Played["strips"] {
    const count = this.calls["fg_page_change_count"]!(this.page), at = this.calls["fg_page_changes"]!(this.page);
    const view = new DataView(this.calls.memory.buffer);
    const counts = new Uint32Array(this.calls["fg_page_name_count"]!(this.page));
    for (let i = 0; i < count; i++) counts[view.getUint32(at + i * CHANGE_SIZE + 8, true)]!++;
    const strips = Array.from(counts, (n) => ({ times: new Float64Array(n), texts: new Uint32Array(n) }));
    counts.fill(0);
    for (let i = 0; i < count; i++) {
      const place = at + i * CHANGE_SIZE, name = view.getUint32(place + 8, true);
      const strip = strips[name]!, k = counts[name]!++;
      strip.times[k] = view.getFloat64(place, true);
      strip.texts[k] = view.getUint32(place + 12, true);
    }
    return strips;
  }

  play(recording: string, scene: boolean, values: boolean): Played | Mistake {
    const played = this.ask<Played & Mistake>("fg_page_play", recording, (values ? VALUES : 0) | (scene ? SCENE : 0));
    if (played.mistake) return played;
    played.strips = this.strips();
    played.times = played.values = null;
    if (values) {
      const buffer = this.calls.memory.buffer, steps = this.calls["fg_page_step_count"]!(this.page);
      played.times = new Float64Array(buffer, this.calls["fg_page_times"]!(this.page), steps).slice();
      played.values = Array.from({ length: this.calls["fg_page_sensor_count"]!(this.page) }, (_, i) =>
        new Float32Array(buffer, this.calls["fg_page_values"]!(this.page, i), steps).slice());
    }
    return played;
  }

  move(limit: number, value: number): { edits: Edit[] } {
    return this.ask("fg_page_move", limit, value);
  }
  line(name: number, width: number): { text: string } {
    return this.ask("fg_page_line", name, width);
  }
  why(name: number, t: number): { reasons?: Reason[] } & Mistake {
    return this.ask("fg_page_why", name, t);
  }
  trial(trial: number): Tried {
    return this.ask("fg_page_trial", trial);
  }
  edges(): { text: string } & Mistake {
    return this.ask("fg_page_edges");
  }
  reach(number: number): Reached {
    return this.ask("fg_page_reach", number);
  }
  changeTable(): { text: string } {
    return this.ask("fg_page_change_table");
  }
  labels(name: number, recording: string, column: string): Labelled {
    return this.ask("fg_page_labels", name, recording, column);
  }
  hand(): Mistake {
    return this.ask("fg_page_hand");
  }
  hold(name: number, value: string): Mistake {
    return this.ask("fg_page_hold", name, value);
  }
  hear(lines: string, t: number): Mistake {
    return this.ask("fg_page_hear", lines, t);
  }
  until(t: number): HandNow {
    return this.ask("fg_page_until", t);
  }
  because(name: number): { text: string } {
    return this.ask("fg_page_because", name);
  }
  done(): { text: string } {
    return this.ask("fg_page_done");
  }
  next(name: number, value: number, way: number): { value: number | null } {
    return this.ask("fg_page_next", name, value, way);
  }
  write(path: string, data: Uint8Array | string): void {
    this.folder.write(path, typeof data === "string" ? new TextEncoder().encode(data) : data);
    this.call("fg_page_written", path);
  }

  /** A limit at another place: the text with it, the gate and its answers, all in one go. */
  drag(gate: string, limit: number, value: number, recording: string, scene: boolean): Dragged {
    const { edits } = this.move(limit, value);
    for (const edit of edits) this.write(edit.file, edited(this.folder.read(edit.file), edit));
    const moved = this.openMoved(gate);
    return { edits, moved, played: moved.good ? this.play(recording, scene, false) : null };
  }

  /** One round of what a drag asks for, on a page that nobody sees: a browser compiles what runs often. */
  warm(gate: string, recording: string, scene: boolean): void {
    const page = this.page;
    this.spare ||= this.calls["fg_page_start"]!();
    if (!this.spare) return;
    this.page = this.spare;
    try {
      if (this.openMoved(gate).good) this.play(recording, scene, false);
    } finally {
      this.page = page;
    }
  }
  /** The last of these rounds was made. */
  warmed(): void {
    if (this.spare) this.calls["fg_page_end"]!(this.spare);
    this.spare = 0;
  }
}

/** The bytes with an edit made. */
function edited(before: Uint8Array, edit: Edit): Uint8Array {
  const text = new TextEncoder().encode(edit.text), after = new Uint8Array(before.length - (edit.to - edit.from) + text.length);
  after.set(before.subarray(0, edit.from));
  after.set(text, edit.from);
  after.set(before.subarray(edit.to), edit.from + text.length);
  return after;
}

/** What the page may ask the module to do. */
export type Call = Exclude<{ [K in keyof Module]: Module[K] extends (...given: never[]) => unknown ? K : never }[keyof Module], undefined>;
