#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# The layout of the code is clang-format's, by .clang-format, and each file says its licence. `check-format.sh --mend` puts the layout
# right.
set -euo pipefail
cd "$(dirname "$0")/.."
files=$(git ls-files --cached --others --exclude-standard '*.c' '*.h' 2>/dev/null || find src include tests examples -name '*.[ch]')
if [ "${1:-}" = --mend ]; then
    clang-format -i $files
    exit
fi
clang-format --dry-run -Werror $files
scripts=$(git ls-files --cached --others --exclude-standard '*.sh' '*.pl' '*CMakeLists.txt' 2>/dev/null || find scripts -name '*.sh')
silent=$(for file in $files $scripts; do head -n 2 "$file" | grep -q 'SPDX-License-Identifier: ' || echo "$file"; done)
[ -z "$silent" ] || { printf 'format: no SPDX-License-Identifier in:\n%s\n' "$silent" >&2; exit 1; }
echo "format: as .clang-format says, and each file says its licence"
