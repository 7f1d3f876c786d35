#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-code.sh [FIRST LAST]: bakes the gates of the language's cases, of the examples and five hundred randomly generated (or those
# with these seeds) as straight code, plays readings to it that bring what a rule sees on, below and above each of its limits, compiled by
# gcc and by clang (which stops where C is not defined), those made by chance by gcc, clang or tcc in turn, and compares all that can be
# asked after each step with the engine's; fed with units, also every sensor's value and what changed. FIRST=1: by tcc alone, up to the
# first gate that differs; what the engine answers is kept for the next time.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/hosted.sh
export build=build/boards/code here=tests/boards/code
[ -n "${FIRST:-}" ] || rm -rf $build
mkdir -p $build && rm -f $build/aimed
[ -n "${FIRST:-}" ] && [ -x $build/engine ] || code_tools # which a mistake in what bakes does not touch
cc -std=c11 -O1 -Wall -Wextra -Werror -I$here -c $here/play.c -o $build/play.o
tcc -I$here -c $here/play.c -o $build/play.tcc.o

if [ $# -eq 0 ]; then
    for case in tests/language/cases/*.case; do
        awk '/^== /{inside = $2 == "gate"; next} inside' "$case" >"$build/$(basename "$case" .case | tr - _).gate"
    done
    cp examples/harbour/*.gate examples/beehive/*.gate examples/proofing_box/*.gate tests/boards/*.gate $build
fi

play() { # gate, name, how it is fed, options of bake, rounds
    code=$build/$2_$3
    $release/fickle bake "$1" -o "$code" --quiet $4 2>/dev/null || { echo "$2 cannot be baked"; return; }
    [ -e "$code.wanted" ] || {
        perl $here/subject.pl "$code.h" >"$code.subject.c"
        AIMED=1 $build/events "$1" "$3" "$5" aim >"$code.events" 2>>$build/aimed
        $build/engine "$1" $(perl $here/subject.pl --lights "$code.h") <"$code.events" >"$code.wanted"
    }
    strict="-Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror"
    compilers=("gcc -std=c99 -O1 $strict" "clang -std=c11 -O0 -fsanitize=undefined -fsanitize-trap=undefined $strict")
    [ "$3" = counts ] || compilers=("${compilers[0]}") # the same code but for the feeding
    turn=
    case $2 in random_* | sums_*) turn=$((${2#*_} % 4)) ;; esac
    case $turn in
    1) compilers=("${compilers[-1]}") ;;
    2 | 3) compilers=(tcc) ;;
    0) compilers=("${compilers[0]}") ;;
    esac
    [ -z "${FIRST:-}" ] || compilers=(tcc)
    for compiler in "${compilers[@]}"; do
        player=$build/play.o
        [ "$compiler" != tcc ] || player=$build/play.tcc.o
        $compiler -I$here "$code.c" "$code.subject.c" $player -o "$code.run" || { echo "$2 $3 does not compile with $compiler"; return; }
        timeout 10 "$code.run" <"$code.events" >"$code.got" || true
        cmp -s "$code.wanted" "$code.got" || { echo "$2 $3 differs"; return ${FIRST:+255}; }
    done
    [ -z "${FIRST:-}" ] || { echo "$2 $3 same"; return; }
    case $turn in 2 | 3) ;; *) g++ -x c++ -std=c++17 $strict -fsyntax-only "$code.c" || { echo "$2 $3 is no C++"; return; } ;; esac
    echo "$2 $3 same"
    rm -f "$code".*
}
one() {
    name=$(basename "$1" .gate)
    [ -e "$1" ] || case $name in
    random_*) perl tests/boards/random_gate.pl "${name#*_}" >"$1" ;;
    sums_*) perl tests/boards/random_sums.pl "${name#*_}" >"$1" ;;
    esac
    [ -e "$build/${name}_counts.wanted" ] || $release/fickle check "$1" >/dev/null 2>&1 || { echo "$name no gate"; return; }
    play "$1" "$name" counts "" 2 || return 255
    if grep -q 'raw ' "$1"; then play "$1" "$name" units "--units --details" 2; fi
}
export -f one play
{
    if [ $# -eq 0 ]; then printf '%s\n' $build/*.gate; fi
    printf "$build/random_%s.gate\n" $(seq "${1:-1}" "${2:-400}")
    printf "$build/sums_%s.gate\n" $(seq "${1:-1}" "${2:-100}")
} | xargs -P "$(nproc)" -I{} bash -c 'one {}' >$build/results
grep -vE ' (same|no gate)$' $build/results | head -n 20 >&2 || true
gates=$(grep ' same$' $build/results | cut -d' ' -f1 | sort -u | wc -l)
echo "straight code: $gates gates answer as the engine does, fed $(grep -c ' same$' $build/results) ways, by three compilers"
share=$(awk '$1 == "aimed" { all += $2; met += $4 } END { printf "%.1f", 100 * met / (all ? all : 1) }' $build/aimed)
echo "  of all values on a limit, one step below and one step above it, $share % were met, or the readings next to them on both sides"
[ $# -gt 0 ] || { [ "$gates" -ge 540 ] && [ "${share%.*}" -ge 90 ]; } || exit 1
! grep -qvE ' (same|no gate)$' $build/results
