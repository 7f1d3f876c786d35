// SPDX-License-Identifier: MIT
// What the module says, as src/workshop/page/module.h has it.

export interface Mistake {
  mistake?: { file: string; line: number; text: string };
}

export interface Edit {
  file: string;
  from: number; // bytes
  to: number;
  text: string;
}

export interface Finding {
  severity: "error" | "warning" | "note";
  kind: string;
  file: string;
  line: number;
  column: number;
  from: number;
  to: number;
  what: string;
  instead: string;
  fix: { from: number; to: number; text: string } | null;
}

export interface Name {
  name: string;
  kind: string;
  unit: string;
  decimals: number;
  labels: string[];
  read: boolean;
  output: boolean;
  answers: boolean;
  index: number;
  low: number | null;
  high: number | null;
  circle: boolean;
}

export interface Limit {
  written: number;
  name: number;
  sensor: number;
  value: number;
  step: number;
  file: string;
  from: number;
  to: number;
  number: string | null;
  moves: boolean;
  distance: boolean;
}

export interface Range {
  name: number;
  sensor: number;
  answer: string;
  low: number | null;
  high: number | null;
}

export interface Trial {
  name: string;
  readings: string;
  line: number;
  scene: boolean;
}

export interface About {
  good: true;
  title: string;
  every: number;
  files: string[];
  findings: Finding[];
  names: Name[];
  limits: Limit[];
  ranges: Range[];
  trials: Trial[];
  scenes: string[];
  promises: number;
  colours: Record<string, string>;
}

/** What another place of a limit changes in it. */
export type Moved = Pick<About, "good" | "findings" | "limits" | "ranges">;

export interface Refused extends Mistake {
  good?: false;
  files?: string[];
  findings?: Finding[];
}

export interface Broken {
  t: number;
  line: number;
  file: string;
  promise: string;
  row: string;
  because: string;
}

export interface Played {
  rows: number;
  steps: number;
  changes: number;
  length: number;
  columns: string[];
  texts: string[];
  notes: string[];
  broken: Broken[];
  /** Of each name: the times of its changes, and which text it went to. */
  strips: { times: Float64Array; texts: Uint32Array }[];
  /** Of the steps, in ms, and of each sensor its value at each; null if nobody asked. */
  times: Float64Array | null;
  values: Float32Array[] | null;
}

export interface Reason {
  t: number;
  depth: number;
  decides: boolean;
  text: string;
}

export interface TrialResult {
  line: number;
  expectation: string;
  outcome: "held" | "failed" | "never tried" | "undecided";
  because: string;
}

export interface Tried extends Mistake {
  results?: TrialResult[];
  tried?: number;
  all?: number;
  untried?: Untried[];
}

/** Something that may happen in a gate and that no trial has brought about. */
export interface Untried {
  name: string;
  what: string;
  number: number;
}

export interface Reached extends Mistake {
  verdict?: "found" | "never" | "not found";
  text: string;
  after: number;
  because: string;
}

export interface Now {
  text: string;
  value?: number | null;
  form?: string;
  percent?: number;
  number?: number;
  colour?: number;
  unsure?: boolean;
  lines?: string[];
}

export interface HandNow extends Mistake {
  t: number;
  now: (Now | null)[];
  broken: Broken[];
}

export interface Dragged {
  edits: Edit[];
  moved: Moved | Refused;
  played: Played | Mistake | null;
}

export interface Cut {
  below: string;
  above: string;
  tuned: boolean;
  now: number;
  halfway: number;
  best: number;
  wrong_now: number;
  wrong_halfway: number;
  wrong_best: number;
  because: string;
}

export interface Labelled extends Mistake {
  labels?: { label: string; readings: number; lowest: number; median: number; highest: number; counts: number[] }[];
  from: number;
  wide: number;
  cuts: Cut[];
  edits: Edit[];
  readings: number;
  wrong_now: number;
  wrong_best: number;
  margin: number;
}
