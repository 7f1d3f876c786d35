#!/usr/bin/env bash
# fuzz.sh TARGET [SECONDS]: fuzzes language, engine, recording, workshop or arguments with clang's libFuzzer and keeps what finds new
# ways in tests/fuzz/corpus_TARGET.tar.gz.
set -euo pipefail
cd "$(dirname "$0")/.."
target=${1:?language, engine, recording, workshop or arguments}
seconds=${2:-60}
build=$PWD/build/fuzz # a target may change the folder it is in
mkdir -p "$build/found_$target" "$build/corpus_$target"
tar -xzf "tests/fuzz/corpus_$target.tar.gz" -C "$build/corpus_$target"
[ -f build/release/baked_parts.inc ] || cmake --preset release >/dev/null
flags="-std=c11 -g -O1 -fsanitize=fuzzer,address,undefined -fno-sanitize-recover=all -Iinclude -Isrc"
sources="src/core/*.c src/language/*.c"
libraries=""
hosted="-D_GNU_SOURCE -Ibuild/release"
workshop="src/ports/sim/*.c src/workshop/*.c src/workshop/bake/*.c"
case $target in
recording | workshop) flags+=" $hosted" sources+=" $workshop" libraries="-lcsv -lz -ljansson -lsqlite3 -lsndfile -lm" ;;
arguments)
    flags+=" $hosted -Dmain=fickle_main -Dargp_parse=fuzz_argp_parse -Dargp_error=fuzz_argp_error -Dargp_state_help=fuzz_argp_state_help" sources+=" $workshop src/tool/*.c" libraries="-lcsv -lz -ljansson -lsqlite3 -lsndfile -lm -lpthread"
    ;;
esac
clang $flags $sources "tests/fuzz/fuzz_$target.c" -o "$build/fuzz_$target" $libraries
ASAN_OPTIONS=detect_leaks=$([ "$target" = arguments ] && echo 0 || echo 1) \
    "$build/fuzz_$target" -max_total_time="$seconds" -max_len=4000 -timeout=10 -dict=tests/fuzz/words.dict -close_fd_mask=2 \
    -artifact_prefix="$build/" "$build/found_$target" "$build/corpus_$target"
ASAN_OPTIONS=detect_leaks=0 "$build/fuzz_$target" -merge=1 -use_counters=0 -max_len=1200 -close_fd_mask=2 "$build/corpus_$target" "$build/found_$target"
tar --sort=name --owner=0 --group=0 --mtime=2026-01-01 -czf "tests/fuzz/corpus_$target.tar.gz" -C "$build/corpus_$target" .
