#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# bench-growth.sh: what each command costs as its input grows to the double and the fourfold. A step that costs about twice as much
# for twice as much is linear; about four times would be quadratic. Seconds of the processor, the least of three runs.
set -euo pipefail
cd "$(dirname "$0")/.."
[ -f build/release/CMakeCache.txt ] || cmake --preset release >/dev/null
cmake --build --preset release | tail -n 1
fickle=$PWD/build/release/fickle
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
cd "$folder"

blinking() { # a lamp that changes N times
    echo 'every 100ms
sensor d { unit cm }
sequence flash { on red for 100ms; on blue 40% for 100ms; off for 100ms; repeat }
lamp l { play flash }' >a.gate
    echo "t_ms,d
0,1
$(($1 * 100)),1" >a.csv
}
trials() { # N trials, each setting a number
    { echo 'number cut = 5
sensor d { unit cm }
threshold t from d { over cut }
scene "s" { lasts 1s; d ramps 0 to 9 from 0s to 1s }'
    for ((i = 0; i < $1; i++)); do echo "trial \"number $i\" { readings \"s\"; set cut = $((i % 8 + 1)); expect t begins between 0s and 1s; expect t at end }"; done; } >a.gate
}
shared() { # a chain whose parts are asked twice each, N long
    { echo 'flag k0'
    for ((i = 1; i <= $1; i++)); do echo "condition k$i = k$((i - 1)) and (k$((i - 1)) or not k$((i - 1)))"; done
    echo "lamp l { on when k$1 }"; } >a.gate
    printf 't_ms,k0\n0,0\n100,1\n' >a.csv
}
wide() { # an `or` of N parts
    { for ((i = 0; i < $1; i++)); do echo "flag f$i"; done
    printf 'relay r { on when f0'; for ((i = 1; i < $1; i++)); do printf ' or f%d' $i; done; echo ' }'; } >a.gate
}
ring() { # N conditions that look back at one another
    { echo 'flag k'
    for ((i = 0; i < $1; i++)); do echo "condition c$i = k and not previously c$(((i + 1) % $1))"; done
    echo 'lamp l { on when c0 }'; } >a.gate
}
cycle() { for ((i = 0; i < $1; i++)); do echo "sensor s$i = s$(((i + 1) % $1)) + 0"; done >a.gate; }
declared() { # N sensors with a rule and a lamp each
    for ((i = 0; i < $1; i++)); do echo "sensor s$i { unit cm; step 0.1 }
threshold t$i from s$i { over 5; margin 1 }
lamp l$i { on when t$i }"; done >a.gate
}
rows() { { echo t_ms,d; seq 0 "$1" | awk '{print $1 * 10 "," $1 % 97}'; } >a.csv
    echo 'sensor d { unit cm }
bands b from d { low | 30 | middle | 60 | high }' >a.gate; }
chain() { # N conditions, one behind the other
    { echo 'flag k0'; for ((i = 1; i <= $1; i++)); do echo "condition k$i = not k$((i - 1))"; done; } >a.gate
    printf 't_ms,k0\n0,0\n100,1\n' >a.csv
}

seconds() {
    local least=1000 once TIMEFORMAT=%U
    for _ in 1 2 3; do
        once=$({ time timeout 100 "$@" >/dev/null 2>&1 || true; } 2>&1)
        least=$(awk "BEGIN {print $once < $least ? $once : $least}")
    done
    echo "$least"
}
printf '%-44s %9s %9s %9s   %s\n' "" "N" "2 N" "4 N" "grows by"
grows() { # what, N, input, words
    local what=$1 n=$2 input=$3 a b c
    shift 3
    $input "$n"; a=$(seconds "$fickle" "$@")
    $input $((2 * n)); b=$(seconds "$fickle" "$@")
    $input $((4 * n)); c=$(seconds "$fickle" "$@")
    awk -v what="$what, N = $n" -v a="$a" -v b="$b" -v c="$c" 'BEGIN {
        printf "%-44s %7.2f s %7.2f s %7.2f s   %s\n", what, a, b, c, b < 0.05 ? "too short to tell" : sprintf("%.1f, %.1f", b / (a ? a : 0.01), c / b)}'
}
grows "draw, changes of a lamp" 100000 blinking draw a.gate a.csv -o a.svg -q
grows "check, trials" 500 trials check a.gate -q
grows "trial, trials" 500 trials trial a.gate -q
grows "why, a chain with shared parts" 2000 shared why a.gate a.csv l --at 100ms
grows "replay, a chain with shared parts" 2000 shared replay a.gate a.csv
grows "bake, a wide 'or'" 2000 wide bake a.gate -o out -q --force
grows "bake, a ring of 'previously'" 2000 ring bake a.gate -o out -q --force
grows "bake --tables, declarations" 2000 declared bake a.gate -o out -q --force --tables
grows "bake, declarations" 240 declared bake a.gate -o out -q --force
grows "check, a long cycle" 10000 cycle check a.gate
grows "check, declarations" 5000 declared check a.gate -q
grows "replay, a chain" 4000 chain replay a.gate a.csv
grows "replay, changes" 100000 blinking replay a.gate a.csv -q
grows "replay, rows" 200000 rows replay a.gate a.csv -q
grows "draw, rows" 200000 rows draw a.gate a.csv -o a.svg -q
