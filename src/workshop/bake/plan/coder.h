/* SPDX-License-Identifier: MIT */
/* A gate as straight C: what is known before a line of it is written, and what all its writers share. */
#ifndef FICKLEGATE_WORKSHOP_BAKE_PLAN_CODER_H
#define FICKLEGATE_WORKSHOP_BAKE_PLAN_CODER_H

#include "workshop/bake/names.h"
#include "workshop/bake/plan/block.h"
#include "workshop/base/word_set.h"

/* A member of the state. */
typedef struct code_member {
    const char *type, *name, *comment;
    uint16_t count; /* of an array, else 0 */
    uint8_t size, aligned, alignment;
} code_member;

/* What is known about a sensor before any code is written. */
typedef struct code_sensor {
    const fg_sensor *rule;
    const fg_declared *declared;
    bool counts;         /* its numbers are counts of its converter: every limit is carried back to them */
    bool falls;          /* more counts are fewer units */
    bool narrow;         /* 16 bits hold all that matters; what is beyond counts as the last number there is */
    bool small;          /* all limits on it are numbers of 16 bits */
    bool used, valued;   /* something looks at it; at its value */
    bool looked_at;      /* that has been found out */
    bool shown;          /* its value is asked for after the step: by a display, or with details by NAME_value */
    int32_t first, last; /* counts that give a value of 32 bits */
    int64_t low, high;   /* what its value can be while there is one, as far as that is known */
    const char *newest, *heard, *at, *fresh, *old; /* members; the last three only where they are needed */
    const char *there;      /* of a sum that is never faulty by itself: what its `ok` was set to */
    const char *value, *ok; /* C for its value at this step, and for whether there is one */
} code_sensor;

typedef struct code_output {
    const fg_declared *declared;
    const char *level, *colour, *volume, *single; /* members; NULL where its levels do not differ in that */
    const char *changed;                          /* with details: the member, or "true" */
    int32_t low, high;
    bool light; /* of a bar: some level is a single light */
} code_output;

typedef struct code_flag {
    const fg_declared *declared;
    const char *newest; /* the member that is fed */
    const char *at, *fresh, *bridged, *answer;
} code_flag;

typedef struct coder {
    baker *baker;
    const fg_program *program;
    const fg_gate *gate;
    namer *namer;
    const char *name; /* of the gate, and in capitals */
    const char *capitals;
    code_block step, start, header;
    code_block *out; /* where lines go */
    code_function *functions;
    size_t function_count, function_room;
    code_symbols symbols;
    code_member *members;
    size_t member_count, member_room;
    void **taken; /* freed at the end */
    size_t taken_count, taken_room;
    fg_words names;               /* those that are taken */
    const fg_declared **owners;   /* of each op */
    const fg_declared ***by_kind; /* declarations by kind and number */
    code_sensor *sensors;
    code_flag *flags;
    code_output *outputs;
    const char **counts, **previously; /* members */
    const char **slots;                /* C of an answer where it has a variable */
    const char **started;              /* the local that says whether an answer has just become yes */
    uint8_t *asked;                    /* how many look at an answer, and CODE_BY_VALUE */
    bool *sure;                        /* which answers are never unsure */
    const char **sensor_names, **flag_names, **output_names, **answer_names; /* enumerators; answers by declaration */
    const char **latches, **zeros; /* what outlives a loss of power: by latch, by sensor; NULL: it is not there */
    const char **unsure_names, **none_names; /* of bands, by declaration */
    const char **labels;                     /* enumerators: of declared i from first_label[i] on */
    uint32_t *first_label;
    uint16_t loop;          /* ms; 1 without short loops */
    size_t packed, aligned; /* bytes of the state on an 8-bit chip, and where numbers are aligned */
    bool large;             /* that does not fit into 16 bits */
    bool full;              /* there was no memory */
    const char *stepped;    /* the member that tells the first step from others, where somebody asks */
    uint16_t settle_calls;  /* of the part for short times */
    bool settling, settling_long, settling_within, ring, playing; /* types of members */
} coder;

/* Times up to CODE_SHORT_TIME ms are kept in 16 bits. A step that comes later than CODE_LATE ms counts as one that
 * comes after CODE_SHORT_TIME ms or more, and at the same place of every short loop: of `loop` ms, or a whole part of
 * it. */
enum { CODE_SHORT_TIME = 16383, CODE_LATE = 32767, CODE_LOOP_MOST = 8191, CODE_BY_VALUE = 128 };

/* A gate with more than these is baked as tables. */
enum { CODE_ROWS_MOST = 250, CODE_TEXTS_MOST = 1000, CODE_OUTPUTS_MOST = 1000 };

/* ---- texts, words and members ---- */

/* A text that lives as long as the coder. */
#if defined(__GNUC__)
__attribute__((format(printf, 2, 3)))
#endif
const char *
fg_code_say(coder *c, const char *format, ...);

/* Memory that lives as long as the coder; NULL without. */
void *fg_code_take(coder *c, size_t size);

/* A line of code, `indent` times four blanks in. */
#if defined(__GNUC__)
__attribute__((format(printf, 3, 4)))
#endif
void fg_code_line(coder *c, int indent, const char *format, ...);

/* The same for "const TYPE NAME = VALUE;", which is left out if nothing uses it. `type`: as in "uint32_t"; `name`: see
 * fg_code_local; `size`: of an array, "[4]", or "". `remembers`: working the value out changes the state. */
typedef struct code_definition {
    const char *type, *name, *size, *value;
    bool remembers;
} code_definition;

void fg_code_define(coder *c, int indent, code_definition definition);

/* A word for C that nothing else has: what is said, in small letters, and `suffix`; a number behind it where needed. */
const char *fg_code_word(coder *c, fg_text thing, const char *suffix);

/* The same for a local of the step or a function of the gate: with \3 in front, so that its uses are known. */
const char *fg_code_local(coder *c, fg_text thing, const char *suffix);
/* Such a name without the \3. */
const char *fg_code_name(const char *local);

/* Lines go into a function of this name (see fg_code_local; NULL: it is always there) up to fg_code_function_end, which
 * is given what this returns. */
code_block *fg_code_function_begin(coder *c, const char *name);
void fg_code_function_end(coder *c, code_block *before);

/* A member of the state; returns `s->name`. `count`: of an array, or 0. */
const char *fg_code_member(coder *c, const char *type, const char *name, uint16_t count, const char *comment);

/* Its name alone. */
const char *fg_code_bare(const char *member);

/* Makes the two indexes below. False without memory. */
bool fg_code_index(coder *c);

/* A declaration by its number among its kind; NULL if there is none. */
const fg_declared *fg_code_declared(const coder *c, fg_kind kind, uint16_t index);

/* What an op belongs to: the declaration that it ends or, inside of one, the next that ends. */
const fg_declared *fg_code_owner(const coder *c, uint16_t slot);

/* The enumerator of an answer of bands. */
const char *fg_code_label(const coder *c, const fg_declared *d, fg_verdict answer);

/* The smallest type that holds low to high. */
const char *fg_code_type(int64_t low, int64_t high);

/* A number as C has it. */
const char *fg_code_number(coder *c, int64_t number);

/* The local that tells the time since the last step, in 16 or 32 bits as `time` asks, and the type of what is
 * measured by it. */
const char *fg_code_clock(fg_time time);
const char *fg_code_clock_type(fg_time time);

/* A text that ends no comment. */
const char *fg_code_safe(coder *c, fg_text text);

/* "in steps of 0.1 cm" */
const char *fg_code_steps(coder *c, const fg_declared *d);

/* The op of a slot. */
const fg_op *fg_code_op(const coder *c, uint16_t slot);

/* ---- the plan: made in this order, before any code is written ---- */

void fg_code_plan_sensors(coder *c);
void fg_code_plan_outputs(coder *c);
void fg_code_plan_conditions(coder *c);

/* ---- what the plan knows ---- */

/* Is its value, as the rules see it, a number of 16 bits? */
bool fg_code_is_narrow(const code_sensor *sensor);
/* Do its values only rise or only fall with the counts? Sets `falls`. */
bool fg_code_one_way(code_sensor *sensor);
/* Sets `first` and `last`: the counts that give a value of 32 bits, those around 0. False if 0 gives none. */
bool fg_code_find_ends(code_sensor *sensor);
/* The range of counts that gives a range of values; false if none does. */
bool fg_code_carry_back(const code_sensor *sensor, fg_range range, fg_range *counts);
/* Is an answer never unsure? An index of none is. */
bool fg_code_is_sure(const coder *c, uint16_t slot);
/* Is it shorter to write an answer where it is asked than to give it a variable? */
bool fg_code_is_short(const coder *c, uint16_t slot);

/* The greatest number that both are a multiple of. */
int64_t fg_code_common(int64_t a, int64_t b);
/* What the number means that an output of this kind is at: its unit, and what the header says of it. */
typedef struct code_output_texts {
    const char *unit, *meaning;
} code_output_texts;

const code_output_texts *fg_code_output_texts(fg_output_kind kind);

/* How long a level that plays the same again and again takes, in ms; else 0. */
uint32_t fg_code_loop(const coder *c, const fg_level *level);
void fg_code_levels_of_sequence(const coder *c, const fg_level *play, void (*see)(void *context, const fg_level *level),
                                void *context);
/* The number that a level is on its output: %, Hz, degrees, lights, of a display the number of its text. */
int32_t fg_code_level_number(const coder *c, uint16_t output, const fg_level *level);

/* The texts of a display, each once, in the order of its rows. */
typedef struct code_shows {
    uint32_t shows[CODE_TEXTS_MOST];
    int32_t count;
} code_shows;

void fg_code_find_shows(const coder *c, uint16_t output, code_shows *found);
/* How many texts a display may have at the most. */
uint32_t fg_code_text_count(const fg_gate *gate, uint16_t output);
/* How many bytes a line of a display takes at the most, and the longest of all displays with its end. */
unsigned fg_code_line_bytes(const coder *c, const fg_output *output);
unsigned fg_code_text_size(const coder *c);

#endif
