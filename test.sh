#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# ./test.sh        installs what is missing, builds with sanitizers, runs the tests.
# ./test.sh --all  besides: the other compiler and builds, layers and symbols, linters, the installed library, the boards.
set -euo pipefail
cd "$(dirname "$0")"
all=false
case "${1:-}" in
"") ;;
--all) all=true ;;
*)
    echo "usage: ./test.sh [--all]" >&2
    exit 2
    ;;
esac
started=$SECONDS
say() { printf '\n== %s (%d s)\n' "$1" $((SECONDS - started)); }

say "packages"
if $all; then scripts/install-packages.sh all; else scripts/install-packages.sh test; fi

build() { # preset, then more arguments for cmake
    cmake --preset "$1" "${@:2}" >/dev/null
    cmake --build --preset "$1" | tail -n 1
}

if $all; then
    say "layers, symbols, layout"
    build small
    scripts/check-layers.sh build/small
    scripts/check-traps.sh
    scripts/check-recursion.sh
    scripts/check-format.sh

    say "clang, as it is used, and with its sanitizers"
    cmake --preset release -B build/clang -DCMAKE_C_COMPILER=clang >/dev/null
    cmake --build build/clang | tail -n 1
    cmake --preset dev -B build/clang-san -DCMAKE_C_COMPILER=clang -DFICKLEGATE_BENCH=OFF >/dev/null
    cmake --build build/clang-san | tail -n 1
    ctest --test-dir build/clang-san -j 4 -E test_tool_live --output-on-failure | tail -n 4 # live lines wait for a minute

    say "the page, in a browser"
    scripts/check-page.sh
    scripts/bench-page.sh

    say "documents"
    scripts/check-docs.sh

    say "each build switch off"
    scripts/check-switches.sh

    say "the installed library"
    scripts/check-install.sh

    say "linters"
    scripts/lint.sh

    say "without memory"
    scripts/check-memory.sh 15

    say "any input"
    echo "language, engine, recording, live, workshop and arguments: 20 s each of inputs made by chance"
    for target in language recording arguments; do scripts/fuzz.sh $target 0; done # all files are compiled now, each once
    printf '%s\n' language engine recording live workshop arguments | xargs -P "$(nproc)" -I{} bash -c \
        'scripts/fuzz.sh {} 20 leave >build/fuzz_{}.log 2>&1 || { tail -n 40 build/fuzz_{}.log >&2; exit 1; }'

    say "coverage"
    scripts/coverage.sh | tail -n 4

    say "the two files"
    scripts/check-two-files.sh

    say "boards"
    scripts/boards.sh

    say "the port for AVR"
    scripts/check-port.sh

    say "the harbour on a Cortex-M3"
    scripts/check-harbour-board.sh

    say "the harbour's firmware on an ATmega328P"
    scripts/check-harbour-firmware.sh

    say "a shelf's firmware: colours, strengths, directions"
    scripts/check-shelf-firmware.sh

    say "a scale that remembers"
    scripts/check-kept.sh

    say "baked tables"
    scripts/check-bake.sh

    say "straight code"
    scripts/check-guarded.sh
    scripts/check-code.sh
    scripts/check-report.sh
    scripts/check-code-boards.sh
    scripts/mutate-code.sh
    scripts/bench-code.sh

    say "what a step costs, and a row"
    scripts/bench-step.sh
    scripts/bench-replay.sh

    say "the Python module"
    scripts/check-python.sh

    say "editors"
    scripts/check-editors.sh

    say "TAB, and manual pages"
    scripts/check-shells.sh

    say "a tidied gate means the same"
    scripts/check-tidy.sh

    say "promises"
    scripts/check-promises.sh

    say "rows in blocks"
    scripts/check-blocks.sh

    say "many recordings, many machines"
    scripts/check-large.sh

    say "which limits the trials pin down"
    tests/move_limits.sh
fi

say "gcc with sanitizers"
build dev
if $all; then scripts/check-circles.sh build/dev; fi
ctest --preset dev
