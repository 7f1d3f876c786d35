#!/usr/bin/env bash
# fuzz.sh language|engine [SECONDS]: fuzzes with clang's libFuzzer and keeps what is new in tests/fuzz/corpus_*.
set -euo pipefail
cd "$(dirname "$0")/.."
target=${1:?language or engine}
seconds=${2:-60}
build=build/fuzz
mkdir -p "$build/found_$target"
clang -std=c11 -g -O1 -fsanitize=fuzzer,address,undefined -fno-sanitize-recover=all -Iinclude -Isrc src/core/*.c src/language/*.c \
    "tests/fuzz/fuzz_$target.c" -o "$build/fuzz_$target"
"$build/fuzz_$target" -max_total_time="$seconds" -max_len=4000 -timeout=10 -dict=tests/fuzz/words.dict \
    -artifact_prefix="$build/" "$build/found_$target" "tests/fuzz/corpus_$target"
"$build/fuzz_$target" -merge=1 -use_counters=0 -max_len=1200 "tests/fuzz/corpus_$target" "$build/found_$target"
