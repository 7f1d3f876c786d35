#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# clang-tidy by .clang-tidy and cppcheck over the code, both without a finding.
set -euo pipefail
cd "$(dirname "$0")/.."
[ -f build/dev/compile_commands.json ] || cmake --preset dev >/dev/null
files=$(find src examples bench -name '*.c' -not -path 'src/ports/avr/*' -not -path 'src/ports/cortexm/*' -not -path '*/board/*' -not -path '*/parts/*') # for other chips, or no whole files
printf '%s\n' $files | xargs -P "$(nproc)" -n 1 clang-tidy -p build/dev --quiet --warnings-as-errors='*' 2>/dev/null
cppcheck -j "$(nproc)" --quiet --std=c11 --enable=warning,performance,portability --inline-suppr --error-exitcode=1 -Iinclude -Isrc \
    --suppress=missingIncludeSystem -i src/workshop/bake/parts -i bench/board src examples bench
echo "lint: clang-tidy and cppcheck find nothing"
