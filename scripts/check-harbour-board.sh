#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-harbour-board.sh: the whole harbour, baked, on an emulated Cortex-M3: its recording comes in by semihosting, and every change
# of its ten outputs is compared with the replay.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
out=build/boards/harbour harbour=examples/harbour
mkdir -p $out && rm -f $out/*
build/release/fickle bake $harbour/harbour.gate --tables -o $out/harbour --quiet
arm-none-eabi-gcc -std=c11 -Wall -Wextra -Wconversion -Wshadow -Werror -mcpu=cortex-m3 -mthumb -Os -ffreestanding -fno-tree-loop-distribute-patterns \
    -ffunction-sections -fdata-sections -Wl,--gc-sections -nostdlib -T tests/boards/cortexm.ld -Iinclude -Isrc -Isrc/ports/cortexm -I$out \
    src/core/*.c src/ports/cortexm/fg_semihosting.c $out/harbour.c tests/boards/semihosting/main_harbour.c tests/boards/cortexm_start.c \
    -lgcc -o $out/harbour.elf
grep -v '^#' $harbour/spring-tide.csv >$out/readings.csv
(cd $out && timeout 300 qemu-system-arm -M mps2-an385 -nographic -monitor none -serial none -chardev stdio,id=sh \
    -semihosting-config enable=on,target=native,chardev=sh -icount shift=0 -kernel harbour.elf >got.txt)
build/release/fickle replay $harbour/harbour.gate $harbour/spring-tide.csv --as jsonl --quiet |
    perl -ne 'BEGIN {open my $h, "<", "'$out/harbour.h'"; while (<$h>) {$n{lc $1} = $2 if /HARBOUR_OUTPUT_(\w+) = (\d+)/}}
        /"t_ms":(\d+),"name":"(\w+)".*?"is":"((?:[^"\\]|\\.)*)"/ or next;
        my ($t, $name, $is) = ($1, $2, $3); $is =~ s/\\"/"/g;
        print "$t,$n{$name},$is\n" if exists $n{$name}' >$out/wanted.txt
if cmp -s $out/wanted.txt $out/got.txt && [ -s $out/got.txt ]; then
    echo "harbour: on a Cortex-M3 its ten outputs make the $(wc -l <$out/got.txt) changes that the replay shows"
    arm-none-eabi-size $out/harbour.elf | awk 'NR == 2 {print "  " $1 " bytes of flash, with the core and the port"}'
else
    diff $out/wanted.txt $out/got.txt | head -n 8 >&2
    exit 1
fi
