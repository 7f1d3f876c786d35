#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# What a step of the harbour costs in instructions beside the same rules by hand: the difference of two lengths, so that
# starting does not count. Both must come to the same answers first. Fails over the ratio named here.
set -euo pipefail
cd "$(dirname "$0")/.."
most=${1:-3.0}
cmake --preset release -DFICKLEGATE_BENCH=ON >/dev/null
cmake --build --preset release | tail -n 1
gate=examples/harbour/harbour.gate recording=examples/harbour/spring-tide.csv
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT

build/release/bench/bench_harbour print $recording >"$work/hand"
build/release/fickle replay $gate $recording --as csv 2>/dev/null | tail -n +2 >"$work/gate"
awk 'NR == FNR {hand[NR] = $0 ","; lines = NR; next}
     index($0, hand[FNR]) != 1 {print "line " FNR ": by hand " hand[FNR] " the gate " $0; exit 1}
     END {if (FNR != lines) {print "by hand " lines " lines, the gate " FNR; exit 1}}' "$work/hand" "$work/gate"

count() { # instructions of a run over the recording, so many times
    valgrind --tool=callgrind --callgrind-out-file=/dev/null build/release/bench/bench_harbour "$@" 2>&1 |
        awk '/Collected/ {print $4}'
}
rows=$(grep -c '^[0-9]' $recording)
hand=$((($(count hand $recording 3) - $(count hand $recording 1)) / (2 * rows)))
step=$((($(count gate $recording 3 $gate) - $(count gate $recording 1 $gate)) / (2 * rows)))
awk -v hand=$hand -v step=$step -v most="$most" 'BEGIN {
    printf "a step of the harbour: %d instructions, by hand %d, %.2f times as many (at most %s)\n", step, hand, step / hand, most
    exit step > most * hand}'
