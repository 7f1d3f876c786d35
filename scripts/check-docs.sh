#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-docs.sh: every C example of the documents and of the public headers compiles, every header stands alone, the interfaces
# become pages without a warning, and every link leads somewhere. An example in a document may need declarations that the reader
# has on his board; they stand in a comment above it: <!-- c: ... -->.
set -euo pipefail
cd "$(dirname "$0")/.."
out=$PWD/build/docs
rm -rf "$out"
mkdir -p "$out"
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
build/release/fickle bake examples/proofing_box/box.gate -o "$out/box" --quiet

perl -e '
    use strict;
    my ($out, @files) = @ARGV;
    my $count = 0;
    sub keep {
        my ($file, $line, $text) = @_;
        open my $c, ">", sprintf("%s/example_%03d.c", $out, ++$count) or die;
        print $c "#include <ficklegate.h>\n#line $line \"$file\"\n$text\n";
        close $c;
    }
    for my $file (@files) {
        open my $in, "<", $file or die "$file: $!";
        my @lines = <$in>;
        my ($declarations, $begin, $text, $hidden) = ("", 0, "", 0);
        if ($file =~ /\.h$/) { # the first comment: what stands four blanks further in
            my ($name) = $file =~ m{include/(.*)};
            for my $i (0 .. $#lines) {
                if ($lines[$i] =~ /^ \*     (.*)/s) { $begin ||= $i + 1; $text .= $1; }
                elsif ($begin && $lines[$i] =~ /^ \*\s*$/) { $text .= "\n"; }
                last if $lines[$i] =~ m{\*/} && $lines[$i] !~ /SPDX/;
            }
            $begin or $file =~ m{/(version|workshop)\.h$} and next or die "docs: $file has no example in its first comment\n";
            keep($file, $begin, "#include <$name>\n#include <stdio.h>\n#line $begin \"$file\"\n$text");
            next;
        }
        for my $i (0 .. $#lines) {
            if ($lines[$i] =~ /^<!-- c:(.*)/s) { $hidden = 1; $declarations = $1; }
            elsif ($hidden) { $declarations .= $lines[$i]; }
            elsif ($lines[$i] =~ /^```c$/) { $begin = $i + 2; $text = ""; }
            elsif ($lines[$i] =~ /^```$/ && $begin) {
                $declarations =~ s/-->.*//s;
                keep($file, $begin, "$declarations\n#line $begin \"$file\"\n$text");
                ($declarations, $begin) = ("", 0);
            }
            elsif ($begin) { $text .= $lines[$i]; }
            $hidden = 0 if $hidden && $lines[$i] =~ /-->/;
        }
    }' "$out" README.md CONTRIBUTING.md docs/*.md include/ficklegate/*.h

status=0
for example in "$out"/example_*.c; do
    gcc -std=c11 -Wall -Wextra -Wno-unused-function -Wno-unused-variable -Wno-unused-parameter -Werror -fsyntax-only -Iinclude -I"$out" "$example" || status=1
done
for header in include/ficklegate/*.h; do
    gcc -std=c11 -Wall -Wextra -Werror -fsyntax-only -Iinclude -x c "$header" || status=1
done
[ $status = 0 ] || exit 1

cmake --build build/release --target docs >"$out/doxygen.log" 2>&1 || { grep -E 'warning|error' "$out/doxygen.log" >&2; exit 1; }

perl -e '
    my $bad = 0;
    for my $file (@ARGV) {
        my ($folder) = $file =~ m{(.*/)}; $folder //= "";
        open my $in, "<", $file or die;
        while (<$in>) {
            while (/\]\(([^)#\s]+)(#[^)]*)?\)/g) { next if $1 =~ /^https?:/; -e "$folder$1" or $bad = print STDERR "docs: $file:$.: there is no $1\n"; }
        }
    }
    exit $bad' README.md CONTRIBUTING.md CHANGELOG.md docs/*.md scripts/README.md

echo "docs: $(ls "$out"/example_*.c | wc -l) examples in C compile, each header stands alone, the pages have no warning, no link is dead"
