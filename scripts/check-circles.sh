#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-circles.sh BUILD: no two files of src may need each other, not even by way of others. BUILD holds the object files.
set -euo pipefail
cd "$(dirname "$0")/.."
find "$1" -path '*/src/*' -name '*.c.o' | sort | while read -r object; do
    file=src/${object#*/src/}
    [ -e "${file%.o}" ] || continue # of a file that is no more
    nm -g "$object" | awk -v file="${file%.o}" '
        NF == 3 && $2 ~ /^[TDRBV]$/ {print "defines", file, $3}
        $1 == "U" {print "needs", file, $2}'
done | perl -e '
    my (%home, %needs);
    while (<STDIN>) { my ($what, $file, $name) = split; $what eq "defines" ? ($home{$name} = $file) : push @{$needs{$file}}, $name; }
    my %edges;
    for my $file (keys %needs) {
        for (@{$needs{$file}}) { $edges{$file}{$home{$_}} = $_ if exists $home{$_} && $home{$_} ne $file; }
    }
    # Strongly connected components, after Tarjan (1972): each of more than one file is a circle.
    my ($count, %index, %low, %on, @stack, $bad) = (0);
    sub visit {
        my ($v) = @_;
        $index{$v} = $low{$v} = $count++;
        push @stack, $v; $on{$v} = 1;
        for my $w (sort keys %{$edges{$v}}) {
            if (!exists $index{$w}) { visit($w); $low{$v} = $low{$w} if $low{$w} < $low{$v}; }
            elsif ($on{$w}) { $low{$v} = $index{$w} if $index{$w} < $low{$v}; }
        }
        return if $low{$v} != $index{$v};
        my %part;
        while (1) { my $w = pop @stack; delete $on{$w}; $part{$w} = 1; last if $w eq $v; }
        return if keys %part < 2;
        $bad = 1;
        print STDERR "circles: these files need each other:\n";
        for my $a (sort keys %part) { for my $b (sort keys %{$edges{$a}}) { print STDERR "  $a needs $edges{$a}{$b} of $b\n" if $part{$b}; } }
    }
    for my $file (sort keys %needs) { visit($file) unless exists $index{$file}; }
    print "circles: none among ", scalar(keys %needs), " files\n" unless $bad;
    exit($bad ? 1 : 0);'
