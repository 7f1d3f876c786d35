#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# The page in a real browser, from the disk.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
[ -s build/page/page.html ] || { echo "the page was not made" >&2; exit 1; }
export FICKLE=$PWD/build/release/fickle EXAMPLES=$PWD/examples
cd page
node --test --test-reporter=spec "$@" test/*.test.mjs
