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

# What leaves a processor idle, as simulated chips, a browser and package tools do, runs beside the rest; what it says comes
# when it ends.
beside() { # name, then scripts
    local name=$1
    shift
    (
        for script in "$@"; do
            printf '\n== beside: %s (%d s)\n' "$script" $((SECONDS - started))
            # shellcheck disable=SC2086
            scripts/$script || exit 1
        done
    ) >"build/beside-$name.log" 2>&1 &
    eval "beside_$name=$!"
}
join() { # name
    local pid="beside_$1" status=0
    wait "${!pid}" || status=$?
    unset "$pid"
    cat "build/beside-$1.log"
    [ $status = 0 ] || exit 1
}
stop_beside() {
    local status=$? pid
    for pid in "${!beside_@}"; do pkill -P "${!pid}" 2>/dev/null; kill "${!pid}" 2>/dev/null; done
    exit $status
}
trap stop_beside EXIT

if $all; then
    say "layers, symbols, layout"
    build small
    scripts/check-layers.sh build/small
    scripts/check-traps.sh
    scripts/check-recursion.sh
    scripts/check-format.sh
    build release
    beside boards boards.sh check-port.sh check-harbour-board.sh check-harbour-firmware.sh check-shelf-firmware.sh check-kept.sh check-bake.sh

    say "clang with its sanitizers"
    cmake --preset dev -B build/clang-san -DCMAKE_C_COMPILER=clang -DFICKLEGATE_BENCH=OFF >/dev/null
    cmake --build build/clang-san | tail -n 1
    # live lines wait for a minute; what goes through the whole tool is tested with gcc's
    ctest --test-dir build/clang-san -j 4 -E 'test_tool|test_attack|test_files|test_lsp|test_examples' --output-on-failure | tail -n 4

    say "documents"
    scripts/check-docs.sh

    say "each build switch off"
    scripts/check-switches.sh

    say "the installed library"
    scripts/check-install.sh

    say "linters"
    scripts/lint.sh

    say "boards"
    join boards
    beside tools check-page.sh check-editors.sh "check-session.sh 20000" check-shells.sh check-python.sh check-packages.sh check-two-files.sh

    say "without memory"
    scripts/check-memory.sh 10

    say "any input"
    echo "language, engine, recording, live, workshop, arguments and lsp: 10 s each of inputs made by chance"
    scripts/fuzz.sh arguments 0 # all files are compiled now, each once
    printf '%s\n' recording workshop language engine live arguments lsp | xargs -P "$(nproc)" -I{} bash -c \
        'scripts/fuzz.sh {} 10 leave >build/fuzz_{}.log 2>&1 || { tail -n 40 build/fuzz_{}.log >&2; exit 1; }'

    say "coverage"
    scripts/coverage.sh | tail -n 4

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
    scripts/bench-work.sh

    say "a tidied gate means the same"
    scripts/check-tidy.sh

    say "promises"
    scripts/check-promises.sh

    say "rows in blocks"
    scripts/check-blocks.sh

    say "the page, editors, TAB, Python, packages, the two files"
    join tools
    scripts/bench-page.sh # by itself, as it is about time

    beside large check-large.sh

    say "which limits the trials pin down"
    tests/move_limits.sh
fi

say "gcc with sanitizers"
build dev
if $all; then
    join large
    scripts/check-circles.sh build/dev
fi
ctest --preset dev
