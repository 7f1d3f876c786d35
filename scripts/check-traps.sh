#!/usr/bin/env bash
# check-traps.sh: constants that make no sense do not compile, as C11 and as C++17, and those beside them do.
set -euo pipefail
cd "$(dirname "$0")/.."
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT
status=0
compiles() { # a declaration, by both languages
    printf '#include <ficklegate/rules.h>\n%s\n' "$1" >"$folder/a.c"
    gcc -std=c11 -Wall -Wextra -Wpedantic -Werror -Wno-unused-const-variable -Wno-unused-variable -Iinclude -fsyntax-only "$folder/a.c" 2>"$folder/c" &&
        g++ -x c++ -std=c++17 -Wall -Wextra -pedantic-errors -Werror -Wno-unused-variable -Iinclude -fsyntax-only "$folder/a.c" 2>"$folder/cpp"
}
good() { compiles "$1" || { echo "traps: this should compile: $1" >&2; cat "$folder/c" "$folder/cpp" >&2; status=1; }; }
bad() { ! compiles "$1" || { echo "traps: this should not compile: $1" >&2; status=1; }; }
good 'static const fg_hysteresis a = FG_HYSTERESIS_ON_OVER(120, 50);'
good 'static const fg_hysteresis a = FG_HYSTERESIS_ON_OVER(120, 121);'
bad 'static const fg_hysteresis a = FG_HYSTERESIS_ON_OVER(50, 120);'
bad 'static const fg_hysteresis a = FG_HYSTERESIS_ON_OVER(120, 122);'
good 'static const fg_hysteresis a = FG_HYSTERESIS_ON_UNDER(50, 120);'
bad 'static const fg_hysteresis a = FG_HYSTERESIS_ON_UNDER(120, 50);'
good 'static const fg_hysteresis a = FG_HYSTERESIS_OF(FG_RANGE_OVER(120), FG_RANGE_UNDER(50), 2000, true);'
good 'static const fg_threshold a = FG_THRESHOLD_AT_LEAST(5, 1), b = FG_THRESHOLD_AT_MOST(5, 1), c = FG_THRESHOLD_OUTSIDE(5, 9, 1);'
good 'static const fg_threshold a = FG_THRESHOLD_OF(FG_RANGE_OVER(120), FG_RANGE_OVER(110), 2000);'
good 'static const fg_band a[] = {FG_BAND_UNDER(20, 1, 0), FG_BAND(20, 39, 1, 249), FG_BAND_FROM(40, 1, 2)};'
bad 'static const fg_band a = FG_BAND(20, 39, 1, 250);'
bad 'static const fg_band a = FG_BAND_FROM(20, 1, -1);'
[ $status -ne 0 ] || echo "traps: limits the wrong way round and labels that cannot be do not compile, in C and in C++"
exit $status
