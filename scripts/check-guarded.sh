#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-guarded.sh [FIRST LAST]: two thousand gates made by chance (or those with these seeds), with sensors and flags that fail for
# a while: a motor, relay or servo that is out of rest would be so whatever the missing reading had been, unless somebody asked by
# name for something else (tests/boards/code/guard.h). check-code.sh and check-code-boards.sh hold straight code, on this computer and
# on chips, to the same answers, those of the readings that were only tried among them.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/hosted.sh
export build=build/boards/guarded COMPARED=1
rm -rf $build && mkdir -p $build
code_tools

one() {
    gate=$build/random_$1.gate
    perl tests/boards/random_gate.pl "$1" >"$gate"
    if $build/events "$gate" units 2 >"$gate.events"; then
        $build/engine "$gate" <"$gate.events" 2>&1 >/dev/null | sed "s/^/$1 /"
    fi
    rm -f "$gate" "$gate.events"
}
export -f one
seq "${1:-1}" "${2:-2000}" | xargs -P "$(nproc)" -I{} bash -c 'one {}' >$build/results
grep -v ' compared ' $build/results | sed 's/^/gate /' >&2 || true
gates=$(grep -c ' compared ' $build/results) compared=$(awk '$2 == "compared" { sum += $3 } END { print sum + 0 }' $build/results)
echo "guarded outputs: $gates gates, $compared times one that was out of rest did what it would have done with any reading"
! grep -qv ' compared ' $build/results
[ $# -gt 0 ] || { [ "$gates" -ge 1900 ] && [ "$compared" -ge 50000 ]; }
