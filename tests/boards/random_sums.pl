#!/usr/bin/perl
# SPDX-License-Identifier: MIT
# random_sums.pl SEED: a gate file of sensors that are worked out from others, made by chance, the same for the same seed. Most parts have
# a range (`trust`), so most sums fit into 32 bits, some nearly; a display shows each result to its last step.
use strict;
use warnings;

my $state = ($ARGV[0] // 1) * 2654435761 % 4294967296 || 1;
sub dice { # 0 up to not N; xorshift (Marsaglia 2003)
    $state ^= $state << 13 & 0xffffffff;
    $state ^= $state >> 17;
    $state ^= $state << 5 & 0xffffffff;
    return $state % $_[0];
}
sub any { return $_[dice(scalar @_)] }

my @sensors;
for my $i (0 .. 2) {
    my $most = any(30, 100, 400, 1443, 3000, 32767, 60000, 400000);
    my $range = dice(8) ? '; trust ' . any("-$most..$most", "0..$most", '-' . int($most / 3) . "..$most") : '';
    print "sensor s$i { step ", any('1', '1', '0.1', '0.01'), $range, any('', '', '; median 3'), " }\n";
    push @sensors, "s$i";
}
sub number { return any(0, 1, 2, 3, 7, 10, 60, 1000, '0.5', '1.5', '0.25', '0.1', '0.01', '2.54', '9.81', '0.333', '0.3048', '0.000001', dice(3000)) }
sub signed { return dice(5) ? number() : '-' . number() }
sub sum {
    my ($depth) = @_;
    return dice(6) ? any(@sensors) : signed() if $depth > 2 || !dice(4);
    my $kind = dice(15);
    my $one = sub { sum($depth + 1) };
    return '(' . $one->() . any(' + ', ' - ') . $one->() . ')' if $kind < 5;
    return '(' . $one->() . ' * ' . signed() . ')' if $kind == 5;
    return '(' . number() . ' * ' . $one->() . ')' if $kind == 6;
    return '(' . $one->() . ' / ' . signed() . ')' if $kind == 7;
    return '(' . any(@sensors) . ' * ' . any(@sensors) . ')' if $kind == 8;
    return 'abs(' . $one->() . ')' if $kind == 9;
    return any('lowest', 'highest') . '(' . $one->() . ', ' . $one->() . ')' if $kind == 10;
    return 'length(' . join(', ', map { $one->() } 0 .. 1 + dice(2)) . ')' if $kind == 11;
    return any('peak', 'dip') . '(' . any(@sensors) . ', ' . (2 + dice(6)) . ')' if $kind == 12;
    return '-(' . $one->() . ')' if $kind == 13;
    return '(' . $one->() . ' - ' . (1 + dice(1000)) . ')';
}
for my $i (0 .. 3) {
    my $sum = sum(0);
    print "sensor d$i = $sum { step ", any('1', '1', '0.1', '0.01', '0.001'), " }\n";
    push @sensors, "d$i" unless dice(3);
}
print "threshold t$_ from d$_ { over ", dice(200), " }\n" for 0 .. 3;
print "lamp l$_ { on when t$_; on 20% if unsure }\n" for 0 .. 3;
print "display o { size 40x4; show \"{d0}\", \"{d1}\", \"{d2}\", \"{d3}\" }\n";
