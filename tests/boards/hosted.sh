# SPDX-License-Identifier: MIT
# For scripts that compile a program against the release build here: sourced from the root of the project.
[ -n "${FIRST:-}" ] || { cmake --preset release && cmake --build --preset release; } >/dev/null
export release=$PWD/build/release
libraries="$release/libficklegate-workshop.a $release/libficklegate.a -lcsv -lz -lm $(pkg-config --libs jansson sqlite3 sndfile)"

# What plays a gate's straight code, and the engine beside it: $build/events, $build/engine (what more is said goes to its compiler).
code_tools() {
    local hosted="-std=c11 -O1 -D_XOPEN_SOURCE=700 -Wall -Wextra -Werror -Iinclude -Itests/boards/code"
    cc $hosted tests/boards/code/events{,_run}.c $libraries -o "$build/events"
    cc $hosted "$@" tests/boards/code/{play,engine,guard}.c $libraries -o "$build/engine"
}
