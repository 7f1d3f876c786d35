#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# make-man.sh FOLDER [FICKLE]: the manual pages: fickle(1) and one of each command from the tool itself, ficklegate(7) from docs/language.md,
# ficklegate(3) from the public headers.
set -euo pipefail
to=$(realpath "$1") fickle=$(realpath "${2:-$(dirname "$0")/../build/release/fickle}")
cd "$(dirname "$0")/.."
version=$("$fickle" --version | cut -d ' ' -f 2)
rm -f "$to"/*
"$fickle" manual >"$to/fickle.1"
for command in $("$fickle" complete "" | cut -f 1); do "$fickle" manual "$command" >"$to/fickle-$command.1"; done
perl scripts/man-language.pl "$version" docs/language.md >"$to/ficklegate.7"
perl scripts/man-headers.pl "$version" include/ficklegate.h include/ficklegate/*.h >"$to/ficklegate.3"
ls "$to"
