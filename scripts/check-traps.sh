#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-traps.sh: constants that make no sense do not compile, as C11 and as C++17, and those beside them do; in baked code neither does
# a flag's name where a sensor's belongs, and two gates fit into one file.
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
bad 'static const fg_verdict a = FG_LABEL(250);'
good 'static const fg_verdict a = FG_LABEL(249);'
good '#include <ficklegate/smooth.h>
static const fg_sensor a = {NULL, 0, 0, 0, FG_STAGE_MEAN, 5, {0, 0}, 0, 0, 0, 0, 0, 0, 0, 0};
static fg_value window[FG_MEAN_ROOM(5)], sorted[FG_MEDIAN_ROOM(5)];'

# ---- baked code ----
cmake --preset release >/dev/null && cmake --build --preset release -- --quiet
bake() { build/release/fickle bake "$@" --quiet; }
bake examples/harbour/harbour.gate -o "$folder/harbour"
bake tests/boards/every_kind.gate -o "$folder/every_kind"
bake tests/boards/hard_names.gate -o "$folder/hard_names"
bake examples/harbour/harbour.gate --tables -o "$folder/tables"

strict="-Wall -Wextra -Wpedantic -Wconversion -Wshadow -Werror"
together='#include "harbour.c"
#include "every_kind.c"
#include "hard_names.c"
#ifdef YES
#error YES is still defined
#endif'
for compiler in "gcc -std=c99 -x c" "clang -std=c11 -x c" "g++ -std=c++17 -x c++" "clang++ -std=c++17 -x c++" "avr-gcc -mmcu=atmega328p -std=c99 -pedantic-errors -x c"; do
    printf '%s\n' "$together" | $compiler $strict "-I$folder" -fsyntax-only - ||
        { echo "traps: three gates do not fit into one file with $compiler" >&2; status=1; }
done

use() { # gate, its state, line: compiles in a function with that form, by all three
    printf '#include "%s.h"\nvoid use(void);\nvoid use(void)\n{\n    static %s gate;\n    %s\n}\n' "$1" "$1_$2" "$3" >"$folder/use.c"
    gcc -std=c11 -Wall -Wextra -Werror -Iinclude "-I$folder" -fsyntax-only "$folder/use.c" 2>"$folder/use.said" &&
        clang -std=c11 -Wall -Wextra -Werror -Iinclude "-I$folder" -fsyntax-only "$folder/use.c" 2>>"$folder/use.said" &&
        g++ -x c++ -std=c++17 -Wall -Wextra -Werror -pedantic-errors -Iinclude "-I$folder" -fsyntax-only "$folder/use.c" 2>>"$folder/use.said"
}
fits() { use "$@" || { echo "traps: this should compile with $1: $3" >&2; cat "$folder/use.said" >&2; status=1; }; }
errs() { ! use "$@" || { echo "traps: this should not compile with $1: $3" >&2; status=1; }; }
fits harbour state 'harbour_feed(&gate, HARBOUR_SENSOR_DEPTH, 5, 0);'
errs harbour state 'harbour_feed(&gate, HARBOUR_FLAG_KEY, 5, 0);'
errs harbour state 'harbour_feed_flag(&gate, HARBOUR_SENSOR_DEPTH, true, 0);'
fits harbour state 'if (harbour_level(&gate, HARBOUR_OUTPUT_PUMP) > 0) return;'
errs harbour state 'if (harbour_level(&gate, HARBOUR_ANSWER_GALE) > 0) return;'
fits harbour state 'if (harbour_answer(&gate, HARBOUR_ANSWER_GALE) == HARBOUR_YES) return;'
errs harbour state 'if (harbour_answer(&gate, HARBOUR_COUNT_LANDINGS) == HARBOUR_YES) return;'
fits harbour state 'if (harbour_label_of_tide(&gate) == HARBOUR_TIDE_FAIR) return;'
errs harbour state 'if (harbour_label_of_tide(&gate) == HARBOUR_LIST_PORT) return;'
fits harbour state 'switch (harbour_label_of_list(&gate)) { case HARBOUR_LIST_PORT: case HARBOUR_LIST_STARBOARD: case HARBOUR_LIST_UPRIGHT: case HARBOUR_LIST_NONE: case HARBOUR_LIST_UNSURE: return; }'
errs harbour state 'switch (harbour_label_of_list(&gate)) { case HARBOUR_LIST_PORT: case HARBOUR_LIST_STARBOARD: return; }'
fits tables memory 'fg_run *run = tables_start(&gate); tables_feed(run, TABLES_SENSOR_DEPTH, 5, 0);'
errs tables memory 'fg_run *run = tables_start(&gate); tables_feed(run, TABLES_FLAG_KEY, 5, 0);'
errs tables memory 'fg_run *run = tables_start(&gate); (void)tables_output(run, TABLES_COUNT_LANDINGS);'
errs tables memory 'fg_run *run = tables_start(&gate); if (tables_label_of_tide(run) == TABLES_LIST_PORT) return;'
for name in limits Time float servo; do
    ! bake examples/proofing_box/box.gate -o "$folder/$name" 2>/dev/null || { echo "traps: $name.h stands in front of a header" >&2; status=1; }
done
[ $status -ne 0 ] || echo "traps: limits the wrong way round and labels that cannot be do not compile, in C and in C++; in baked code no name passes for one of another kind, and three gates fit into one file"
exit $status
