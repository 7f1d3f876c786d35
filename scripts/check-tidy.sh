#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-tidy.sh [FIRST LAST]: a tidied gate means the same: the gates of all cases, those of the examples, and 2,000 made by chance (or those
# with these seeds), each also with blanks and line ends put in by chance. What is tidied is tidy, and so are the examples.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/hosted.sh
export build=build/tidy
rm -rf $build && mkdir -p $build
cc -std=c11 -O1 -Wall -Wextra -Werror -Iinclude tests/tidy/same.c $libraries -o $build/same
for case in tests/language/cases/*.case tests/tool/cases/*.case; do
    awk '/^== /{inside = $2 == "gate" || $3 ~ /\.gate$/; next} inside' "$case" >"$build/$(basename "$case" .case).gate"
done
one() {
    case $1 in
    *.gate) "$build/same" "$1" 1 ;;
    *)
        perl tests/boards/$([ $(($1 % 3)) -eq 0 ] && echo random_sums || echo random_gate).pl "$1" >"$build/random_$1.gate"
        "$build/same" "$build/random_$1.gate" "$1" && rm "$build/random_$1.gate"
        ;;
    esac || echo "differs $1"
}
export -f one
{ ls $build/*.gate examples/*/*.gate; seq "${1:-1}" "${2:-2000}"; } | xargs -P "$(nproc)" -I{} bash -c 'one {}' >$build/results
awk '$1 == "same" {n++} $1 == "not" {open++} END {printf "tidy: %d gates mean the same, each in six layouts; %d are not closed\n", n, open}' $build/results
! grep '^differs' $build/results
$release/fickle tidy --check examples/*/*.gate
