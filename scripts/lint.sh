#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# clang-tidy by .clang-tidy and cppcheck over the code and over what is baked, both without a finding.
set -euo pipefail
cd "$(dirname "$0")/.."
[ -f build/dev/compile_commands.json ] || cmake --preset dev >/dev/null
files=$(find src examples bench -name '*.c' -not -path 'src/ports/avr/*' -not -path 'src/ports/cortexm/*' -not -path '*/board/*' -not -path 'bench/replay/*' -not -path '*/parts/*') # for other chips, no whole files, or what ours is measured against
# So many states of a function are looked at, which takes an eighth of the time of as many as there are by default.
states="--extra-arg=-Xclang --extra-arg=-analyzer-config --extra-arg=-Xclang --extra-arg=max-nodes=30000"
printf '%s\n' $files | xargs -P "$(nproc)" -n 1 clang-tidy -p build/dev --quiet --warnings-as-errors='*' $states 2>/dev/null
cppcheck -j "$(nproc)" --quiet --std=c11 --enable=warning,performance,portability --inline-suppr --error-exitcode=1 -Iinclude -Isrc \
    --suppress=missingIncludeSystem -i src/workshop/bake/parts -i bench/board -i bench/replay src examples bench

# What is baked: rows of an output may bring the same level, and a state is shorter than its loop variable counts.
baked=build/lint
mkdir -p $baked && rm -f $baked/*
{ cmake --preset release && cmake --build --preset release; } >/dev/null
for gate in examples/harbour/harbour.gate examples/beehive/scale.gate tests/boards/every_kind.gate tests/boards/hard_names.gate bench/board/harbour/board.gate; do
    build/release/fickle bake $gate --report -o "$baked/$(basename $gate .gate)_gate" --quiet
done
printf '%s\n' $baked/*.c | xargs -P "$(nproc)" -I{} clang-tidy --config-file=.clang-tidy --quiet --warnings-as-errors='*' \
    --checks=-bugprone-branch-clone,-bugprone-too-small-loop-variable {} -- -std=c99 2>/dev/null
cppcheck -j "$(nproc)" --quiet --std=c99 --enable=warning,performance,portability --error-exitcode=1 $baked/*.c
# Brackets and braces as MISRA C:2012 asks in 12.1 and 15.6. cppcheck takes two forms that have them for some that have not.
cppcheck --addon=misra --quiet --std=c99 --suppress=missingIncludeSystem $baked/*.c 2>&1 | grep -A1 -E 'misra-c2012-(12\.1|15\.6)' |
    grep -vE '^--|misra-c2012|\? \(\w+ [-+] \w+\) :|\(int32_t\)-[0-9]+ \*' >$baked/misra || true
if [ -s $baked/misra ]; then
    echo "lint: baked code without brackets or braces:" >&2
    cat $baked/misra >&2
    exit 1
fi
echo "lint: clang-tidy and cppcheck find nothing, in what is baked neither"
