#!/usr/bin/perl
# SPDX-License-Identifier: MIT
# subject.pl HEADER: subject.c for a gate's straight code, from the names in its header.
# subject.pl --lights HEADER: the outputs of which it tells one light from many, `saved` if the bytes that it saves are the engine's, `details` if it was baked with them.
use strict;
use warnings;

my $lights = $ARGV[0] eq '--lights' && shift;
my ($path) = @ARGV;
open my $in, '<', $path or die "$path: $!";
my $text = do { local $/; <$in> };
my ($name) = $text =~ /typedef struct (\w+)_state \{/;
my ($capitals) = $text =~ /enum \{ (\w+)_UNSURE = 0/;

my ($packed, $aligned) = $text =~ /of the gate remembers: (\d+) bytes on an 8-bit chip, (\d+) where/;

sub names { # of an enum, by the word in the middle
    my ($kind) = @_;
    my ($body) = $text =~ /enum \w+ \{\n((?:    ${capitals}_${kind}_\w+(?: = \d+)?,[^\n]*\n)+)\} \w+;/ or return;
    return $body =~ /^    (\w+)/mg;
}
sub has { my ($function) = @_; return $text =~ /\b${name}_$function\(/ }
my @outputs = names('OUTPUT');
my ($single) = $text =~ /${name}_single\(.*?\n\}/s ? $& : '';

# The zero of a sensor that nothing looks at is not there, so it is saved as 0: the engine saves another number.
my $keeps_all = $text =~ /_saved_put\(bytes \+ \d+, 0, 4\)/ ? 0 : 1;

if ($lights) {
    print join(' ', (grep { $single =~ /case $outputs[$_]:/ } 0 .. $#outputs), $keeps_all ? 'saved' : (), has('changed') ? 'details' : ()), "\n";
    exit;
}
my ($header) = $path =~ m{([^/]+)$};
print <<"C";
#include "subject.h"
#include "$header"

static ${name}_state gate, kept;

/* Its size is what the header says. */
#ifdef __AVR__
typedef char size_as_said[sizeof gate == $packed ? 1 : -1];
#else
typedef char size_as_said[sizeof gate == $aligned ? 1 : -1];
#endif

bool subject_start(int argc, char **argv)
{
    (void)argc;
    (void)argv;
    ${name}_start(&gate);
    return true;
}

void subject_step(uint32_t now) { ${name}_step(&gate, now); }
void subject_keep(void) { kept = gate; }
void subject_back(void) { gate = kept; }
C
my @calls = (['feed', 'uint16_t sensor, int32_t value, bool counts, uint32_t at', 'feed', 'sensor, value, at', '(void)counts;'],
    ['fault', 'uint16_t sensor, uint32_t at', 'fault', 'sensor, at', ''],
    ['flag', 'uint16_t flag, bool yes, uint32_t at', 'feed_flag', 'flag, yes, at', ''],
    ['flag_fault', 'uint16_t flag, uint32_t at', 'fault_flag', 'flag, at', '']);
for my $call (@calls) {
    my ($what, $takes, $function, $gives, $unused) = @$call;
    my $body = has($function) ? "${name}_$function(&gate, $gives);" : join ' ', map { "(void)$_;" } split /, /, $gives;
    print "\nvoid subject_$what($takes)\n{\n    $unused\n    $body\n}\n";
}
my $saved = has('save') ? "unsigned char bytes[${capitals}_SAVED];
    ${name}_save(&gate, bytes);
    for (uint16_t i = 0; i < sizeof bytes && $keeps_all; i++) put(bytes[i]);
    if (damaged) bytes[sizeof bytes - 1] ^= 16;
    ${name}_start(&gate);
    put(${name}_restore(&gate, bytes));" : "(void)damaged;\n    (void)put;\n    ${name}_start(&gate);";
print "\nvoid subject_power(bool damaged, void (*put)(int32_t number))\n{\n    $saved\n}\n";
print "\nvoid subject_report(void (*put)(int32_t number))\n{\n";
print "    put(${name}_answer(&gate, $_));\n" for names('ANSWER');
print "    put(${name}_count(&gate, $_));\n" for names('COUNT');
for my $output (@outputs) {
    my $display = $text =~ /case $output: return s->\w+; \/\* texts \*\// ;
    my ($lines) = $text =~ /$output = \d+, \/\* a display of (\d+) lines/;
    print $lines ? "    put(0);\n" : "    put(${name}_level(&gate, $output));\n";
    print has('colour') ? "    put((int32_t)(${name}_colour(&gate, $output) & 0xffffffu));\n" : "    put(0);\n";
    print has('volume') ? "    put(${name}_level(&gate, $output) ? ${name}_volume(&gate, $output) : 100);\n" : "    put(100);\n";
    print $single =~ /case $output:/ ? "    put(${name}_level(&gate, $output) && ${name}_single(&gate, $output));\n" : "    put(0);\n";
    print "    for (uint8_t line = 0; line < $lines; line++) {\n        char text[${capitals}_TEXT_SIZE];\n        put(${name}_text(&gate, $output, line, text));\n",
        "        for (const char *at = text; *at; at++) put((unsigned char)*at);\n    }\n" if $lines;
}
if (has('changed')) {
    print "    int32_t value;\n" if names('SENSOR');
    print "    value = 0;\n    put(${name}_value(&gate, $_, &value));\n    put(value);\n" for names('SENSOR');
    print "    put(${name}_changed(&gate, $_));\n" for @outputs;
}
print "    (void)put;\n}\n";
print "\nvoid subject_line(uint32_t now, void (*out)(void *context, char c)) { ${name}_report(&gate, now, out, 0); }\n" if has('report');
