/* SPDX-License-Identifier: MIT */
/** @file
 * What there is: kinds of declaration, ops, levels and comparisons, one row each.
 *
 * Everything that has to know what a kind *is* is made of these rows: enumerations, words, predicates, tables. A row
 * tells its word in the gate language and its traits; whoever needs something of a kind asks for the trait. The order
 * of the rows is the order of the numbers, and no other list repeats it.
 *
 *     void list_words(void)
 *     {
 *         for (int kind = 0; kind < FG_KINDS_IN_ALL; kind++)
 *             if (fg_kind_is((fg_kind)kind, FG_KIND_IS_OUTPUT)) printf("%s\n", fg_kind_word((fg_kind)kind));
 *     }
 */
#ifndef FICKLEGATE_KINDS_H
#define FICKLEGATE_KINDS_H

#include <ficklegate/text.h>
#include <ficklegate/value.h>

FG_PUBLIC_BEGIN

/** Counts the rows of a list. */
#define FG_ONE_MORE(...) +1

/* ---- rules on a sensor ---- */

/** X(NAME, name, table): the op and the kind are FG_OP_NAME and FG_KIND_NAME; the rule is an fg_name with fg_name_step,
 * fg_name_fault and fg_name_ranges; a gate keeps the rules in gate.table and a run their states in run.table. */
#define FG_SENSOR_RULES(X)                                                                                             \
    X(THRESHOLD, threshold, thresholds)                                                                                \
    X(HYSTERESIS, hysteresis, hysteresis)                                                                              \
    X(BANDS, bands, bands)

/* ---- what listens to conditions, and remembers ---- */

/** X(NAME, table, type): the op and the kind are FG_OP_NAME and FG_KIND_NAME; a gate keeps them in gate.table. */
#define FG_LISTENERS(X)                                                                                                \
    X(LATCH, latches, fg_latch)                                                                                        \
    X(COUNT, counters, fg_counter)                                                                                     \
    X(PULSE, pulses, fg_pulser)

/* ---- ops ---- */

/** Traits of an op: what its fields are, and what its answer depends on. */
enum {
    FG_OP_ON_SENSOR = 1,      /**< `a` is a sensor, and the answer follows its value */
    FG_OP_RULE = 2,           /**< on a sensor: a threshold, hysteresis or bands */
    FG_OP_FROM_ANSWERS = 4,   /**< the answer depends on nothing but earlier answers */
    FG_OP_A_IS_SLOT = 8,      /**< `a` is a slot */
    FG_OP_B_IS_SLOT = 16,     /**< `b` is a slot, or FG_INDEX_NONE */
    FG_OP_JOINS = 32,         /**< joins answers, and has no memory: and, or, not */
    FG_OP_MAY_BE_UNSURE = 64, /**< may be unsure whatever it looks at */
    FG_OP_ALWAYS_SURE = 128   /**< never unsure, even where what it looks at is */
};

/** X(NAME, word, traits). An op works out one answer and keeps it under its own number, its slot. It looks only at
 * slots before its own, so the order of the ops is an order of dependence. */
#define FG_OPS(X)                                                                                                      \
    X(SENSOR, "sensor", 0)                                       /* rule: sensor. FG_YES is ok, FG_NO is faulty */     \
    X(FLAG, "flag", FG_OP_MAY_BE_UNSURE)                         /* rule: flag */                                      \
    X(THRESHOLD, "threshold", FG_OP_SENSOR_RULE)                 /* a: sensor, rule: threshold */                      \
    X(HYSTERESIS, "hysteresis", FG_OP_SENSOR_RULE)               /* a: sensor, rule: hysteresis */                     \
    X(BANDS, "bands", FG_OP_SENSOR_RULE)                         /* a: sensor, rule: bands */                          \
    X(COMPARE, "compare", FG_OP_ON_SENSOR | FG_OP_MAY_BE_UNSURE) /* a: sensor, rule: comparison */                     \
    X(COMPARE_COUNT, "compare", 0)                               /* a: count, rule: comparison */                      \
    X(FLAG_FAULTY, "faulty", 0)                                  /* rule: flag */                                      \
    X(FOR, "for", FG_OP_A_IS_SLOT)                               /* a: slot, rule: time */                             \
    X(PULSE, "pulse", 0)                                         /* rule: pulse */                                     \
    X(OUTPUT, "output", 0)                                       /* rule: output; the answer means nothing */          \
    X(OUTPUT_IS, "is", 0)                                        /* a: output, rule: pattern of a level; in trials */  \
    X(OUTPUT_PLAYS, "plays", 0)                                  /* a: output, rule: sequence; in trials */            \
    X(IS, "is", FG_OP_FROM_ANSWERS | FG_OP_A_IS_SLOT) /* a: bands, rule: first of b labels; yes if it answers one */   \
    X(NOT, "not", FG_OP_FROM_ANSWERS | FG_OP_JOINS | FG_OP_A_IS_SLOT)                   /* a: slot */                  \
    X(AND, "and", FG_OP_FROM_ANSWERS | FG_OP_JOINS | FG_OP_A_IS_SLOT | FG_OP_B_IS_SLOT) /* a, b: slots */              \
    X(OR, "or", FG_OP_FROM_ANSWERS | FG_OP_JOINS | FG_OP_A_IS_SLOT | FG_OP_B_IS_SLOT)   /* a, b: slots */              \
    X(AT_LEAST, "at least", FG_OP_FROM_ANSWERS)    /* rule: first of b slots in the list; a: how many yes */           \
    X(SENSOR_FAULTY, "faulty", FG_OP_FROM_ANSWERS) /* rule: sensor */                                                  \
    X(UNSURE, "unsure",                                                                                                \
      FG_OP_FROM_ANSWERS | FG_OP_A_IS_SLOT | FG_OP_ALWAYS_SURE)           /* a: slot; yes if it is unsure, else no */  \
    X(PREVIOUSLY, "previously", FG_OP_FROM_ANSWERS | FG_OP_MAY_BE_UNSURE) /* rule: previously; one step ago */         \
    X(STARTS, "starts", FG_OP_FROM_ANSWERS | FG_OP_A_IS_SLOT)             /* a: slot, rule: edge */                    \
    X(ENDS, "ends", FG_OP_FROM_ANSWERS | FG_OP_A_IS_SLOT)                 /* a: slot, rule: edge */                    \
    X(LATCH, "latch", FG_OP_FROM_ANSWERS | FG_OP_A_IS_SLOT | FG_OP_B_IS_SLOT) /* a: set, b: clear, rule: latch */      \
    X(COUNT, "count", FG_OP_FROM_ANSWERS) /* rule: count; the answer means nothing */

#define FG_OP_SENSOR_RULE (FG_OP_ON_SENSOR | FG_OP_RULE | FG_OP_MAY_BE_UNSURE)

typedef enum fg_op_kind {
#define FG_OP_CODE(name, word, traits) FG_OP_##name,
    FG_OPS(FG_OP_CODE)
#undef FG_OP_CODE
} fg_op_kind;

enum { FG_OP_KINDS = 0 FG_OPS(FG_ONE_MORE) };

/** The traits of an op. `kind`: below FG_OP_KINDS. */
uint8_t fg_op_traits(fg_op_kind kind);

/** Has an op any of these traits? */
static inline bool fg_op_is(uint8_t kind, uint8_t traits) { return fg_op_traits((fg_op_kind)kind) & traits; }

/* ---- outputs ---- */

/** Traits of a kind of declaration. */
enum {
    FG_KIND_ON_SENSOR = 1, /**< a rule on one sensor */
    FG_KIND_IS_OUTPUT = 2, /**< switched by rows of levels */
    FG_KIND_GUARDED = 4,   /**< an output that moves or carries power: it rests where a row is unsure */
    FG_KIND_YES_NO = 8,    /**< answers yes or no, and may be a condition by itself */
    FG_KIND_LABELS = 16,   /**< answers one of its labels */
    FG_KIND_READ = 32,     /**< comes from outside, and may be faulty */
    FG_KIND_MEASURED = 64, /**< has a number that can be compared, shown and followed */
    FG_KIND_LISTENS = 128, /**< remembers; its rows are conditions that it listens to */
    FG_KIND_FIRST = 256    /**< its rows hold no conditions, so it is read before all that does */
};

/** X(NAME, word, traits, op). Its levels are those of FG_FORMS that name it. */
#define FG_OUTPUTS(X)                                                                                                  \
    X(LAMP, "lamp", FG_KIND_IS_OUTPUT, FG_OP_OUTPUT)                                                                   \
    X(RELAY, "relay", FG_KIND_IS_OUTPUT | FG_KIND_GUARDED, FG_OP_OUTPUT)                                               \
    X(BUZZER, "buzzer", FG_KIND_IS_OUTPUT, FG_OP_OUTPUT)                                                               \
    X(MOTOR, "motor", FG_KIND_IS_OUTPUT | FG_KIND_GUARDED, FG_OP_OUTPUT)                                               \
    X(SERVO, "servo", FG_KIND_IS_OUTPUT | FG_KIND_GUARDED, FG_OP_OUTPUT)                                               \
    X(BAR, "bar", FG_KIND_IS_OUTPUT, FG_OP_OUTPUT)                                                                     \
    X(DISPLAY, "display", FG_KIND_IS_OUTPUT, FG_OP_OUTPUT)

typedef enum fg_output_kind {
#define FG_OUTPUT_CODE(name, word, traits, op) FG_OUTPUT_##name,
    FG_OUTPUTS(FG_OUTPUT_CODE)
#undef FG_OUTPUT_CODE
} fg_output_kind;

enum { FG_OUTPUT_KINDS = 0 FG_OUTPUTS(FG_ONE_MORE) };

/* ---- declarations ---- */

/** X(NAME, word, traits, op): the op that works out its answer, or FG_OP_KINDS if it has none. The outputs stand last,
 * so that an output's number among outputs is its kind less FG_KIND_LAMP. */
#define FG_KINDS(X)                                                                                                    \
    X(NUMBER, "number", FG_KIND_FIRST, FG_OP_KINDS)                                                                    \
    X(SENSOR, "sensor", FG_KIND_FIRST | FG_KIND_READ | FG_KIND_MEASURED, FG_OP_SENSOR)                                 \
    X(FLAG, "flag", FG_KIND_FIRST | FG_KIND_READ | FG_KIND_YES_NO, FG_OP_FLAG)                                         \
    X(THRESHOLD, "threshold", FG_KIND_FIRST | FG_KIND_ON_SENSOR | FG_KIND_YES_NO, FG_OP_THRESHOLD)                     \
    X(HYSTERESIS, "hysteresis", FG_KIND_FIRST | FG_KIND_ON_SENSOR | FG_KIND_YES_NO, FG_OP_HYSTERESIS)                  \
    X(BANDS, "bands", FG_KIND_FIRST | FG_KIND_ON_SENSOR | FG_KIND_LABELS, FG_OP_BANDS)                                 \
    X(CONDITION, "condition", FG_KIND_YES_NO, FG_OP_KINDS)                                                             \
    X(LATCH, "latch", FG_KIND_LISTENS | FG_KIND_YES_NO, FG_OP_LATCH)                                                   \
    X(COUNT, "count", FG_KIND_LISTENS | FG_KIND_MEASURED, FG_OP_COUNT)                                                 \
    X(PULSE, "pulse", FG_KIND_LISTENS | FG_KIND_YES_NO, FG_OP_PULSE)                                                   \
    X(SEQUENCE, "sequence", 0, FG_OP_KINDS)                                                                            \
    FG_OUTPUTS(X)

typedef enum fg_kind {
#define FG_KIND_CODE(name, word, traits, op) FG_KIND_##name,
    FG_KINDS(FG_KIND_CODE)
#undef FG_KIND_CODE
} fg_kind;

enum { FG_KINDS_IN_ALL = 0 FG_KINDS(FG_ONE_MORE) };

/** A set of kinds, a bit each. */
#define FG_KIND_BIT(kind) (UINT32_C(1) << (kind))

/** The kinds with one of these traits, as a set; a constant. */
#define FG_KINDS_WITH(wanted)                                    (UINT32_C(0) FG_KINDS(FG_KIND_BIT_IF_##wanted))
#define FG_KIND_BIT_IF(name, traits, wanted)                     | ((traits) & (wanted) ? FG_KIND_BIT(FG_KIND_##name) : UINT32_C(0))
#define FG_KIND_BIT_IF_FG_KIND_ON_SENSOR(name, word, traits, op) FG_KIND_BIT_IF(name, traits, FG_KIND_ON_SENSOR)
#define FG_KIND_BIT_IF_FG_KIND_IS_OUTPUT(name, word, traits, op) FG_KIND_BIT_IF(name, traits, FG_KIND_IS_OUTPUT)
#define FG_KIND_BIT_IF_FG_KIND_YES_NO(name, word, traits, op)    FG_KIND_BIT_IF(name, traits, FG_KIND_YES_NO)
#define FG_KIND_BIT_IF_FG_KIND_LABELS(name, word, traits, op)    FG_KIND_BIT_IF(name, traits, FG_KIND_LABELS)
#define FG_KIND_BIT_IF_FG_KIND_READ(name, word, traits, op)      FG_KIND_BIT_IF(name, traits, FG_KIND_READ)
#define FG_KIND_BIT_IF_FG_KIND_MEASURED(name, word, traits, op)  FG_KIND_BIT_IF(name, traits, FG_KIND_MEASURED)

/** The traits of a kind. `kind`: below FG_KINDS_IN_ALL. */
uint16_t fg_kind_traits(fg_kind kind);

/** Has a kind any of these traits? */
static inline bool fg_kind_is(fg_kind kind, uint16_t traits) { return fg_kind_traits(kind) & traits; }

/** The word that begins a declaration of this kind. */
const char *fg_kind_word(fg_kind kind);

/** The op that works out the answer of a name of this kind; FG_OP_KINDS if none does. */
fg_op_kind fg_kind_op(fg_kind kind);

/** The kind of declaration that this op works out; FG_KINDS_IN_ALL if it is a part of a condition. */
fg_kind fg_op_declared_kind(fg_op_kind op);

/* ---- levels ---- */

/** Traits of a form of level: what stands beside its word, and what it does by itself. */
enum {
    FG_FORM_HAS_PERCENT = 1, /**< a strength; zero is the rest */
    FG_FORM_HAS_COLOUR = 2,
    FG_FORM_HAS_NUMBER = 4, /**< Hz, degrees, lights */
    FG_FORM_IS_NUMBER = 8,  /**< begins with its number, and has no word of its own */
    FG_FORM_IN_ROWS = 16,   /**< stands in rows only: an output is never at it, and a sequence has none */
    FG_FORM_MOVES = 32,     /**< may bring another level at each step */
    FG_FORM_IS_REST = 64
};

#define FG_OF(output) (1u << FG_OUTPUT_##output)
#define FG_OF_ALL     ((1u << FG_OUTPUT_KINDS) - 1u)

/** X(NAME, word, outputs, traits): the form's word and whose it is. What stands in rows only comes last, so that
 * what an output is at is always below FG_FORM_HOLD. */
#define FG_FORMS(X)                                                                                                    \
    X(OFF, "off", FG_OF(LAMP) | FG_OF(RELAY) | FG_OF(BAR), FG_FORM_IS_REST)                                            \
    X(ON, "on", FG_OF(LAMP) | FG_OF(RELAY), FG_FORM_HAS_PERCENT | FG_FORM_HAS_COLOUR)                                  \
    X(QUIET, "quiet", FG_OF(BUZZER), FG_FORM_IS_REST)                                                                  \
    X(TONE, "tone", FG_OF(BUZZER), FG_FORM_IS_NUMBER | FG_FORM_HAS_NUMBER | FG_FORM_HAS_PERCENT)                       \
    X(STOP, "stop", FG_OF(MOTOR), FG_FORM_IS_REST)                                                                     \
    X(FORWARD, "forward", FG_OF(MOTOR), FG_FORM_HAS_PERCENT)                                                           \
    X(BACK, "back", FG_OF(MOTOR), FG_FORM_HAS_PERCENT)                                                                 \
    X(TURN, "deg", FG_OF(SERVO), FG_FORM_IS_NUMBER | FG_FORM_HAS_NUMBER)                                               \
    X(FILL, "fill", FG_OF(BAR), FG_FORM_HAS_NUMBER)                                                                    \
    X(LIGHT, "light", FG_OF(BAR), FG_FORM_HAS_NUMBER)                                                                  \
    X(SHOW, "show", FG_OF(DISPLAY), 0) /* number: text */                                                              \
    X(BLANK, "blank", FG_OF(DISPLAY), FG_FORM_IS_REST)                                                                 \
    X(HOLD, "hold", FG_OF(LAMP) | FG_OF(MOTOR) | FG_OF(SERVO) | FG_OF(BAR), FG_FORM_IN_ROWS) /* as it is now */        \
    X(PLAY, "play", FG_OF_ALL, FG_FORM_IN_ROWS | FG_FORM_MOVES)                              /* number: sequence */    \
    X(FOLLOW, "follow", FG_OF_ALL & ~(FG_OF(RELAY) | FG_OF(DISPLAY)), FG_FORM_IN_ROWS | FG_FORM_MOVES) /* follow */    \
    X(SWEEP, "sweep", FG_OF(SERVO), FG_FORM_IN_ROWS | FG_FORM_MOVES) /* number: sweep */

typedef enum fg_form {
#define FG_FORM_CODE(name, word, outputs, traits) FG_FORM_##name,
    FG_FORMS(FG_FORM_CODE)
#undef FG_FORM_CODE
} fg_form;

enum { FG_FORMS_IN_ALL = 0 FG_FORMS(FG_ONE_MORE) };

/** The word of a form. `form`: below FG_FORMS_IN_ALL. */
const char *fg_form_word(fg_form form);

/** The traits of a form. */
uint8_t fg_form_traits(fg_form form);

/** Is a level of this form told by its own values alone, as in `on amber 40%`? */
static inline bool fg_form_is_plain(uint8_t form) { return form < FG_FORM_SHOW; }

/** Has an output of this kind levels of this form? */
bool fg_form_fits(fg_form form, fg_output_kind output);

/** Colours: red, green, blue in the lower 24 bits, where it comes from in the upper 8. */
enum { FG_COLOUR_NONE = 0, FG_COLOUR_NAMED = 1, FG_COLOUR_WRITTEN = 2 };

/** X(rgb, name): the colours that have a name. */
#define FG_COLOURS(X)                                                                                                  \
    X(0xff0000, "red")                                                                                                 \
    X(0xff8000, "orange")                                                                                              \
    X(0xffbf00, "amber")                                                                                               \
    X(0xffff00, "yellow")                                                                                              \
    X(0x00ff00, "green")                                                                                               \
    X(0x00ffff, "cyan")                                                                                                \
    X(0x0000ff, "blue")                                                                                                \
    X(0xff00ff, "magenta")                                                                                             \
    X(0xffffff, "white")

#define FG_COLOUR(source, rgb)   (((uint32_t)(source) << 24) | (uint32_t)(rgb))
#define FG_COLOUR_SOURCE(colour) ((colour) >> 24)
#define FG_COLOUR_RGB(colour)    ((colour)&0xffffffu)

/** The name of colour number `i`, and its red, green and blue; NULL behind the last. */
const char *fg_colour_name(size_t i, uint32_t *rgb);

/* ---- units of time ---- */

/** X(word, ms). */
#define FG_TIME_UNITS(X)                                                                                               \
    X("ms", 1)                                                                                                         \
    X("s", 1000)                                                                                                       \
    X("min", 60000)                                                                                                    \
    X("h", 3600000)

/** How many ms a unit of time has; 0 if `unit` is none. */
fg_time fg_unit_ms(fg_text unit);

/* ---- comparisons ---- */

/** Traits of a comparison: how its numbers make a range of readings. */
enum {
    FG_COMPARE_UPWARDS = 1,  /**< holds readings from its number up; else down to the lowest */
    FG_COMPARE_EXCLUDES = 2, /**< its number itself does not hold */
    FG_COMPARE_TWO_ENDS = 4, /**< A..B */
    FG_COMPARE_INVERTED = 8, /**< holds what is out of the range */
    FG_COMPARE_ROUND = 16    /**< A by B: the readings at most B away from A */
};

/** X(NAME, word, second word or NULL, traits). */
#define FG_COMPARISONS(X)                                                                                              \
    X(OVER, "over", NULL, FG_COMPARE_UPWARDS | FG_COMPARE_EXCLUDES)                                                    \
    X(UNDER, "under", NULL, FG_COMPARE_EXCLUDES)                                                                       \
    X(AT_LEAST, "at", "least", FG_COMPARE_UPWARDS)                                                                     \
    X(AT_MOST, "at", "most", 0)                                                                                        \
    X(WITHIN, "within", NULL, FG_COMPARE_TWO_ENDS)                                                                     \
    X(OUTSIDE, "outside", NULL, FG_COMPARE_TWO_ENDS | FG_COMPARE_INVERTED)                                             \
    X(NEAR, "near", NULL, FG_COMPARE_ROUND)

typedef enum fg_comparison_kind {
    FG_COMPARE_NONE,
#define FG_COMPARISON_CODE(name, word, second, traits) FG_COMPARE_##name,
    FG_COMPARISONS(FG_COMPARISON_CODE)
#undef FG_COMPARISON_CODE
} fg_comparison_kind;

enum { FG_COMPARISON_KINDS = 1 FG_COMPARISONS(FG_ONE_MORE) };

/** One row of FG_COMPARISONS. */
typedef struct fg_comparison_form {
    const char *word, *second; /**< `second`: NULL if it has one word */
    uint8_t traits;            /**< FG_COMPARE_... */
} fg_comparison_form;

/** The row of a comparison. `kind`: below FG_COMPARISON_KINDS; FG_COMPARE_NONE has an empty word. */
const fg_comparison_form *fg_comparison_form_of(fg_comparison_kind kind);

FG_PUBLIC_END
#endif
