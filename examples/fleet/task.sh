#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# task.sh NUMBER: plays one share of many recordings, those that lists/NUMBER names, and leaves results/NUMBER.jsonl, a line for each
# change, and results/NUMBER.coverage.csv. Both appear whole or not at all: a task that was broken off is simply run again, and one that
# is done does nothing. Of a job array the number is SLURM_ARRAY_TASK_ID. GATE names the gate file, FICKLE the tool.
set -euo pipefail
number=${1:-${SLURM_ARRAY_TASK_ID:?name the number of a task}}
done=results/$number.jsonl
[ ! -e "$done" ] || exit 0
mapfile -t recordings <"lists/$number"
part=$(mktemp "results/.$number.XXXXXX")
trap 'rm -f "$part"' EXIT
"${FICKLE:-fickle}" replay "$GATE" "${recordings[@]}" --jobs 1 --quiet --as jsonl --save-coverage "results/$number.coverage.csv" >"$part"
mv "$part" "$done"
