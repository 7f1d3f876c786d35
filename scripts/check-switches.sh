#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# Each build switch off, one at a time: it compiles, and what is left passes its tests. Those of live lines wait for a minute and are left
# to the builds with everything. The examples are no part of what is tested, so without them it only has to compile.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake -S . -B build/without-EXAMPLES -G Ninja -DCMAKE_BUILD_TYPE=Debug -DFICKLEGATE_EXAMPLES=OFF -DFICKLEGATE_PAGE=OFF -DFICKLEGATE_MANUAL=OFF -DCMAKE_COMPILE_WARNING_AS_ERROR=ON >/dev/null
cmake --build build/without-EXAMPLES -- --quiet
echo "switches: without FICKLEGATE_EXAMPLES it builds"
for switch in FICKLEGATE_WORKSHOP FICKLEGATE_TOOL; do
    build=build/without-${switch#FICKLEGATE_}
    cmake -S . -B "$build" -G Ninja -DCMAKE_BUILD_TYPE=Debug -D$switch=OFF -DFICKLEGATE_TESTS=ON -DFICKLEGATE_PAGE=OFF -DFICKLEGATE_MANUAL=OFF -DCMAKE_COMPILE_WARNING_AS_ERROR=ON >/dev/null
    cmake --build "$build" -- --quiet
    ctest --test-dir "$build" -j 4 -E test_tool_live --output-on-failure >"$build/tests.log" || { cat "$build/tests.log" >&2; exit 1; }
    echo "switches: without $switch it builds, and $(grep -c Passed "$build/tests.log") suites of tests pass"
done
