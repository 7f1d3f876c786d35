#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-recursion.sh: nothing in a step calls itself, by whatever way: the call graphs that gcc writes of the core and of baked gates have
# no circle. Calls through a pointer are those of a port and, in a report, of what puts characters out.
set -euo pipefail
cd "$(dirname "$0")/.."
out=build/recursion
rm -rf $out && mkdir -p $out
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
graph() { gcc -std=c11 -O0 -fcallgraph-info -Iinclude -Isrc -I$out -c "$1" -o "$out/$2.o"; }
for file in src/core/*.c; do graph "$file" "core_$(basename "$file" .c)"; done
for gate in examples/harbour/harbour.gate tests/boards/every_kind.gate bench/board/harbour/board.gate examples/beehive/scale.gate; do
    name=$(basename $gate .gate)_gate
    build/release/fickle bake $gate --report -o "$out/$name" --quiet
    graph "$out/$name.c" "$name"
done
perl - $out/*.ci <<'P'
use strict;
use warnings;
my (%calls, %indirect);
for my $file (@ARGV) {
    open my $in, '<', $file or die "$file: $!";
    while (<$in>) {
        my ($from, $to) = /^edge: \{ sourcename: "([^"]+)" targetname: "([^"]+)"/ or next;
        # a static function is called by its file as well, one that others see by its name alone
        if ($to eq '__indirect_call') { $indirect{$from} = 1 } else { $calls{$from}{$to} = 1 }
    }
}
my (%state, @way, $bad);
sub visit {
    my ($function) = @_;
    $state{$function} = 1;
    push @way, $function;
    for my $next (sort keys %{$calls{$function} || {}}) {
        if (!$state{$next}) { visit($next) }
        elsif ($state{$next} == 1) { $bad = 1; print STDERR "recursion: ", join(' -> ', @way, $next), "\n" }
    }
    pop @way;
    $state{$function} = 2;
}
visit($_) for sort grep { !$state{$_} } keys %calls;
my @pointers = grep { !/(^|:)(fg_port_\w+|\w+_send_\w+|\w+_report)$/ } sort keys %indirect;
if (@pointers) { $bad = 1; print STDERR "recursion: calls through a pointer in @pointers\n" }
print "recursion: none among ", scalar(keys %calls), " functions of the core and of four baked gates\n" unless $bad;
exit($bad ? 1 : 0);
P
