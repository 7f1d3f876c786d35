#!/usr/bin/env perl
# SPDX-License-Identifier: MIT
# random_promises.pl SEED: a small gate with promises. The states of most can all be gone through; of the others a simpler gate has to do.
use strict;
use warnings;

my $seed = shift // 1;
srand($seed);
sub one { return $_[int rand @_] }
sub chance { return rand() < shift }
my @times = qw(0ms 100ms 200ms 300ms 500ms 1s);

print "every ", one(qw(100ms 100ms 200ms)), "\n";
my (@sensors, @conditions, %circle);
for my $i (0 .. int rand 2) {
    my @attributes = ('unit u');
    push @attributes, 'step 0.1' if chance(0.3);
    push @attributes, 'trust 0..100' if chance(0.6);
    push @attributes, 'circle 90' if chance(0.15);
    s/trust .*/one('trust 10..60', 'trust 20..45', 'trust 0..80')/e for grep { chance(0.4) } @attributes;
    push @attributes, 'zero when f0' if chance(0.08);
    push @attributes, 'bridge ' . one(@times) if chance(0.4);
    push @attributes, 'stale after ' . one(qw(200ms 500ms)) if chance(0.2);
    push @attributes, 'mean 2' if chance(0.08);
    push @attributes, 'stuck after 500ms' if chance(0.05);
    push @attributes, 'median 3' if chance(0.2) && !grep { /circle|mean/ } @attributes;
    print "sensor s$i { ", join('; ', @attributes), " }\n";
    $circle{"s$i"} = grep { /circle/ } @attributes;
    push @sensors, "s$i";
}
for my $i (0 .. int rand 2) {
    my @attributes;
    push @attributes, 'inverted' if chance(0.2);
    push @attributes, 'settle ' . one(@times) if chance(0.3);
    push @attributes, 'bridge ' . one(@times) if chance(0.3);
    push @attributes, 'stale after 300ms' if chance(0.15);
    print "flag f$i { ", join('; ', @attributes), " }\n";
    push @conditions, "f$i";
}
if (chance(0.25) && @sensors > 1) {
    print 'sensor d0 = ', one('s0 - s1', 'abs(s0)', 'lowest(s0, s1)', 'peak(s0, 3)', 'rate(s1, 2) / 10'), " { unit u }\n";
    push @sensors, 'd0';
}
for my $sensor (@sensors) {
    my $settle = chance(0.4) ? '; settle ' . one(@times) . (chance(0.1) ? ' within 5' : '') : '';
    my $margin = chance(0.4) ? '; margin ' . one(1, 2) : '';
    my $kind = int rand 3;
    my $n = @conditions;
    if ($circle{$sensor}) { # nothing is over or under on it
        print "threshold t$n from $sensor { ", one('within 10..40', 'outside 10..40', 'within 60..80'), "$settle }\n";
        push @conditions, "t$n", "$sensor faulty", "$sensor within " . one('5..30', '50..85');
        next;
    }
    if ($kind == 0) {
        print "threshold t$n from $sensor { ", one('over 20', 'under 30', 'within 10..40', 'outside 10..40', 'at least 25'), "$margin$settle }\n";
        push @conditions, "t$n";
    } elsif ($kind == 1) {
        print "hysteresis h$n from $sensor { on over 40; off under 15$settle", (chance(0.3) ? '; first on' : ''), " }\n";
        push @conditions, "h$n";
    } else {
        print "bands b$n from $sensor { low | 20 | middle | 45 | high$margin$settle }\n";
        push @conditions, "b$n is " . one(qw(low middle high)), "b$n is not middle";
    }
    push @conditions, "$sensor faulty", "$sensor over " . one(10, 50);
}
sub condition {
    my $depth = shift;
    my $c = one(@conditions);
    return $c if $depth <= 0 || chance(0.3);
    my $kind = int rand 7;
    return condition($depth - 1) . ' and ' . condition($depth - 1) if $kind == 0;
    return '(' . condition($depth - 1) . ' or ' . condition($depth - 1) . ')' if $kind == 1;
    return 'not (' . condition($depth - 1) . ')' if $kind == 2;
    return '(' . condition($depth - 1) . ') for ' . one(qw(200ms 300ms 500ms)) if $kind == 3;
    return '(' . condition($depth - 1) . ') ' . one('starts', 'ends') if $kind == 4;
    return 'at least 2 yes in (' . join(', ', map { condition(0) } 1 .. 3) . ')' if $kind == 5;
    return $c;
}
for my $i (0 .. int rand 2) {
    my $name = 'x' . scalar @conditions;
    my $kind = int rand 4;
    if ($kind == 0) {
        print "latch $name { set when ", condition(1), '; clear when ', condition(1), (chance(0.3) ? '; clear wins' : ''), " }\n";
    } elsif ($kind == 1) {
        print "pulse $name { start when ", condition(1), '; last ', one(qw(200ms 500ms)), (chance(0.3) ? '; again when ' . condition(0) : ''),
            (chance(0.3) ? '; stop when ' . condition(0) : ''), (chance(0.3) ? '; restarts' : ''), " }\n";
    } elsif ($kind == 2) {
        print "count n$i { add when ", condition(1), '; zero when ', condition(0), "; limit 0..3 }\n";
        print "condition $name = n$i over 1\n";
    } else {
        print "condition $name = ", condition(2), "\n";
    }
    push @conditions, $name;
}
print "sequence q { forward 20% for 200ms; stop for 100ms; forward for 100ms; repeat 2 times }\n" if chance(0.4) and my $q = 1;
print 'motor m { ', ($q ? 'play q ' . one('', 'through ') . 'when ' . condition(1) . '; ' : ''), 'forward when ', condition(2),
    (chance(0.3) ? '; hold when ' . condition(1) : ''), (chance(0.3) ? '; back 30% if unsure' : ''), "; stop }\n";
print 'lamp l { on when ', condition(1), '; ', one('off', 'on 20% if unsure', 'hold'), " }\n";
push @conditions, 'm is forward', 'm is stop', 'l is on', ($q ? 'm plays q' : ());
for (1 .. 4) {
    my $kind = int rand 4;
    my $assume = chance(0.2) ? 'assume ' . one(map { "not $_ faulty" } @sensors) . '; ' : '';
    my $row =
          $kind == 0 ? condition(1) . ' never while ' . condition(1)
        : $kind == 1 ? condition(1) . ' always while ' . condition(1)
        : $kind == 2 ? condition(0) . ' within ' . one(@times) . ' of ' . condition(1)
        : one('m is forward', 'l is on') . ' never while ' . one(@sensors) . ' faulty';
    print "promise { $assume$row }\n";
}
print 'promise { ', (chance(0.3) ? 'assume ' . one(map { "not $_ faulty" } @sensors) . '; ' : ''), one(@conditions), ' can end within ', one(@times), " }\n" for 1 .. 2;
