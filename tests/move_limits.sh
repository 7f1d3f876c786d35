#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# move_limits.sh [FICKLE]: moves every limit of the harbour's gate by one step, up and down, each by itself, and reports how
# many of the moves its trials notice. Those that nobody notices are listed, and make it fail: what no trial pins
# down.
set -euo pipefail
cd "$(dirname "$0")/.."
fickle=$(realpath "${1:-build/release/fickle}")
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cp examples/harbour/*.gate examples/harbour/*.csv "$work"

# One file a move: its name says the line, the number and what became of it.
perl - "$work" <<'P'
my ($work) = @ARGV;
open my $in, '<', "$work/harbour.gate" or die;
my @lines = <$in>;
my ($block, $step) = ('', 1);
for my $i (0 .. $#lines) {
    my $line = $lines[$i];
    $line =~ s/#.*//;
    last if $line =~ /^trial/;
    $block = $1 if $line =~ /^(number|bands|threshold|hysteresis|condition|sensor|flag|latch|count|pulse|lamp|relay|buzzer|motor|servo|bar|display)\b/;
    next unless $block =~ /^(number|bands|threshold|hysteresis|condition)$/;
    next if $line =~ /^\s*settle/;
    # the step of the sensor it belongs to: that of the block where a row of it stands alone
    $step = $line =~ /full_house|rocking|vane|onshore/ ? 1 : 0.1 if $line =~ /^\w/;
    while ($line =~ /(?<![\w"\/])(?<!(?<!\.)\.)(\d+(?:\.\d+)?)(?! *(?:ms|s|min|h)\b(?!\/))(?!\w|\.\d)/g) {
        my ($number, $at) = ($1, $-[1]);
        next if substr($line, 0, $at) =~ /(settle|for|least|\/|\+) $/ && substr($line, 0, $at) !~ /\bat least $/;
        next if substr($line, $at) =~ /^\d+ yes in/;
        for my $by ($step, -$step) {
            my @moved = @lines;
            my $to = $number + $by;
            substr($moved[$i], $at, length $number) = $to;
            open my $out, '>', sprintf("%s/moved-%03d-%03d-%s-to-%s.gate", $work, $i + 1, $at, $number, $to) or die;
            print $out @moved;
        }
    }
}
P

noticed=0 all=0 unnoticed=""
for gate in "$work"/moved-*.gate; do
    status=0
    "$fickle" trial "$gate" --quiet >/dev/null 2>&1 || status=$?
    [ $status = 2 ] && continue # no gate any more
    all=$((all + 1))
    if [ $status = 1 ]; then
        noticed=$((noticed + 1))
    else
        unnoticed+="$(basename "$gate" .gate | sed -E 's/moved-0*([0-9]+)-[0-9]+-(.*)-to-(.*)/  line \1: \2 moved to \3/')"$'\n'
    fi
done
echo "the trials notice $noticed of $all moves of a limit by one step"
[ -z "$unnoticed" ] || printf 'not noticed:\n%s' "$unnoticed"
[ $all -gt 0 ] && [ $noticed = $all ]
