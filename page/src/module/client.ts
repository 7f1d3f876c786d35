// SPDX-License-Identifier: MIT
// The module as the page sees it: promises of answers.
import type { Call, Module } from "./module";
import Worker from "./worker?worker&inline";

/** A trap in the module. The page stays usable: the next call begins a new module. */
export class Trap extends Error {}

type Answer = { id: number; result?: unknown; problem?: string };

export class Client {
  private worker!: globalThis.Worker;
  private waits = new Map<number, { good(result: unknown): void; bad(problem: Error): void }>();
  private next = 1;
  private files = new Map<string, Uint8Array | string>();
  private started!: Promise<unknown>;

  constructor(private readonly bytes: ArrayBuffer) {
    this.begin();
  }

  private begin(): void {
    this.worker = new Worker();
    this.worker.onmessage = (event: MessageEvent<Answer>) => {
      const { id, result, problem } = event.data, waiting = this.waits.get(id);
      this.waits.delete(id);
      if (problem === undefined) waiting?.good(result);
      else this.trapped(problem, waiting);
    };
    this.started = this.send("start", [this.bytes.slice(0)]);
    for (const [path, data] of this.files) void this.send("write", [path, data]);
  }

  private trapped(problem: string, waiting?: { bad(problem: Error): void }): void {
    this.worker.terminate();
    const others = [...this.waits.values()];
    this.waits.clear();
    this.begin();
    for (const one of [waiting, ...others]) one?.bad(new Trap(problem));
  }

  private send(call: string, given: unknown[]): Promise<unknown> {
    const id = this.next++;
    return new Promise((good, bad) => {
      this.waits.set(id, { good, bad });
      this.worker.postMessage({ id, call, given });
    });
  }

  ready(): Promise<unknown> {
    return this.started;
  }

  write(path: string, data: Uint8Array | string): void {
    this.files.set(path, data);
    void this.send("write", [path, data]);
  }

  read(path: string): string {
    const data = this.files.get(path);
    return data === undefined ? "" : typeof data === "string" ? data : new TextDecoder().decode(data);
  }

  size(path: string): number {
    return this.files.get(path)?.length ?? 0;
  }

  has(path: string): boolean {
    return this.files.has(path);
  }

  ask<K extends Exclude<Call, "write">>(call: K, ...given: Parameters<Module[K]>): Promise<ReturnType<Module[K]>> {
    return this.send(call, given) as Promise<ReturnType<Module[K]>>;
  }
}
