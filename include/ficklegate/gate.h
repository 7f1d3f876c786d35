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
    X(FG_OP_COMPARE_COUNT, "compare") /* a: count, rule: comparison */                                                 \
    X(FG_OP_FLAG_FAULTY, "faulty")    /* rule: flag */                                                                 \
    X(FG_OP_FOR, "for")               /* a: slot, rule: time */                                                        \
    X(FG_OP_PULSE, "pulse")           /* rule: pulse */                                                                \
    X(FG_OP_OUTPUT, "output")         /* rule: output; the answer means nothing */                                     \
    X(FG_OP_OUTPUT_IS, "is")          /* a: output, rule: pattern of a level; in trials */                             \
    X(FG_OP_OUTPUT_PLAYS, "plays")    /* a: output, rule: sequence; in trials */                                       \
    X(FG_OP_IS, "is")                 /* a: slot of bands, rule: first of b labels; yes if it answers one */           \
    X(FG_OP_NOT, "not")               /* a: slot */                                                                    \
    X(FG_OP_AND, "and")               /* a, b: slots */                                                                \
    X(FG_OP_OR, "or")                 /* a, b: slots */                                                                \
    X(FG_OP_AT_LEAST, "at least")     /* rule: first of b slots in the list; a: how many yes */                        \
    X(FG_OP_SENSOR_FAULTY, "faulty")  /* rule: sensor */                                                               \
    X(FG_OP_UNSURE, "unsure")         /* a: slot; yes if it is unsure, else no */                                      \
    X(FG_OP_PREVIOUSLY, "previously") /* rule: previously; what its slot was one step ago */                           \
    X(FG_OP_STARTS, "starts")         /* a: slot, rule: edge */                                                        \
    X(FG_OP_ENDS, "ends")             /* a: slot, rule: edge */                                                        \
    X(FG_OP_LATCH, "latch")           /* a: slot of set, b: of clear or FG_NONE_OF_THEM, rule: latch */                \
    X(FG_OP_COUNT, "count")           /* rule: count; the answer means nothing */

typedef enum fg_op_kind {
#define FG_OP_KIND(code, word) code,
    FG_OPS(FG_OP_KIND)
#undef FG_OP_KIND
} fg_op_kind;

/* From here on a line hangs on answers alone: where none has changed, neither in this step nor in the one before, it
 * stays. */
#define FG_OP_FIRST_STILL FG_OP_IS

typedef struct fg_op {
    uint8_t kind;   /* fg_op_kind */
    uint8_t spared; /* how many lines right behind it need no look at a step where nothing moves: of a sensor, the rules
                       on it; else lines that hang on answers alone. Up to 255; 0 is never wrong. */
    uint16_t rule, a, b;
} fg_op;

/* A comparison in a condition: yes in the range, or with `outside` out of it. */
typedef struct fg_compare {
    fg_range range;
    bool outside;
} fg_compare;

/* What a sensor is worked out from: terms in the order of a stack machine that works in 64-bit millionths. Each `*`,
 * `/` and function rounds its exact result once, to a millionth; what is beyond 64 bits, a division by zero or a faulty
 * sensor makes the whole faulty. */
typedef enum fg_term_kind {
    FG_TERM_NUMBER, /* number: millionths */
    FG_TERM_SENSOR, /* sensor; number: how many millionths its step is, as in all that look at a sensor */
    FG_TERM_ADD,    /* the two on top, as all below but for where said */
    FG_TERM_SUBTRACT,
    FG_TERM_MULTIPLY,
    FG_TERM_DIVIDE,
    FG_TERM_NEGATE, /* the one on top */
    FG_TERM_ABS,    /* the one on top */
    FG_TERM_LENGTH, /* the `count` on top, 2 or 3 */
    FG_TERM_LOWEST,
    FG_TERM_HIGHEST,
    FG_TERM_ANGLE, /* y, x: degrees from 0 up to not 360 */
    FG_TERM_RATE,  /* sensor, window: per second over the last `count` steps */
    FG_TERM_DIP,   /* sensor, window: the lowest of the last `count` steps */
    FG_TERM_PEAK   /* the highest */
} fg_term_kind;

enum { FG_STACK_MOST = 24 };

typedef struct fg_term {
    int64_t number;
    uint16_t sensor;
    uint16_t window;    /* number of its state */
    uint16_t window_at; /* where its values begin among all windows; of a rate, the times stand behind the values */
    uint8_t kind;       /* fg_term_kind */
    uint8_t count;
} fg_term;

typedef struct fg_window_state {
    uint8_t count, head;
    uint8_t best; /* of a dip or peak: where it stands */
    uint8_t far;  /* of a rate: for how many steps more two of its times are far apart */
} fg_window_state;

/* A count and what it listens to: slots, FG_NONE_OF_THEM where there is nothing. */
typedef struct fg_counting {
    fg_count rule;
    uint16_t add, take, zero;
} fg_counting;

/* How long a pulse lasts when this condition holds (FG_NONE_OF_THEM: always). */
typedef struct fg_pulse_last {
    fg_time time;
    uint16_t slot;
} fg_pulse_last;

typedef struct fg_pulsing {
    fg_pulse rule;
    uint16_t start, again, stop; /* slots; FG_NONE_OF_THEM where there is nothing */
    uint16_t first_last, last_count;
} fg_pulsing;

/* The kinds of output and the words for them. */
#define FG_OUTPUTS(X)                                                                                                  \
    X(FG_LAMP, "lamp")                                                                                                 \
    X(FG_RELAY, "relay")                                                                                               \
    X(FG_BUZZER, "buzzer")                                                                                             \
    X(FG_MOTOR, "motor")                                                                                               \
    X(FG_SERVO, "servo")                                                                                               \
    X(FG_BAR, "bar")                                                                                                   \
    X(FG_DISPLAY, "display")

typedef enum fg_output_kind {
#define FG_OUTPUT_KIND(code, word) code,
    FG_OUTPUTS(FG_OUTPUT_KIND)
#undef FG_OUTPUT_KIND
} fg_output_kind;

/* The forms a level has, and the first word of each. The last four stand in rows only. */
#define FG_FORMS(X)                                                                                                    \
    X(FG_FORM_OFF, "off")         /* lamp, relay, bar: rest */                                                         \
    X(FG_FORM_ON, "on")           /* lamp (percent, colour), relay */                                                  \
    X(FG_FORM_QUIET, "quiet")     /* buzzer: rest */                                                                   \
    X(FG_FORM_TONE, "tone")       /* buzzer (number: Hz, percent) */                                                   \
    X(FG_FORM_STOP, "stop")       /* motor: rest */                                                                    \
    X(FG_FORM_FORWARD, "forward") /* motor (percent) */                                                                \
    X(FG_FORM_BACK, "back")       /* motor (percent) */                                                                \
    X(FG_FORM_TURN, "deg")        /* servo (number: degrees) */                                                        \
    X(FG_FORM_FILL, "fill")       /* bar (number: lights, 1 and more) */                                               \
    X(FG_FORM_LIGHT, "light")     /* bar (number: which, from 1) */                                                    \
    X(FG_FORM_SHOW, "show")       /* display (number: text); fg_display_line has what it shows */                      \
    X(FG_FORM_BLANK, "blank")     /* display: rest */                                                                  \
    X(FG_FORM_HOLD, "hold")       /* stay at the present level */                                                      \
    X(FG_FORM_PLAY, "play")       /* number: sequence */                                                               \
    X(FG_FORM_FOLLOW, "follow")   /* number: follow */                                                                 \
    X(FG_FORM_SWEEP, "sweep")     /* number: sweep */

typedef enum fg_form {
#define FG_FORM_CODE(code, word) code,
    FG_FORMS(FG_FORM_CODE)
#undef FG_FORM_CODE
} fg_form;

/* Colours: red, green, blue in the lower 24 bits, where it comes from in the upper 8. */
enum { FG_COLOUR_NONE = 0, FG_COLOUR_NAMED = 1, FG_COLOUR_WRITTEN = 2 };
/* The colours that have a name. */
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

/* What an output is at. Zero strength is always the rest form (`on 0%` is FG_FORM_OFF), so equal levels are equal. */
typedef struct fg_level {
    uint8_t form;    /* fg_form */
    uint8_t percent; /* strength, 1 to 100; 0 where a form has none */
    int32_t number;  /* Hz, degrees, lights, or a table's number, by its form */
    uint32_t colour; /* FG_COLOUR(...) of a lamp, else 0 */
} fg_level;

/* A clamped straight line from a sensor (or count) to %, Hz, degrees, lights or ms: `from` gives `low`, `to` gives
 * `high`; either pair may fall. */
typedef struct fg_follow {
    fg_value from, to; /* not the same */
    int32_t low, high;
    uint16_t source;
    bool count; /* `source` is a count */
} fg_follow;

/* To and fro between two angles, `time` from end to end (above 0). */
typedef struct fg_sweep {
    int32_t a, b;
    fg_time time;
} fg_sweep;

/* A sequence: levels, each for a time, or for a time that follows a sensor. */
typedef struct fg_segment {
    fg_level level;
    fg_time time;
    uint16_t tempo; /* number of a follow in ms, or FG_NONE_OF_THEM */
} fg_segment;

typedef struct fg_sequence {
    uint16_t first_segment, segment_count;
    uint32_t runs; /* 0: for ever */
    bool resumes;
    bool follows; /* a segment has a tempo */
} fg_sequence;

/* Texts of a display: lines made of pieces. */
typedef struct fg_string {
    const char *at;
    uint16_t size;
} fg_string;

typedef enum fg_piece_kind {
    FG_PIECE_TEXT,   /* text */
    FG_PIECE_SENSOR, /* index: sensor; text: its unit with a space before it, or empty */
    FG_PIECE_ANSWER, /* index: slot of a yes or no */
    FG_PIECE_BANDS,  /* index: slot; first_label: the texts of its labels among all strings */
    FG_PIECE_COUNT,  /* index: count */
    FG_PIECE_OUTPUT  /* index: output */
} fg_piece_kind;

typedef struct fg_piece {
    fg_string text;
    uint16_t index, first_label;
    uint8_t kind; /* fg_piece_kind */
} fg_piece;

typedef struct fg_line_of_text {
    uint16_t first_piece, piece_count;
} fg_line_of_text;

typedef struct fg_show {
    uint16_t first_line, line_count;
    bool still; /* shows answers and counts alone; false is never wrong */
} fg_show;

/* When a row of an output holds. */
typedef enum fg_row_when { FG_WHEN, FG_IF_UNSURE, FG_ALWAYS } fg_row_when;

typedef struct fg_row {
    fg_level level;
    uint16_t slot; /* FG_WHEN: the condition */
    uint16_t play; /* play, sweep: number of its state */
    uint8_t when;  /* fg_row_when */
    bool through;  /* play: finishes once it has begun, unless a row above it wins */
} fg_row;

/* An output and its rows; the first that holds wins, and if none does the output rests. `guarded` (motor, relay,
 * servo): an unsure row is not passed over, the output rests unless an `if unsure` row comes before any other that
 * holds. */
typedef struct fg_output {
    uint16_t first_row, row_count;
    uint8_t kind; /* fg_output_kind */
    bool guarded;
    bool single;            /* bar: a follow lights one instead of filling */
    uint8_t columns, lines; /* of a display */
    uint16_t text_at;       /* where a display's lines begin among all texts of a run */
    fg_level rest;
} fg_output;

enum { FG_ROW_NONE = 65535 };

/* Where a row that plays stands. */
typedef struct fg_play_state {
    fg_time elapsed; /* in the present segment, or of a sweep in all */
    fg_time length;  /* of the present segment */
    uint32_t run;
    uint16_t segment;
    bool begun, over;
} fg_play_state;

typedef struct fg_output_state {
    fg_level before; /* one step ago */
    fg_level level;
    fg_time at;   /* of the last step */
    uint16_t row; /* the one that won, counted from the output's first, or FG_ROW_NONE at rest */
    bool unsure;  /* resting because a row is unsure */
    bool through; /* a row plays through */
    bool changed; /* the last step brought another level, or it was the first */
    bool stepped;
    bool lives; /* its level may change although no answer does */
} fg_output_state;

/* A level to compare an output with, for trials: what `check` does not name may be anything. */
typedef struct fg_pattern {
    fg_level level;
    bool percent, colour;
} fg_pattern;

/* How many of each there are. */
typedef struct fg_gate_counts {
    uint16_t ops;     /* lines of the program */
    uint16_t watched; /* lines behind them, worked out last: the expectations of a trial */
    uint16_t sensors, flags, thresholds, hysteresis, bands, outputs;
    uint16_t lastings, edges, previously, latches, counts, pulses, plays, windows;
    uint16_t window_values; /* values in all windows together */
    uint16_t text_bytes;    /* of all displays together */
} fg_gate_counts;

/* A gate. Tables that are not needed are NULL. */
typedef struct fg_gate {
    fg_time every; /* ms between steps, 0 if it steps with its readings */
    fg_gate_counts count;
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
    const fg_term *terms;
    const uint16_t *slots;      /* lists for `at least N yes in` */
    const uint16_t *previously; /* the slot each looks back at */
    const fg_time *lastings;    /* the time of each `for` */
    const fg_latch *latches;
    const fg_counting *counts;
    const fg_pulsing *pulses;
    const fg_pulse_last *lasts;
    const fg_follow *follows;
    const fg_sweep *sweeps;
    const fg_sequence *sequences;
    const fg_segment *segments;
    const fg_show *shows;
    const fg_line_of_text *lines;
    const fg_piece *pieces;
    const fg_string *strings;
} fg_gate;

typedef struct fg_run fg_run;

/* How many bytes a run of this gate needs, alignment included. */
size_t fg_run_size(const fg_gate *gate);

/* Begins a run: every sensor unread, every answer unsure, every output at rest.
 * `gate`: lives as long as the run. `memory`: at least fg_run_size(gate) bytes, aligned for a pointer and for uint32_t;
 * the caller's, free again when the run is no longer used. `run`: set on FG_OK.
 * FG_ERROR_MEMORY: too small. FG_ERROR_ARGUMENT: NULL, or `memory` is not aligned. FG_ERROR_GATE: the gate needs a part
 * that this build leaves out (src/core/parts.h). */
FG_MUST_CHECK fg_status fg_run_start(const fg_gate *gate, void *memory, size_t size, fg_run **run);

/* A reading of sensor number `sensor` (below count.sensors; others are ignored), in whole steps, read at `at`.
 * It takes effect at the next step; a later one before that replaces it. */
void fg_feed(fg_run *run, uint16_t sensor, fg_value value, fg_time at);

/* The same in counts of a converter. A sensor without a scale, or a value beyond 32 bits, makes it a faulty reading. */
void fg_feed_counts(fg_run *run, uint16_t sensor, int32_t counts, fg_time at);

/* Something came that is no reading: the sensor is faulty until the next one. */
void fg_feed_fault(fg_run *run, uint16_t sensor, fg_time at);

/* A reading of flag number `flag` (below count.flags; others are ignored). */
void fg_feed_flag(fg_run *run, uint16_t flag, bool yes, fg_time at);

/* Something came that is neither yes nor no. */
void fg_feed_flag_fault(fg_run *run, uint16_t flag, fg_time at);

/* One step on the newest readings: sensors, rules in the order of the program, outputs, watched lines. The work is
 * at most fg_gate_work(); a step where nothing changes costs a part of that. `now`: not before the last step. */
void fg_step(fg_run *run, fg_time now);

/* The time of the last step; 0 before the first. */
fg_time fg_run_now(const fg_run *run);

/* The answer under a slot after the last step; FG_UNSURE before the first, or beyond the program. */
fg_verdict fg_answer(const fg_run *run, uint16_t slot);

/* All answers, count.ops + count.watched of them; valid as long as the run, new after each step. */
const fg_verdict *fg_answers(const fg_run *run);

/* A sensor's value as the rules see it. False while it is faulty or unread (`value` untouched). */
bool fg_sensor_value(const fg_run *run, uint16_t sensor, fg_value *value);

/* What a sensor heard last and what came of it; NULL beyond the last. */
const fg_sensor_state *fg_sensor_at(const fg_run *run, uint16_t sensor);

/* What a flag heard last and what came of it; NULL beyond the last. */
const fg_flag_state *fg_flag_at(const fg_run *run, uint16_t flag);

/* What an output is at, and why; NULL beyond the last. */
const fg_output_state *fg_output_at(const fg_run *run, uint16_t output);

/* What a count stands at; 0 beyond the last. */
fg_value fg_count_value(const fg_run *run, uint16_t count);

/* What a line of a display shows, from 0 on; empty if it is blank or has no such line. Valid until the next step. */
fg_string fg_display_line(const fg_run *run, uint16_t output, uint8_t line);

/* Which sequence an output plays now; FG_NONE_OF_THEM if none. */
uint16_t fg_output_plays(const fg_run *run, uint16_t output);

enum { FG_LEVEL_TEXT_SIZE = 48 };

/* The first word of a form. `form`: one of fg_form. */
const char *fg_form_word(fg_form form);

/* A level in its one form: "on 40%", "forward 80%", "880Hz". `text`: at least FG_LEVEL_TEXT_SIZE characters, ends in
 * NUL. Returns the length. What a display shows is not in its level: see fg_output_text. */
size_t fg_level_text(const fg_level *level, char *text);

/* The level of an output in its one form, of a display `show "text", "second line"`. `text`: `room` characters, of
 * which no more are written, no NUL; may be NULL with 0. Returns how long it is. */
size_t fg_output_text(const fg_run *run, uint16_t output, char *text, size_t room);

/* How many operations a step costs at most: lines of the program, rows, terms and values in windows. */
uint32_t fg_gate_work(const fg_gate *gate);

/* A level with zero strength, tone or lights as the rest of its kind; others as they are. */
fg_level fg_level_normal(fg_level level);

/* Are two levels the same in every part? */
bool fg_level_same(const fg_level *a, const fg_level *b);

#ifdef __cplusplus
}
#endif
#endif
