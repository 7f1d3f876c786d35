# SPDX-License-Identifier: MIT
# man-headers.pl VERSION HEADER...: what each public header is for and which functions it declares, as a manual page.
use strict;
use warnings;
use open qw(:std :encoding(UTF-8));
my $version = shift @ARGV;
sub plain {
    my ($text) = @_;
    $text =~ s/\\/\\e/g;
    $text =~ s/-/\\-/g;
    $text =~ s/^([.'])/\\&$1/gm;
    return $text;
}
print ".\\\" SPDX-License-Identifier: MIT\n.TH FICKLEGATE 3 \"\" \"Fickle Gate $version\"\n.SH NAME\nficklegate \\- rules over sensor readings, as a C library\n",
    ".SH DESCRIPTION\nEach function is described in its header.\n";
for my $path (@ARGV) {
    open my $in, '<:encoding(UTF-8)', $path or die "$path: $!";
    my $text = do { local $/; <$in> };
    (my $name = $path) =~ s{^include/}{};
    my ($about) = $text =~ m{/\*\* \@file\n(.*?)(?:\n \*\n|\n \*/)}s;
    next unless $about;
    $about =~ s/^ \* ?//gm;
    print ".SH <", uc plain($name), ">\n", plain($about), "\n";
    $text =~ s{/\*.*?\*/}{}gs;
    $text =~ s/^#.*(?:\\\n.*)*$//gm;
    my @functions = $text =~ /^((?:FG_MUST_CHECK |const |unsigned |struct )*\w+ \*?fg_\w+\([^;{]*\));/gm;
    next unless @functions;
    print ".PP\n.nf\n";
    for my $function (@functions) {
        $function =~ s/^FG_MUST_CHECK //;
        $function =~ s/\s+/ /g;
        print plain($function), ";\n";
    }
    print ".fi\n";
}
print ".SH SEE ALSO\n.BR fickle (1),\n.BR ficklegate (7)\n";
