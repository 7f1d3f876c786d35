#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# Makes the two files that a board project copies, compiles them as C11 and C++17 and for small targets, and runs a gate with them:
# its answers hash as those of the library do.
set -euo pipefail
cd "$(dirname "$0")/.."
out=build/two-files
rm -rf $out
scripts/two-files.sh $out
warn="-Wall -Wextra -Werror"
strict="$warn -Wpedantic -Wconversion -Wshadow"
gate="tests/boards/main_host.c tests/boards/small_gate.c"

gcc -std=c11 $strict -O2 -DFICKLEGATE_LANGUAGE -c $out/ficklegate.c -o $out/all.o
clang -std=c11 $strict -O1 -DFICKLEGATE_LANGUAGE -c $out/ficklegate.c -o $out/all.o
gcc -std=c11 $strict -O2 -c $out/ficklegate.c -o $out/c.o
g++ -x c++ -std=c++17 -Wall -pedantic-errors -Werror -O2 -c $out/ficklegate.c -o $out/cpp.o
clang++ -x c++ -std=c++17 -Wall -pedantic-errors -Werror -Wno-missing-braces -O2 -c $out/ficklegate.c -o $out/cpp_clang.o
g++ -x c++ -std=c++17 -Wall -Werror -fsyntax-only -DFICKLEGATE_LANGUAGE $out/ficklegate.c
clang++ -x c++ -std=c++17 -Wall -Werror -Wno-c99-designator -Wno-missing-braces -fsyntax-only -DFICKLEGATE_LANGUAGE $out/ficklegate.c
for target in "avr-gcc -mmcu=atmega328p" "arm-none-eabi-gcc -mcpu=cortex-m0 -mthumb" "arm-none-eabi-gcc -mcpu=cortex-m3 -mthumb" \
    "arm-none-eabi-gcc -mcpu=cortex-m4 -mthumb" "clang --target=riscv32 -march=rv32imac" "clang --target=wasm32"; do
    $target -std=c11 $warn -pedantic-errors -Os -ffreestanding -c $out/ficklegate.c -o $out/target.o
done

avr-gcc -mmcu=atmega2560 -std=c11 -Wall -pedantic-errors -Werror -Os -ffreestanding -DFICKLEGATE_LANGUAGE -c $out/ficklegate.c -o $out/target.o

hash_with() { # objects that stand in for the library
    gcc -std=c11 -O1 -Iinclude -Itests/boards $gate "$@" -o $out/run
    $out/run
}
wanted=$(gcc -std=c11 -O1 -Iinclude -Isrc -Itests/boards $gate src/core/*.c -o $out/run && $out/run)
for object in c cpp cpp_clang; do
    got=$(hash_with $out/$object.o)
    [ "$got" = "$wanted" ] || { echo "two files: $object answers '$got', the library '$wanted'" >&2; exit 1; }
done
echo "two files: $(wc -c <$out/ficklegate.h) and $(wc -c <$out/ficklegate.c) bytes, C11 and C++17, six small targets, $wanted"
