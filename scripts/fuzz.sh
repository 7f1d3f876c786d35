#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# fuzz.sh TARGET [SECONDS] [leave]: fuzzes language, engine, recording, live, workshop, arguments or lsp with clang's libFuzzer and
# keeps what finds new ways in tests/fuzz/corpus_TARGET.tar.gz; with `leave` that stays as it is, and so do the inputs
# from one run to the next. With 0 seconds it is only built.
set -euo pipefail
cd "$(dirname "$0")/.."
target=${1:?language, engine, recording, live, workshop, arguments or lsp}
seconds=${2:-60}
build=$PWD/build/fuzz # a target may change the folder it is in
found=$build/found_$target
seed=0 # by chance
if [ "${3:-}" = leave ]; then
    found=$build/left_$target
    seed=1
    rm -rf "$found"
fi
mkdir -p "$found" "$build/corpus_$target"
tar -xzf "tests/fuzz/corpus_$target.tar.gz" -C "$build/corpus_$target"
[ -f build/release/baked_parts.inc ] || cmake --preset release >/dev/null
# The same flags for all, so that what several targets need is compiled once: it stays until a source changes. The tool is
# called by another name than main, and what would end it or wait goes through tests/fuzz/fuzzed_tool.c.
flags="-std=c11 -gline-tables-only -O1 -fsanitize=fuzzer,address,undefined -fno-sanitize-recover=all -Iinclude -Isrc -D_GNU_SOURCE -Ibuild/release"
flags+=" -Dmain=fickle_main"
for name in argp_parse argp_error argp_state_help clock_gettime nanosleep poll; do flags+=" -D$name=fuzz_$name"; done
sources="tests/fuzz/fuzz_$target.c src/core/*.c $(find src/language -name '*.c')"
libraries=""
leaks=1
case $target in
recording | live | workshop | arguments | lsp)
    sources+=" tests/fuzz/fuzzed_tool.c src/tool/*.c src/ports/sim/*.c $(find src/workshop -name '*.c' -not -path '*/parts/*')"
    libraries="-lcsv -lz -ljansson -lsqlite3 -lsndfile -lmosquitto -lm -lpthread -lncursesw -ltinfo"
    ;;
esac
[ "$target" != arguments ] || leaks=0 # wrong words leave by longjmp
objects=$build/objects
mkdir -p "$objects"
newest=$(find include src tests/fuzz build/release/baked_parts.inc -type f -printf '%T@ %p\n' | sort -rn | sed -n '1s/^[^ ]* //p')
compile() { # source
    local object
    object=$objects/$(printf '%s' "$1" | tr / _).o
    if [ "$object" -nt "$newest" ]; then return; fi
    clang $flags -c "$1" -o "$object.$$" && mv "$object.$$" "$object"
}
export -f compile
export objects flags newest
printf '%s\n' $sources | xargs -P "$(nproc)" -I{} bash -c 'compile {}'
clang $flags $(for source in $sources; do printf '%s/%s.o ' "$objects" "$(printf '%s' "$source" | tr / _)"; done) \
    -o "$build/fuzz_$target" $libraries
[ "$seconds" -gt 0 ] || exit 0 # only built
words=tests/fuzz/words.dict
[ "$target" != lsp ] || words=tests/fuzz/lsp.dict
ASAN_OPTIONS=detect_leaks=$leaks "$build/fuzz_$target" -seed=$seed -max_total_time="$seconds" -max_len=4000 -timeout=60 \
    -dict=$words -close_fd_mask=2 -artifact_prefix="$build/" "$found" "$build/corpus_$target"
[ "${3:-}" != leave ] || exit 0
ASAN_OPTIONS=detect_leaks=0 "$build/fuzz_$target" -merge=1 -use_counters=0 -max_len=1200 -close_fd_mask=2 \
    "$build/corpus_$target" "$found"
tar --sort=name --owner=0 --group=0 --mtime=2026-01-01 -czf "tests/fuzz/corpus_$target.tar.gz" -C "$build/corpus_$target" .
