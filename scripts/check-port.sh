#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-port.sh: bakes a gate, compiles it with the core and the port for the ATmega328P, plays a recording to it in simavr as a
# voltage and a pin, and compares what its pins do at each step with the replay of that recording.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
out=build/boards/port
mkdir -p $out && rm -f $out/port.[ch]
build/release/fickle bake tests/boards/port/port.gate --tables -o $out/port --quiet
avr-gcc -std=c11 -Wall -Wextra -Wconversion -Wshadow -Werror -mmcu=atmega328p -Os -mcall-prologues -ffunction-sections -fdata-sections \
    -Wl,--gc-sections -DF_CPU=16000000UL -DFG_WITHOUT_SUMS=1 -DFG_WITHOUT_TEXTS=1 -DFG_WITHOUT_SHORT_CUTS=1 -Iinclude -Isrc -Isrc/ports/avr -I$out \
    src/core/*.c src/ports/avr/fg_avr.c src/ports/avr/fg_avr_port.c $out/port.c tests/boards/port/main_port.c -o $out/port.elf
cc -std=gnu11 -Wall -Wextra -Werror tests/boards/port/port_runner.c -o $out/port_runner -lsimavr -lelf

# Up and down in steps of all sizes, the button now and then.
awk 'BEGIN {
    print "t_ms,depth.raw,key"
    for (i = 0; i < 600; i++) {
        value = i < 260 ? i * 4 : i < 420 ? 1023 - (i - 260) * 6 : (i * 7919) % 1024
        print i * 50 "," (value < 0 ? 0 : value > 1023 ? 1023 : value) "," (int(i / 37) % 2)
    }
}' >$out/readings.csv
build/release/fickle replay tests/boards/port/port.gate $out/readings.csv --quiet --summary --save $out/steps-new.csv >/dev/null
mv $out/steps-new.csv $out/steps.csv
# what the chip would show of each level: per cent, back or not, on or not, Hz
awk -F, 'NR == 1 {for (i = 1; i <= NF; i++) at[$i] = i; next}
    function percent(level) {return level == "on" ? 100 : level ~ /%/ ? level + 0 : 0}
    {
        green = $at["green"]; sub(/^on /, "", green)
        pump = $at["pump"]; back = pump ~ /^back/; sub(/^(back|forward) /, "", pump)
        print $1 "," percent(green) "," percent(pump) back "," ($at["boom"] == "on") "," ($at["horn"] + 0)
    }' $out/steps.csv >$out/wanted.csv
timeout 300 $out/port_runner $out/port.elf $out/readings.csv | grep '^[0-9]' >$out/got.csv # the simulator greets first
if cmp -s $out/wanted.csv $out/got.csv; then
    echo "port: on an ATmega328P the pins of $(wc -l <$out/got.csv) steps do what the replay shows, $(cut -d, -f2- $out/got.csv | sort -u | wc -l) different ones"
    avr-size $out/port.elf | tail -n 1 | awk '{print "  " $1 + $2 " bytes of flash, " $2 + $3 " of RAM, with the core and the port"}'
else
    diff $out/wanted.csv $out/got.csv | head -n 8 >&2
    exit 1
fi

# A stall makes one step, not a burst of those that were missed.
avr-gcc -std=c11 -Wall -Wextra -Wconversion -Wshadow -Werror -mmcu=atmega328p -Os -DF_CPU=16000000UL -Isrc/ports/avr src/ports/avr/fg_avr.c \
    tests/boards/port/main_due.c -o $out/due.elf
cc -std=gnu11 -Wall -Wextra -Werror tests/boards/avr_runner.c -o $out/avr_runner -lsimavr -lelf
due=$(timeout 60 $out/avr_runner atmega328p $out/due.elf | tail -n 1)
[ "$due" = 12 ] || { echo "port: after a stall the loop was due $due times, within 20 ms and the 100 ms behind them, instead of 12" >&2; exit 1; }
echo "port: after a stall of seven beats there is one step, and then they come as before"
