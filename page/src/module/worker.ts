// SPDX-License-Identifier: MIT
// The module runs here, so that the page never stands still. One call at a time, in the order in which they came.
import { Module } from "./module";

let module: Promise<Module>;

onmessage = async (event: MessageEvent): Promise<void> => {
  const { id, call, given } = event.data as { id: number; call: string; given: unknown[] };
  try {
    if (call === "start") {
      module = Module.start(given[0] as ArrayBuffer);
      await module;
      postMessage({ id });
      return;
    }
    const target = (await module) as unknown as Record<string, (...all: unknown[]) => unknown>;
    postMessage({ id, result: target[call]!(...given) });
  } catch (problem) {
    postMessage({ id, problem: problem instanceof Error ? problem.message : String(problem) });
  }
};
