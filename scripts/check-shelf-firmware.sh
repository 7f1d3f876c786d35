#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-shelf-firmware.sh: the firmware of examples/proofing_box/board on an emulated ATmega328P. The recording comes in as voltages and a
# pin; strengths, colours and directions at its pins, and all that it says on its serial line, are compared with the replay at each step.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/firmware.sh
out=build/boards/shelf box=examples/proofing_box
play_firmware $box $box/shelf.gate $box/shelf.csv tests/boards/shelf/shelf_runner.c
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
if ! cmp -s $out/wanted.csv $out/got; then
    diff $out/wanted.csv $out/got | head -n 8 >&2
    exit 1
fi
echo "shelf firmware: on an ATmega328P colours, strengths, directions and switches are at $(wc -l <$out/got) steps what the replay shows, $(cut -d, -f2- $out/got | sort -u | wc -l) different ones"
compare_serial_line $box/shelf.gate
avr-size $out/shelf.elf | tail -n 1 | awk '{print "  " $1 + $2 " bytes of flash, " $2 + $3 " of RAM"}'
