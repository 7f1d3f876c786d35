#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-harbour-firmware.sh: the whole firmware of examples/harbour/board on an emulated ATmega328P. The demo recording comes in as
# voltages and pins; what pins, timers and serial line do at each of its 6000 steps is compared with the replay.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/firmware.sh
out=build/boards/firmware harbour=examples/harbour
play_firmware $harbour $harbour/harbour.gate $harbour/spring-tide.csv tests/boards/harbour/harbour_runner.c
perl - $out/steps.csv $out/got <<'P'
use strict;
use warnings;
my ($steps, $got) = map { open my $in, '<', $_ or die; $in } @ARGV;
sub cells { my ($line) = @_; chomp $line; my @cells; push @cells, $1 =~ s/^"(.*)"$/$1/sr =~ s/""/"/gr while $line =~ /\G("(?:[^"]|"")*"|[^,]*)(?:,|$)/g; return @cells }
my @names = cells(scalar <$steps>);
my ($count, %seen) = 0;
while (my $line = <$steps>) {
    my %is;
    @is{@names} = cells($line);
    my ($t, @chip) = split /\t/, scalar(<$got>) // die("the firmware made too few steps\n"), 11;
    chomp @chip;
    my ($pump) = $is{pump} =~ /(\d+)%/ ? "$1" : $is{pump} eq 'stop' ? 0 : 100;
    $pump = -$pump if $is{pump} =~ /^back/;
    my @wanted = ((map { $is{$_} =~ /^on/ ? 1 : 0 } qw(green red beacon boom)), $is{winch} eq 'stop' ? 0 : 1, $is{horn} =~ /(\d+)Hz/ ? "$1" : 0, $pump,
        $is{flagstaff} =~ /^(-?\d+)/, $is{gauge}, $is{board});
    $chip[5] = $wanted[5] if abs($chip[5] - $wanted[5]) <= $wanted[5] / 50; # eight bits of timer: within 2 % of the tone
    if ("@chip" ne "@wanted") { print STDERR "$t ms: the chip does '@chip', the replay '@wanted'\n"; exit 1 if ++$seen{bad} > 5 }
    $seen{"@chip"} = 1;
    $count++;
}
exit 1 if $seen{bad} || $count < 6000;
printf "harbour firmware: on an ATmega328P pins, timers and serial line do at %d steps what the replay shows, %d different ones\n", $count, scalar keys %seen;
P
compare_serial_line $harbour/harbour.gate
grep -q 'rows, 599.900 s, 6,000 steps' $out/told || { cat $out/told >&2; exit 1; }
# The display's texts have to stay in flash: in RAM they would take it over this.
avr-size $out/harbour.elf | tail -n 1 | awk '{print "  " $1 + $2 " bytes of flash, " $2 + $3 " of RAM, of at most 1100"; exit $2 + $3 > 1100}'
