#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-promises.sh [FIRST LAST]: promises of gates made by chance (300, or those with these seeds) are asked, and what comes out is held
# against readings by chance: what holds never breaks, what breaks never breaks sooner, and what cannot happen does not. Those of the
# examples all hold.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/hosted.sh
export build=build/promises
rm -rf $build && mkdir -p $build
cc -std=c11 -O1 -Wall -Wextra -Werror -Iinclude tests/promises/promises.c $libraries -o $build/promises
for gate in harbour/harbour proofing_box/shelf beehive/beehive night_bike/light; do
    $release/fickle promise examples/$gate.gate --strict --quiet --save-to $build | tail -n 1
done
one() {
    perl tests/promises/random_promises.pl "$1" >"$build/$1.gate"
    $build/promises "$build/$1.gate" "$1" && rm "$build/$1.gate" || echo "differs $1"
}
export -f one
seq "${1:-1}" "${2:-300}" | xargs -P "$(nproc)" -I{} bash -c 'one {}' >$build/results
awk '$1 == "same" {n++; hold += $2; breaks += $4; open += $6; never += $8}
    END {printf "promises: of %d gates %d hold, %d break, %d are not decided; readings by chance agree; %d situations can never happen, and do not\n", n, hold, breaks, open, never}' $build/results
! grep -q '^differs' $build/results && [ "$(grep -c '^same' $build/results)" -gt $((${2:-300} - ${1:-1} - 100)) ]
