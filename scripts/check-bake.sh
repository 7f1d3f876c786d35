#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-bake.sh: bakes every gate of the language's cases and of the examples and five hundred randomly generated, compiles the C, runs it
# over readings on, below and above each of its limits, and compares the hash of all answers with what the same gate file answers
# without being baked.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/hosted.sh
export build=build/boards/bake
rm -rf $build && mkdir -p $build
cc -std=c11 -O1 -D_XOPEN_SOURCE=700 -Iinclude -Itests/boards tests/boards/main_gate.c tests/boards/small_gate.c $libraries -o $build/main_gate
cc -std=c11 -O1 -Iinclude -Itests/boards -c tests/boards/small_gate.c -o $build/small_gate.o

for case in tests/language/cases/*.case; do
    awk '/^== /{inside = $2 == "gate"; next} inside' "$case" >"$build/$(basename "$case" .case | tr - _).gate"
done
for seed in $(seq 1 500); do perl tests/boards/random_gate.pl "$seed" >$build/random_$seed.gate; done
cp examples/harbour/*.gate examples/beehive/*.gate examples/proofing_box/*.gate $build

one() {
    name=$(basename "$1" .gate)
    wanted=$("$build/main_gate" "$1" 2>/dev/null) || { echo "$name no gate"; return; }
    $release/fickle bake "$1" --tables -o "$build/b_$name" --quiet 2>/dev/null || { echo "$name cannot be baked"; return; }
    cc -std=c11 -O0 -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror -Iinclude -Itests/boards -I$build -DBOARD_TABLES="\"b_$name.h\"" -DBOARD_NAME="b_$name" \
        "$build/b_$name.c" tests/boards/main_host.c $build/small_gate.o $release/libficklegate.a -o "$build/b_$name" ||
        { echo "$name does not compile"; return; }
    [ "$("$build/b_$name")" = "$wanted" ] && echo "$name same" || echo "$name differs"
}
export -f one
printf '%s\n' $build/*.gate | xargs -P "$(nproc)" -I{} bash -c 'one {}' >$build/results
grep -vE ' (same|no gate)$' $build/results >&2 || true
same=$(grep -c ' same$' $build/results)
echo "bake: $same baked gates answer as their gate files do"
[ "$same" -ge 540 ] && ! grep -qvE ' (same|no gate)$' $build/results
