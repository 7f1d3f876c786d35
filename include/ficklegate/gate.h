/* SPDX-License-Identifier: MIT */
/** @file
 * A whole gate: const tables, the state of one run of it, and the step.
 *
 * The tables come from fg_language_compile(), from a generator, or from a careful hand. They are const and may live in
 * flash; everything that changes is in one block of memory that the caller lends and takes back whenever it likes:
 * there is nothing to free. Several runs of one gate may be alive at once. Calls on one run must not interrupt each
 * other.
 *
 *     extern const fg_gate gate;
 *
 *     bool may_land(uint16_t sensor, fg_value depth, uint16_t answer, fg_time now)
 *     {
 *         static _Alignas(8) unsigned char memory[600]; // fg_run_size(&gate) says how much
 *         static fg_run *run;
 *         if (!run && fg_run_start(&gate, memory, sizeof memory, &run) != FG_OK) return false;
 *         (void)fg_feed(run, sensor, depth, now);
 *         (void)fg_step(run, now);
 *         return fg_answer(run, answer) == FG_YES;
 *     }
 */
#ifndef FICKLEGATE_GATE_H
#define FICKLEGATE_GATE_H

#include <ficklegate/kinds.h>
#include <ficklegate/rules.h>
#include <ficklegate/smooth.h>
#include <ficklegate/text.h>
#include <ficklegate/value.h>

FG_PUBLIC_BEGIN

/** One op of the program: it works out one answer, kept under the op's own number (its slot). What `rule`, `a` and `b`
 * are stands beside each kind in FG_OPS: slots, or numbers in the table of their kind. */
typedef struct fg_op {
    uint8_t kind;   /**< fg_op_kind */
    uint8_t spared; /**< how many ops right behind it are skipped at a step where nothing moves: of a sensor, the rules
                       on it; else ops that depend on answers alone. Up to 255; 0 is never wrong. */
    uint16_t rule, a, b;
} fg_op;

/** A comparison in a condition: yes in the range, or with `outside` out of it. */
typedef struct fg_compare {
    fg_range range;
    bool outside;
} fg_compare;

/** What a sensor is worked out from: terms in the order of a stack machine that works in 64-bit millionths. Each `*`,
 * `/` and function rounds its exact result once, to a millionth; what is beyond 64 bits, a division by zero or a faulty
 * sensor makes the whole faulty. */
typedef enum fg_term_kind {
    FG_TERM_NUMBER, /**< number: millionths */
    FG_TERM_SENSOR, /**< sensor; number: how many millionths its step is, as in all that look at a sensor */
    FG_TERM_ADD,    /**< the two on top, as all below but for where said */
    FG_TERM_SUBTRACT,
    FG_TERM_MULTIPLY,
    FG_TERM_DIVIDE,
    FG_TERM_NEGATE, /**< the one on top */
    FG_TERM_ABS,    /**< the one on top */
    FG_TERM_LENGTH, /**< the `count` on top, 2 or 3 */
    FG_TERM_LOWEST,
    FG_TERM_HIGHEST,
    FG_TERM_ANGLE, /**< y, x: degrees from 0 up to not 360 */
    FG_TERM_RATE,  /**< sensor, window: per second over the last `count` steps */
    FG_TERM_DIP,   /**< sensor, window: the lowest of the last `count` steps */
    FG_TERM_PEAK   /**< the highest */
} fg_term_kind;

/** Does a term look at a sensor? */
static inline bool fg_term_reads(uint8_t kind) { return kind == FG_TERM_SENSOR || kind >= FG_TERM_RATE; }

enum { FG_STACK_MOST = 24 };

typedef struct fg_term {
    int64_t number;
    uint16_t sensor;
    uint16_t window;    /**< number of its state */
    uint16_t window_at; /**< where its values begin among all windows; of a rate, the times stand behind the values */
    uint8_t kind;       /**< fg_term_kind */
    uint8_t count;
} fg_term;

typedef struct fg_window_state {
    uint8_t count, head;
    uint8_t best; /**< of a dip or peak: where it stands */
    uint8_t far;  /**< of a rate: for how many steps more two of its times are far apart */
} fg_window_state;

/** A count and the slots that it listens to; FG_INDEX_NONE where there is nothing. */
typedef struct fg_counter {
    fg_count rule;
    uint16_t add, take, zero;
} fg_counter;

/** How long a pulse lasts when this condition holds (FG_INDEX_NONE: always). */
typedef struct fg_pulse_length {
    fg_time time;
    uint16_t slot;
} fg_pulse_length;

typedef struct fg_pulser {
    fg_pulse rule;
    uint16_t start, again, stop; /**< slots; FG_INDEX_NONE where there is nothing */
    uint16_t first_length, length_count;
} fg_pulser;

/** What an output is at. Zero strength is always the rest form (`on 0%` is FG_FORM_OFF), so equal levels are equal. */
typedef struct fg_level {
    uint8_t form;    /**< fg_form */
    uint8_t percent; /**< strength, 1 to 100; 0 where a form has none */
    int32_t number;  /**< Hz, degrees, lights, or a table's number, by its form */
    uint32_t colour; /**< FG_COLOUR(...) of a lamp, else 0 */
} fg_level;

/** A clamped straight line from a sensor (or count) to %, Hz, degrees, lights or ms: `from` gives `low`, `to` gives
 * `high`; either pair may fall. */
typedef struct fg_follow {
    fg_value from, to; /**< not the same */
    int32_t low, high;
    uint16_t source;
    bool count; /**< `source` is a count */
} fg_follow;

/** To and fro between two angles, `time` from end to end (above 0). */
typedef struct fg_sweep {
    int32_t a, b;
    fg_time time;
} fg_sweep;

/** A sequence: levels, each for a time, or for a time that follows a sensor. */
typedef struct fg_segment {
    fg_level level;
    fg_time time;
    uint16_t tempo; /**< number of a follow in ms, or FG_INDEX_NONE */
} fg_segment;

typedef struct fg_sequence {
    uint16_t first_segment, segment_count;
    uint32_t runs; /**< 0: for ever */
    bool resumes;
    bool follows; /**< a segment has a tempo */
} fg_sequence;

/** Texts of a display: lines made of pieces. */
typedef enum fg_piece_kind {
    FG_PIECE_TEXT,   /**< text */
    FG_PIECE_SENSOR, /**< index: sensor; text: its unit with a space before it, or empty */
    FG_PIECE_ANSWER, /**< index: slot of a yes or no */
    FG_PIECE_BANDS,  /**< index: slot; first_label: the texts of its labels among all label texts */
    FG_PIECE_COUNT,  /**< index: count */
    FG_PIECE_OUTPUT  /**< index: output */
} fg_piece_kind;

typedef struct fg_piece {
    fg_text text;
    uint16_t index, first_label;
    uint8_t kind; /**< fg_piece_kind */
} fg_piece;

typedef struct fg_show_line {
    uint16_t first_piece, piece_count;
} fg_show_line;

typedef struct fg_show {
    uint16_t first_line, line_count;
    bool answers_only; /**< shows answers and counts alone; false is never wrong */
} fg_show;

/** When a row of an output holds. */
typedef enum fg_row_when { FG_ROW_WHEN, FG_ROW_IF_UNSURE, FG_ROW_ALWAYS } fg_row_when;

typedef struct fg_row {
    fg_level level;
    uint16_t slot; /**< FG_ROW_WHEN: the condition */
    uint16_t play; /**< play, sweep: number of its state */
    uint8_t when;  /**< fg_row_when */
    bool through;  /**< play: finishes once it has begun, unless a row above it wins */
} fg_row;

/** An output and its rows; the first that holds wins, and if none does the output rests. `guarded` (motor, relay,
 * servo): an unsure row is not passed over, the output rests unless an `if unsure` row comes before any other that
 * holds. */
typedef struct fg_output {
    uint16_t first_row, row_count;
    uint8_t kind; /**< fg_output_kind */
    bool guarded;
    bool single;            /**< bar: a follow lights one instead of filling */
    uint8_t columns, lines; /**< of a display */
    uint16_t text_at;       /**< where a display's lines begin among all texts of a run */
    fg_level rest;
} fg_output;

/** A line of a display in a run's memory: its size in two bytes, whether it is there in one, then its characters. The
 * compiler and the engine both count with this. `columns`: of the display. */
enum { FG_DISPLAY_LINE_HEAD = 3, FG_CHARACTER_BYTES_MOST = 4 };

static inline uint32_t fg_display_line_bytes(uint8_t columns)
{
    return FG_DISPLAY_LINE_HEAD + (uint32_t)columns * FG_CHARACTER_BYTES_MOST;
}

/** Where a row that plays stands. */
typedef struct fg_play_state {
    fg_time elapsed; /**< in the present segment, or of a sweep in all */
    fg_time length;  /**< of the present segment */
    uint32_t run;
    uint16_t segment;
    bool begun, over;
} fg_play_state;

typedef struct fg_output_state {
    fg_level before; /**< one step ago */
    fg_level level;
    fg_time at;   /**< of the last step */
    uint16_t row; /**< the one that won, counted from the output's first, or FG_INDEX_NONE at rest */
    bool unsure;  /**< resting because a row is unsure */
    bool through; /**< a row plays through */
    bool changed; /**< the last step brought another level, or it was the first */
    bool stepped;
    bool lives; /**< its level may change although no answer does */
} fg_output_state;

/** A level to compare an output with, for trials: what `check` does not name may be anything. */
typedef struct fg_pattern {
    fg_level level;
    bool percent, colour;
} fg_pattern;

/** X(member): how many of each a gate has. `ops`: those of the program; `watched`: ops behind them, worked out last,
 * for the expectations of a trial. `window_values`: values in all windows together; `text_bytes`: of all displays. */
#define FG_GATE_SIZES(X)                                                                                               \
    X(ops)                                                                                                             \
    X(watched)                                                                                                         \
    X(sensors)                                                                                                         \
    X(flags)                                                                                                           \
    X(thresholds)                                                                                                      \
    X(hysteresis)                                                                                                      \
    X(bands)                                                                                                           \
    X(outputs)                                                                                                         \
    X(lastings)                                                                                                        \
    X(edges)                                                                                                           \
    X(previously)                                                                                                      \
    X(latches)                                                                                                         \
    X(counters)                                                                                                        \
    X(pulses)                                                                                                          \
    X(plays)                                                                                                           \
    X(windows)                                                                                                         \
    X(window_values)                                                                                                   \
    X(text_bytes)

typedef struct fg_gate_sizes {
#define FG_GATE_SIZE(member) uint16_t member;
    FG_GATE_SIZES(FG_GATE_SIZE)
#undef FG_GATE_SIZE
} fg_gate_sizes;

/** X(member, type): the const tables of a gate. `slots`: lists for `at least N yes in`; `previously`: the slot that
 * each looks back at; `lastings`: the time of each `for`. */
#define FG_GATE_TABLES(X)                                                                                              \
    X(ops, fg_op)                                                                                                      \
    X(labels, fg_verdict)                                                                                              \
    X(slots, uint16_t)                                                                                                 \
    X(compares, fg_compare)                                                                                            \
    X(sensors, fg_sensor)                                                                                              \
    X(terms, fg_term)                                                                                                  \
    X(flags, fg_flag)                                                                                                  \
    X(thresholds, fg_threshold)                                                                                        \
    X(hysteresis, fg_hysteresis)                                                                                       \
    X(bands, fg_bands)                                                                                                 \
    X(lastings, fg_time)                                                                                               \
    X(previously, uint16_t)                                                                                            \
    X(latches, fg_latch)                                                                                               \
    X(counters, fg_counter)                                                                                            \
    X(pulses, fg_pulser)                                                                                               \
    X(pulse_lengths, fg_pulse_length)                                                                                  \
    X(patterns, fg_pattern)                                                                                            \
    X(rows, fg_row)                                                                                                    \
    X(outputs, fg_output)                                                                                              \
    X(sequences, fg_sequence)                                                                                          \
    X(segments, fg_segment)                                                                                            \
    X(follows, fg_follow)                                                                                              \
    X(sweeps, fg_sweep)                                                                                                \
    X(shows, fg_show)                                                                                                  \
    X(show_lines, fg_show_line)                                                                                        \
    X(pieces, fg_piece)                                                                                                \
    X(label_texts, fg_text)

/** X(member, type, how many): the states of a run, in the order of its memory; `n` is the gate's fg_gate_sizes. */
#define FG_RUN_STATES(X)                                                                                               \
    X(sensors, fg_sensor_state, n->sensors)                                                                            \
    X(flags, fg_flag_state, n->flags)                                                                                  \
    X(thresholds, fg_threshold_state, n->thresholds)                                                                   \
    X(hysteresis, fg_hysteresis_state, n->hysteresis)                                                                  \
    X(bands, fg_bands_state, n->bands)                                                                                 \
    X(outputs, fg_output_state, n->outputs)                                                                            \
    X(lastings, fg_lasting_state, n->lastings)                                                                         \
    X(edges, fg_edge_state, n->edges)                                                                                  \
    X(latches, fg_latch_state, n->latches)                                                                             \
    X(counters, fg_count_state, n->counters)                                                                           \
    X(pulses, fg_pulse_state, n->pulses)                                                                               \
    X(plays, fg_play_state, n->plays)                                                                                  \
    X(windows, fg_window_state, n->windows)                                                                            \
    X(window_values, fg_value, n->window_values)                                                                       \
    X(previously, fg_verdict, n->previously)                                                                           \
    X(answers, fg_verdict, (size_t)n->ops + n->watched)                                                                \
    X(texts, char, n->text_bytes)

/** Which form the tables have. It changes with every change of their types or of what stands in them. */
#define FG_GATE_FORM 1

/** A gate. Tables that are not needed are NULL. */
typedef struct fg_gate {
    uint16_t form;  /**< FG_GATE_FORM and FG_GATE_BYTES where the tables were compiled: fg_run_start refuses tables */
    uint16_t bytes; /**< of another form, or of another layout in memory */
    uint64_t hash;  /**< FNV-1a of the texts it was made of and the numbers set for it */
    fg_time every;  /**< ms between steps, 0 if it steps with its readings */
    fg_gate_sizes size;
#define FG_GATE_TABLE(member, type) const type *member;
    FG_GATE_TABLES(FG_GATE_TABLE)
#undef FG_GATE_TABLE
} fg_gate;

/** The rows of an output in their order; NULL: it has none. */
static inline const fg_row *fg_output_rows(const fg_gate *gate, const fg_output *output)
{
    return output->row_count ? &gate->rows[output->first_row] : NULL;
}

/** What one entry of each table and the gate itself take up together. */
#define FG_ENTRY_BYTES(member, type) +sizeof(type)
#define FG_GATE_BYTES                ((uint16_t)(sizeof(fg_gate) FG_GATE_TABLES(FG_ENTRY_BYTES)))

/** The state of one run. Its members are the engine's own; they stand here so that a struct can hold a run with all its
 * states: `NAME_memory` in baked tables. */
typedef struct fg_run {
    const fg_gate *gate;
    fg_time now;         /**< of the last step, by a clock that never goes back: the times of all states are its */
    fg_time told;        /**< and as it was told */
    bool begun;          /**< there has been a step */
    bool moved;          /**< an answer changed in the last step */
    bool stirred;        /**< an output did */
    bool outputs_steady; /**< neither did, and every output knows: only those that live need a look */
    bool still;          /**< the last step was one of fg_step_inputs: nothing but what sensors read is new */
#define FG_RUN_STATE(member, type, count) type *member;
    FG_RUN_STATES(FG_RUN_STATE)
#undef FG_RUN_STATE
} fg_run;

/** Range number `i` of the rule or comparison that an op works out, from 0; false behind the last, and for every other
 * op. */
bool fg_op_range(const fg_gate *gate, const fg_op *op, uint16_t i, fg_rule_range *range);

/** How long the rule of an op settles; NULL if the op is no rule on a sensor. */
const fg_settle *fg_op_settle(const fg_gate *gate, const fg_op *op);

/** How many bytes a run of this gate needs, alignment included. */
size_t fg_run_size(const fg_gate *gate);

/** Begins a run: every sensor unread, every answer unsure, every output at rest.
 * `gate`: lives as long as the run. `memory`: at least fg_run_size(gate) bytes, aligned for a pointer and for uint32_t;
 * the caller's, free again when the run is no longer used. `run`: set on FG_OK.
 * FG_ERROR_MEMORY: too small. FG_ERROR_ARGUMENT: NULL, or `memory` is not aligned. FG_ERROR_GATE: the gate needs a part
 * that this build leaves out (src/core/parts.h), or was baked for another version of the library: bake it again. */
FG_MUST_CHECK fg_status fg_run_start(const fg_gate *gate, void *memory, size_t size, fg_run **run);

/** What fg_run_save writes around the rest: the gate's hash and the checksum; and how many bytes a zero takes. */
enum { FG_SAVED_HEAD = 4, FG_SAVED_CHECK = 4, FG_SAVED_ZERO = 4 };

/** How many bytes a count takes there: as many as its limits need. */
static inline uint8_t fg_count_saved_bytes(const fg_count *rule)
{
    const uint32_t most = (uint32_t)rule->high - (uint32_t)rule->low;
    if (most <= UINT8_MAX) return 1;
    return most <= UINT16_MAX ? 2 : 4;
}

/** How many bytes fg_run_save writes: 8, and what its latches (a bit each), counts (as many bytes as their limits need)
 * and zeros (4 bytes each) take. */
size_t fg_run_saved_size(const fg_gate *gate);

/** Writes what has to outlive a loss of power: latches, counts and zeros, and nothing that hangs on the clock; with the
 * gate's hash in front and a CRC-32 (IEEE 802.3) behind. The bytes are the same on every machine, and those of
 * NAME_save in the gate's straight code. `bytes`: `room` of them, at least fg_run_saved_size(gate).
 * FG_ERROR_MEMORY: too few. */
FG_MUST_CHECK fg_status fg_run_save(const fg_run *run, void *bytes, size_t room);

/** Takes it back, between fg_run_start and the first step. `bytes`: `size` of them, as they were saved.
 * FG_ERROR_GATE: they are damaged, or of another gate; FG_ERROR_ARGUMENT: the run has stepped. The run is as it was
 * then, so it begins afresh. */
FG_MUST_CHECK fg_status fg_run_restore(fg_run *run, const void *bytes, size_t size);

/** A reading of sensor number `sensor` (below size.sensors; others are ignored), in whole steps, read at `at`, by the
 * clock of the steps. One that is stamped after the step that takes it is new.
 * It takes effect at the next step; a later one before that replaces it. */
void fg_feed(fg_run *run, uint16_t sensor, fg_value value, fg_time at);

/** The same in counts of a converter. A sensor without a scale, or a value beyond 32 bits, makes it a faulty reading.
 */
void fg_feed_counts(fg_run *run, uint16_t sensor, int32_t counts, fg_time at);

/** Something came that is not a valid reading: the sensor is faulty until the next one. */
void fg_feed_fault(fg_run *run, uint16_t sensor, fg_time at);

/** A reading of flag number `flag` (below size.flags; others are ignored). */
void fg_feed_flag(fg_run *run, uint16_t flag, bool yes, fg_time at);

/** Something came that is neither yes nor no. */
void fg_feed_flag_fault(fg_run *run, uint16_t flag, fg_time at);

/** One step on the newest readings: sensors, rules in the order of the program, outputs, watched lines. The work is
 * at most fg_gate_work(); a step where nothing changes costs a part of that. `now`: ms of any clock; it
 * may wrap. A step before the last one (2^31 ms and more behind it are before it) counts as if no time had passed. */
void fg_step(fg_run *run, fg_time now);

/** What a step does to sensors and flags, and nothing else: for who knows that no answer and no output would change,
 * and leaves steps out. What a sensor remembers is as behind a step once as many of these were made as its windows hold
 * values; how long one has been stuck is not. */
void fg_step_inputs(fg_run *run, fg_time now);
/** The same for sensor number `sensor` alone (below size.sensors; others are ignored). Of one whose values nothing
 * remembers, the last of these steps is enough. */
void fg_step_sensor(fg_run *run, uint16_t sensor, fg_time now);

/** The step that `first` has just made, for a gate that differs from its gate in some ops alone: works out `ops`, which
 * are `count` of them in the order of the program and all that hang on what differs. Every other answer, and what
 * sensors and flags read, is that of `first`; `run` looks at the latter where `first` keeps it, so it is fed nothing,
 * and ends before `first` does. Both begin together. */
void fg_step_beside(fg_run *run, const fg_run *first, const uint16_t *ops, uint16_t count);

/** The time of the last step, by a clock that began as the first step's and never goes back; 0 before it. */
fg_time fg_run_now(const fg_run *run);

/** The answer under a slot after the last step; FG_UNSURE before the first, or beyond the program. */
fg_verdict fg_answer(const fg_run *run, uint16_t slot);

/** All answers, size.ops + size.watched of them; valid as long as the run, new after each step. */
const fg_verdict *fg_answers(const fg_run *run);

/** A sensor's value as the rules see it. False while it is faulty or unread (`value` untouched). */
bool fg_sensor_value(const fg_run *run, uint16_t sensor, fg_value *value);

/** What a sensor heard last and what came of it; NULL beyond the last. */
const fg_sensor_state *fg_sensor_at(const fg_run *run, uint16_t sensor);

/** What a flag heard last and what came of it; NULL beyond the last. */
const fg_flag_state *fg_flag_at(const fg_run *run, uint16_t flag);

/** What an output is at, and why; NULL beyond the last. */
const fg_output_state *fg_output_at(const fg_run *run, uint16_t output);

/** The same of a pulse: since when it runs, and whether it waits for `again`. */
const fg_pulse_state *fg_pulse_at(const fg_run *run, uint16_t pulse);

/** What a count stands at; 0 beyond the last. */
fg_value fg_count_value(const fg_run *run, uint16_t count);

/** What a line of a display shows, from 0 on; empty if it is blank or has no such line. Valid until the next step. */
fg_text fg_display_line(const fg_run *run, uint16_t output, uint8_t line);

/** Which sequence an output plays now; FG_INDEX_NONE if none. */
uint16_t fg_output_plays(const fg_run *run, uint16_t output);

enum { FG_LEVEL_TEXT_SIZE = 48 };

/** A level in its one form: "on 40%", "forward 80%", "880Hz". `text`: at least FG_LEVEL_TEXT_SIZE characters, ends in
 * NUL. Returns the length. What a display shows is not in its level: see fg_output_text. */
size_t fg_level_text(const fg_level *level, char *text);

/** The level of an output in its one form, of a display `show "text", "second line"`. `text`: `room` characters, of
 * which no more are written, no NUL; may be NULL with 0. Returns how long it is. */
size_t fg_output_text(const fg_run *run, uint16_t output, char *text, size_t room);

/** How many operations a step costs at most: lines of the program, rows, terms and values in windows. */
uint32_t fg_gate_work(const fg_gate *gate);

/** A level with zero strength, tone or lights as the rest of its kind; others as they are. */
fg_level fg_level_normal(fg_level level);

/** Are two levels the same in every part? */
bool fg_level_same(const fg_level *a, const fg_level *b);

FG_PUBLIC_END
#endif
