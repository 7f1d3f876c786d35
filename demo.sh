#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# ./demo.sh        installs what is missing, builds, and shows in half a minute what it is about.
# ./demo.sh --all  the same tour through a whole model harbour, command by command.
set -euo pipefail
cd "$(dirname "$0")"
case "${1:-}" in
"" | --all) ;;
*)
    echo "usage: ./demo.sh [--all]" >&2
    exit 2
    ;;
esac
quietly() { # what it prints is shown only if it fails
    "$@" >build-release.log 2>&1 || {
        cat build-release.log >&2
        exit 1
    }
    rm -f build-release.log
}
fickle=${FICKLE:-build/release/fickle} # with FICKLE that one is shown, and nothing is installed or built
if [ -z "${FICKLE:-}" ]; then
    quietly scripts/install-packages.sh page
    quietly cmake --preset release
    if [ "${1:-}" = --all ]; then quietly cmake --build --preset release; else quietly cmake --build --preset release --target fickle; fi
fi
show() {
    printf '\n$ %s\n' "$*"
    "$@"
}

small() {
    fickle=$(realpath "$fickle")
    mkdir -p build
    cd examples/proofing_box
    echo "A box for dough: one sensor, one heater, one recorded evening (in examples/proofing_box)."
    show cat small.gate
    printf '\n$ fickle check small.gate        # which readings belong to whom\n'
    "$fickle" check small.gate | sed '1,/^$/d'
    printf '\n$ fickle replay small.gate evening.csv --only heater --to 30min\n'
    "$fickle" replay -q small.gate evening.csv --only heater --to 30min
    printf '\n$ fickle trial small.gate\n'
    "$fickle" trial small.gate
    printf '\n$ fickle draw small.gate evening.csv -o evening.png\n'
    "$fickle" draw -q small.gate evening.csv -o ../../build/evening.png
    printf '\n$ fickle page small.gate evening.csv -o evening.html\n'
    if "$fickle" page -q small.gate evening.csv -o ../../build/evening.html 2>/dev/null; then
        echo "the picture is build/evening.png; open build/evening.html in a browser, and drag a limit"
    else
        echo "the picture is build/evening.png; the page was left out of this build"
    fi
    echo "next: docs/first-gate.md, from an empty folder to a tested gate in ten minutes"
}

whole() {
    mkdir -p build
    local harbour=examples/harbour
    show "$fickle" check $harbour/harbour.gate
    show "$fickle" replay $harbour/harbour.gate $harbour/spring-tide.csv
    show "$fickle" trial $harbour/harbour.gate
    show "$fickle" why $harbour/harbour.gate $harbour/spring-tide.csv green --at 128s
    show "$fickle" tune examples/beehive/beehive.gate examples/beehive/weighings.csv --label seen
    show "$fickle" draw $harbour/harbour.gate $harbour/spring-tide.csv -o build/harbour.png
    echo "the picture is build/harbour.png"
    show "$fickle" page $harbour/harbour.gate $harbour/spring-tide.csv -o build/harbour.html || true # it may have been left out
    show "$fickle" bake $harbour/harbour.gate -o build/harbour --force
    show "$(dirname "$fickle")/examples/night_bike"
}
if [ "${1:-}" = --all ]; then whole; else small; fi
