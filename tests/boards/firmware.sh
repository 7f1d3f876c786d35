# SPDX-License-Identifier: MIT
# For scripts that run the firmware of an example on an emulated ATmega328P: sourced from the root of the project.

# play_firmware EXAMPLE GATE RECORDING RUNNER: $out/steps.csv is what the replay shows, $out/got what the runner saw at each step, and
# $out/serial.log what came over the serial line.
play_firmware() {
    local example=$1 gate=$2 recording=$3 runner=$4 name
    name=$(basename "$gate" .gate)
    cmake --preset release >/dev/null
    cmake --build --preset release -- --quiet
    mkdir -p $out && rm -f $out/*
    build/release/fickle bake $gate --report -o $out/$name --quiet
    avr-gcc -std=c11 -Wall -Wextra -Wconversion -Wshadow -Werror -mmcu=atmega328p -DF_CPU=16000000UL -Os -ffunction-sections -fdata-sections \
        -Wl,--gc-sections -Isrc/ports/avr -I$out $example/board/main.c src/ports/avr/fg_avr.c $out/$name.c -o $out/$name.elf
    cc -std=gnu11 -Wall -Wextra -Werror $runner -o $out/runner -lsimavr -lelf
    build/release/fickle replay $gate $recording --quiet --summary --save $out/steps.csv >/dev/null
    timeout 120 $out/runner $out/$name.elf $recording $out/serial.log | grep '^[0-9]' >$out/got # the simulator greets first
}

# The same by way of the serial line, as somebody with the board on the table sees it: what was told is in $out/told.
compare_serial_line() { # gate
    build/release/fickle live $1 - --compare <$out/serial.log >$out/compared 2>$out/told || { cat $out/compared $out/told >&2; exit 1; }
    grep 'the board and the gate agree' $out/told
}
