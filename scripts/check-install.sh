#!/usr/bin/env bash
# Installs into a folder of its own and builds a five-line program against it: by pkg-config, and by the CMake package.
set -euo pipefail
cd "$(dirname "$0")/.."
place=$PWD/build/installed
rm -rf "$place" build/install-user
cmake --preset release -DCMAKE_INSTALL_PREFIX="$place" >/dev/null
cmake --build --preset release >/dev/null
cmake --install build/release >/dev/null
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
target_link_libraries(user PRIVATE ficklegate::ficklegate)
C
pc=$(dirname "$(find "$place" -name ficklegate.pc)")
cc -std=c11 build/install-user/user.c $(PKG_CONFIG_PATH=$pc pkg-config --cflags --libs ficklegate) -o build/install-user/by-pkg-config
build/install-user/by-pkg-config
cmake -S build/install-user -B build/install-user/build -G Ninja -DCMAKE_PREFIX_PATH="$place" >/dev/null
cmake --build build/install-user/build >/dev/null
build/install-user/build/user
c++ -std=c++17 -fsyntax-only -x c++ -I"$place/include" - <<<'#include <ficklegate.h>
#include <ficklegate/language.h>
#include <ficklegate/sim.h>
int main() { return 0; }'
"$place/bin/fickle" --version
echo "install: the library is found by pkg-config and by CMake, its headers are C++ too"
