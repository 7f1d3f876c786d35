#!/usr/bin/env bash
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

# folder : what its files may include, as a pattern of the text between the brackets or quotes
freestanding='stdint\.h|stdbool\.h|stddef\.h|limits\.h|stdarg\.h'
core='ficklegate/(value|rules|smooth|gate|port)\.h'
rules="
src/core|$freestanding|$core|(run|mem|wide|angle|parts|steady|join)\.h
src/language|$freestanding|$core|ficklegate/language\.h|front\.h|core/(mem|wide)\.h
src/ports/sim|$freestanding|string\.h|$core|ficklegate/sim\.h
src/ports/cortexm|ficklegate\.h|fg_semihosting\.h
src/ports/avr|$freestanding|ficklegate\.h|fg_avr\.h|fg_avr_port\.h|avr/[a-z]+\.h|util/[a-z]+\.h
src/workshop|[a-z_]+\.h|\.\./(buffer|words)\.h|baked_parts\.inc|sqlite3\.h|sys/[a-z]+\.h|$core|ficklegate/(language|sim|workshop|tune|why|draw|bake|version)\.h
src/tool|[a-z]+\.h|sys/[a-z]+\.h|$core|ficklegate/(language|sim|workshop|tune|why|draw|bake|version)\.h
include|$freestanding|stdio\.h|ficklegate/[a-z]+\.h
bench|[a-z]+\.h|avr/[a-z]+\.h|simavr/[a-z_]+\.h|board_gate\.h|by_hand\.h|ficklegate\.h|ficklegate/[a-z]+\.h
examples|[a-z]+\.h|avr/[a-z]+\.h|fg_avr\.h|ficklegate\.h|ficklegate/[a-z]+\.h
"
while IFS='|' read -r folder allowed; do
    [ -n "$folder" ] || continue
    while IFS=: read -r file line text; do
        name=$(sed -E 's/.*[<"]([^>"]+)[>"].*/\1/' <<<"$text")
        grep -qE "^($allowed)$" <<<"$name" || bad "$file:$line includes $name, which $folder may not use"
    done < <(grep -rnE '^ *# *include' "$folder" --include='*.c' --include='*.h')
done <<<"$rules"
for header in value rules smooth gate port language; do
    grep -qE 'stdio\.h|stdlib\.h|sim\.h|workshop\.h' "include/ficklegate/$header.h" && bad "include/ficklegate/$header.h reaches a layer below it"
done

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
for header in include/ficklegate/*.h; do
    awk -v file="$header" '
        /\*\/ *$/ || /^ *\/\*.*\*\// || /^ \*/ {comment = 1; before = 1; next}
        /^[a-z].*[ *]fg_[a-z_]+\(/ && !/^typedef/ && !/^static inline/ && !before && !/\/\*/ {print file ":" NR ": no comment above " $0}
        {before = ($0 ~ /^FG_MUST_CHECK|^#if|^__attr|^#endif/) ? before : 0}' "$header"
done | while read -r line; do echo "layers: $line" >&2; done

[ $status = 0 ] && echo "layers: every folder includes what it may, the library exports fg_ names and needs memcpy and memset"
exit $status
