#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-shelf-firmware.sh: the firmware of examples/proofing_box/board on an emulated ATmega328P. The recording comes in as voltages and a
# pin; strengths, colours and directions at its pins, and all that it says on its serial line, are compared with the replay at each step.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
out=build/boards/shelf box=examples/proofing_box
mkdir -p $out && rm -f $out/*
build/release/fickle bake $box/shelf.gate --report -o $out/shelf --quiet
avr-gcc -std=c11 -Wall -Wextra -Wconversion -Wshadow -Werror -mmcu=atmega328p -DF_CPU=16000000UL -Os -ffunction-sections -fdata-sections \
    -Wl,--gc-sections -Isrc/ports/avr -I$out $box/board/main.c src/ports/avr/fg_avr.c $out/shelf.c -o $out/shelf.elf
cc -std=gnu11 -Wall -Wextra -Werror tests/boards/shelf/shelf_runner.c -o $out/runner -lsimavr -lelf
build/release/fickle replay $box/shelf.gate $box/shelf.csv --quiet --summary --save $out/steps.csv >/dev/null
timeout 120 $out/runner $out/shelf.elf $box/shelf.csv $out/serial.log | grep '^[0-9]' >$out/got.csv # the simulator greets first
# Red, green and blue of 255 as strength and colour ask for; per cent and direction of the fan; the heater.
awk -F, 'NR == 1 {for (i = 1; i <= NF; i++) at[$i] = i; next}
    BEGIN {
        rgb["red"] = "255 0 0"; rgb["orange"] = "255 128 0"; rgb["green"] = "0 255 0"; rgb["blue"] = "0 0 255"; rgb[""] = "255 255 255"
    }
    function percent(level) {return match(level, /[0-9]+%/) ? substr(level, RSTART) + 0 : level == "off" || level == "stop" ? 0 : 100}
    {
        glow = $at["glow"]; fan = $at["fan"]; colour = glow
        sub(/^on ?/, "", colour); sub(/ ?[0-9]+%$/, "", colour)
        split(rgb[colour], part, " ")
        p = percent(glow)
        print $1 "," int(part[1] * p / 100) "," int(part[2] * p / 100) "," int(part[3] * p / 100) "," percent(fan) "," (fan ~ /^back/) "," ($at["heater"] == "on")
    }' $out/steps.csv >$out/wanted.csv
if ! cmp -s $out/wanted.csv $out/got.csv; then
    diff $out/wanted.csv $out/got.csv | head -n 8 >&2
    exit 1
fi
echo "shelf firmware: on an ATmega328P colours, strengths, directions and switches are at $(wc -l <$out/got.csv) steps what the replay shows, $(cut -d, -f2- $out/got.csv | sort -u | wc -l) different ones"
build/release/fickle live $box/shelf.gate - --compare <$out/serial.log >$out/compared 2>$out/told || { cat $out/compared $out/told >&2; exit 1; }
grep 'the board and the gate agree' $out/told
avr-size $out/shelf.elf | tail -n 1 | awk '{print "  " $1 + $2 " bytes of flash, " $2 + $3 " of RAM"}'
