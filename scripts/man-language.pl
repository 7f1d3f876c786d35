# SPDX-License-Identifier: MIT
# man-language.pl VERSION PAGE: a page of docs/ as a manual page: headings, paragraphs, lists, tables and blocks of code.
use strict;
use warnings;
use utf8;
use open qw(:std :encoding(UTF-8));
my ($version, $page) = @ARGV;
open my $in, '<:encoding(UTF-8)', $page or die "$page: $!";
sub plain {
    my ($text) = @_;
    $text =~ s/\\/\\e/g;
    $text =~ s/-/\\-/g;
    $text =~ s/^([.'])/\\&$1/;
    return $text;
}
sub words {
    my ($text) = @_;
    $text =~ s/\[([^\]]*)\]\([^)]*\)/$1/g; # links
    my $out = '';
    for my $part (split /(`[^`]*`|\*\*[^*]*\*\*|\*[^*]+\*)/, $text) {
        if ($part =~ /^`(.*)`$/) { $out .= '\fB' . plain($1) . '\fR' }
        elsif ($part =~ /^\*\*(.*)\*\*$/) { $out .= '\fB' . plain($1) . '\fR' }
        elsif ($part =~ /^\*(.+)\*$/) { $out .= '\fI' . plain($1) . '\fR' }
        else { $out .= plain($part) }
    }
    $out =~ s/^([.'])/\\&$1/;
    return $out;
}
print ".\\\" SPDX-License-Identifier: MIT\n.TH FICKLEGATE 7 \"\" \"Fickle Gate $version\"\n.SH NAME\nficklegate \\- the gate language\n";
my ($code, $break) = (0, 1);
while (my $line = <$in>) {
    chomp $line;
    if ($line =~ /^```/) {
        print $code ? ".EE\n.RE\n" : ".RS 4\n.EX\n";
        $code = !$code;
        $break = 1;
    } elsif ($code) {
        $line =~ s/\\/\\e/g;
        $line =~ s/-/\\-/g;
        $line =~ s/^([.'])/\\&$1/;
        print "$line\n";
    } elsif ($line =~ /^# /) {
        next;
    } elsif ($line =~ /^## (.*)/) {
        print ".SH ", uc words($1), "\n";
        $break = 1;
    } elsif ($line =~ /^#+ (.*)/) {
        print ".SS ", words($1), "\n";
        $break = 1;
    } elsif ($line =~ /^\|[-| :]+\|$/) {
        next;
    } elsif ($line =~ /^\|(.*)\|$/) {
        my @cells = split /(?<!\\)\|/, $1;
        s/\\\|/|/g, s/^ +| +$//g for @cells;
        print ".TP\n", words(shift @cells) || '\&', "\n", join('; ', map { words($_) } @cells), "\n";
        $break = 1;
    } elsif ($line =~ /^ *(?:-|\d+\.) (.*)/) {
        print ".IP \\(bu 2\n", words($1), "\n";
        $break = 1;
    } elsif ($line =~ /^\s*$/) {
        $break = 0;
    } else {
        print ".PP\n" unless $break;
        $line =~ s/^ +//;
        print words($line), "\n";
        $break = 1;
    }
}
print ".SH SEE ALSO\n.BR fickle (1),\n.BR ficklegate (3)\n";
