// SPDX-License-Identifier: MIT
// Curves with more points than a screen has columns: of each column the lowest and the highest stay, and gaps stay gaps.

export interface Curve {
  times: Float64Array; // ms
  values: Float32Array; // not a number: faulty
}

/** Points of a curve: seconds, values with null where the line is broken, and whether the sensor is faulty there. */
export interface Points {
  xs: number[];
  ys: (number | null)[];
  faulty: boolean[];
}

/** The points between two times. `turn`: a jump larger than this is a way around a circle, where no line is drawn. */
export function thinned(curve: Curve, from: number, to: number, columns: number, turn: number): Points {
  const { times, values } = curve, first = Math.max(0, firstAfter(times, from) - 1), last = Math.min(times.length, firstAfter(times, to) + 1);
  const xs: number[] = [], ys: (number | null)[] = [], faulty: boolean[] = [];
  const push = (x: number, y: number | null, bad: boolean): void => {
    xs.push(x);
    ys.push(y);
    faulty.push(bad);
  };
  const add = (i: number): void => {
    const value = values[i]!, before = ys[ys.length - 1];
    if (Number.isNaN(value)) return push(times[i]! / 1000, null, true);
    if (before !== null && before !== undefined && Math.abs(value - before) > turn) push(times[i]! / 1000, null, false);
    push(times[i]! / 1000, value, false);
  };
  const each = (last - first) / (2 * columns);
  if (each <= 2) {
    for (let i = first; i < last; i++) add(i);
    return { xs, ys, faulty };
  }
  for (let column = 0; column < 2 * columns; column++) {
    const begin = first + Math.floor(column * each), end = Math.min(last, first + Math.floor((column + 1) * each));
    let low = begin, high = begin, gap = -1;
    for (let i = begin; i < end; i++) {
      const value = values[i]!;
      if (Number.isNaN(value)) gap = i;
      if (!(values[low]! <= value)) low = i;
      if (!(values[high]! >= value)) high = i;
    }
    for (const i of [...new Set([low, high, gap])].filter((i) => i >= 0).sort((a, b) => a - b)) add(i);
  }
  return { xs, ys, faulty };
}

/** The first place whose time is later than `t`. */
export function firstAfter(times: Float64Array, t: number): number {
  let low = 0, high = times.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (times[middle]! > t) high = middle;
    else low = middle + 1;
  }
  return low;
}
