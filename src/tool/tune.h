/* SPDX-License-Identifier: MIT */
/* What the parts of `fickle tune` share: tune.c is the command, tune_work.c reads and works out, tune_print.c prints,
 * tune_numbers.c writes, tune_new.c makes bands. */
#ifndef FICKLEGATE_TOOL_TUNE_H
#define FICKLEGATE_TOOL_TUNE_H

#include "tool.h"

#include <ficklegate/tune.h>

enum { TUNE_MOST = 64 };

typedef struct tune_options {
    tool_options common;
    const char *recordings[TUNE_MOST];
    fg_setting labels[TUNE_MOST];  /* name: a rule or empty, value: the column */
    fg_setting samples[TUNE_MOST]; /* name: the label, value: the file */
    const char *rules[TUNE_MOST];
    size_t recording_count, label_count, sample_count, rule_count;
    bool write, check, force;
    fg_text new_name, new_sensor; /* bands to be made; the sensor may be empty */
    const char *try;              /* NUMBER=A..B by S */
    const char *output;           /* a picture of the spread */
    bool dark, only_picture;
    uint32_t width, height;
} tune_options;

typedef struct tuner {
    const tune_options *options;
    const fg_gate_file *file;
    FILE *output;
    fg_tuning **tunings;
    bool *named; /* asked for by name */
    fg_tuned *tuned;
    size_t count;
    uint64_t rows;
} tuner;

/* Reads everything and works the rules out. False: told. Give back with tune_free whatever came out. */
bool tune_work_out(tuner *t);
void tune_free(tuner *t);
/* What was found out, rule by rule. */
void tune_print(const tuner *t);
/* The new numbers: as a difference, or into the file. The exit status. */
int tune_numbers(const tuner *t);
/* What each value of --try would do. The exit status. */
int tune_try(const tune_options *options, const fg_gate_file *file);
/* Bands of --new. The exit status. */
int tune_new(const tune_options *options, const fg_gate_file *file);
/* The picture of -o. The exit status. */
int tune_draw(const tuner *t);

#endif
