/* SPDX-License-Identifier: MIT */
/** @file
 * The gate language: the text of a gate file becomes a checked gate, in memory that the caller lends.
 *
 * Nothing here allocates, prints or opens files. Everything the compiler makes (tables, names, findings) lies in the
 * lent memory and is valid as long as that memory and the texts handed in are. The work grows in proportion to the
 * text.
 *
 *     bool is_right(fg_text text)
 *     {
 *         static _Alignas(16) unsigned char memory[1 << 20];
 *         const fg_language_input input = {.text = text};
 *         fg_program program;
 *         if (fg_language_compile(&input, memory, sizeof memory, &program) == FG_OK) return true;
 *         for (uint32_t i = 0; i < program.finding_count; i++)
 *             printf("%.*s\n", (int)program.findings[i].what.size, program.findings[i].what.at);
 *         return false;
 *     }
 */
#ifndef FICKLEGATE_LANGUAGE_H
#define FICKLEGATE_LANGUAGE_H

#include <ficklegate/gate.h>
#include <ficklegate/text.h>

FG_PUBLIC_BEGIN

/** A place in a text: `size` bytes from byte `at` on. */
typedef struct fg_span {
    uint32_t at, size;
    uint16_t source; /**< number in fg_program.sources, 0 the gate file; or FG_SOURCE_SETTING + i, the i-th setting, or
                        FG_SOURCE_ASKED + i, the i-th condition that was asked */
} fg_span;

#define FG_SOURCE_SETTING    UINT16_C(32768)
#define FG_SOURCE_ASKED      UINT16_C(49152)
#define FG_SOURCE_MOST_BYTES (UINT32_C(64) << 20)

/** A text the gate is made of: the file itself, then what it includes. */
typedef struct fg_source {
    fg_text name, text;
    fg_text identity; /**< the same for two names of one file; the name itself if empty */
} fg_source;

enum { FG_SOURCES_MOST = 100 };

/** Every kind of finding: its code, whether it stops the gate, and the word for it. */
#define FG_FINDINGS(X)                                                                                                 \
    X(FG_FIND_TEXT, ERROR, "unreadable-text")                                                                          \
    X(FG_FIND_SYNTAX, ERROR, "syntax")                                                                                 \
    X(FG_FIND_NOT_CLOSED, ERROR, "not-closed")                                                                         \
    X(FG_FIND_UNKNOWN, ERROR, "unknown-name")                                                                          \
    X(FG_FIND_UNKNOWN_WORD, ERROR, "unknown-word")                                                                     \
    X(FG_FIND_RESERVED, ERROR, "reserved-word")                                                                        \
    X(FG_FIND_TWICE, ERROR, "twice")                                                                                   \
    X(FG_FIND_MISSING, ERROR, "missing")                                                                               \
    X(FG_FIND_UNIT, ERROR, "wrong-unit")                                                                               \
    X(FG_FIND_FINER, ERROR, "finer-than-step")                                                                         \
    X(FG_FIND_RANGE, ERROR, "out-of-range")                                                                            \
    X(FG_FIND_ORDER, ERROR, "wrong-order")                                                                             \
    X(FG_FIND_CYCLE, ERROR, "cycle")                                                                                   \
    X(FG_FIND_KIND, ERROR, "wrong-kind")                                                                               \
    X(FG_FIND_BOTH, ERROR, "both-hold")                                                                                \
    X(FG_FIND_CIRCLE, ERROR, "circle")                                                                                 \
    X(FG_FIND_MARGIN, ERROR, "margin")                                                                                 \
    X(FG_FIND_LEVEL, ERROR, "no-such-level")                                                                           \
    X(FG_FIND_BRACKETS, ERROR, "needs-brackets")                                                                       \
    X(FG_FIND_INCLUDE, ERROR, "include")                                                                               \
    X(FG_FIND_SUM, ERROR, "sum")                                                                                       \
    X(FG_FIND_TOO_MANY, ERROR, "too-many")                                                                             \
    X(FG_FIND_GAP, WARNING, "gap")                                                                                     \
    X(FG_FIND_SHARED, WARNING, "shared-readings")                                                                      \
    X(FG_FIND_NEVER_WINS, WARNING, "never-wins")                                                                       \
    X(FG_FIND_UNREACHED, WARNING, "unreached-limit")                                                                   \
    X(FG_FIND_WIDE_MARGIN, WARNING, "wide-margin")                                                                     \
    X(FG_FIND_TIME, WARNING, "time-and-every")                                                                         \
    X(FG_FIND_UNUSED, WARNING, "unused")                                                                               \
    X(FG_FIND_CONSTANT, WARNING, "always-the-same")                                                                    \
    X(FG_FIND_ODD, WARNING, "odd-one-out")                                                                             \
    X(FG_FIND_TOUCHING, NOTE, "touching-ranges")                                                                       \
    X(FG_FIND_DEAD_BAND, NOTE, "no-dead-band")                                                                         \
    X(FG_FIND_UNSURE, NOTE, "unsure-row")                                                                              \
    X(FG_FIND_KEPT, NOTE, "kept-answer")

typedef enum fg_severity { FG_SEVERITY_ERROR, FG_SEVERITY_WARNING, FG_SEVERITY_NOTE } fg_severity;

typedef enum fg_finding_code {
#define FG_FINDING_CODE(code, severity, word) code,
    FG_FINDINGS(FG_FINDING_CODE)
#undef FG_FINDING_CODE
        FG_FINDING_CODES
} fg_finding_code;

/** Something the compiler found: where, what is wrong, and what to write instead (may be empty). */
typedef struct fg_finding {
    fg_finding_code code;
    fg_span span;
    fg_text what, instead;
    fg_span fix_span; /**< where the mend is certain: this gives way to `fix` */
    fg_text fix;      /**< `at` NULL: what to do only its author knows */
} fg_finding;

/** How severe a code is, and its word. `code`: below FG_FINDING_CODES. */
fg_severity fg_finding_severity(fg_finding_code code);
const char *fg_finding_word(fg_finding_code code); /**< see fg_finding_severity */

/** A name of the gate file. */
typedef struct fg_declared {
    fg_kind kind;
    fg_text name, unit;
    fg_span span;    /**< of the name where it is declared */
    fg_span whole;   /**< from its first word to its last, over several lines or none */
    uint16_t index;  /**< in the gate's table of its kind: sensors, flags, thresholds, ..., outputs */
    uint16_t slot;   /**< its answer's, if it has one, else FG_INDEX_NONE */
    uint16_t sensor; /**< of a threshold, hysteresis, bands: the sensor's index */
    uint8_t decimals;
    const fg_text *labels; /**< of bands: label number i */
    uint16_t label_count;
    fg_text worked_out; /**< of a number that comes from others: its value with its unit; else empty */
} fg_declared;

/** A place where a name is used. */
typedef struct fg_named {
    fg_span span;
    uint32_t declared; /**< in fg_program.declared */
} fg_named;

/** The expectations of a trial. */
#define FG_EXPECTS(X)                                                                                                  \
    X(FG_EXPECT_AT, "at")           /* slot; from */                                                                   \
    X(FG_EXPECT_AT_END, "at end")   /* slot */                                                                         \
    X(FG_EXPECT_FROM, "from")       /* slot; from, to or FG_EXPECT_TO_END */                                           \
    X(FG_EXPECT_BEGINS, "begins")   /* slot; from, to */                                                               \
    X(FG_EXPECT_ALWAYS, "always")   /* slot; while_slot or FG_INDEX_NONE */                                            \
    X(FG_EXPECT_NEVER, "never")     /* slot; while_slot or FG_INDEX_NONE */                                            \
    X(FG_EXPECT_WITHIN, "within")   /* slot; while_slot: what it follows; from: within that time */                    \
    X(FG_EXPECT_GOES, "goes")       /* declared: bands; labels */                                                      \
    X(FG_EXPECT_CHANGES, "changes") /* declared; most */                                                               \
    X(FG_EXPECT_MATCHES, "matches") /* declared: bands, or slot: a condition; column; least */                         \
    X(FG_EXPECT_CAN_END, "can end") /* slot; from: within that time; in promises only */                               \
    X(FG_EXPECT_ASSUME, "assume")   /* slot; in promises only */

typedef enum fg_expect_kind {
#define FG_EXPECT_CODE(code, word) code,
    FG_EXPECTS(FG_EXPECT_CODE)
#undef FG_EXPECT_CODE
} fg_expect_kind;

/** The second time of `from T to end`; no written time is as long. */
#define FG_EXPECT_TO_END UINT32_MAX

typedef struct fg_expect {
    fg_expect_kind kind;
    fg_span span;      /**< the whole expectation */
    fg_span condition; /**< the part in front: a condition or a name */
    uint16_t slot, while_slot;
    fg_time from, to;
    uint32_t most;
    uint32_t declared; /**< number of the name in fg_program.declared */
    uint32_t least;    /**< of 10000 rows */
    fg_text column;    /**< of the recording */
    const fg_verdict *labels;
    uint16_t label_count;
} fg_expect;

typedef struct fg_trial {
    fg_text name, readings; /**< `readings`: a file as written */
    fg_span span, readings_span;
    fg_span whole; /**< from its first word to its closing brace */
    const fg_expect *expects;
    uint32_t expect_count;
    bool sets; /**< it gives numbers other values */
} fg_trial;

/** What holds whatever is read. Its rows are `never`, `always`, `within`, `can end` and `assume`. */
typedef struct fg_promise {
    fg_text text; /**< empty if it has none */
    fg_span span; /**< of the text, or of the word `promise` */
    const fg_expect *rows;
    uint32_t row_count;
} fg_promise;

/** What a row of a scene does to its sensor or flag, and the words of it. */
#define FG_SCENE_ROWS(X)                                                                                               \
    X(FG_SCENE_STAYS, "stays")     /* a */                                                                             \
    X(FG_SCENE_RAMPS, "ramps")     /* a to b, from `from` to `to`; holds both ends */                                  \
    X(FG_SCENE_JUMPS, "jumps")     /* to a, at `from` */                                                               \
    X(FG_SCENE_SWINGS, "swings")   /* a to b and back in `to` */                                                       \
    X(FG_SCENE_NOISE, "noise")     /* spread */                                                                        \
    X(FG_SCENE_DROPS, "drops")     /* out: faulty, `from` up to `to` */                                                \
    X(FG_SCENE_FALLS, "falls")     /* silent: no readings, `from` up to `to` */                                        \
    X(FG_SCENE_READS, "reads")     /* a, `from` up to `to` */                                                          \
    X(FG_SCENE_PRESSES, "presses") /* a flag: yes, `from` up to `to` */

typedef enum fg_scene_row_kind {
#define FG_SCENE_ROW_CODE(code, word) code,
    FG_SCENE_ROWS(FG_SCENE_ROW_CODE)
#undef FG_SCENE_ROW_CODE
} fg_scene_row_kind;

typedef struct fg_scene_row {
    fg_scene_row_kind kind;
    uint32_t declared; /**< number of the sensor or flag in fg_program.declared */
    fg_value a, b;     /**< in steps */
    fg_time from, to;
    int64_t spread; /**< standard deviation in millionths of its unit */
} fg_scene_row;

/** Readings that nobody had to record. */
typedef struct fg_scene {
    fg_text name;
    fg_span span;
    fg_time lasts, every; /**< every: above 0 */
    uint32_t seed;
    const fg_scene_row *rows;
    uint32_t row_count;
} fg_scene;

/** A comparison as it was written, in steps of its sensor: for telling a person. */
typedef struct fg_comparison {
    fg_comparison_kind kind;
    fg_value a, b;
} fg_comparison;

/** Where an op comes from: its place in the text, and its comparison (of a hysteresis `on`, with `off` beside it). An
 * op that says how many of a list are yes has that number in it: at least, at most, or within for `exactly`. */
typedef struct fg_op_source {
    fg_span span;
    fg_comparison comparison, off;
    fg_value margin;
} fg_op_source;

/** What a number that is written in a rule stands for. */
typedef enum fg_written_role {
    FG_WRITTEN_FROM,   /**< the first reading of what lies above: a cut, `under`, `at least`, the low end of a range */
    FG_WRITTEN_UP_TO,  /**< the last reading of what lies below: `over`, `at most`, the high end of a range */
    FG_WRITTEN_MIDDLE, /**< `near` */
    FG_WRITTEN_BY,     /**< its distance */
    FG_WRITTEN_MARGIN
} fg_written_role;

/** A number of a rule and where it is written, for whoever changes it. */
typedef struct fg_written {
    uint16_t op;     /**< the rule's */
    uint8_t role;    /**< fg_written_role */
    bool off;        /**< of a hysteresis: belongs to `off` */
    bool negative;   /**< a named number with a minus before it */
    fg_value value;  /**< in steps of the rule's sensor */
    fg_span span;    /**< sign and digits, of a named number where it is declared; size 0: worked out from others */
    uint32_t number; /**< the named number's place in fg_program.declared, or FG_DECLARED_NONE */
} fg_written;

#define FG_DECLARED_NONE UINT32_C(0x7fffffff)

typedef enum fg_move {
    FG_MOVE_VALUE, /**< digits on the number line of a sensor or count: a limit, margin or distance */
    FG_MOVE_TIME,  /**< a time with its unit */
    FG_MOVE_LABEL  /**< a label behind `is` */
} fg_move;

/** What in the rules of a gate may be moved by one step, for whoever asks whether anybody would notice. In no order; a
 * number with a name stands where that is declared, and once for each use. */
typedef struct fg_movable {
    fg_span span;
    fg_move kind;
    uint8_t decimals; /**< of a value: of its step */
    fg_time time;     /**< of a time: in ms */
    fg_text instead;  /**< of a label: another one */
} fg_movable;

/** How many entries each table of a gate has. */
typedef struct fg_table_sizes {
#define FG_TABLE_SIZE(member, type) uint32_t member;
    FG_GATE_TABLES(FG_TABLE_SIZE)
#undef FG_TABLE_SIZE
} fg_table_sizes;

/** What compiling gives. */
typedef struct fg_program {
    fg_gate gate;
    fg_table_sizes table_sizes; /**< of the gate's tables; those of a trial are not counted */
    fg_text title;
    const fg_source *sources;
    uint32_t source_count;
    const fg_declared *declared; /**< in the order of declaration */
    uint32_t declared_count;
    const fg_named *uses; /**< in no order, and some of them twice; also of a gate with mistakes */
    uint32_t use_count;
    const fg_op_source *op_sources; /**< one for each op */
    const fg_written
        *written; /**< the numbers of thresholds, hysteresis and bands, rule by rule, as they stand there */
    uint32_t written_count;
    const fg_movable *movables;
    uint32_t movable_count;
    const fg_trial *trials;
    uint32_t trial_count;
    const fg_promise *promises;
    uint32_t promise_count;
    bool promises_watched; /**< they were compiled in: the slots of their rows are answered */
    const uint16_t *asked; /**< the slot of each condition that was asked; NULL without any */
    const fg_scene *scenes;
    uint32_t scene_count;
    const fg_finding *findings; /**< in the order of the text */
    uint32_t finding_count, error_count, warning_count;
    uint32_t unlisted_count; /**< mistakes beyond FG_FINDINGS_MOST */
    size_t memory_used;
    size_t table_bytes; /**< of the gate's tables on this machine, without names and texts */
} fg_program;

enum { FG_FINDINGS_MOST = 500 };

/** `number NAME` gets another value for this run, written as in the file. */
typedef struct fg_setting {
    fg_text name, value;
} fg_setting;

enum { FG_TRIAL_NONE = 0 };

typedef struct fg_language_input {
    fg_text text;     /**< up to FG_SOURCE_MOST_BYTES */
    fg_text name;     /**< of the file, for `include`; may be empty */
    fg_text identity; /**< see fg_source */
    const fg_setting *settings;
    size_t setting_count; /**< below 1000 */
    uint32_t trial;       /**< which one's `set` rows and expectations are compiled in, from 1 on; 0: none */
    bool promises;        /**< the conditions of promises are compiled in too, so that a run can be held against them */
    const fg_text *asked; /**< conditions that are compiled in as well, written as in a promise */
    size_t asked_count;   /**< below 1000 */
    /** Reads the file `path` that the file `from` includes: sets its text and the name that tells it from others. Both
     * live as long as the program. False if it cannot be read; its text may then be the reason, as in "is a folder".
     * NULL: nothing can be included. */
    bool (*read_file)(void *context, fg_text path, fg_text from, fg_source *source);
    void *context;
} fg_language_input;

/** Compiles a gate file.
 * `memory`, `size`: aligned for max_align_t; about 200 times the text is plenty. `program`: always filled in; its
 * findings hold on FG_OK (warnings, notes) and on FG_ERROR_GATE, its gate only on FG_OK. FG_ERROR_GATE: the findings
 * say why. FG_ERROR_MEMORY: lend more and try again. FG_ERROR_ARGUMENT: text too long, NULL where something is needed,
 * `memory` not aligned. */
FG_MUST_CHECK fg_status fg_language_compile(const fg_language_input *input, void *memory, size_t size,
                                            fg_program *program);

/** How many bytes the character at the beginning of a text takes, and which one it is; 0 (`character` untouched) if the
 * text is empty or does not begin with UTF-8. */
size_t fg_utf8_size(fg_text text, uint32_t *character);

/** Where the first byte stands that is not UTF-8; the size of the text if all of it is. */
size_t fg_utf8_wrong(fg_text text);

/** Which answers of a gate can never be unsure, whatever is read. `sure`: one for each slot, size.ops +
 * size.watched of them. */
void fg_gate_sure_slots(const fg_gate *gate, bool *sure);

/** The declaration of this name; NULL if there is none. For reports, not for each step: it looks at all names. */
const fg_declared *fg_program_find(const fg_program *program, fg_text name);

/** The line on which something stands in its file, from 1 on. */
uint32_t fg_program_line(const fg_program *program, fg_span span);

/** Does it come from outside: a flag, or a sensor that is not worked out from others? */
bool fg_program_reads(const fg_program *program, const fg_declared *declared);

/** The word of attribute number `i` of declarations (`unit`, `settle`), and the kinds that have it as a set; NULL
 * behind the last. A word may come twice, for other kinds. */
const char *fg_attribute_word(size_t i, uint32_t *kinds);
/** What that attribute does, in a line. */
const char *fg_attribute_does(size_t i);
/** Word number `i` of conditions (`and`, `over`), which cannot be a name; NULL behind the last. */
const char *fg_condition_word(size_t i);

/** May something be declared under this name: a letter, then letters, digits and _, and no word of conditions? */
bool fg_name_fits(fg_text word);
/** May bands have a label of this name? */
bool fg_label_fits(fg_text word);

/** Where a byte of a text stands. `line` and `column` count from 1, columns in characters; `text` is the line without
 * its end. `at` beyond the text means its end. */
typedef struct fg_place {
    uint32_t line, column;
    fg_text text;
} fg_place;

/** See fg_place. */
fg_place fg_text_place(fg_text text, uint32_t at);

FG_PUBLIC_END
#endif
