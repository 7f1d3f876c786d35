#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-shells.sh: TAB in bash, zsh and fish offers what there is: commands, options, the numbers, scenes and names of the gate at hand, the
# columns of its recording. Manual pages have no warning.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/hosted.sh
export PATH=$release:$PATH
cd examples/harbour
# what stands in front of TAB, and what has to be offered
lines=(
    'fickle prom|promise'
    'fickle replay harb|harbour.gate'
    'fickle replay harbour.gate --sum|--summary'
    'fickle replay harbour.gate --set bilge_h|bilge_high='
    'fickle why harbour.gate spring-tide.csv tid|tide'
    'fickle replay harbour.gate --scene slo|slowly'
    'fickle tune harbour.gate spring-tide.csv --label tide_|tide_seen'
    'fickle check --explain kept|kept-answer'
)
bad=0
say() { echo "$1: '$2' offers '$3', not '$4'"; bad=1; }
for pair in "${lines[@]}"; do
    line=${pair%|*} wanted=${pair#*|}
    got=$(bash --norc -c 'source ../../shell/fickle.bash; compopt() { :; }; COMP_LINE=$1 COMP_POINT=${#1}; _fickle; printf "%s\n" "${COMPREPLY[@]}"' _ "$line")
    [ "$got" = "$wanted" ] || say bash "$line" "$got" "$wanted"
    got=$(fish --no-config -c 'source ../../shell/fickle.fish; complete -C "$argv[1]"' "$line" | cut -f 1)
    [ "$got" = "$wanted" ] || say fish "$line" "$got" "$wanted"
    # a real terminal: what stands on the line after TAB
    got=$(zsh -f ../../tests/tool/tab.zsh ../../shell "$line" | tr -d '\r\b\a')
    case $got in *"$wanted"*) ;; *) say zsh "$line" "$got" "$wanted" ;; esac
done
cd ../..
for page in $release/man/*.[137]; do
    warned=$(LC_ALL=C.UTF-8 MANWIDTH=80 man --warnings -E UTF-8 -l "$page" 2>&1 >/dev/null)
    [ -z "$warned" ] || { echo "$page: $warned"; bad=1; }
done
[ $bad = 0 ] && echo "shells: ${#lines[@]} lines are completed by bash, zsh and fish; $(ls $release/man | wc -l) manual pages have no warning"
exit $bad
