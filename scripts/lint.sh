#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# lint.sh [STATES]: clang-tidy by .clang-tidy and cppcheck over the code and over what is baked, both without a finding. clang's analyser
# looks at STATES states of a function, 10000 unless told: 225000 are what it takes by itself, and many times as long.
set -euo pipefail
cd "$(dirname "$0")/.."
[ -f build/dev/compile_commands.json ] || cmake --preset dev >/dev/null
# Without what is no whole file, and what ours is measured against; clang-tidy also without what is for other chips.
ours=(src examples bench -name '*.c' -not -path '*/bake/parts/*' -not -path 'bench/board/*' -not -path 'bench/replay/*' -not -path 'bench/tune/*')
states="--extra-arg=-Xclang --extra-arg=-analyzer-config --extra-arg=-Xclang --extra-arg=max-nodes=${1:-10000}"
find "${ours[@]}" -not -path 'src/ports/avr/*' -not -path 'src/ports/cortexm/*' -not -path '*/board/*' | xargs -P "$(nproc)" -n 1 \
    clang-tidy -p build/dev --quiet --warnings-as-errors='*' $states 2>/dev/null
find "${ours[@]}" | xargs -P "$(nproc)" -n 4 \
    cppcheck --quiet --std=c11 --enable=warning,performance,portability --inline-suppr --error-exitcode=1 -Iinclude -Isrc \
    --suppress=missingIncludeSystem

# What is baked: rows of an output may bring the same level, and a state is shorter than its loop variable counts.
baked=build/lint
mkdir -p $baked && rm -f $baked/*
{ cmake --preset release && cmake --build --preset release; } >/dev/null
for gate in examples/harbour/harbour.gate examples/beehive/scale.gate tests/boards/every_kind.gate tests/boards/hard_names.gate bench/board/harbour/board.gate; do
    build/release/fickle bake $gate --report -o "$baked/$(basename $gate .gate)_gate" --quiet
done
printf '%s\n' $baked/*.c | xargs -P "$(nproc)" -I{} clang-tidy --config-file=.clang-tidy --quiet --warnings-as-errors='*' \
    --checks=-bugprone-branch-clone,-bugprone-too-small-loop-variable $states {} -- -std=c99 2>/dev/null
cppcheck -j "$(nproc)" --quiet --std=c99 --enable=warning,performance,portability --error-exitcode=1 $baked/*.c
# Brackets and braces as MISRA C:2012 asks in 12.1 and 15.6. cppcheck takes two forms that have them for some that have not.
printf '%s\n' $baked/*.c | xargs -P "$(nproc)" -I{} sh -c 'cppcheck --addon=misra --quiet --std=c99 --suppress=missingIncludeSystem {} >{}.misra 2>&1'
cat $baked/*.c.misra | grep -A1 -E 'misra-c2012-(12\.1|15\.6)' |
    grep -vE '^--|misra-c2012|\? \(\w+ [-+] \w+\) :|\(int32_t\)-[0-9]+ \*' >$baked/misra || true
if [ -s $baked/misra ]; then
    echo "lint: baked code without brackets or braces:" >&2
    cat $baked/misra >&2
    exit 1
fi
echo "lint: clang-tidy and cppcheck find nothing, in what is baked neither"
