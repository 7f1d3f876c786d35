#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# What straight code costs on an ATmega328P beside the same gate by hand: cycles of a step, flash, RAM, for the two gates of bench/board.
# The simulator counts the same at every run. Fails over the ratios named here, and where a figure is more than 3 % over the one kept in
# bench/board/GATE/figures; `bench-code.sh --keep` keeps the new ones.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet

measure() { # gate, what to do with the figures, the ratios allowed: mean most flash RAM
    local gate=bench/board/$1 out=build/bench/$1
    mkdir -p "$out" && rm -f "$out"/board_gate.[ch]
    build/release/fickle bake "$gate/board.gate" -o "$out/board_gate" --quiet 2>/dev/null
    bench/board/measure.sh "$1" "$gate/baked_adapter.c" "$out/board_gate.c" -I"$out" >"$out/figures"
    awk '/^under_test/ {print "mean " $3; print "most " $4; print "flash " $5; print "RAM " $6}' "$out/figures" >"$out/now"
    [ "$2" = --keep ] && cp "$out/now" "$gate/figures"
    echo "$1"
    sed -n '2,$p' "$out/figures"
    awk -v most="$3 $4 $5 $6" 'function bad(text) {print "bench: " text > "/dev/stderr"; failed = 1}
        function hold(what, is, bar) {if (is + 0 > bar) bad(what ": " is + 0 " times by hand, at most " bar)}
        BEGIN {split(most, bar, " ")}
        FILENAME ~ /bench\/board\// {kept[$1] = $2; next}
        FILENAME ~ /now$/ {now[$1] = $2; if ($2 > kept[$1] * 1.03) bad($1 " rose from " kept[$1] " to " $2); next}
        /^times by hand/ {
            hold("cycles of a step", $5, bar[1]); hold("cycles of the longest step", $7, bar[2]); hold("flash", $9, bar[3]); hold("RAM", $11, bar[4])
            seen = 1
        }
        END {exit failed || !seen || !("mean" in now)}' "$gate/figures" "$out/now" "$out/figures"
}
measure harbour "${1:-}" 1.1 1.0 1.2 0.9
measure hive "${1:-}" 1.25 1.25 1.3 1.3
state=$(build/release/fickle bake examples/harbour/harbour.gate -o build/bench/harbour_state --quiet --force && sed -n 's/.*remembers: \([0-9]*\) bytes on an 8-bit chip, \([0-9]*\) .*/\1 \2/p' build/bench/harbour_state.h)
echo "the harbour remembers ${state% *} bytes on an 8-bit chip, ${state#* } where numbers are aligned"
[ "${state#* }" -lt 1024 ]
