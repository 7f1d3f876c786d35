#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# move_limits.sh [FICKLE]: moves every limit and margin of the harbour's gate by one step, up and down, each by itself, and reports
# how many of the moves its trials notice. Those that nobody notices are listed, and make it fail: what no trial pins down.
# Times and labels are moved by `trial --nudge` as well, and not asked here.
set -euo pipefail
cd "$(dirname "$0")/.."
"${1:-build/release/fickle}" trial examples/harbour/harbour.gate --nudge --as csv --quiet |
    awk -F, 'NR > 1 && $3 ~ /^[0-9.]+$/ {
        all++
        if ($5 == "yes") noticed++
        else unnoticed = unnoticed "  line " $1 ": " $3 " moved to " $4 "\n"
    }
    END {
        printf "the trials notice %d of %d moves of a limit by one step\n", noticed, all
        if (unnoticed) printf "not noticed:\n%s", unnoticed
        exit !(all > 40 && noticed == all)
    }'
