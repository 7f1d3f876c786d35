#!/usr/bin/perl
# SPDX-License-Identifier: MIT
# random_gate.pl SEED: a gate file of the whole language, made by chance, the same for the same seed. Most are gates; some have a
# mistake the compiler finds.
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
sub maybe { return dice($_[0]) == 0 ? $_[1] : '' }
sub ms { return any(0, 250, 500, 1000, 1500, 2500) . 'ms' }

my (@sensors, @circles, @flags, @bands, @answers, @counts, @sequences);
print "every ", any(100, 250, 500), "ms\n" if dice(2);

for my $i (0 .. 1 + dice(3)) {
    my $circle = !dice(4);
    my $scale = !$circle && dice(2) ? '; raw 0..1023 reads ' . any('0..250', '-50..200', '300..0', '240..-30') : '';
    print "sensor s$i { unit u", $circle ? '; circle 360' : '; step 0.1', $scale, maybe(4, '; trust ' . ($circle ? '330..200' : '-40..240')),
        maybe(5, '; bridge ' . ms()), maybe(5, '; stale after 2s'), maybe(6, '; stuck after 3s'),
        any('', '', '; median ' . any(3, 5), '; mean ' . any(2, 4, 7)), maybe(6, '; zero when f0'), " }\n";
    push @{$circle ? \@circles : \@sensors}, "s$i";
}
unless (@sensors) { print "sensor s9 { unit u; step 0.1 }\n"; push @sensors, 's9' }
for my $i (0 .. dice(3)) {
    print "flag f$i", any('', '', ' { inverted }', ' { settle ' . ms() . ' }', ' { bridge 1s; stale after 3s }'), "\n";
    push @flags, "f$i";
    push @answers, "f$i";
}
if (dice(3) == 0) {
    my ($a, $b) = (any(@sensors), any(@sensors));
    print "sensor d0 = ", any("$a - $b", "length($a, $b)", "highest($a, $b)", "peak($a, 4) - dip($a, 6)", "abs($a) + $b"), any('', ' { median 3 }'), "\n";
    push @sensors, 'd0';
    if (dice(3) == 0) { print "sensor d1 = rate($a, 5) { unit u/s; step 0.1 }\n"; push @sensors, 'd1' }
}

if (dice(3) == 0) {
    my ($a, $b) = (any(@sensors), any(@sensors));
    print "sensor d2 = ", any("$a * 1.25 + $b / 3", "$a * $b / 100", "$a / $b * 50", "angle($b, $a) / 2", "length($a, $b, 30) * 0.7", "rate($a, 3) * 2 - 1", "-$a / 7"),
        " { unit q; step ", any('0.1', '0.01'), maybe(3, '; median 3'), maybe(4, '; bridge 1s'), maybe(4, '; zero when f0'), maybe(4, '; trust -200..200'), " }\n";
    push @sensors, 'd2';
}

sub number { return (dice(260) - 30) . (dice(3) ? '' : '.' . dice(10)) }
sub rising { my %n = map { (dice(240) - 20) => 1 } 1 .. $_[0]; return sort { $a <=> $b } keys %n }
sub comparison {
    my ($a, $b) = rising(2);
    $b //= $a + 5;
    return any("over " . number(), "under " . number(), "at least " . number(), "at most " . number(), "within $a..$b", "outside $a..$b", "near $a by " . dice(20));
}
sub settle { return maybe(2, '; settle ' . ms() . maybe(3, ' within ' . (5 + dice(30)))) }

for my $i (0 .. 1 + dice(2)) {
    my @cuts = rising(2 + dice(3));
    my $labels = 'a';
    my $text = $labels . maybe(3, any(' "lo"', ' "q""q"', ' "it\'s"', ' ""'));
    $text .= " | $_ | " . ++$labels . maybe(4, ' "h{i}"') for @cuts;
    if (@circles && !dice(3)) {
        my %n = map { dice(360) => 1 } 1 .. 3;
        my @turn = sort { $a <=> $b } keys %n;
        $labels = 'a';
        $text = $labels;
        $text .= ' | ' . shift(@turn) . ' | ' . ++$labels while @turn > 1;
        $text .= " | $turn[0]";
        $text = 'equal ' . join(', ', 'a' .. $labels) . ($state % 2 ? " centred on $turn[0]" : '') if $state % 3 == 0 && $labels gt 'a';
        print "bands b$i from $circles[0] { $text", maybe(2, '; margin ' . dice(6)), settle(), " }\n";
    } elsif (dice(3) == 0) {
        my ($p, $q, $r) = (rising(3), 250, 260);
        ($p, $q, $r) = (10, 50, 90) if grep { !defined } $p, $q, $r;
        print "bands b$i from ", any(@sensors), " { a under $p; b $p..$q; ", maybe(2, "c over $r; "), any('d otherwise', 'b ' . ($r + 1) . '..' . ($r + 30)), maybe(2, '; margin ' . dice(4)), settle(), " }\n";
        $labels = 'b';
    } else {
        $text = 'equal ' . join(', ', 'a' .. $labels) . " across $cuts[0]..$cuts[-1]" if $state % 4 == 0 && @cuts > 1;
        print "bands b$i from ", any(@sensors), " { $text", maybe(2, '; margin ' . dice(8)), settle(), " }\n";
    }
    push @bands, ["b$i", $labels];
}
for my $i (0 .. dice(3)) { print "threshold t$i from ", any(@sensors), " { ", comparison(), maybe(3, '; margin ' . dice(5)), settle(), " }\n"; push @answers, "t$i" }
for my $i (0 .. dice(2)) {
    my ($low, $high) = (rising(2), 250);
    my @sides = dice(2) ? ("over $high", "under $low") : ("under $low", "over $high");
    print "hysteresis h$i from ", any(@sensors), " { on $sides[0]; off $sides[1]", settle(), maybe(4, '; first on'), " }\n";
    push @answers, "h$i";
}

sub label { my $band = any(@bands); return ($band->[0], chr(97 + dice(ord($band->[1]) - 96))) }
sub atom {
    my $kind = dice(9);
    my ($band, $label) = label();
    return "$band is " . maybe(4, 'not ') . $label if $kind < 2;
    return any(@sensors) . ' ' . comparison() if $kind == 2;
    return any(@sensors) . ' faulty' if $kind == 3;
    return any(@answers) . ' unsure' if $kind == 4;
    return 'previously ' . any(@answers) if $kind == 5;
    return any(@answers);
}
sub condition {
    my ($depth) = @_;
    return atom() if $depth > 2 || !dice(3);
    my $kind = dice(7);
    return '((' . condition($depth + 1) . ') for ' . ms() . ')' if $kind == 0;
    return '((' . condition($depth + 1) . ') ' . any('starts', 'ends') . ')' if $kind == 1;
    return 'not (' . condition($depth + 1) . ')' if $kind == 2;
    return ('at least ', 'at most ', 'exactly ')[$state % 3] . (1 + dice(2)) . ' yes in (' . join(', ', map { condition($depth + 2) } 1 .. 3) . ')' if $kind == 3;
    return '(' . condition($depth + 1) . any(' and ', ' or ') . condition($depth + 1) . ')';
}

for my $i (0 .. 1 + dice(3)) { my $text = condition(0); print "condition c$i = $text\n"; push @answers, "c$i" }
if (dice(2)) { print "latch l0 { set when ", condition(1), '; ', maybe(2, 'clear wins; '), 'clear when ', condition(1), " }\n"; push @answers, 'l0' }
if (dice(2)) { print "count n0 { add when ", condition(1), maybe(2, '; take when ' . condition(1)), maybe(3, '; zero when ' . condition(1)), '; limit ', any('0..5', '-2..3'), " }\n"; push @counts, 'n0' }
if (dice(2)) {
    print "pulse p0 { start when ", condition(1), '; last ', any('500ms', '2s'), maybe(2, ' when ' . condition(1) . '; last 300ms'), maybe(3, '; again when ' . condition(1)), maybe(3, '; stop when ' . condition(1)), maybe(3, '; restarts'), " }\n";
    push @answers, 'p0';
}

my %levels = (lamp => [ 'on', 'on 40%', 'on amber', 'off', 'hold' ], relay => [ 'on', 'off' ], motor => [ 'forward 80%', 'back 30%', 'stop', 'hold' ],
    servo => [ '40 deg', 'sweep 20..100 in 2s', 'sweep 100..20 in 700ms', 'hold' ], bar => [ 'fill 3', 'light 5', 'off', 'hold' ], buzzer => [ '880Hz', 'C5 50%', 'quiet' ],
    display => [ 'show "x {b0}", "{f0}"', 'show "hello"', 'blank', 'show "it\'s ""{f0}""", "{{{s0 unit}}}"', 'show "a/*b*/ // \\ ?? fg_way("', 'show "{c0}{b0}", "{o_relay}"' ]);
my %plain = (lamp => [ 'on', 'off', 'on 40% ' ], relay => [ 'on', 'off' ], motor => [ 'forward', 'stop', 'back 20%' ], servo => [ '20 deg', '90 deg' ],
    bar => [ 'fill 2', 'light 7', 'off' ], buzzer => [ 'A4', 'quiet', '300Hz 20%' ]);
my %head = (servo => 'range 10..170; ', bar => 'lights 8; ', display => 'size 12x2; ');
my %plays;
for my $kind (sort keys %plain) {
    next if dice(3);
    print "sequence q_$kind {";
    for (0 .. 1 + dice(2)) {
        print ' ', any(@{$plain{$kind}}), ' for ', dice(4) ? any(100, 300, 500, 1200) . 'ms' : 'follow ' . any(@sensors, @counts) . ' 0..200 to ' . any('50ms..800ms', '900ms..100ms'), ';';
    }
    print any('', ' repeat', ' repeat 2 times'), maybe(3, '; resumes'), " }\n";
    $plays{$kind} = "play q_$kind";
}
sub level {
    my ($kind) = @_;
    return $plays{$kind} . maybe(2, ' through') if $plays{$kind} && !dice(3);
    return 'follow ' . any(@sensors, @counts) . ' ' . any('0..200', '150..-20') . ($kind eq 'buzzer' ? ' to 200..900' : '') if $kind =~ /lamp|motor|servo|bar|buzzer/ && !dice(4);
    return any(@{$levels{$kind}});
}
print "relay o_relay { on when ", condition(1), " }\n";
for my $kind (sort keys %levels) {
    next if dice(2);
    my $name = $kind eq 'relay' ? 'o_second' : "o_$kind";
    print "$kind $name { ", $head{$kind} // '';
    for my $row (0 .. dice(4)) {
        my $when = dice(8);
        print level($kind), $when == 0 ? '' : $when == 1 ? ' if unsure' : ' when ' . condition(1), '; ';
    }
    print level($kind), ' if unsure; ' unless dice(3);
    print level($kind), ' ' unless dice(3);
    print "}\n";
}
