#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-memory.sh [MOST]: runs every command with the first allocation failing, the second, and so on (at most MOST of each
# command, evenly spread), once each alone and once with all after it. Each run ends with the status and the bytes of a
# good one, or says there is not enough memory with status 2 and prints and leaves nothing.
set -euo pipefail
cd "$(dirname "$0")/.."
most=${1:-60}
[ -f build/release/CMakeCache.txt ] || cmake --preset release >/dev/null
cmake --build --preset release | tail -n 1
cc -std=c11 -O1 -Wall -Wextra -shared -fPIC tests/memory/failing.c -o build/failing.so
fickle=$PWD/build/release/fickle shim=$PWD/build/failing.so
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
cp tests/memory/*.gate tests/memory/*.csv "$folder"
cd "$folder"
mkdir given && mv ./*.gate ./*.csv given
"$fickle" replay given/a.gate given/a.csv -q --save given/a.sqlite --as csv >/dev/null
"$fickle" replay given/a.gate given/a.csv -q --save given/a.jsonl --as csv >/dev/null
"$fickle" replay given/a.gate given/a.csv -q --save-coverage given/tried.csv --as csv >/dev/null
awk 'NR == 1 {print $0 ",who"; next} {print $0 ",A"; print $0 ",B"}' given/a.csv >given/fleet.csv
"$fickle" replay given/a.gate given/a.csv -q --save given/said.csv --as csv >/dev/null
awk -F, 'NR == 1 { split($0, name); next } { for (i = 1; i <= NF; i++) printf "%s=%s cm ", name[i], $i; print "" }' given/a.csv |
    sed 's/\(t_ms=[0-9]*\) cm/\1/' >given/a.log
gzip -k given/a.csv
commands=(
    "check a.gate"
    "check bad.gate"
    "check --explain unused"
    "replay a.gate a.csv"
    "replay a.gate a.csv --as csv"
    "replay a.gate a.csv --as jsonl"
    "replay a.gate a.csv --summary --coverage --require 5%"
    "replay a.gate a.csv --as csv --coverage --require 99%"
    "replay a.gate a.jsonl --as csv"
    "replay a.gate a.log --as csv"
    "replay a.gate said.csv --compare"
    "replay a.gate a.sqlite --as csv"
    "replay a.gate a.csv.gz --as csv"
    "replay a.gate a.csv -q --as csv --save out.csv"
    "replay a.gate a.csv -q --as csv --save out.jsonl"
    "replay a.gate a.csv -q --as csv --save out.sqlite"
    "replay a.gate --scene s --as csv"
    "replay a.gate a.csv a.jsonl --jobs 1 --as csv --coverage"
    "replay a.gate a.csv notes.csv a.csv --jobs 1 --summary --column t_ms=t_ms"
    "replay a.gate fleet.csv --by who --as csv"
    "replay a.gate fleet.csv --by who --summary"
    "replay a.gate --add-coverage tried.csv --add-coverage tried.csv --save-coverage out.csv"
    "trial a.gate --jobs 1 --coverage"
    "trial a.gate --jobs 1 --nudge"
    "tidy a.gate"
    "tidy a.gate --check"
    "new box --project -q"
    "trial a.gate --jobs 1 --as junit --require 99%"
    "trial a.gate --jobs 2 --as csv"
    "pretend a.gate --scene s"
    "pretend a.gate --edges"
    "tune a.gate a.csv --label b=seen"
    "tune a.gate notes.csv --new kind"
    "tune a.gate a.csv --label b=seen --write --check"
    "tune a.gate a.csv --label b=seen -o out.svg"
    "tune a.gate a.csv --try cut=3..7"
    "why a.gate a.csv l --at 300ms"
    "why a.gate a.csv board --between 0s..1s --as csv"
    "draw a.gate a.csv -o out.svg"
    "draw a.gate a.csv --sound out.wav"
    "bake a.gate -o out"
    "bake a.gate -o out --tables"
)
tried=0 refused=0 bad=0
complain() {
    bad=$((bad + 1))
    [ $((++of_it)) -gt 3 ] || echo "memory: $*: $(tail -n 1 err)" >&2
}
fresh() { rm -rf run && cp -r given run; }
for command in "${commands[@]}"; do
    of_it=0
    fresh
    (cd run && LD_PRELOAD=$shim COUNT_TO=../count NO_COLOR=1 $fickle $command >../good 2>../good_err) && good=0 || good=$?
    rm -rf good_files && cp -r run good_files
    read -r count <count
    step=$((count / most + 1))
    for ((n = 1; n <= count; n += step)); do
        for from in 0 1; do
            fresh
            (cd run && NO_COLOR=1 timeout 60 env LD_PRELOAD="$shim" FAIL_AT=$n FAIL_FROM=$from "$fickle" $command >../got 2>../err) && status=0 || status=$?
            tried=$((tried + 1))
            if [ $status = $good ] && cmp -s got good && diff -rq run good_files >/dev/null; then continue; fi
            refused=$((refused + (status == 2)))
            if [ $status != 2 ] || [ -s got ]; then
                complain "$command, allocation $n of $count (all after it: $from): status $status instead of $good or 2, $(wc -c <got) bytes"
            elif ! diff -rq run given >/dev/null && ! diff -rq run good_files >/dev/null; then
                complain "$command, allocation $n of $count (all after it: $from): left $(diff -rq run given | head -n 2)"
            elif ! grep -qiE 'memory|cannot allocate|writ|temporary folder' err; then
                complain "$command, allocation $n of $count (all after it: $from): does not say why"
            fi
        done
    done
done
echo "memory: $tried runs of ${#commands[@]} commands without memory for one allocation, or from one on: $refused were refused, $bad of them wrong"
[ $bad = 0 ] && [ $refused -gt $((tried / 2)) ] # without failing allocations nothing would be refused
