#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-report.sh [FIRST LAST]: bakes the gates of the language's cases and sixty randomly generated (or those with these seeds) with
# --report, plays readings on, below and above each of their limits to them, and holds the lines they print against the gate.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/hosted.sh
export build=build/boards/report here=tests/boards/code
rm -rf $build && mkdir -p $build
code_tools
cc -std=c11 -O1 -DLINES -Wall -Wextra -Werror -I$here -c $here/play.c -o $build/play.o
if [ $# -eq 0 ]; then
    for case in tests/language/cases/*.case; do
        awk '/^== /{inside = $2 == "gate"; next} inside' "$case" >"$build/$(basename "$case" .case | tr - _).gate"
    done
fi
for seed in $(seq "${1:-1}" "${2:-60}"); do perl tests/boards/random_gate.pl "$seed" >$build/random_$seed.gate; done

one() {
    name=$(basename "$1" .gate)
    code=$build/$name
    $release/fickle bake "$1" --report -o "$code" --quiet >/dev/null 2>&1 || { echo "$name no gate"; return; }
    grep -q '_OUTPUT_' "$code.h" && grep -q '_feed' "$code.h" || { echo "$name nothing to compare"; return; }
    perl $here/subject.pl "$code.h" >"$code.subject.c"
    $build/events "$1" counts 2 >"$code.events"
    gcc -std=c99 -O1 -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror -I$here "$code.c" "$code.subject.c" $build/play.o -o "$code.run" ||
        { echo "$name does not compile"; return; }
    "$code.run" <"$code.events" >"$code.log"
    $release/fickle replay "$1" "$code.log" --compare --row-steps --quiet >"$code.compared" 2>"$code.err" && { echo "$name agrees"; rm -f "$code".*; return; }
    echo "$name differs: $(cat "$code.err" "$code.compared" | head -n 2 | tr '\n' ' ')"
}
export -f one
printf '%s\n' $build/*.gate | xargs -P "$(nproc)" -I{} bash -c 'one {}' >$build/results
grep -vE ' (agrees|no gate|nothing to compare)$' $build/results | head -n 20 >&2 || true
gates=$(grep -c ' agrees$' $build/results)
echo "reports: what $gates baked gates print agrees with what the replay does with it"
[ $# -gt 0 ] || [ "$gates" -ge 90 ] || exit 1
! grep -qvE ' (agrees|no gate|nothing to compare)$' $build/results
