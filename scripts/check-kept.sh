#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-kept.sh [CUTS]: the firmware of examples/beehive/board on an emulated ATmega328P, whose power is cut at 200 random moments, most of
# them while it saves: it never begins with a count that was not there before or after.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
out=build/boards/kept
mkdir -p $out && rm -f $out/*
build/release/fickle bake examples/beehive/scale.gate -o $out/scale --quiet
avr-gcc -std=c11 -Wall -Wextra -Wconversion -Wshadow -Werror -mmcu=atmega328p -DF_CPU=16000000UL -Os -ffunction-sections -fdata-sections \
    -Wl,--gc-sections -Isrc/ports/avr -I$out examples/beehive/board/main.c src/ports/avr/fg_avr.c src/ports/avr/fg_avr_kept.c $out/scale.c -o $out/scale.elf
cc -std=gnu11 -Wall -Wextra -Werror tests/boards/kept/kept_runner.c -o $out/runner -lsimavr -lelf
timeout 300 $out/runner $out/scale.elf "${1:-200}" | grep '^kept'
avr-size $out/scale.elf | tail -n 1 | awk '{print "  " $1 + $2 " bytes of flash, " $2 + $3 " of RAM"}'
