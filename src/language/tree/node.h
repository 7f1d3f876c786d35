/* SPDX-License-Identifier: MIT */
/* The tree: what was read, and beside it what the check found out.
 *
 * The parser makes nodes and symbols and fills in what was written. The check fills in `found` and the results of a
 * symbol, and changes nothing that was written. Lowering only reads.
 */
#ifndef FICKLEGATE_LANGUAGE_TREE_NODE_H
#define FICKLEGATE_LANGUAGE_TREE_NODE_H

#include <ficklegate/language.h>

typedef enum fg_node_kind {
    /* numbers: `word` is what was written, the children are the operands */
    NODE_LITERAL, /* literal */
    NODE_NUMBER_NAME,
    NODE_NEGATIVE,
    NODE_SUM,
    NODE_DIFFERENCE,
    NODE_PRODUCT,
    NODE_QUOTIENT,
    NODE_HALFWAY,
    NODE_CALL, /* of a function in a sum: `word`, its operands */
    /* comparisons, and ranges, which are a `within` */
    NODE_COMPARISON, /* comparison; children: its numbers */
    NODE_POINTS,     /* of a scale: is_range; children: two numbers or more */
    /* conditions */
    NODE_ANSWER,        /* symbol */
    NODE_COMPARE,       /* symbol, negated; child: the comparison */
    NODE_COMPARE_COUNT, /* the same of a count */
    NODE_IS,            /* symbol, negated; children: NODE_WANTED_LABEL */
    NODE_WANTED_LABEL,  /* `word`, wanted */
    NODE_OUTPUT_IS,     /* symbol, negated; child: NODE_LEVEL */
    NODE_OUTPUT_PLAYS,  /* symbol; child: NODE_WORD, the sequence */
    NODE_FAULTY,        /* symbol */
    NODE_UNSURE,        /* symbol */
    NODE_NOT,
    NODE_AND,
    NODE_OR,
    NODE_YES_IN,     /* comparison: at least, at most or within (exactly); first child: how many, then conditions */
    NODE_PREVIOUSLY, /* child: the atom */
    NODE_FOR,        /* children: condition, time */
    NODE_STARTS,
    NODE_ENDS,
    NODE_BROKEN, /* already reported */
    /* rows of declarations */
    NODE_WORD,
    NODE_ATTRIBUTE, /* row: an attribute, or what a latch, count or pulse listens to; children: numbers, condition last
                     */
    NODE_ON,        /* of a hysteresis; child: comparison */
    NODE_OFF,
    NODE_LABEL, /* in a list of cuts: label */
    NODE_CUT,   /* child: number */
    NODE_EQUAL, /* the list is in equal parts; child: the range it is across, the number it is centred on, or none */
    NODE_LABEL_ROW,  /* label; child: comparison, or none for otherwise */
    NODE_SEGMENT,    /* of a sequence; children: NODE_LEVEL, then a time or NODE_FOLLOW */
    NODE_FOLLOW,     /* symbol: the source; children: two ranges, the second may be missing */
    NODE_SHOWN_LINE, /* a line of a display: `word`; children: NODE_PIECE */
    NODE_PIECE,      /* `word`, or symbol with with_unit */
    NODE_LEVEL,      /* level; children: its parts, each with `part` */
    NODE_ROW,        /* of an output: when; children: NODE_LEVEL, condition */
    NODE_EXPECT,     /* expect */
    NODE_SCENE_ROW   /* symbol, scene_row; children: its numbers in the order they were written */
} fg_node_kind;

/* Attributes of declarations; where a kind has no such word, the number is only a bit in its set. */
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
typedef enum fg_level_part { PART_NUMBER = 1, PART_PERCENT, PART_RANGE, PART_TIME } fg_level_part;

struct fg_symbol;

/* ---- what was written, by the kind of the node ---- */

/* A number with its unit. The digits are the `word` of the node. */
typedef struct fg_literal_node {
    fg_text unit; /* empty if it has none */
    fg_span unit_span;
    bool negative; /* a minus stands in front */
} fg_literal_node;

/* A label of bands, where it is declared. */
typedef struct fg_label_node {
    fg_text text; /* what displays show for it */
    fg_span text_span;
    uint8_t number; /* among the labels of its bands */
    bool has_text;
} fg_label_node;

/* A label that is asked for; `none` has no number. */
typedef struct fg_wanted_node {
    uint8_t number;
    bool none;
} fg_wanted_node;

/* An attribute, or a row of something that listens. */
typedef struct fg_row_node {
    uint8_t attribute; /* fg_attribute */
    bool has_when;     /* its last child is a condition */
    fg_span name_span; /* of a name that stands in it, as `word` */
    fg_text lines;     /* size 16x2: "x2" */
} fg_row_node;

/* A level of an output. */
typedef struct fg_level_node {
    uint32_t colour;   /* FG_COLOUR(...), 0 if it has none */
    fg_span name_span; /* of the sequence that it plays */
    uint8_t form;      /* fg_form */
    bool through;      /* it plays to its end, whichever row wins meanwhile */
} fg_level_node;

/* An expectation of a trial. */
typedef struct fg_expect_node {
    uint8_t kind;      /* fg_expect_kind */
    fg_span condition; /* the condition or name in front */
} fg_expect_node;

/* ---- what the check found out ---- */

/* One of these, by the kind of the node; which it is says the node, so no tag is needed. */
typedef union fg_found {
    int64_t steps;      /* of a number: in whole steps of its place; of a time in ms; in a sum in millionths */
    fg_level level;     /* of a level; its number is left to lowering where it is one of a table */
    fg_compare compare; /* of NODE_COMPARE and NODE_COMPARE_COUNT */
    fg_follow follow;
    fg_sweep sweep;    /* of the range of a sweep */
    fg_expect *expect; /* of NODE_EXPECT: as the program has it */
} fg_found;

/* A node. Only the member of the union that its kind names is ever looked at. */
typedef struct fg_node {
    uint8_t kind; /* fg_node_kind */
    uint8_t part; /* of a level: fg_level_part */
    fg_span span;
    fg_text word;                        /* as it is written, where the kind says so */
    struct fg_symbol *symbol;            /* whom it names, once that is known */
    struct fg_node *first, *last, *next; /* its children, as a list; the next one of its parent */
    union {
        fg_literal_node literal;
        fg_label_node label;
        fg_wanted_node wanted;
        fg_row_node row;
        fg_level_node level;
        fg_expect_node expect;
        uint8_t comparison; /* fg_comparison_kind */
        uint8_t when;       /* of an output's row: fg_row_when */
        uint8_t scene_row;  /* fg_scene_row_kind */
        bool is_range;      /* of points: A..B, not a list */
        bool negated;       /* is not */
        bool with_unit;     /* of a piece */
    };
    fg_found found;
} fg_node;

/* A number worked out exactly: num / den of `unit`. */
typedef struct fg_quantity {
    int64_t num, den;
    fg_text unit;
    bool written; /* as somebody wrote it, so it must fit its place; else it is rounded there */
    bool ok;      /* false: already reported */
} fg_quantity;

/* A name that a declaration looks at: for the order of the ops. */
typedef struct fg_use {
    struct fg_symbol *symbol;
    fg_span span;
    struct fg_use *next;
} fg_use;

/* A declaration. */
typedef struct fg_symbol {
    fg_kind kind;
    fg_text name;
    fg_span span;
    fg_span whole;             /* from its first word to its end */
    uint32_t order;            /* number of the declaration */
    fg_node *body, *body_last; /* attributes, rows, the expression, as a list */
    uint64_t attributes;       /* a bit for each that stands there */
    fg_text from;              /* of a rule: the sensor's name */
    fg_span from_span;
    fg_node *sum;    /* of a sensor that is worked out */
    fg_text *labels; /* of bands */
    uint16_t label_count;
    fg_use *uses, *uses_last; /* whom it looks at */
    bool used;                /* something looks at it */
    struct fg_symbol *next;   /* declared after it */

    /* names resolved */
    struct fg_symbol *sensor;                        /* of a rule */
    struct fg_symbol *rules, *rules_end, *next_rule; /* of a sensor: the rules on it */
    struct fg_symbol *zero_flag;                     /* of a sensor */
    uint16_t index;                                  /* in the table of its kind */

    /* checked */
    fg_text unit;           /* of a sensor */
    uint8_t decimals;       /* of its step */
    fg_value circle;        /* its length in steps; 0 if it is none */
    fg_value margin;        /* of a rule, in steps of its sensor */
    int64_t low, high;      /* servo: its range; bar: 0 to its lights; count: its limit */
    uint8_t columns, lines; /* of a display */
    fg_quantity quantity;   /* of a number */
    union {                 /* as it will stand in the table of its kind */
        fg_sensor *sensor;
        fg_flag *flag;
#define FG_CHECKED_RULE(NAME, name, table) fg_##name *name;
        FG_SENSOR_RULES(FG_CHECKED_RULE)
#undef FG_CHECKED_RULE
        fg_level rest;  /* of an output */
        int64_t number; /* of a count its first value, of a sequence its runs */
    } checked;
    struct fg_symbol *next_sensor;   /* the sensor that was checked after this one */
    struct fg_symbol *next_in_order; /* see fg_check_order */
    bool visited;                    /* being worked out, or put in order: met again it hangs on itself */
    bool worked_out;                 /* of a number or a sensor */
    bool placed;                     /* in the order of the ops */

    /* lowered */
    uint16_t slot;       /* of its answer, or FG_INDEX_NONE */
    uint16_t first_text; /* of bands: where the texts of its labels begin */
} fg_symbol;

/* A trial as it was read. */
typedef struct fg_trial_node {
    fg_text name, readings;
    fg_span span, readings_span;
    fg_span whole; /* from its first word to its closing brace */
    fg_node *expects, *expects_last;
    uint32_t expect_count;
    fg_node *sets; /* numbers it sets: the expressions */
    struct fg_trial_node *next;
} fg_trial_node;

/* A promise as it was read. */
typedef struct fg_promise_node {
    fg_text text;
    fg_span span;
    fg_node *rows, *rows_last;
    uint32_t row_count;
    struct fg_promise_node *next;
} fg_promise_node;

/* What may be moved. */
typedef struct fg_movable_node {
    fg_movable movable;
    struct fg_movable_node *next;
} fg_movable_node;

/* A scene as it was read. */
typedef struct fg_scene_node {
    fg_text name;
    fg_span span;
    fg_node *rows, *rows_last;
    uint32_t row_count;
    fg_node *lasts, *every, *seed; /* numbers, NULL if they do not stand there */
    struct fg_scene_node *next;
} fg_scene_node;

#endif
