#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-blocks.sh [FIRST LAST]: rows of plain numbers that are read in blocks, and rows that are left out because nothing can change in
# them, change nothing that comes out: the gates of the language's cases, the recordings of the examples, and 2,000 gates made by chance
# (or those with these seeds) with recordings made by chance, in blocks of 1, 2, 7, 64 and the usual size, and row by row. The same gates
# with other numbers come out the same alone and played beside one another.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/hosted.sh
export build=build/blocks
rm -rf $build && mkdir -p $build
cc -std=c11 -O1 -Wall -Wextra -Werror -Iinclude tests/blocks/blocks.c $libraries -o $build/blocks
if [ $# -eq 0 ]; then
    for case in tests/language/cases/*.case; do
        awk '/^== /{inside = $2 == "gate"; next} inside' "$case" >"$build/$(basename "$case" .case).gate"
    done
    for pair in harbour/harbour.gate:spring-tide.csv beehive/scale.gate:weighings.csv proofing_box/box.gate:evening.csv proofing_box/shelf.gate:shelf.csv; do
        $build/blocks examples/${pair%:*} 0 examples/$(dirname $pair)/${pair#*:} >>$build/results
    done
fi
one() {
    case $1 in
    *.gate) $build/blocks "$1" 1 ;;
    [a-z]*) cp "tests/blocks/${1%:*}.gate" "$build/${1/:/_}.gate" && $build/blocks "$build/${1/:/_}.gate" "${1#*:}" && rm "$build/${1/:/_}.gate" ;;
    *)
        perl tests/boards/$([ $(($1 % 3)) -eq 0 ] && echo random_sums || echo random_gate).pl "$1" >"$build/random_$1.gate"
        $build/blocks "$build/random_$1.gate" "$1" && rm "$build/random_$1.gate"
        ;;
    esac || echo "differs $1"
}
export -f one
{ ls $build/*.gate 2>/dev/null || true; seq "${1:-1}" "${2:-2000}"; for gate in calm calm_rows shown chain timed promised numbers; do seq -f "$gate:%g" "${1:-1}" $((${2:-2000} / 10)); done; } | xargs -P "$(nproc)" -I{} bash -c 'one {}' >>$build/results
awk '$1 == "same" {n++; steps += $2; changes += $4; out += $6; some += $6 > 0 && $4 > 0}
    END {printf "blocks: %d recordings, %d steps with %d changes come out as row by row; %.0f %% of the steps were left out, some of %d recordings\n", n, steps, changes, 100 * out / steps, some}' $build/results
! grep -v -e '^same' -e '^no gate' $build/results
