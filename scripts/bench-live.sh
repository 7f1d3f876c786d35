#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# bench-live.sh: what fickle live costs: from a line to its change, lines it works off, the view at 100 lines a second, a day of a scene.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
out=build/bench-live fickle=build/release/fickle harbour=examples/harbour
mkdir -p $out
cc -O2 -std=gnu11 -Wall -Wextra -Werror bench/live/latency.c -o $out/latency

echo "a line at a time, 1,000 a second:"
$out/latency $fickle

perl -e 'for my $i (0 .. 499999) { printf "t_ms=%d depth=%.1f bilge=%.1f wind=%.1f vane=%d rock_x=1 rock_y=2 rock_z=1000 key=1 ack=0 level=0 boat=%d\n", $i * 100, 80 + 60 * sin($i / 700), 6 + $i % 90 / 10, 8 + $i % 80 / 10, $i % 360, $i / 300 % 2 }' >$out/lines.log
began=$(date +%s.%N)
$fickle live $harbour/harbour.gate - --as csv <$out/lines.log >$out/lines.csv 2>$out/lines.err
ended=$(date +%s.%N)
awk -v a="$began" -v b="$ended" 'BEGIN { printf "500,000 lines of eleven readings from standard input: %.0f lines a second\n", 500000 / (b - a) }'
grep -q '500,000 rows' $out/lines.err || { cat $out/lines.err >&2; exit 1; }

seconds_of() { awk -v hz="$(getconf CLK_TCK)" '{ print ($14 + $15) / hz }' "/proc/$1/stat"; }
perl -e '$| = 1; for my $i (0 .. 1199) { printf "t_ms=%d depth=%.1f bilge=6 wind=8 vane=348 rock_x=1 rock_y=2 rock_z=1000 key=1 ack=0 level=0 boat=0\n", $i * 10, 80 + 60 * sin($i / 70); select(undef, undef, undef, 0.01) }' |
    TERM=xterm-256color LC_ALL=C.UTF-8 script -qfc "stty rows 42 cols 128; exec $PWD/$fickle live $harbour/harbour.gate /dev/fd/3" /dev/null 3<&0 >$out/view.log </dev/null &
sleep 2
view=$(pgrep -nf "fickle live $harbour/harbour.gate /dev/fd/3")
before=$(seconds_of "$view")
sleep 8
after=$(seconds_of "$view")
awk -v a="$before" -v b="$after" 'BEGIN { printf "the view at 100 lines a second: %.1f %% of one core\n", (b - a) / 8 * 100 }'
kill "$view"
wait

cat >$out/day.gate <<'G'
every 1s
sensor depth { unit cm; step 0.1; stale after 5s }
threshold deep from depth { over 60; settle 10s }
lamp red { on when deep }
scene "a day" { lasts 24h; every 1s; depth swings 0 to 120 every 20min; depth noise 2 }
G
rm -f $out/day.csv
$fickle live $out/day.gate --scene "a day" --speed 3600 --as csv --save $out/day.csv >$out/day.out 2>$out/day.err &
day=$!
sleep 4
small=$(awk '/VmRSS/ { print $2 }' /proc/$day/status)
sleep 18
large=$(awk '/VmRSS/ { print $2 }' /proc/$day/status)
wait $day
echo "24 hours of a scene at --speed 3600: $(tail -n 1 $out/day.err | cut -d: -f2), $small kB of memory after 4 s, $large kB after 22 s"
