#!/usr/bin/env bash
# Line and branch coverage of core and language by the whole test suite, with gcovr.
set -euo pipefail
cd "$(dirname "$0")/.."
build=build/coverage
cmake -S . -B $build -G Ninja -DCMAKE_BUILD_TYPE=Debug -DFICKLEGATE_TESTS=ON -DCMAKE_C_FLAGS="--coverage -fprofile-update=atomic" >/dev/null
cmake --build $build | tail -n 1
find $build -name '*.gcda' -delete
ctest --test-dir $build >/dev/null || true
gcovr --root . --filter src/core/ --filter src/language/ --exclude-throw-branches "$@" $build
