#!/usr/bin/env bash
# Builds the core for an ATmega328P and a Cortex-M3, runs the small gate there in simavr and qemu over readings on, below and
# above each of its limits, and compares the hash of all answers with this computer's.
set -euo pipefail
cd "$(dirname "$0")/.."
build=build/boards
mkdir -p "$build"
warn="-std=c11 -Wall -Wextra -Wconversion -Wshadow -Werror"
core=(src/core/*.c)
language=(src/language/*.c)
small=tests/boards/small_gate.c

cc $warn -O2 -Iinclude -Isrc "${core[@]}" $small tests/boards/main_host.c -o $build/host
host=$($build/host)

avr-gcc $warn -mmcu=atmega328p -Os -ffunction-sections -fdata-sections -Wl,--gc-sections -DSMALL_GATE_NO_TEXT -Iinclude -Isrc \
    "${core[@]}" $small tests/boards/main_avr.c -o $build/avr.elf
cc -std=gnu11 -Wall -Wextra -Werror tests/boards/avr_runner.c -o $build/avr_runner -lsimavr -lelf
avr=$(timeout 120 $build/avr_runner $build/avr.elf | grep "^hash")

arm-none-eabi-gcc $warn -mcpu=cortex-m3 -mthumb -Os -ffreestanding -fno-tree-loop-distribute-patterns -ffunction-sections \
    -fdata-sections -Wl,--gc-sections -nostdlib -T tests/boards/cortexm.ld -Iinclude -Isrc "${core[@]}" \
    "${language[@]}" $small tests/boards/main_cortexm.c -lgcc -o $build/cortexm.elf
cortexm=$(timeout 120 qemu-system-arm -M mps2-an385 -nographic -monitor none -serial none -chardev stdio,id=sh \
    -semihosting-config enable=on,target=native,chardev=sh -icount shift=0 -kernel $build/cortexm.elf)

status=0
for board in "ATmega328P:$avr" "Cortex-M3:$cortexm"; do
    if [ "${board#*:}" = "$host" ]; then
        echo "boards: ${board%%:*} answers as this computer does ($host)"
    else
        echo "boards: ${board%%:*} answers '${board#*:}', this computer '$host'" >&2
        status=1
    fi
done
echo "boards: flash and RAM of the small gate with the core"
avr-size $build/avr.elf | tail -n 1 | awk '{print "  ATmega328P  " $1 + $2 " bytes of flash, " $2 + $3 " of RAM"}'
exit $status
