/* A whole gate: const tables, the state of one run of it, and the step.
 *
 * The tables come from fg_language_compile(), from a generator, or from a careful hand. They are const and may live in
 * flash; everything that changes is in one block of memory that the caller lends and takes back whenever it likes:
 * there is nothing to free. Several runs of one gate may be alive at once. Calls on one run must not interrupt each
 * other.
 *
 *     static _Alignas(8) unsigned char memory[600];
 *     fg_run *run;
 *     if (fg_run_start(&gate, memory, sizeof memory, &run) != FG_OK) ...   // fg_run_size(&gate) says how much
 *     fg_feed(run, DEPTH, reading, now);
 *     fg_step(run, now);
 *     if (fg_answer(run, MAY_LAND) == FG_YES) ...
 */
#ifndef FICKLEGATE_GATE_H
#define FICKLEGATE_GATE_H

#include <ficklegate/rules.h>
#include <ficklegate/smooth.h>
#include <ficklegate/value.h>

#ifdef __cplusplus
extern "C" {
#endif

/* What one line of the program does. A line's answer is kept under its own number (its slot), and it looks only at
 * slots before its own. `a`, `b`: slots, or table numbers where said; `rule`: a number in the table of its kind. */
#define FG_OPS(X)                                                                                                      \
    X(FG_OP_SENSOR, "sensor")         /* rule: sensor. FG_YES is ok, FG_NO is faulty */                                \
    X(FG_OP_FLAG, "flag")             /* rule: flag */                                                                 \
    X(FG_OP_THRESHOLD, "threshold")   /* a: sensor, rule: threshold */                                                 \
    X(FG_OP_HYSTERESIS, "hysteresis") /* a: sensor, rule: hysteresis */                                                \
    X(FG_OP_BANDS, "bands")           /* a: sensor, rule: bands */                                                     \
    X(FG_OP_COMPARE, "compare")       /* a: sensor, rule: comparison */                                                \
    X(FG_OP_IS, "is")                 /* a: slot of bands, rule: first of b labels; yes if it answers one of them */   \
    X(FG_OP_NOT, "not")               /* a: slot */                                                                    \
    X(FG_OP_AND, "and")               /* a, b: slots */                                                                \
    X(FG_OP_OR, "or")                 /* a, b: slots */                                                                \
    X(FG_OP_SENSOR_FAULTY, "faulty")  /* rule: sensor */                                                               \
    X(FG_OP_FLAG_FAULTY, "faulty")    /* rule: flag */                                                                 \
    X(FG_OP_UNSURE, "unsure")         /* a: slot; yes if it is unsure, else no */                                      \
    X(FG_OP_OUTPUT_IS, "is")          /* a: output, rule: pattern of a level; only behind the outputs, in trials */

typedef enum fg_op_kind {
#define FG_OP_KIND(code, word) code,
    FG_OPS(FG_OP_KIND)
#undef FG_OP_KIND
} fg_op_kind;

typedef struct fg_op {
    uint8_t kind; /* fg_op_kind */
    uint16_t rule, a, b;
} fg_op;

/* A comparison in a condition: yes in the range, or with `outside` out of it. */
typedef struct fg_compare {
    fg_range range;
    bool outside;
} fg_compare;

/* A yes/no input. */
typedef struct fg_flag {
    bool inverted;
} fg_flag;

typedef struct fg_flag_state {
    fg_time at;
    uint8_t heard; /* fg_heard */
    bool newest;
    fg_verdict answer;
} fg_flag_state;

/* The kinds of output and the words for them. */
#define FG_OUTPUTS(X)                                                                                                  \
    X(FG_LAMP, "lamp")                                                                                                 \
    X(FG_RELAY, "relay")                                                                                               \
    X(FG_BUZZER, "buzzer")                                                                                             \
    X(FG_MOTOR, "motor")

typedef enum fg_output_kind {
#define FG_OUTPUT_KIND(code, word) code,
    FG_OUTPUTS(FG_OUTPUT_KIND)
#undef FG_OUTPUT_KIND
} fg_output_kind;

/* The forms a level has, and the first word of each. */
#define FG_FORMS(X)                                                                                                    \
    X(FG_FORM_OFF, "off")         /* lamp, relay: rest */                                                              \
    X(FG_FORM_ON, "on")           /* lamp (percent, colour), relay */                                                  \
    X(FG_FORM_QUIET, "quiet")     /* buzzer: rest */                                                                   \
    X(FG_FORM_TONE, "tone")       /* buzzer (number: Hz, percent) */                                                   \
    X(FG_FORM_STOP, "stop")       /* motor: rest */                                                                    \
    X(FG_FORM_FORWARD, "forward") /* motor (percent) */                                                                \
    X(FG_FORM_BACK, "back")       /* motor (percent) */                                                                \
    X(FG_FORM_HOLD, "hold")       /* in a row only: stay at the present level */

typedef enum fg_form {
#define FG_FORM_CODE(code, word) code,
    FG_FORMS(FG_FORM_CODE)
#undef FG_FORM_CODE
} fg_form;

/* Colours: red, green, blue in the lower 24 bits, where it comes from in the upper 8. */
enum { FG_COLOUR_NONE = 0, FG_COLOUR_NAMED = 1, FG_COLOUR_WRITTEN = 2 };
#define FG_COLOUR(source, rgb)   (((uint32_t)(source) << 24) | (uint32_t)(rgb))
#define FG_COLOUR_SOURCE(colour) ((colour) >> 24)
#define FG_COLOUR_RGB(colour)    ((colour)&0xffffffu)

/* What an output is at. Zero strength is always the rest form (`on 0%` is FG_FORM_OFF), so equal levels are equal. */
typedef struct fg_level {
    uint8_t form;    /* fg_form */
    uint8_t percent; /* strength, 1 to 100; 0 at rest */
    int32_t number;  /* Hz of a tone */
    uint32_t colour; /* FG_COLOUR(...) of a lamp, else 0 */
} fg_level;

/* When a row of an output holds. */
typedef enum fg_row_when { FG_WHEN, FG_IF_UNSURE, FG_ALWAYS } fg_row_when;

typedef struct fg_row {
    fg_level level;
    uint16_t slot; /* FG_WHEN: the condition */
    uint8_t when;  /* fg_row_when */
} fg_row;

/* An output and its rows; the first that holds wins, and if none does the output rests. `guarded` (motor, relay): an
 * unsure row is not passed over, the output rests unless an `if unsure` row comes before any other that holds. */
typedef struct fg_output {
    uint16_t first_row, row_count;
    uint8_t kind; /* fg_output_kind */
    bool guarded;
    fg_level rest;
} fg_output;

enum { FG_ROW_NONE = 65535 };

typedef struct fg_output_state {
    fg_level before; /* one step ago */
    fg_level level;
    uint16_t row; /* the one that won, counted from the output's first, or FG_ROW_NONE at rest */
    bool unsure;  /* resting because a row is unsure */
    bool changed; /* the last step brought another level, or it was the first */
    bool stepped;
} fg_output_state;

/* A level to compare an output with, for trials: what `check` does not name may be anything. */
typedef struct fg_pattern {
    fg_level level;
    bool percent, colour;
} fg_pattern;

/* A gate. Tables that are not needed are NULL with a count of 0. `watched` lines of the program stand behind `op_count`
 * and are worked out after the outputs (expectations of a trial). */
typedef struct fg_gate {
    fg_time every; /* ms between steps, 0 if it steps with its readings */
    uint16_t op_count, watched_count;
    uint16_t sensor_count, flag_count, threshold_count, hysteresis_count, bands_count, output_count;
    const fg_op *ops;
    const fg_sensor *sensors;
    const fg_flag *flags;
    const fg_threshold *thresholds;
    const fg_hysteresis *hysteresis;
    const fg_bands *bands;
    const fg_compare *compares;
    const fg_verdict *labels;
    const fg_pattern *patterns;
    const fg_output *outputs;
    const fg_row *rows;
} fg_gate;

typedef struct fg_run fg_run;

/* How many bytes a run of this gate needs, alignment included. */
size_t fg_run_size(const fg_gate *gate);

/* Begins a run: every sensor unread, every answer unsure, every output at rest.
 * `gate`: lives as long as the run. `memory`: at least fg_run_size(gate) bytes, aligned for a pointer and for uint32_t;
 * the caller's, free again when the run is no longer used. `run`: set on FG_OK.
 * FG_ERROR_MEMORY: too small. FG_ERROR_ARGUMENT: NULL, or `memory` is not aligned. */
FG_MUST_CHECK fg_status fg_run_start(const fg_gate *gate, void *memory, size_t size, fg_run **run);

/* A reading of sensor number `sensor` (below sensor_count; others are ignored), in whole steps, read at `at`.
 * It takes effect at the next step; a later one before that replaces it. */
void fg_feed(fg_run *run, uint16_t sensor, fg_value value, fg_time at);

/* The same in counts of a converter. A sensor without a scale, or a value beyond 32 bits, makes it a faulty reading. */
void fg_feed_counts(fg_run *run, uint16_t sensor, int32_t counts, fg_time at);

/* Something came that is no reading: the sensor is faulty until the next one. */
void fg_feed_fault(fg_run *run, uint16_t sensor, fg_time at);

/* A reading of flag number `flag` (below flag_count; others are ignored). */
void fg_feed_flag(fg_run *run, uint16_t flag, bool yes, fg_time at);

/* Something came that is neither yes nor no. */
void fg_feed_flag_fault(fg_run *run, uint16_t flag, fg_time at);

/* One step on the newest readings: sensors, rules in the order of the program, outputs, watched lines. The work is the
 * same at every step but for where a comparison ends early. `now`: not before the last step. */
void fg_step(fg_run *run, fg_time now);

/* The answer under a slot after the last step; FG_UNSURE before the first, or beyond the program. */
fg_verdict fg_answer(const fg_run *run, uint16_t slot);

/* All answers, op_count + watched_count of them; valid as long as the run, new after each step. */
const fg_verdict *fg_answers(const fg_run *run);

/* A sensor's value as the rules see it. False while it is faulty or unread (`value` untouched). */
bool fg_sensor_value(const fg_run *run, uint16_t sensor, fg_value *value);

/* What a sensor heard last and what came of it; NULL beyond sensor_count. */
const fg_sensor_state *fg_sensor_at(const fg_run *run, uint16_t sensor);

/* What a flag heard last and what came of it; NULL beyond flag_count. */
const fg_flag_state *fg_flag_at(const fg_run *run, uint16_t flag);

/* What an output is at, and why; NULL beyond output_count. */
const fg_output_state *fg_output_at(const fg_run *run, uint16_t output);

/* Are two levels the same in every part? */
bool fg_level_same(const fg_level *a, const fg_level *b);

#ifdef __cplusplus
}
#endif
#endif
