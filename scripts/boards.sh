#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# Builds the core for an ATmega328P, an ATmega2560 and a Cortex-M3, runs gates there in simavr and qemu over readings on,
# below and above each of their limits, and compares the hash of all answers with this computer's.
set -euo pipefail
cd "$(dirname "$0")/.."
build=build/boards
mkdir -p "$build"
warn="-std=c11 -Wall -Wextra -Wconversion -Wshadow -Werror"
sections="-ffunction-sections -fdata-sections -Wl,--gc-sections"
core=(src/core/*.c)
mapfile -t language < <(find src/language -name '*.c')
small=tests/boards/small_gate.c
status=0

cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
rm -f $build/every_kind.[ch]
build/release/fickle bake tests/boards/every_kind.gate --tables -o $build/every_kind --quiet
cc -std=gnu11 -Wall -Wextra -Werror tests/boards/avr_runner.c -o $build/avr_runner -lsimavr -lelf

on_host() { # name of the gate, its tables
    cc $warn -O2 ${2:+-DBOARD_TABLES=\"$1.h\" -DBOARD_NAME=$1 -I$build} -Iinclude -Isrc "${core[@]}" $small ${2:-} tests/boards/main_host.c -o $build/host_$1
    $build/host_$1
}
on_avr() { # chip, name of the gate, its tables, what it leaves out
    avr-gcc $warn -mmcu=$1 -Os -mcall-prologues $sections $4 -DSMALL_GATE_NO_TEXT ${3:+-DBOARD_TABLES=\"$2.h\" -DBOARD_NAME=$2 -I$build} -Iinclude -Isrc \
        "${core[@]}" $small $3 tests/boards/main_avr.c -o $build/$1.elf
    timeout 300 $build/avr_runner $1 $build/$1.elf | grep '^hash' || true
}
on_cortexm() { # name of the gate, its tables
    arm-none-eabi-gcc $warn -mcpu=cortex-m3 -mthumb -Os -ffreestanding -fno-tree-loop-distribute-patterns $sections -nostdlib \
        -T tests/boards/cortexm.ld ${2:+-DBOARD_TABLES=\"$1.h\" -DBOARD_NAME=$1 -I$build} -Iinclude -Isrc "${core[@]}" "${language[@]}" $small ${2:-} \
        tests/boards/main_cortexm.c tests/boards/cortexm_start.c -lgcc -o $build/cortexm_$1.elf
    timeout 300 qemu-system-arm -M mps2-an385 -nographic -monitor none -serial none -chardev stdio,id=sh \
        -semihosting-config enable=on,target=native,chardev=sh -icount shift=0 -kernel $build/cortexm_$1.elf
}
compare() { # what, got, wanted
    if [ "$2" = "$3" ]; then
        echo "boards: $1 answers as this computer does ($3)"
    else
        echo "boards: $1 answers '$2', this computer '$3'" >&2
        status=1
    fi
}

small_here=$(on_host small)
every_here=$(on_host every_kind $build/every_kind.c)
compare "ATmega328P, small gate," "$(on_avr atmega328p small "" "-DFG_WITHOUT_SUMS=1 -DFG_WITHOUT_TEXTS=1 -DFG_WITHOUT_SHORT_CUTS=1")" "$small_here"
compare "ATmega2560, every kind," "$(on_avr atmega2560 every_kind $build/every_kind.c "")" "$every_here"
compare "Cortex-M3, small gate," "$(on_cortexm small)" "$small_here"
compare "Cortex-M3, every kind," "$(on_cortexm every_kind $build/every_kind.c)" "$every_here"

echo "boards: what it takes"
avr-size $build/atmega328p.elf | tail -n 1 | awk '{print "  ATmega328P, small gate with the core: " $1 + $2 " bytes of flash, " $2 + $3 " of RAM"}'
rm -f "$build"/*.c.o # files that had another name once
for file in "${core[@]}"; do
    arm-none-eabi-gcc -std=c11 -mcpu=cortex-m3 -mthumb -Os -ffreestanding -Iinclude -Isrc -c "$file" -o "$build/$(basename "$file").o"
done
arm-none-eabi-size $build/*.c.o | awk 'NR > 1 {sum += $1} END {
    print "  Cortex-M3, the whole core: " sum " bytes of flash of at most 24576"; exit sum > 24576}' || status=1
exit $status
