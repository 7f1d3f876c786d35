#!/usr/bin/env bash
# The layout of the code is clang-format's, by .clang-format. `check-format.sh --mend` puts it right.
set -euo pipefail
cd "$(dirname "$0")/.."
files=$(git ls-files --cached --others --exclude-standard '*.c' '*.h' 2>/dev/null || find src include tests examples -name '*.[ch]')
if [ "${1:-}" = --mend ]; then
    clang-format -i $files
    exit
fi
clang-format --dry-run -Werror $files
echo "format: as .clang-format says"
