/* A gate as straight C: what its writers share. code.c puts it together, code_header.c has the header, code_names.c
 * names, code_parts.c the functions that are copied in, code_quote.c the comments, code_condition.c yes and no, and the
 * others one kind of line each. */
#ifndef FICKLEGATE_WORKSHOP_CODER_H
#define FICKLEGATE_WORKSHOP_CODER_H

#include "workshop/base/words.h"
#include "baker.h"

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
    bool used, valued;   /* something looks at it; at its value */
    bool looked_at;      /* that has been found out */
    bool shown;          /* a display asks for its value after the step */
    int32_t first, last; /* counts that give a value of 32 bits */
    int64_t low, high;   /* what its value can be while there is one, as far as that is known */
    const char *newest, *heard, *at, *old; /* members; the last two only where they are needed */
    const char *value, *ok;                /* C for its value at this step, and for whether there is one */
} code_sensor;

typedef struct code_output {
    const fg_declared *declared;
    const char *level, *colour, *volume, *single; /* members; NULL where its levels do not differ in that */
    int32_t low, high;
    bool light; /* of a bar: some level is a single light */
} code_output;

typedef struct code_flag {
    const fg_declared *declared;
    const char *newest; /* the member that is fed */
    const char *at, *bridged, *answer;
} code_flag;

/* Yes or no in C: a text, and how it is joined to others. */
typedef enum code_join { CODE_ATOM, CODE_AND, CODE_OR, CODE_TRUE, CODE_FALSE } code_join;

typedef struct code_test {
    code_join join;
    const char *text;
} code_test;

/* What holds at every step, and what at none. */
static const code_test code_always = {CODE_TRUE, "true"}, code_never = {CODE_FALSE, "false"};

typedef struct coder {
    baker *baker;
    const fg_program *program;
    const fg_gate *gate;
    namer *namer;
    const char *name; /* of the gate, and in capitals */
    const char *capitals;
    fg_buffer functions, step, start, header, source;
    fg_buffer *out; /* where lines go */
    code_member *members;
    size_t member_count, member_room;
    char **texts_made; /* freed at the end */
    size_t text_count, text_room;
    fg_words names;               /* those that are taken */
    fg_words part_names;          /* the functions that can be copied in */
    const fg_declared **owners;   /* of each line */
    const fg_declared ***by_kind; /* declarations by kind and number */
    code_sensor *sensors;
    code_flag *flags;
    code_output *outputs;
    const char **counts, **previously; /* members */
    const char **slots;                /* C of a line's answer where it has a variable */
    uint8_t *asked;                    /* how many look at a line, and CODE_BY_VALUE */
    bool *sure;                        /* which lines are never unsure */
    const char **sensor_names, **flag_names, **output_names, **answer_names; /* enumerators; answers by declaration */
    const char **labels; /* enumerators: of declared i from first_label[i] on */
    uint32_t *first_label;
    uint16_t loop;     /* ms; 1 without short loops */
    bool large;        /* the state does not fit into 16 bits of bytes */
    bool passed, full; /* the step needs the time that has passed in 16 bits; there was no memory */
    bool settling, settling_long, settling_within, ring, playing; /* types of members */
} coder;

/* Times up to CODE_SHORT_TIME ms are kept in 16 bits. A step that comes later than CODE_LATE ms counts as one that
 * comes after CODE_SHORT_TIME ms or more, and at the same place of every short loop: of `loop` ms, or a whole part of
 * it. */
enum { CODE_SHORT_TIME = 16383, CODE_LATE = 32767, CODE_LOOP_MOST = 8191, CODE_BY_VALUE = 128 };

/* ---- code_names.c ---- */

/* A text that lives as long as the coder. */
#if defined(__GNUC__)
__attribute__((format(printf, 2, 3)))
#endif
const char *
fg_code_say(coder *c, const char *format, ...);

/* A line of code, `indent` times four blanks in. */
#if defined(__GNUC__)
__attribute__((format(printf, 3, 4)))
#endif
void fg_code_line(coder *c, int indent, const char *format, ...);

/* A word for C that nothing else has: what is said, in small letters, and `suffix`; a number behind it where needed. */
const char *fg_code_word(coder *c, fg_text thing, const char *suffix);

/* A member of the state; returns `s->name`. `count`: of an array, or 0. */
const char *fg_code_member(coder *c, const char *type, const char *name, uint16_t count, const char *comment);

/* Its name alone. */
const char *fg_code_bare(const char *member);

/* Makes the two indexes below. False without memory. */
bool fg_code_index(coder *c);

/* A declaration by its number among its kind; NULL if there is none. */
const fg_declared *fg_code_declared(const coder *c, fg_kind kind, uint16_t index);

/* What a line of the program belongs to: the declaration that it ends or, inside of one, the next that ends. */
const fg_declared *fg_code_owner(const coder *c, uint16_t line);

/* The enumerator of an answer of bands. */
const char *fg_code_label(const coder *c, const fg_declared *d, fg_verdict answer);

/* The smallest type that holds low to high. */
const char *fg_code_type(int64_t low, int64_t high);

/* A number as C has it. */
const char *fg_code_number(coder *c, int64_t number);

/* ---- code_quote.c ---- */

/* What a declaration says, in one line without comments, at most `most` characters. */
const char *fg_code_quote(coder *c, const fg_declared *declared, size_t most);
/* A text that ends no comment. */
const char *fg_code_safe(coder *c, fg_text text);
/* "in steps of 0.1 cm" */
const char *fg_code_steps(coder *c, const fg_declared *d);
/* A comment in front of what it becomes. */
void fg_code_comment(coder *c, int indent, const fg_declared *declared);

/* ---- code_prune.c ---- */

/* Leaves out of the code of a function the constants that nothing uses. False without memory. */
bool fg_code_prune(fg_buffer *code);
/* The same for the static functions that neither the step nor the texts call. */
bool fg_code_prune_functions(fg_buffer *functions, fg_text step, fg_text texts);

/* ---- code_parts.c ---- */

/* How long the comment, string or character constant is that begins at a place of code; 0 if none does. */
size_t fg_code_aside(fg_text code, size_t at);

/* Adds the parts that a text calls, and those that they call, to `parts`, and the text to `code`, with the gate's name
 * in place of fg_. False without memory. */
bool fg_code_parts(coder *c, const char *text, fg_buffer *parts, fg_buffer *code);
/* Does a word stand in a text? */
bool fg_code_has_word(fg_text text, const char *word);
/* Adds the names of all parts. False without memory. */
bool fg_code_part_names(fg_words *names);

/* ---- code_header.c, code_scale.c ---- */

/* Does this declaration have an answer that can be asked for? */
bool fg_code_has_answer(const fg_declared *declared);
/* The header, into c->header; `texts`: there are displays. */
void fg_code_header(coder *c, bool texts);
/* Are a sensor's counts turned into units as they are fed? */
bool fg_code_converts(const coder *c, const code_sensor *sensor);
/* The functions that do so. */
void fg_code_conversions(coder *c);

/* ---- code_condition.c ---- */

code_test fg_code_yes(coder *c, uint16_t slot);
code_test fg_code_no(coder *c, uint16_t slot);
/* Is it unsure, where it is known not to be yes? */
code_test fg_code_open(coder *c, uint16_t slot);
/* C for its answer. */
const char *fg_code_value(coder *c, uint16_t slot);
code_test fg_code_atom(const char *text);
code_test fg_code_both(coder *c, code_test a, code_test b);
code_test fg_code_either(coder *c, code_test a, code_test b);
code_test fg_code_not(coder *c, code_test a);
/* Is a value in a range? `sensor`: whose, for the limits to be carried back; NULL for others. */
code_test fg_code_in(coder *c, const code_sensor *sensor, const char *value, fg_range range);
code_test fg_code_out_of(coder *c, const code_sensor *sensor, const char *value, fg_range range); /* the opposite */
/* Decides which lines get a variable. */
void fg_code_plan_conditions(coder *c);
/* A line of the program that hangs on answers or on the clock. */
void fg_code_condition(coder *c, uint16_t slot);

/* ---- code_sensor.c, code_sum.c, code_rule.c, code_output.c, code_text.c ---- */

void fg_code_plan_sensors(coder *c);
void fg_code_sensor(coder *c, uint16_t number);
void fg_code_flag(coder *c, uint16_t number);
/* Is its value, as the rules see it, a number of 16 bits? */
bool fg_code_is_narrow(const code_sensor *sensor);
/* What a sensor is worked out from: code that sets its value and whether there is one. */
void fg_code_sum(coder *c, uint16_t number, const char *result, const char *ok);
/* The range of counts that gives a range of values; false if none does. */
bool fg_code_carry_back(const code_sensor *sensor, fg_range range, fg_range *counts);

void fg_code_rule(coder *c, uint16_t slot);

void fg_code_plan_outputs(coder *c);
void fg_code_output(coder *c, uint16_t number);
/* A function for a clamped line; returns a call of it with the present value of its source. */
const char *fg_code_follow(coder *c, uint16_t number, const char *name);
/* Whether the source of a follow is there. */
code_test fg_code_follow_source(coder *c, uint16_t number);
void fg_code_levels_of_sequence(const coder *c, const fg_level *play, void (*see)(void *context, const fg_level *level),
                                void *context);

/* The functions that write the texts of displays; false if there are none. */
bool fg_code_texts(coder *c);
/* How many bytes the longest line takes, its end included. */
unsigned fg_code_text_size(const coder *c);

#endif
