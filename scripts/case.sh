#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# case.sh NAME: builds, and runs the cases of this name in tests/language/cases and tests/tool/cases; NAME may have * in it.
set -euo pipefail
cd "$(dirname "$0")/.."
[ $# = 1 ] || { echo "usage: scripts/case.sh NAME, as in scripts/case.sh 'latch-*'" >&2; exit 2; }
name=$(basename "$1" .case)
cmake --preset dev >/dev/null
cmake --build --preset dev --target fickle test_cases test_tool | tail -n 1
found=false status=0
for suite in language:test_cases tool:test_tool; do
    compgen -G "tests/${suite%:*}/cases/$name.case" >/dev/null || continue
    found=true
    CASE=$name CK_RUN_CASE=cases build/dev/tests/"${suite#*:}" || status=1
done
$found || { echo "there is no case '$name'" >&2; exit 2; }
exit $status
