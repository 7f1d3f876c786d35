/* SPDX-License-Identifier: MIT */
/* The state of one compilation, which every stage is handed. It lies in the memory that the caller lent. */
#ifndef FICKLEGATE_LANGUAGE_COMPILER_H
#define FICKLEGATE_LANGUAGE_COMPILER_H

#include "language/text/arena.h"
#include "language/text/text.h"
#include "language/text/token.h"
#include "language/tree/node.h"

/* A finding in the order in which findings come. */
typedef struct fg_reported {
    fg_finding finding;
    struct fg_reported *next;
} fg_reported;

enum { FG_INCLUDES_DEEP = 20 };

/* A name with letters that no name has, which was reported. */
typedef struct fg_foreign_name {
    fg_text name;
    struct fg_foreign_name *next;
} fg_foreign_name;

/* A body that is read when all names are known. */
typedef struct fg_deferred {
    fg_symbol *symbol;
    fg_trial_node *trial; /* all but one of the four are NULL */
    fg_promise_node *promise;
    fg_scene_node *scene;
    fg_lexer lexer; /* where the body begins */
    struct fg_deferred *next;
} fg_deferred;

/* Who writes what: the parser what was read, the check its part of symbols and nodes, lowering the tables. `input` is
 * only read. Everything else lies in the arena and lives as long as the memory that the caller lent. */
typedef struct fg_compiler {
    const fg_language_input *input;
    fg_program *program;
    fg_arena arena;
    fg_source
        *sources; /* FG_SOURCES_MOST of them: the gate file, then what it includes, in the order of their reading */
    uint32_t source_count;
    uint32_t including[FG_INCLUDES_DEEP]; /* the sources being read, the newest last */
    uint32_t include_depth;

    /* findings */
    fg_reported *reported, *reported_last;
    uint32_t reported_count, error_count, warning_count, unlisted;
    bool quiet; /* nothing is reported: the text is only looked at */

    /* what was read */
    fg_symbol *symbols, *symbols_last; /* in the order of declaration */
    fg_symbol **names;                 /* by name: open addressing, a power of two */
    size_t names_size;
    fg_trial_node *trials, *trials_last;
    fg_promise_node *promises, *promises_last;
    fg_node *asked; /* the conditions of the input's `asked` */
    fg_scene_node *scenes, *scenes_last;
    uint32_t symbol_count, trial_count, promise_count, scene_count;
    fg_text title;
    fg_node *pace; /* the time of `every` */
    bool titled, paced;
    fg_node spare; /* handed out when the arena is full, so that nobody has to check */
    fg_symbol spare_symbol;

    /* while it is read */
    fg_lexer lexer;                        /* where reading has come, in the newest of `including` */
    fg_deferred *deferred, *deferred_last; /* bodies still to be read */
    fg_symbol *dependent;                  /* whose uses of names are noted, for the order of the ops; NULL: nobody's */
    bool in_trial;                         /* or in a promise: outputs may be asked */
    bool in_promise;                       /* `can` follows a condition */
    bool declaring;                        /* no word of conditions follows a number here, so it is its unit */
    fg_text own_unit; /* the unit of the sensor whose numbers are being read, which may be a word of conditions */
    fg_foreign_name *foreign_names;
    bool lost;         /* a syntax mistake was reported: the rest of the row means nothing */
    uint32_t brackets; /* how deep */
    uint32_t fors;     /* `for` seen outside of brackets */
    uint32_t behinds;  /* `for`, `starts` and `ends` seen outside of brackets */

    /* while it is checked */
    uint32_t number_depth;                     /* of a number worked out from others */
    fg_symbol *sensors_checked, *sensors_last; /* a sum after the sensors it needs */
    fg_symbol *order, *order_last;             /* every name behind those it looks at */
    fg_time every;                             /* ms between steps; 0: with the readings */
    bool notes_moves;                          /* rules are being checked, and no trials, scenes or promises */
    fg_movable_node *movables;                 /* what was noted, the last first */
    uint32_t movable_count;
    struct fg_use *named; /* where names are used, the last first */
    uint32_t named_count;

    /* while it is lowered */
    struct fg_tables *tables;
} fg_compiler;

/* How deep brackets may stand in each other: each is a call in a call. */
enum { FG_DEPTH_MOST = 100 };

#endif
