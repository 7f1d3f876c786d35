#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# How long a drag on the page takes beside a replay by the tool. Fails if it is more than four times as long.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
out=$PWD/build/bench/page
mkdir -p "$out"
cc -O2 -std=c11 -o "$out/make_recording" bench/replay/make_recording.c
for rows in 10000 100000; do "$out/make_recording" $rows 1 >"$out/$rows.csv"; done
export FICKLE=$PWD/build/release/fickle EXAMPLES=$PWD/examples
gate=$PWD/bench/replay/replay.gate
cd page
node test/speed.mjs "$gate" "gale 14" "$out/10000.csv" "$out/100000.csv"
