// SPDX-License-Identifier: MIT
// A folder in memory for the module, by the calls of WASI preview 1 that it makes. Nothing leaves the page.

const OK = 0, BADF = 8, INVAL = 28, NOENT = 44, NOTSUP = 58;
const FOLDER = 3, FILE = 4; // kinds of WASI
const ROOT = 3; // the handle of the folder

interface Opened {
  data: Uint8Array;
  at: number;
}

/** One name for all ways to write a path; what lies above the folder begins with "..". */
export function plainPath(path: string): string {
  const parts: string[] = [];
  for (const part of path.split("/")) {
    if (part === "" || part === ".") continue;
    if (part === ".." && parts.length && parts[parts.length - 1] !== "..") parts.pop();
    else parts.push(part);
  }
  return parts.join("/");
}

export class Folder {
  readonly files = new Map<string, Uint8Array>();
  private opened = new Map<number, Opened>();
  private next = ROOT + 1;
  private memory!: WebAssembly.Memory;
  private said = "";

  attach(memory: WebAssembly.Memory): void {
    this.memory = memory;
  }

  write(path: string, data: Uint8Array): void {
    this.files.set(plainPath(path), data);
  }

  read(path: string): Uint8Array {
    return this.files.get(plainPath(path)) ?? new Uint8Array();
  }

  private view(): DataView {
    return new DataView(this.memory.buffer);
  }

  private path(at: number, size: number): string {
    return plainPath(new TextDecoder().decode(new Uint8Array(this.memory.buffer, at, size)));
  }

  /** Kind and size, as WASI lays them out. */
  private stat(to: number, kind: number, size: number): number {
    new Uint8Array(this.memory.buffer, to, 64).fill(0);
    this.view().setUint8(to + 16, kind);
    this.view().setBigUint64(to + 32, BigInt(size), true);
    return OK;
  }

  private pieces(at: number, count: number): Uint8Array[] {
    const view = this.view();
    return Array.from({ length: count }, (_, i) =>
      new Uint8Array(this.memory.buffer, view.getUint32(at + 8 * i, true), view.getUint32(at + 8 * i + 4, true)));
  }

  readonly calls = {
    clock_time_get: (_id: number, _precision: bigint, to: number): number => {
      this.view().setBigUint64(to, BigInt(Math.round(performance.now() * 1e6)), true);
      return OK;
    },
    fd_close: (handle: number): number => (this.opened.delete(handle) ? OK : BADF),
    fd_fdstat_get: (handle: number, to: number): number => {
      new Uint8Array(this.memory.buffer, to, 24).fill(0);
      if (handle > 2 && handle !== ROOT && !this.opened.has(handle)) return BADF;
      this.view().setUint8(to, handle === ROOT ? FOLDER : FILE);
      this.view().setBigUint64(to + 8, ~0n & 0xffffffffffffffffn, true); // it may do all there is
      this.view().setBigUint64(to + 16, ~0n & 0xffffffffffffffffn, true);
      return OK;
    },
    fd_filestat_get: (handle: number, to: number): number => {
      const file = this.opened.get(handle);
      return file ? this.stat(to, FILE, file.data.length) : BADF;
    },
    fd_prestat_get: (handle: number, to: number): number => {
      if (handle !== ROOT) return BADF;
      this.view().setUint32(to, 0, true);
      this.view().setUint32(to + 4, 1, true);
      return OK;
    },
    fd_prestat_dir_name: (_handle: number, to: number): number => {
      this.view().setUint8(to, "/".charCodeAt(0));
      return OK;
    },
    fd_read: (handle: number, at: number, count: number, read: number): number => {
      const file = this.opened.get(handle);
      let size = 0;
      if (!file) return BADF;
      for (const piece of this.pieces(at, count)) {
        const some = file.data.subarray(file.at, file.at + piece.length);
        piece.set(some);
        file.at += some.length;
        size += some.length;
      }
      this.view().setUint32(read, size, true);
      return OK;
    },
    fd_seek: (handle: number, offset: bigint, whence: number, to: number): number => {
      const file = this.opened.get(handle);
      if (!file) return BADF;
      const at = [0, file.at, file.data.length][whence]! + Number(offset);
      if (at < 0) return INVAL;
      file.at = at;
      this.view().setBigUint64(to, BigInt(at), true);
      return OK;
    },
    fd_tell: (handle: number, to: number): number => {
      const file = this.opened.get(handle);
      if (!file) return BADF;
      this.view().setBigUint64(to, BigInt(file.at), true);
      return OK;
    },
    fd_write: (_handle: number, at: number, count: number, written: number): number => {
      let size = 0;
      for (const piece of this.pieces(at, count)) {
        this.said = (this.said + new TextDecoder().decode(piece.slice())).slice(-2000);
        size += piece.length;
      }
      this.view().setUint32(written, size, true);
      return OK;
    },
    path_filestat_get: (_handle: number, _flags: number, at: number, size: number, to: number): number => {
      const path = this.path(at, size), file = this.files.get(path);
      if (file) return this.stat(to, FILE, file.length);
      return path === "" ? this.stat(to, FOLDER, 0) : NOENT;
    },
    path_open: (_handle: number, _lookup: number, at: number, size: number, flags: number, _rights: bigint,
      _inherited: bigint, _how: number, to: number): number => {
      const data = this.files.get(this.path(at, size));
      if (flags & ~0) return NOTSUP; // nothing is created here
      if (!data) return NOENT;
      this.opened.set(this.next, { data, at: 0 });
      this.view().setUint32(to, this.next++, true);
      return OK;
    },
    proc_exit: (status: number): never => {
      throw new Error(`the module ended with ${status}: ${this.said}`);
    },
  };
}
