#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-code-boards.sh: straight code on emulated chips. The board gate, the harbour, every kind of rule and twenty gates made by
# chance run on an ATmega2560 and on a Cortex-M3 over readings around each of their limits; the hash of all they report equals the
# engine's on this computer. No step on the ATmega takes more stack than the header says.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/hosted.sh
export build=build/boards/chips here=tests/boards/code
rm -rf $build && mkdir -p $build
code_tools -DHASH
cc -std=gnu11 -Wall -Wextra -Werror tests/boards/avr_runner.c -o $build/avr_runner -lsimavr -lelf

cp bench/board/harbour/board.gate examples/harbour/*.gate tests/boards/every_kind.gate $build
rm $build/sounds.gate && cp examples/harbour/sounds.gate $build/sounds.inc && sed -i 's/sounds\.gate/sounds.inc/' $build/harbour.gate
for seed in $(seq 601 620); do perl tests/boards/random_gate.pl "$seed" >$build/random_$seed.gate; done

one() {
    name=$(basename "$1" .gate) folder=$build/$(basename "$1" .gate)
    mkdir -p "$folder"
    $release/fickle bake "$1" -o "$folder/baked" --quiet 2>/dev/null || { echo "$name cannot be baked"; return; }
    perl $here/subject.pl "$folder/baked.h" >"$folder/subject.c"
    $build/events "$1" counts 1 >"$folder/events"
    wanted=$($build/engine "$1" $(perl $here/subject.pl --lights "$folder/baked.h") <"$folder/events")
    perl -ane 'my ($kind, $which, $value) = @F; ($which, $value) = (0, $which) if $kind =~ m,[TOWP],; $value //= 0;
        $value = "(int32_t)${value}u" if $value > 2147483647; $value = "-2147483647 - 1" if $value == -2147483648;
        printf "{%s, %d, 0x%02x},\n", $value, $which, ord $kind' "$folder/events" >"$folder/events.inc"
    warn="-std=c11 -Wall -Wextra -Werror -ffunction-sections -fdata-sections -Wl,--gc-sections -Os -I$folder -I$here"
    avr-gcc $warn -mmcu=atmega2560 $here/chip.c "$folder/subject.c" "$folder/baked.c" -o "$folder/avr.elf" || { echo "$name does not compile for AVR"; return; }
    arm-none-eabi-gcc $warn -mcpu=cortex-m3 -mthumb -ffreestanding -fno-tree-loop-distribute-patterns -nostdlib -T tests/boards/cortexm.ld \
        $here/chip.c "$folder/subject.c" "$folder/baked.c" tests/boards/cortexm_start.c -lgcc -o "$folder/arm.elf" || { echo "$name does not compile for ARM"; return; }
    timeout 300 $build/avr_runner atmega2560 "$folder/avr.elf" | grep -E '^(hash|stack)' >"$folder/avr" || true
    avr=$(grep '^hash' "$folder/avr" || true)
    took=$(($(awk '/^stack/ {print $2}' "$folder/avr") - 3)) # the call of the step aside
    most=$(awk '/^#define [A-Za-z0-9_]+_STACK / {print $3}' "$folder/baked.h")
    echo "$took $most" >>$build/stacks
    [ "$took" -le "$most" ] || { echo "$name takes $took bytes of stack, its header says $most"; return; }
    arm=$(timeout 300 qemu-system-arm -M mps2-an385 -nographic -monitor none -serial none -chardev stdio,id=sh \
        -semihosting-config enable=on,target=native,chardev=sh -icount shift=0 -kernel "$folder/arm.elf" || true)
    [ "$avr" = "$wanted" ] && [ "$arm" = "$wanted" ] && echo "$name same" || echo "$name answers '$avr' on AVR, '$arm' on ARM, here '$wanted'"
}
export -f one
printf '%s\n' $build/*.gate | xargs -P "$(nproc)" -I{} bash -c 'one {}' >$build/results
grep -v ' same$' $build/results >&2 || true
echo "straight code on chips: $(grep -c ' same$' $build/results) gates answer on an ATmega2560 and a Cortex-M3 as the engine does here"
awk '{if (NR == 1 || $1 / $2 > high) high = $1 / $2; if (NR == 1 || $1 / $2 < low) low = $1 / $2}
    END {printf "  a step takes %.0f to %.0f %% of the stack that its header allows for\n", 100 * low, 100 * high}' $build/stacks
! grep -qv ' same$' $build/results && [ "$(grep -c ' same$' $build/results)" -ge 23 ]
