/* What the parts of the front end share. Everything lives in one fg_front, in the memory the caller lent.
 *
 *   lexer.c            text -> tokens              say.c       findings and their texts
 *   parse.c            rows, names, numbers        quantity.c  numbers, units, exact fractions
 *   parse_file.c       declarations, attributes    names.c     who is declared, the nearest name
 *   parse_*.c          conditions, outputs, levels, texts, trials
 *   check_*.c          numbers into their places: sensors, sums, rules, bands, outputs, trials
 *   emit*.c            the program of the gate, in the order of dependence
 *   warn*.c            what runs, but is probably not meant
 *
 * Declarations without conditions are read first, so that a condition is read with every name and label known.
 */
#ifndef FICKLEGATE_LANGUAGE_FRONT_H
#define FICKLEGATE_LANGUAGE_FRONT_H

#include <ficklegate/language.h>

/* ---- memory ---- */

typedef struct fg_arena {
    unsigned char *memory;
    size_t size, used;
    bool full; /* something did not fit: everything after it is void */
} fg_arena;

/* Zeroed memory, aligned for anything; NULL (and `full`) if it does not fit. */
void *fg_arena_take(fg_arena *arena, size_t count, size_t size);

/* The same for values of a type; the cast is for C++. */
#define FG_TAKE(type, arena, count) ((type *)fg_arena_take(arena, count, sizeof(type)))

/* ---- tokens ---- */

typedef enum fg_token_kind {
    TOK_END,
    TOK_NEWLINE,
    TOK_SEMICOLON,
    TOK_OPEN_BRACE,
    TOK_CLOSE_BRACE,
    TOK_OPEN,
    TOK_CLOSE,
    TOK_COMMA,
    TOK_BAR,
    TOK_EQUALS,
    TOK_PLUS,
    TOK_MINUS,
    TOK_TIMES,
    TOK_SLASH,
    TOK_DOTS,
    TOK_NAME,
    TOK_NOTE, /* C#5; a note without a sharp is a name */
    TOK_NUMBER,
    TOK_STRING
} fg_token_kind;

typedef struct fg_token {
    fg_token_kind kind;
    uint32_t at, end;
} fg_token;

typedef struct fg_lexer {
    fg_text text;
    uint16_t source;
    uint32_t at;
    uint32_t depth;      /* open ( */
    fg_token token;      /* the present one */
    uint32_t before_end; /* where the one before ended */
} fg_lexer;

/* ---- what was read ---- */

typedef enum fg_node_kind {
    /* numbers: `word` is the text, children the operands */
    NODE_LITERAL,
    NODE_NUMBER_NAME,
    NODE_NEGATIVE,
    NODE_SUM,
    NODE_DIFFERENCE,
    NODE_PRODUCT,
    NODE_QUOTIENT,
    NODE_HALFWAY,
    /* comparisons: children are numbers */
    NODE_OVER,
    NODE_UNDER,
    NODE_AT_LEAST,
    NODE_AT_MOST,
    NODE_WITHIN,
    NODE_OUTSIDE,
    NODE_NEAR,
    /* conditions */
    NODE_ANSWER,    /* symbol */
    NODE_COMPARE,   /* symbol; child: the comparison */
    NODE_IS,        /* symbol; children: NODE_WORD labels */
    NODE_OUTPUT_IS, /* symbol; child: NODE_LEVEL */
    NODE_FAULTY,
    NODE_UNSURE,
    NODE_NOT,
    NODE_AND,
    NODE_OR,
    NODE_COMPARE_COUNT, /* symbol; child: the comparison */
    NODE_YES_IN,        /* first child: how many, then conditions */
    NODE_PREVIOUSLY,    /* child: the atom */
    NODE_FOR,           /* children: condition, time */
    NODE_STARTS,
    NODE_ENDS,
    NODE_OUTPUT_PLAYS, /* symbol; word: the sequence */
    NODE_BROKEN,       /* already reported */
    /* parts of declarations */
    NODE_WORD,
    NODE_ATTRIBUTE, /* `attribute` says which; children its numbers */
    NODE_ON,        /* hysteresis; child: comparison */
    NODE_OFF,
    NODE_LABEL,     /* a cut list's label; its text as child NODE_WORD */
    NODE_CUT,       /* a cut; child: number */
    NODE_ROW_RANGE, /* label in `word`; child: comparison, or none for otherwise */
    NODE_CALL,      /* of a function in a sum: `word`, children its operands */
    NODE_LISTEN,    /* of a latch, count, pulse: `attribute`; children: numbers, condition last if `role` is FG_WHEN */
    NODE_SEGMENT,   /* of a sequence; children: NODE_LEVEL, then a time or NODE_FOLLOW */
    NODE_FOLLOW,    /* `word` the source; children: two ranges, the second may be missing */
    NODE_TEXT,      /* a line of a display: `word` */
    NODE_LEVEL,     /* `role` its form; children numbers by `role`, NODE_FOLLOW, NODE_TEXT, or `word` the sequence */
    NODE_ROW,       /* of an output; children: NODE_LEVEL, condition; `role` is its fg_row_when */
    NODE_EXPECT,
    NODE_SCENE_ROW, /* symbol, role: what it does; children: its numbers in the order they were written */
    NODE_KINDS
} fg_node_kind;

typedef enum fg_attribute {
    ATTR_UNIT,
    ATTR_STEP,
    ATTR_RAW,
    ATTR_TRUST,
    ATTR_CIRCLE,
    ATTR_INVERTED,
    ATTR_MARGIN,
    ATTR_SETTLE,
    ATTR_FIRST_ON,
    ATTR_STALE,
    ATTR_STUCK,
    ATTR_BRIDGE,
    ATTR_MEDIAN,
    ATTR_MEAN,
    ATTR_ZERO,
    /* of latch, count, pulse */
    ATTR_SET,
    ATTR_CLEAR,
    ATTR_SET_WINS,
    ATTR_CLEAR_WINS,
    ATTR_ADD,
    ATTR_TAKE,
    ATTR_ZERO_WHEN,
    ATTR_LIMIT,
    ATTR_FIRST,
    ATTR_START,
    ATTR_LAST,
    ATTR_AGAIN,
    ATTR_STOP,
    ATTR_RESTARTS,
    /* of sequences and outputs */
    ATTR_REPEAT,
    ATTR_RESUMES,
    ATTR_RANGE,
    ATTR_REST,
    ATTR_LIGHTS,
    ATTR_SINGLE,
    ATTR_SIZE
} fg_attribute;

/* What a child of a level stands for. */
enum { ROLE_NUMBER = 1, ROLE_PERCENT = 2, ROLE_RANGE = 3, ROLE_TIME = 4 };

struct fg_symbol;

typedef struct fg_node {
    uint8_t kind;      /* fg_node_kind */
    uint8_t attribute; /* fg_attribute */
    uint8_t role;      /* of a number in a level, of a row */
    bool negated;      /* `is not` */
    fg_span span;
    fg_text word, unit;
    fg_span unit_span;
    uint32_t colour; /* of a level: FG_COLOUR(...) */
    struct fg_symbol *symbol;
    struct fg_node *first, *last, *next;
} fg_node; /* NODE_LITERAL uses `negated` for its sign */

/* A number worked out exactly: num / den of `unit`. */
typedef struct fg_quantity {
    int64_t num, den;
    fg_text unit;
    bool written; /* as somebody wrote it, so it must fit its place; else it is rounded there */
    bool ok;      /* false: already reported */
} fg_quantity;

/* A name that a declaration looks at: for the order of the program. */
typedef struct fg_use {
    struct fg_symbol *symbol;
    fg_span span;
    struct fg_use *next;
} fg_use;

typedef struct fg_symbol {
    fg_kind kind;
    fg_text name, unit;
    fg_span span;
    fg_node *body, *body_last; /* attributes, rows, the expression, as a list */
    uint64_t attributes;       /* a bit for each that stands there */
    fg_text from;              /* threshold, hysteresis, bands: the sensor's name */
    fg_span from_span;
    struct fg_symbol *sensor;
    struct fg_symbol *rules, *rules_end, *next_rule; /* of a sensor: the rules on it */
    struct fg_symbol *zero_flag;                     /* of a sensor */
    fg_node *sum;                                    /* of a sensor that is worked out */
    int64_t low, high;                               /* servo: its range; bar: 0 to its lights; count: its limit */
    uint8_t columns, lines;                          /* of a display */
    uint16_t strings;                                /* of bands: where the texts of its labels begin */
    fg_use *uses, *uses_last;
    uint16_t index, slot;
    uint8_t decimals;
    fg_value circle; /* of a sensor, in steps */
    bool used, visited, placed, worked_out, checked;
    fg_quantity quantity; /* of a number */
    fg_text *labels;
    uint16_t label_count;
    uint32_t order; /* number of the declaration */
    struct fg_symbol *next;
} fg_symbol;

typedef struct fg_trial_node {
    fg_text name, readings;
    fg_span span, readings_span;
    fg_span whole; /* from its first word to its closing brace */
    fg_node *expects, *expects_last;
    uint32_t expect_count;
    fg_node *sets; /* numbers it sets: the expressions */
    struct fg_trial_node *next;
} fg_trial_node;

typedef struct fg_scene_node {
    fg_text name;
    fg_span span;
    fg_node *rows, *rows_last;
    uint32_t row_count;
    fg_node *lasts, *every, *seed; /* numbers, NULL if they do not stand there */
    struct fg_scene_node *next;
} fg_scene_node;

typedef struct fg_said {
    fg_finding finding;
    struct fg_said *next;
} fg_said;

enum { FG_INCLUDES_DEEP = 20 };

/* A body that is read when all names are known. */
typedef struct fg_deferred {
    fg_symbol *symbol;
    fg_trial_node *trial; /* all but one of the three are NULL */
    fg_scene_node *scene;
    fg_lexer lexer; /* where the body begins */
    struct fg_deferred *next;
} fg_deferred;

typedef struct fg_front {
    const fg_language_input *input;
    fg_arena arena;
    fg_lexer lexer;
    fg_node spare; /* handed out when the arena is full, so that nobody has to check */
    fg_symbol spare_symbol;
    fg_symbol *symbols, *symbols_last;
    fg_symbol **table; /* open addressing, a power of two */
    size_t table_size;
    fg_said *said, *said_last;
    fg_text title;
    fg_node *pace; /* the time of `every` */
    fg_trial_node *trials, *trials_last;
    fg_scene_node *scenes, *scenes_last;
    fg_symbol *owner; /* the declaration whose condition is being read */
    fg_text own_unit; /* the unit of the sensor whose numbers are being read, which may be a word of conditions */
    fg_source *sources;
    fg_deferred *deferred, *deferred_last;
    struct fg_tables *tables;
    fg_program *program;
    uint32_t symbol_count, trial_count, scene_count, source_count;
    uint32_t said_count, error_count, warning_count, unlisted;
    uint32_t brackets;                    /* how deep */
    uint32_t nodes;                       /* made so far */
    uint32_t in_sums;                     /* terms in all sums, at most */
    uint32_t fors, behinds;               /* `for`, and any word behind, seen outside of brackets */
    uint32_t including[FG_INCLUDES_DEEP]; /* the sources being read, the newest last */
    uint32_t include_depth;
    uint32_t number_depth;            /* of a number worked out from others */
    uint32_t node_counts[NODE_KINDS]; /* how large the tables can become */
    bool titled, paced;
    bool in_trial;     /* outputs may be asked, and nothing becomes a dependence */
    bool looking_back; /* inside `previously`: nothing becomes a dependence */
    bool declaring;    /* in what stands before conditions are read: no word of conditions follows a number */
    bool in_sum;       /* in the sum of a sensor: functions, and no units */
    bool in_sequence;  /* a level may be one of any output */
    bool overflowed;   /* a table was too small for 16 bits, and that was said */
    bool quiet;        /* looking ahead: nothing is reported */
    bool lost;         /* a syntax mistake was reported: the rest of the row means nothing */
} fg_front;

enum { FG_DEPTH_MOST = 100 };

/* ---- say.c ---- */

/* A constant text. */
#define T(literal) ((fg_text){"" literal, sizeof(literal) - 1})

/* Reports a finding. In `what` and `instead` each {} stands for the next of the texts. Ends with a text of NULL. */
void fg_say(fg_front *f, fg_finding_code code, fg_span span, const char *what, const char *instead, ...);
fg_text fg_text_of_value(fg_front *f, int64_t value, uint8_t decimals);
fg_text fg_text_of_value_unit(fg_front *f, int64_t value, uint8_t decimals, fg_text unit);
fg_text fg_text_join(fg_front *f, fg_text a, const char *between, fg_text b);
fg_text fg_text_c(const char *text);
bool fg_text_is(fg_text text, const char *word);
bool fg_text_same(fg_text a, fg_text b);
bool fg_bytes_same(const char *a, const char *b, size_t size);
/* Where a byte stands from `from` on; the size of the text if nowhere. */
size_t fg_text_byte(fg_text text, size_t from, char byte);
size_t fg_length(const char *text);
void fg_say_finish(fg_front *f);
/* What a span covers, cut to a length fit for a message. */
fg_text fg_span_text(const fg_front *f, fg_span span);

/* ---- lexer.c ---- */

void fg_lex_start(fg_front *f, fg_text text, uint16_t source, uint32_t from);
void fg_lex_next(fg_front *f);
/* Right after a number token: takes the unit behind it, if there is one. */
bool fg_lex_unit(fg_front *f, fg_text *unit, fg_span *span);
/* What stands behind the present token as a unit (`unit m/s`), and on to the token behind it. False: nothing is taken.
 */
bool fg_lex_unit_word(fg_front *f, fg_text *unit);
fg_span fg_lex_span(const fg_front *f);
fg_text fg_lex_text(const fg_front *f);
/* The character right behind the present token. */
char fg_lex_behind(const fg_front *f);

/* ---- compile.c ---- */

/* Is this text UTF-8 without NUL? If not it is reported, and nothing of it is read. */
bool fg_check_encoding(fg_front *f, fg_text text, uint16_t source);

/* ---- parse.c ---- */

void fg_parse(fg_front *f);
fg_node *fg_node_new(fg_front *f, fg_node_kind kind, fg_span span);
void fg_node_add(fg_node *parent, fg_node *child);
void fg_symbol_add(fg_symbol *symbol, fg_node *node);
void fg_parse_not_closed(fg_front *f, fg_span open);
fg_span fg_span_to_here(const fg_front *f, fg_span from);
bool fg_parse_at(const fg_front *f, fg_token_kind kind);
bool fg_parse_at_word(const fg_front *f, const char *word);
bool fg_parse_accept(fg_front *f, fg_token_kind kind);
bool fg_parse_accept_word(fg_front *f, const char *word);
bool fg_parse_expect_word(fg_front *f, const char *word, const char *instead);
void fg_parse_wrong(fg_front *f, const char *wanted, const char *instead);
/* Ends a row: at its end, or reports what stands there instead and skips it. */
void fg_parse_row_end(fg_front *f);
void fg_parse_skip_row(fg_front *f);
/* Has the row ended (line end, semicolon, closing brace, end of text)? */
bool fg_parse_at_row_end(const fg_front *f);
void fg_parse_unknown_row(fg_front *f, const fg_symbol *symbol, const char *const *words);
/* { row; row } : opens it; then, before each row, says whether another comes. */
typedef struct fg_block {
    fg_span open;
} fg_block;
bool fg_parse_block_open(fg_front *f, fg_block *block);
bool fg_parse_block_row(fg_front *f, const fg_block *block);
bool fg_parse_string(fg_front *f, fg_text *text, const char *instead);
fg_text fg_parse_name(fg_front *f, fg_span *span, const char *what);
bool fg_word_reserved(fg_text word);
bool fg_word_goes_on(fg_text word);
bool fg_word_unit_follows_not(fg_text word);
fg_node *fg_parse_number(fg_front *f);
fg_node *fg_parse_number_expression(fg_front *f);
fg_node *fg_parse_range(fg_front *f);
fg_node *fg_parse_comparison(fg_front *f);
bool fg_parse_at_comparison(fg_front *f);
/* Until fg_parse_own_unit_end numbers are of this sensor: its unit may be a word of conditions (`over 5 in`). */
void fg_parse_own_unit(fg_front *f, const fg_symbol *sensor);
void fg_parse_own_unit_end(fg_front *f);
/* The token after the present one. */
fg_token fg_parse_peek(fg_front *f);
bool fg_parse_peek_word(fg_front *f, const char *word);

/* ---- parse_*.c ---- */

fg_node *fg_parse_condition(fg_front *f);
void fg_parse_condition_statement(fg_front *f, fg_symbol *symbol);
void fg_parse_output(fg_front *f, fg_symbol *output);
void fg_parse_sequence(fg_front *f, fg_symbol *sequence);
/* Latch, count, pulse. */
void fg_parse_listener(fg_front *f, fg_symbol *symbol);
/* The declaration being read looks at this name, so it is worked out before. */
void fg_parse_depend(fg_front *f, fg_symbol *symbol, fg_span span);
fg_node *fg_parse_follow(fg_front *f);
/* The pieces of a text, as its children. */
void fg_parse_text(fg_front *f, fg_node *text);
fg_node *fg_parse_level(fg_front *f, fg_symbol *output);
/* A note in scientific pitch (A4 = 440 Hz, equal temperament) in whole Hz; 0 if the word is none. */
int32_t fg_note_hz(fg_text word);
bool fg_level_fits(fg_form form, fg_kind kind);
void fg_parse_trial(fg_front *f, fg_trial_node *trial);
void fg_parse_scene(fg_front *f, fg_scene_node *scene);

/* ---- names.c ---- */

fg_symbol *fg_name_declare(fg_front *f, fg_kind kind, fg_text name, fg_span span);
fg_symbol *fg_name_find(const fg_front *f, fg_text name);
/* Finds a name, or reports it with the nearest known one of these kinds (a bit each) and returns NULL. */
fg_symbol *fg_name_use(fg_front *f, fg_text name, fg_span span, uint32_t kinds);
/* The nearest word of a list (ends with NULL), or an empty text. */
fg_text fg_name_nearest_word(fg_text word, const char *const *words);
void fg_name_nearest_add(fg_text word, fg_text other, fg_text *best, size_t *distance);
size_t fg_name_reach(fg_text word);

#define KIND(kind) (1u << (kind))

/* ---- quantity.c ---- */

/* What a place takes. */
typedef struct fg_slot_for {
    fg_text what;      /* whose number it is, for messages */
    fg_text unit;      /* its unit, empty if it has none */
    uint8_t decimals;  /* of its step */
    bool duration;     /* any of ms s min h; the step is 1 ms */
    bool unit_needed;  /* a bare number is an error */
    int64_t low, high; /* what it may be, in steps */
} fg_slot_for;

fg_quantity fg_quantity_of(fg_front *f, const fg_node *number);
/* The number in whole steps of the place. False: reported. */
bool fg_quantity_steps(fg_front *f, const fg_node *number, const fg_slot_for *slot, int64_t *steps);
bool fg_quantity_duration(fg_front *f, const fg_node *number, fg_text what, fg_time *ms);
/* Exact value in 10^-scale units for where points may be finer than a step. */
bool fg_quantity_exact(fg_front *f, const fg_node *number, const fg_slot_for *slot, fg_quantity *q);
/* The greatest number that both are a multiple of. */
int64_t fg_common_divisor(int64_t a, int64_t b);
/* Its plain decimals, at most six, with its unit behind a space. */
fg_text fg_quantity_text(fg_front *f, const fg_quantity *q, bool unit);

/* ---- check_*.c, emit*.c, warn*.c ---- */

const fg_node *fg_check_attribute(const fg_symbol *symbol, fg_attribute attribute);
/* What a limit, or with `distance` a margin, of this sensor takes. */
fg_slot_for fg_check_limit_of(const fg_symbol *sensor, bool distance);
/* A number as a limit of a sensor. False: reported. */
bool fg_check_limit(fg_front *f, const fg_node *number, const fg_symbol *sensor, int64_t *value);
/* A comparison as ranges of readings, `kept` widened by the margin. False: reported. */
bool fg_check_comparison(fg_front *f, const fg_node *comparison, const fg_symbol *sensor, int64_t margin,
                         fg_threshold *out);
/* The same comparison for a person. False: reported before. */
bool fg_check_told(fg_front *f, const fg_node *comparison, const fg_symbol *sensor, fg_comparison *out);
/* A range widened by the margin, round a circle or up to the ends of 32 bits. False: on a circle it meets itself. */
bool fg_check_widen(const fg_symbol *sensor, fg_range range, int64_t margin, fg_range *kept);
/* "20.1 to 24.9 cm", or one reading. */
fg_text fg_check_readings(fg_front *f, const fg_symbol *sensor, int64_t low, int64_t high);
void fg_check_sensor(fg_front *f, fg_symbol *symbol, fg_sensor *out);
void fg_check_flag(fg_front *f, const fg_symbol *symbol, fg_flag *out);
/* A sensor that is worked out: its unit, its step, its terms. */
void fg_check_sum(fg_front *f, fg_symbol *symbol, fg_sensor *out);
/* What a sum looks at, for the order of the program. */
void fg_check_sum_uses(fg_front *f, fg_symbol *symbol);
/* Attributes of servo, bar, display, count. */
void fg_check_output(fg_front *f, fg_symbol *output);
void fg_check_count(fg_front *f, fg_symbol *count);
void fg_check_warnings(fg_front *f);
void fg_warn_bands(fg_front *f, const fg_symbol *rule, const fg_bands *bands);
bool fg_check_has_ranges(const fg_symbol *rule);
void fg_check_threshold(fg_front *f, fg_symbol *rule, fg_threshold *out);
void fg_check_hysteresis(fg_front *f, fg_symbol *rule, fg_hysteresis *out);
void fg_check_bands(fg_front *f, fg_symbol *rule, fg_bands *out);
int64_t fg_check_margin(fg_front *f, const fg_symbol *rule);
fg_settle fg_check_settle(fg_front *f, const fg_symbol *rule);
void fg_check_collect_labels(fg_front *f, fg_symbol *bands);
/* A level as it was written, in its one form. False: reported. */
bool fg_check_level(fg_front *f, const fg_node *node, const fg_symbol *output, fg_level *level, fg_pattern *pattern);
void fg_check_trials(fg_front *f);
void fg_check_scenes(fg_front *f);

/* The tables as they grow; each is as long as it can become. */
typedef struct fg_tables {
    fg_op *ops;
    fg_told *told;
    fg_written *written;
    fg_sensor *sensors;
    fg_flag *flags;
    fg_threshold *thresholds;
    fg_hysteresis *hysteresis;
    fg_bands *bands;
    fg_compare *compares;
    fg_verdict *labels;
    fg_pattern *patterns;
    fg_output *outputs;
    fg_row *rows;
    fg_term *terms;
    uint16_t *slots, *previously;
    fg_time *lastings;
    fg_latch *latches;
    fg_counting *counts;
    fg_pulsing *pulses;
    fg_pulse_last *lasts;
    fg_follow *follows;
    fg_sweep *sweeps;
    fg_sequence *sequences;
    fg_segment *segments;
    fg_show *shows;
    fg_line_of_text *lines;
    fg_piece *pieces;
    fg_string *strings;
    uint32_t ops_used, compares_used, labels_used, patterns_used, rows_used, terms_used, slots_used, previously_used,
        lastings_used, edges_used, lasts_used, follows_used, sweeps_used, segments_used, shows_used, lines_used,
        pieces_used, strings_used, bands_used, plays_used, windows_used, window_values_used, text_bytes_used;
    const fg_node **looked_back; /* the atom of each `previously`, worked out last */
    uint32_t looked_back_done;
} fg_tables;

/* A table with more entries than 16 bits count is refused, once. */
uint16_t fg_emit_op(fg_front *f, fg_op op, fg_span span);
void fg_emit_looked_back(fg_front *f);
void fg_emit_states(fg_front *f);
void fg_emit_still(fg_front *f);
void fg_emit_written(fg_front *f);
bool fg_emit_fits(fg_front *f, uint32_t used, fg_span span);
uint16_t fg_emit_follow(fg_front *f, const fg_node *node, const fg_symbol *output, const fg_slot_for *target);
void fg_emit(fg_front *f);
/* The lines of a condition; its slot comes back, FG_SLOT_NONE if something is wrong or there is no room. */
uint16_t fg_emit_condition(fg_front *f, const fg_node *node);

#endif
