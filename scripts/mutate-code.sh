#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# mutate-code.sh [FIRST LAST]: does the comparison of straight code with the engine notice mistakes? Puts one small mistake after the
# other into what writes the code, and runs check-code.sh over gates randomly generated (these seeds; 1 to 40 unless told) until one
# differs. Works in a copy. Fails if a mistake is not noticed.
set -euo pipefail
cd "$(dirname "$0")/.."
copy=$(mktemp -d)
trap 'rm -rf "$copy"' EXIT
git ls-files -z --cached --others --exclude-standard | tar --null -T - -cf - | tar -xf - -C "$copy"
first=${1:-1} last=${2:-40}
export FIRST=1 # a fast compiler, and no gate more behind the first that differs
cd "$copy"
{ cmake --preset release -DCMAKE_BUILD_TYPE=Debug && cmake --build --preset release --target fickle; } >/dev/null 2>&1
scripts/check-code.sh "$first" "$last" >/dev/null 2>&1 || { echo "it differs without any mistake" >&2; exit 1; }

noticed=0 tried=0
mutant() { # what, file, perl expression
    local file=src/workshop/bake/$2
    cp "$file" "$copy/kept"
    perl -0pi -e "$3" "$file"
    if cmp -s "$file" "$copy/kept"; then
        echo "does not apply: $1" >&2
        exit 1
    fi
    tried=$((tried + 1))
    if ! cmake --build build/release --target fickle >"$copy/log" 2>&1; then
        echo "does not build: $1" >&2
        exit 1
    fi
    if scripts/check-code.sh "$first" "$last" >"$copy/log" 2>&1; then
        echo "unnoticed: $1"
    else
        noticed=$((noticed + 1))
        echo "noticed by $(grep -m1 -E ' (differs|does not compile)' build/boards/code/results): $1"
    fi
    cp "$copy/kept" "$file"
}

if [ "${ONLY:-}" ]; then
    eval "$(declare -f mutant | sed '1s/mutant/really/')"
    mutant() { if [[ "$1" == *$ONLY* ]]; then really "$@"; fi; }
fi
mutant "a limit one step too high" expression/tests.c 's/CODE_AT_LEAST, r\.low\)/CODE_OVER, r.low)/'
mutant "outside counts its ends in" expression/tests.c 's/CODE_OVER, r\.high\)/CODE_AT_LEAST, r.high)/'
mutant "no margin in bands" write/rules.c 's/"reading", rule->bands\[i\]\.kept/"reading", rule->bands[i].range/'
mutant "no margin in thresholds" write/rules.c 's/holds\(r, &rule->kept, rule->outside\)/holds(r, &rule->range, rule->outside)/'
mutant "settle a millisecond too early" parts/logic.c 's/rule->left > (passed|gone)\)/rule->left > $1 + 1u)/g'
mutant "a third answer does not begin the wait again" parts/logic.c 's/rule->left = other \? time :/rule->left = other \&\& rule->left == 0 ? time :/g'
mutant "unsure waits, too" parts/logic.c 's/if \(came != UNSURE\) return;/return;/g'
mutant "for begins at once" parts/logic.c 's/\*waited > time \? YES : NO/*waited >= time ? YES : NO/'
mutant "a start needs no no before it" parts/logic.c 's/answer == YES && before == NO/answer == YES && before != YES/'
mutant "hysteresis forgets its first answer" write/rules.c 's/rule->first_on \? "\\3YES" : "\\3NO"/"\\3NO"/'
mutant "limits carried back one count off" plan/counts.c 's/result\.high = past - 1;/result.high = past;/'
mutant "ends of a falling scale not exchanged" plan/counts.c 's/begin = s->falls \? range\.high : range\.low/begin = range.low/'
mutant "bridge ends a millisecond early" write/sensors.c 's/%s = %s = %s <= %" PRIu32 "u;/%s = %s = %s + 1u <= %" PRIu32 "u;/'
mutant "stale at the very moment" write/sensors.c 's/\(uint32_t\)\(\\3now - %s\) > %" PRIu32 "u\) %s = false; \/\* stale/(uint32_t)(\\3now - %s) >= %" PRIu32 "u) %s = false; \/* stale/'
mutant "the upper of two in the middle" parts/number.c 's/return sorted\[\(r->count - 1\) \/ 2\];/return sorted[r->count \/ 2];/g'
mutant "the zero is not taken off" write/sensors.c 's/"%s -= %s;"/"%s -= 0 * %s;"/; s/\(int64_t\)%s - %s"/(int64_t)%s - 0 * %s"/'
mutant "a count leaves its limit" write/conditions.c 's/&& %s < %s\)", lead/&& %s <= %s)", lead/'
mutant "a pulse one millisecond long more" write/conditions.c 's/"%s <= %s", left, clock/"%s < %s", left, clock/'
mutant "an unsure row of a motor is passed over" write/rows.c 's/if \(r->rule->guarded\)\n        guarded_rows/if (!r->rule->guarded \&\& r->number > 60000)\n        guarded_rows/'
mutant "if unsure looks at the last row only" write/rows.c 's/unsure = fg_code_either\(c, unsure, row_open\(r, i\)\)/unsure = row_open(r, i)/'
mutant "a follow rounds down" write/follow.c 's/offset \+ by \/ 2,\s+by\)/offset, by)/'
mutant "a sequence goes on where it stood" write/plays.c 's/if \(!p->resumes\) return fg_code_say\(c, "%s = 0;", p->at\);/if (!p->resumes) return fg_code_say(c, "%s += 0;", p->at);/'
mutant "late steps lose their place in a sequence" parts/play.c 's/gone - runs;/gone - (runs + 1u);/'
mutant "previously looks at this step" write/code.c 's/"%s = %s;", c->previously\[i\], fg_code_value\(c, c->gate->previously\[i\]\)/"%s = %s == 0 ? 0 : \\3YES;", c->previously[i], fg_code_value(c, c->gate->previously[i])/'
mutant "a quotient is cut off" parts/number.c 's/return whole \+ \(rest >= by - rest\);/return whole;/'
mutant "a sum keeps one divisor too small" write/short_sums.c 's/p\.divisor = divisor \/ shared;/p.divisor = divisor \/ shared + (divisor > shared);/'
mutant "the lower is the higher" parts/number.c 's/lower_32\(int32_t a, int32_t b\) \{ return a < b/lower_32(int32_t a, int32_t b) { return a > b/'
mutant "a latch is not saved" write/saved.c 's/"\(%s \? %uu : 0u\)"/"(%s ? 0 * %uu : 0u)"/'
mutant "a count is saved from zero on" write/saved.c 's/"\(uint32_t\)%s - %" PRIu32 "u"/"(uint32_t)%s - 0 * %" PRIu32 "u"/'
mutant "damaged bytes are taken" write/saved.c 's/!= %s_saved_check\(bytes\)\) return false/!= %s_saved_check(bytes) \&\& bytes[0] == 7) return false/'
echo "$noticed of $tried mistakes noticed"
[ "$noticed" -eq "$tried" ]
