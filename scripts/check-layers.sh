#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-layers.sh BUILD: what each folder includes, what the library exports and needs, and that nothing in core and language
# changes on its own. BUILD holds libficklegate.a.
set -euo pipefail
cd "$(dirname "$0")/.."
library=$1/libficklegate.a
status=0
bad() {
    echo "layers: $*" >&2
    status=1
}

# folder | what its files may include besides their own folder's headers, as patterns of the text between the brackets or quotes
freestanding='stdint\.h|stdbool\.h|stddef\.h|limits\.h'
core='ficklegate/(value|version|text|kinds|rules|smooth|gate|port)\.h'
language="$core|ficklegate/language\.h|$freestanding|stdarg\.h|core/(mem|wide)\.h|language/compiler\.h"
hosted='[a-z_0-9]+\.h|sys/[a-z]+\.h'
public="$core|ficklegate/(language|sim|files|jobs|lines|recordings|replay|compare|live|watch|keep|serial|broker|stand_in|scenes|trials|coverage|summary|save|tune|why|draw|bake|findings|number_lines|page|promise|tidy|edit|handle|workshop)\.h"
rules="
include|$freestanding|stdio\.h|ficklegate/[a-z_]+\.h
src/core|avr/pgmspace\.h|$freestanding|$core|[a-z_]+\.h
src/language/compiler.h|$language|language/text/(arena|text|token)\.h|language/tree/node\.h
src/language/text|$language
src/language/tree|$language|language/text/[a-z_]+\.h
src/language/check|$language|language/(text|tree)/[a-z_]+\.h
src/language/lower|$language|language/(text|tree)/[a-z_]+\.h|language/check/quantity\.h
src/language/warn|$language|language/(text|tree|check)/[a-z_]+\.h
src/language/compile.c|$language|language/(text|tree|check|lower|warn)/[a-z_]+\.h
src/ports/sim|$freestanding|string\.h|$core|ficklegate/sim\.h
src/ports/cortexm|ficklegate\.h|fg_semihosting\.h
src/ports/avr|$freestanding|ficklegate\.h|fg_avr\.h|fg_avr_kept\.h|fg_avr_port\.h|avr/[a-z]+\.h|util/[a-z]+\.h
src/workshop/base|$hosted|$public
src/workshop/recordings|$hosted|$public|workshop/base/[a-z_]+\.h
src/workshop/explain|$hosted|$public|workshop/base/[a-z_]+\.h
src/workshop/replay|$hosted|$public|workshop/(base|recordings|explain)/[a-z_]+\.h
src/workshop/live|$hosted|$public|workshop/(base|recordings|replay|explain)/[a-z_]+\.h
src/workshop/why|$hosted|$public|workshop/(base|explain)/[a-z_]+\.h
src/workshop/trials|$hosted|$public|workshop/(base|explain)/[a-z_]+\.h
src/workshop/tune|$hosted|$public|workshop/(base|recordings|replay)/[a-z_]+\.h
src/workshop/draw|$hosted|$public|workshop/(base|tune)/[a-z_]+\.h
src/workshop/promise|$hosted|$public|workshop/base/[a-z_]+\.h
src/workshop/tidy|$hosted|$public|workshop/base/[a-z_]+\.h
src/workshop/edit|$hosted|$public|workshop/base/[a-z_]+\.h
src/workshop/handle|$hosted|$public|jansson\.h|workshop/base/[a-z_]+\.h
src/workshop/page|$hosted|$public|workshop/(base|page|tune)/[a-z_]+\.h
src/workshop/bake|$hosted|$public|workshop/(base|bake(/[a-z]+)?)/[a-z_]+\.h|baked_parts\.inc
src/workshop/bake/plan|$hosted|$public|workshop/base/[a-z_]+\.h|workshop/bake/names\.h
src/workshop/bake/expression|$hosted|$public|workshop/base/[a-z_]+\.h|workshop/bake/(plan/[a-z]+|names)\.h
src/workshop/bake/write|$hosted|$public|workshop/base/[a-z_]+\.h|workshop/bake/((plan|expression)/[a-z]+|names)\.h|baked_parts\.inc
src/workshop/bake/tables|$hosted|$public|workshop/base/[a-z_]+\.h|workshop/bake/names\.h
src/tool|$hosted|$public
bench|[a-z]+\.h|sys/[a-z]+\.h|avr/[a-z]+\.h|simavr/[a-z_]+\.h|board_gate\.h|by_hand\.h|ficklegate\.h|ficklegate/[a-z_]+\.h
examples|[a-z]+\.h|avr/[a-z]+\.h|fg_avr(_kept)?\.h|ficklegate\.h|ficklegate/[a-z_]+\.h
"
while IFS='|' read -r folder allowed; do
    [ -n "$folder" ] || continue
    [ -e "$folder" ] || bad "there is no $folder"
    own=$(dirname "$folder/.")
    own=${own#src/}
    while IFS=: read -r file line text; do
        name=$(sed -E 's/.*[<"]([^>"]+)[>"].*/\1/' <<<"$text")
        grep -qE "^($allowed|$own/[a-z_]+\.h)$" <<<"$name" || bad "$file:$line includes $name, which $folder may not use"
    done < <(grep -HrnE '^ *# *include' "$folder" --include='*.c' --include='*.h')
done <<<"$rules"
while read -r folder; do
    grep -qE "^($folder|${folder%/*})\|" <<<"$rules" || bad "nothing says what $folder may include"
done < <(find src -type d -mindepth 1 -not -path '*/parts' -not -name language -not -name workshop -not -name ports)

# Exported names.
while read -r name; do bad "the library exports $name, which does not begin with fg_"; done \
    < <(nm -g --defined-only "$library" | awk 'NF == 3 && $3 !~ /^fg_/ {print $3}')

# What core and language need from outside: themselves, memcpy, memset, and what compilers add.
defined=$(nm -g --defined-only "$library" | awk 'NF == 3 {print $3}')
while read -r name; do
    grep -qxF "$name" <<<"$defined" && continue
    case $name in memcpy | memset | __stack_chk_fail | _GLOBAL_OFFSET_TABLE_) ;; *) bad "core or language needs $name from outside" ;; esac
done < <(nm -u "$library" | awk '$1 == "U" {print $2}' | sort -u)

# Nothing mutable of its own: no objects in .data or .bss (.data.rel.ro holds constant pointers).
while read -r name; do bad "core or language has the mutable variable $name"; done \
    < <(objdump -t "$library" | grep -E ' (\.data|\.bss|\*COM\*|\.tbss|\.tdata)[[:space:]]' | awk '/ O |\*COM\*/ {print $NF}')

# Every public prototype has a comment right above it.
while read -r line; do bad "$line"; done < <(for header in include/ficklegate/*.h; do
    awk -v file="$header" '
        /\*\/ *$/ || /^ *\/\*.*\*\// || /^ \*/ {comment = 1; before = 1; next}
        /^[a-z].*[ *]fg_[a-z_]+\(/ && !/^typedef/ && !/^static inline/ && !before && !/\/\*/ {print file ":" NR ": no comment above " $0}
        {before = ($0 ~ /^FG_MUST_CHECK|^#if|^__attr|^#endif/) ? before : 0}' "$header"
done)

[ $status = 0 ] && echo "layers: every folder includes what it may, the library exports fg_ names and needs memcpy and memset"
exit $status
