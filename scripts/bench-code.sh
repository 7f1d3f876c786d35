#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# What straight code costs on an ATmega328P beside the same gate by hand (bench/board): cycles of a step, flash, RAM. The simulator
# counts the same at every run. Fails over the ratios named here, and where a figure is more than 3 % over the one kept in
# bench/board/figures; `bench-code.sh --keep` keeps the new ones.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
out=build/bench
mkdir -p $out && rm -f $out/board_gate.[ch]
build/release/fickle bake bench/board/board.gate -o $out/board_gate --quiet 2>/dev/null
bench/board/measure.sh bench/board/baked_adapter.c $out/board_gate.c -I$out >$out/figures
awk '/^under_test/ {print "mean " $3; print "most " $4; print "flash " $5; print "RAM " $6}' $out/figures >$out/now
[ "${1:-}" = --keep ] && cp $out/now bench/board/figures
sed -n '2,$p' $out/figures
awk 'function bad(text) {print "bench: " text > "/dev/stderr"; failed = 1}
    FILENAME ~ /board\/figures$/ {kept[$1] = $2; next}
    FILENAME ~ /now$/ {now[$1] = $2; if ($2 > kept[$1] * 1.03) bad($1 " rose from " kept[$1] " to " $2); next}
    /^times by hand/ {
        if ($5 + 0 > 1.3) bad("cycles of a step: " $5 + 0 " times by hand, at most 1.3")
        if ($7 + 0 > 1.25) bad("cycles of the longest step: " $7 + 0 " times by hand, at most 1.25")
        if ($9 + 0 > 1.3) bad("flash: " $9 + 0 " times by hand, at most 1.3")
        if ($11 + 0 > 1.2) bad("RAM: " $11 + 0 " times by hand, at most 1.2")
        seen = 1
    }
    END {exit failed || !seen || !("mean" in now)}' bench/board/figures $out/now $out/figures
state=$(build/release/fickle bake examples/harbour/harbour.gate -o $out/harbour --quiet --force && sed -n 's/.*remembers: \([0-9]*\) bytes on an 8-bit chip, \([0-9]*\) .*/\1 \2/p' $out/harbour.h)
echo "the harbour remembers ${state% *} bytes on an 8-bit chip, ${state#* } where numbers are aligned"
[ "${state#* }" -lt 1024 ]
