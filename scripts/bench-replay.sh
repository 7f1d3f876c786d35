#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# What a replay costs in instructions a row beside the same gate by hand (bench/replay), which maps the file, trusts every cell and gives
# no reasons: the difference of two lengths, so that starting does not count. The same of rows that are read as cells and stepped one by
# one, and of rows that are a change each. Fails where a figure is more than 3 % over the one kept in bench/replay/figures;
# `bench-replay.sh --keep` keeps the new ones.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
bench=bench/replay out=build/bench/replay
mkdir -p $out
cc -O2 -std=c11 -o $out/make_recording $bench/make_recording.c
cc -O2 -std=gnu11 -o $out/byhand $bench/by_hand.c
for rows in 5000 20000; do
    $out/make_recording $rows 1 >$out/$rows.csv
    # one cell in quotes in each row is enough for the general reader
    sed '2,$s/,\([^,]*\)$/,"\1"/' $out/$rows.csv >$out/quoted$rows.csv
done
printf 'every 100ms\nsensor a { step 0.1 }\nthreshold high from a { over 5 }\n' >$out/flip.gate
for rows in 5000 20000; do # each row is a change
    awk -v rows=$rows 'BEGIN {print "t_ms,a"; for (i = 0; i < rows; i++) print i * 100 "," (i % 2 ? 9.5 : 1.5)}' >$out/flip$rows.csv
done
count() { # instructions of a command
    valgrind --tool=callgrind --callgrind-out-file=/dev/null "$@" 2>&1 >/dev/null | awk '/Collected/ {print $4}'
}
per_row() { # a command with {} for the recording, and what its name begins with
    local words
    read -ra words <<<"$1"
    words=("${words[@]//_/ }") # a blank within a word is written as _
    local long=("${words[@]//\{\}/$out/${2}20000.csv}") short=("${words[@]//\{\}/$out/${2}5000.csv}")
    echo $((($(count "${long[@]}") - $(count "${short[@]}")) / 15000))
}
fickle="build/release/fickle replay $bench/replay.gate {} --as csv --quiet"
{
    echo "by_hand $(per_row "$out/byhand {}" "")"
    echo "blocks $(per_row "$fickle" "")"
    echo "cells $(per_row "$fickle" quoted)"
    echo "summary $(per_row "$fickle --summary" "")"
    echo "coverage $(per_row "$fickle --coverage" "")"
    echo "change_csv $(per_row "build/release/fickle replay $out/flip.gate {} --as csv --quiet" flip)"
    echo "change_text $(per_row "build/release/fickle replay $out/flip.gate {} --quiet" flip)"
    echo "try $(per_row "build/release/fickle tune $bench/replay.gate {} --try strong=10..19.5_by_0.5 --quiet" "")"
} >$out/now
[ "${1:-}" = --keep ] && cp $out/now $bench/figures
awk 'FILENAME ~ /bench\/replay\/figures$/ && NR == FNR {kept[$1] = $2; next}
    {now[$1] = $2}
    END {
        printf "a row of a replay: %d instructions, %.2f times as many as by hand (%d); as cells, row by row %d\n", now["blocks"], now["blocks"] / now["by_hand"], now["by_hand"], now["cells"]
        printf "  with a summary, which looks at each step: %d, with coverage %d\n", now["summary"], now["coverage"]
        printf "  tune --try with 20 values: %d, %.1f times as many as one replay\n", now["try"], now["try"] / now["blocks"]
        printf "  a row that is a change: %d as CSV, %d as text\n", now["change_csv"], now["change_text"]
        for (i in now) if (now[i] > kept[i] * 1.03) {print "bench: " i " rose from " kept[i] " to " now[i] > "/dev/stderr"; failed = 1}
        exit failed
    }' $bench/figures $out/now
