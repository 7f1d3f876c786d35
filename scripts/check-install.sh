#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# Installs into a folder of its own and builds a five-line program against it: by pkg-config, and by the CMake package; once
# with static and once with shared libraries, which export what the public headers declare and nothing else.
set -euo pipefail
cd "$(dirname "$0")/.."
place=$PWD/build/installed
rm -rf "$place" build/install-user build/shared
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
cmake --install build/release --prefix "$place/static" >/dev/null
cmake --preset release -B build/shared -DBUILD_SHARED_LIBS=ON -DFICKLEGATE_PAGE=OFF -DFICKLEGATE_MANUAL=OFF >/dev/null
cmake --build build/shared -- --quiet
cmake --install build/shared --prefix "$place/shared" >/dev/null
bad() {
    echo "install: $*" >&2
    exit 1
}

# What is installed names no folder of this machine, and has its licence.
for kind in static shared; do
    files=$(find "$place/$kind" -name '*.pc' -o -name '*.cmake')
    [ -n "$files" ] || bad "no .pc and .cmake files"
    ! grep -nE "$PWD|/usr/|/home/" $files || bad "a folder of this machine is named"
    find "$place/$kind" -name LICENSE | grep -q . || bad "there is no licence"
done

# Each library exports what the headers declare.
declared=$(gcc -E -Iinclude -include ficklegate.h -include ficklegate/sim.h -include ficklegate/workshop.h - </dev/null |
    grep -v '^#' | tr '\n' ' ' | grep -oE '\bfg_[a-z_0-9]+\(' | tr -d '(' | sort -u)
exported=$(for library in "$place"/shared/lib/*/lib*.so "$place"/shared/lib/lib*.so; do
    if [ -e "$library" ]; then nm -D --defined-only "$library"; fi
done | awk '$2 == "T" || $2 == "R" || $2 == "D" {print $3}' | sort -u)
while read -r name; do bad "$name is exported, and no public header declares it"; done < <(comm -13 <(echo "$declared") <(echo "$exported"))
while read -r name; do
    grep -rqE "static inline[^;]*\b$name\(|define $name\(" include || bad "$name is declared, and no library exports it"
done < <(comm -23 <(echo "$declared") <(echo "$exported"))

# The library alone brings its own headers alone.
cmake --preset small >/dev/null
cmake --build --preset small -- --quiet
cmake --install build/small --prefix "$place/small" >/dev/null
[ ! -e "$place/small/include/ficklegate/replay.h" ] || bad "headers of the workshop are installed without it"

mkdir -p build/install-user
cat >build/install-user/user.c <<'C'
#include <ficklegate.h>

int main(void)
{
    static const fg_hysteresis pumping = FG_HYSTERESIS_ON_OVER(120, 50);
    fg_hysteresis_state state = {0};
    return fg_hysteresis_step(&pumping, &state, 121, 0) == FG_YES ? 0 : 1;
}
C
cat >build/install-user/CMakeLists.txt <<'C'
cmake_minimum_required(VERSION 3.25)
project(user LANGUAGES C)
find_package(ficklegate 0.1 REQUIRED)
add_executable(user user.c)
target_link_libraries(user PRIVATE ficklegate::workshop)
add_executable(board board.c)
ficklegate_bake(board pump.gate SET bilge_high=14)
ficklegate_bake(board "lamp of the pier.gate" NAME pier TABLES)
C
cat >build/install-user/board.c <<'C'
#include "pier.h"
#include "pump.h"
#include <stdio.h>

int main(void)
{
    static pump_state pump;
    static pier_memory memory;
    fg_run *pier = pier_start(&memory);
    if (!pier) return 1;
    pump_start(&pump);
    pump_feed(&pump, PUMP_SENSOR_BILGE, 13, 0);
    pump_step(&pump, 0);
    printf("%d", (int)pump_level(&pump, PUMP_OUTPUT_PUMP));
    pump_feed(&pump, PUMP_SENSOR_BILGE, 15, 1);
    pump_step(&pump, 1);
    pier_feed(pier, PIER_SENSOR_LIGHT, 5, 0);
    pier_step(pier, 0);
    printf(" %d %d\n", (int)pump_level(&pump, PUMP_OUTPUT_PUMP), (int)pier_output(pier, PIER_OUTPUT_PIER)->level.percent);
    return 0;
}
C
echo 'number bilge_high = 10
include "levels.gate"
motor pump { forward when high }' >build/install-user/pump.gate
echo 'sensor bilge { unit cm }
threshold high from bilge { over bilge_high }' >build/install-user/levels.gate
echo 'sensor light { unit lx }
lamp pier { on 40% when light under 10 }' >"build/install-user/lamp of the pier.gate"
cp build/install-user/levels.gate build/install-user/levels.before
board_says() { # kind, what it must say
    LD_LIBRARY_PATH=$libraries cmake --build build/install-user/$1 -- --quiet
    said=$(LD_LIBRARY_PATH=$libraries build/install-user/$1/board)
    [ "$said" = "$2" ] || bad "$1: the baked board says '$said' instead of '$2'"
}
for kind in static shared; do
    pc=$(dirname "$(find "$place/$kind" -name ficklegate.pc)")
    libraries=$(dirname "$pc")
    cc -std=c11 build/install-user/user.c $(PKG_CONFIG_PATH=$pc pkg-config --cflags --libs ficklegate) -o build/install-user/by-pkg-config
    LD_LIBRARY_PATH=$libraries build/install-user/by-pkg-config
    cc -std=c11 build/install-user/user.c $(PKG_CONFIG_PATH=$pc pkg-config --cflags --libs ficklegate-workshop) -o build/install-user/by-pkg-config
    cmake -S build/install-user -B build/install-user/$kind -G Ninja -DCMAKE_PREFIX_PATH="$place/$kind" >/dev/null
    LD_LIBRARY_PATH=$libraries cmake --build build/install-user/$kind -- --quiet
    LD_LIBRARY_PATH=$libraries build/install-user/$kind/user
    board_says $kind "0 100 40"
    hash=$(grep _HASH build/install-user/$kind/baked_for_board/pump.h)
    sed -i 's/over bilge_high/under bilge_high/' build/install-user/levels.gate # a file that the gate includes
    board_says $kind "100 0 40"
    [ "$(grep _HASH build/install-user/$kind/baked_for_board/pump.h)" != "$hash" ] || bad "$kind: what a gate includes is not in its hash"
    cp build/install-user/levels.before build/install-user/levels.gate
    LD_LIBRARY_PATH=$libraries "$place/$kind/bin/fickle" --version
done
c++ -std=c++17 -fsyntax-only -x c++ -I"$place/static/include" - <<<'#include <ficklegate.h>
#include <ficklegate/language.h>
#include <ficklegate/sim.h>
#include <ficklegate/workshop.h>
int main() { return 0; }'
echo "install: static and shared, the libraries are found by pkg-config and by CMake, which bakes gates anew when what they include changes, and export what is public; the headers are C++ too"
