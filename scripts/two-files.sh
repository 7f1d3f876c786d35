#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# two-files.sh FOLDER: writes ficklegate.h and ficklegate.c there, all that a board project has to copy. The language is in them
# too, behind FICKLEGATE_LANGUAGE, which has to be defined before ficklegate.h is included, and for ficklegate.c.
set -euo pipefail
cd "$(dirname "$0")/.."
mkdir -p "$1"
perl - "$1" <<'P'
use strict;
my ($folder) = @ARGV;
my ($version) = slurp('include/ficklegate/version.h') =~ /FG_VERSION\s+"([^"]+)"/;

sub slurp { open my $in, '<', $_[0] or die "$_[0]: $!"; local $/; my $text = <$in>; $text }

# A file without includes of our own; they stand above it. Those of the system stay.
sub body {
    my $text = slurp($_[0]) =~ s/^\/\* SPDX-License-Identifier: [^\n]*\n//mr;
    $text =~ s/^ *# *include *(<ficklegate[^>]*>|"[^"]*")[^\n]*\n//mg;
    return "\n/* ---- $_[0] ---- */\n\n$text";
}

# The names a file keeps to itself: functions, variables, types, enumerators.
sub own_names {
    my $bare = slurp($_[0]);
    $bare =~ s{/\*.*?\*/}{}gs;
    $bare =~ s/"(\\.|[^"\\])*"/""/g;
    my %names;
    $names{$1} = 1 while $bare =~ /^static [^;={(]*?(\w+) *(?:\(|\[|=|;)/mg;
    $names{$1} = 1 while $bare =~ /^\} (\w+)(?:\[\w*\])? *[=;]/mg;
    while ($bare =~ /^(?:typedef )?enum (?:\w+ )?\{([^}]*)\}/mg) {
        my $list = $1;
        $names{$1} = 1 while $list =~ /(?:^|,)\s*(\w+)/g;
    }
    $names{$1} = 1 while $bare =~ /^(?:typedef )?(?:struct|enum) (\w+) \{/mg;
    return %names;
}

# Files one behind the other; the names they keep to themselves get the file's name in front, but where they are members
# (behind . or ->).
sub together {
    my @files = @_;
    my $all = '';
    for my $file (@files) {
        my %names = own_names($file);
        my ($base) = $file =~ m{(\w+)\.c$};
        my $text = body($file);
        for my $name (grep { !/^(fg_|FG_)/ } keys %names) { $text =~ s/(?<![\w.>"])\b$name\b(?!")/${base}_$name/g }
        my @macros = $text =~ /^ *# *define (\w+)/mg;
        $all .= $text . join('', map {"#undef $_\n"} @macros);
    }
    return $all;
}

# A header behind those it includes, each once. `find` gives the path of an include.
my %printed;
sub with_includes {
    my ($file, $find) = @_;
    return '' if $printed{$file}++;
    my $before = '';
    for my $include (slurp($file) =~ /^ *# *include *[<"]([^>"]+)[>"]/mg) {
        my $path = $find->($include, $file);
        $before .= with_includes($path, $find) if defined $path;
    }
    return $before . ($file =~ /\.h$/ ? body($file) : '');
}
sub public { my ($include) = @_; return $include =~ /^ficklegate\// ? "include/$include" : undef }
sub private { # beside the file, or from src on
    my ($include, $file) = @_;
    return undef if $include =~ /^ficklegate/;
    my ($folder) = $file =~ m{(.*)/};
    my ($path) = grep { -e $_ } "$folder/$include", "src/$include";
    return $path;
}
sub files { return sort split /\n/, `find $_[0] -name '*.c'` }

my $licence = slurp('LICENSE') =~ s/\n---\n.*//sr =~ s/\s+$//r =~ s/^(?=.)/ * /mgr =~ s/^$/ */mgr;
my $mark = "/* SPDX-License-Identifier: MIT */\n/* Fickle Gate $version, made by scripts/two-files.sh from its sources.\n *\n$licence */\n";
open my $h, '>', "$folder/ficklegate.h" or die;
print $h $mark, "#ifndef FICKLEGATE_TWO_FILES_H\n#define FICKLEGATE_TWO_FILES_H\n";
print $h with_includes('include/ficklegate.h', \&public) =~ s/^\n\/\* ---- include\/ficklegate\.h ---- .*//msr;
print $h "\n#ifdef FICKLEGATE_LANGUAGE\n", with_includes('include/ficklegate/language.h', \&public), "\n#endif\n\n#endif\n";
close $h or die;

open my $c, '>', "$folder/ficklegate.c" or die;
print $c $mark, "#include \"ficklegate.h\"\n";
print $c with_includes($_, \&private) for files('src/core');
print $c together(files('src/core'));
print $c "\n#ifdef FICKLEGATE_LANGUAGE\n";
print $c with_includes($_, \&private) for files('src/language');
print $c together(files('src/language'));
print $c "\n#endif\n";
close $c or die;
P
