#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# What checking and tuning cost in instructions: 10,000 declarations beside 100, and what tune does with 20,000 labelled readings once they
# are read, beside one radix sort of them. Fails where the first is 110 times or more, or a figure is more than 3 % over the one kept in
# bench/tune/figures; `bench-work.sh --keep` keeps the new ones.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
out=build/bench/tune kept=bench/tune/figures
mkdir -p $out
cc -O2 -std=gnu11 -Wall -Wextra -o $out/radix bench/tune/radix.c
count() { # options of callgrind, then a command: its instructions
    valgrind --tool=callgrind --callgrind-out-file=/dev/null "$@" 2>&1 >/dev/null | awk '/Collected/ {print $4}'
}
declared() { # how many declarations: instructions, starting included
    echo "flag key" >$out/declared.gate
    for ((i = 0; i < $1 / 4; i++)); do
        echo "sensor depth$i { unit cm; step 0.1 }"
        echo "threshold deep$i from depth$i { over 5; margin 1 }"
        echo "flag key$i"
        echo "lamp green$i { on when deep$i and key$i }"
    done >>$out/declared.gate
    count build/release/fickle check $out/declared.gate --quiet
}
awk 'BEGIN {
    print "t_ms,depth,tide_seen"
    for (i = 0; i < 20000; i++) {
        x = (x * 1103515245 + 12345) % 2147483648; at = int(x / 2147483648 * 900) / 10
        x = (x * 1103515245 + 12345) % 2147483648; seen = at + (x / 2147483648 - 0.5) * 4
        printf "%d,%.1f,%s\n", i * 10, at, seen < 30 ? "shallow" : seen < 60 ? "fair" : "high"
    }
}' >$out/labelled.csv
nothing=$(declared 0)
{
    echo "declared_100 $(($(declared 100) - nothing))"
    echo "declared_10000 $(($(declared 10000) - nothing))"
    echo "tune $(count --toggle-collect=fg_tuning_work build/release/fickle tune bench/tune/tune.gate $out/labelled.csv --label tide_seen --quiet)"
    echo "smoothings $(count --toggle-collect=fg_tuning_smooth build/release/fickle tune bench/tune/tune.gate $out/labelled.csv --label tide_seen --quiet)"
    echo "radix $(count --toggle-collect=sort_once $out/radix $out/labelled.csv)"
} >$out/now
[ "${1:-}" = --keep ] && cp $out/now $kept
awk 'NR == FNR {kept[$1] = $2; next}
    {now[$1] = $2}
    END {
        times = now["declared_10000"] / now["declared_100"]
        printf "10,000 declarations are checked in %.1f times the instructions of 100 (less than 110), %d each\n", times, now["declared_10000"] / 10000
        printf "tune: %d instructions a labelled reading once it is read, %.0f times one radix sort (%d); %d of them try nine smoothings\n",
            now["tune"] / 20000, now["tune"] / now["radix"], now["radix"] / 20000, now["smoothings"] / 20000
        if (times >= 110) {print "bench: it grows faster than the gate" > "/dev/stderr"; failed = 1}
        for (i in now) if (!now[i]) {print "bench: nothing was counted for " i > "/dev/stderr"; failed = 1}
        for (i in now) if (now[i] > kept[i] * 1.03) {print "bench: " i " rose from " kept[i] " to " now[i] > "/dev/stderr"; failed = 1}
        exit failed
    }' $kept $out/now
