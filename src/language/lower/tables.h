/* SPDX-License-Identifier: MIT */
/* The tables of a gate while they grow.
 *
 * Only the push functions write an index. A table that grows moves, so no pointer into it is kept over a push to the
 * same table.
 */
#ifndef FICKLEGATE_LANGUAGE_LOWER_TABLES_H
#define FICKLEGATE_LANGUAGE_LOWER_TABLES_H

#include "language/compiler.h"

/* Entries of one size, in memory of the arena. */
typedef struct fg_growing {
    void *at;
    uint32_t used, room;
} fg_growing;

/* Room for one more. NULL: there is no memory. */
void *fg_growing_push(fg_compiler *c, fg_growing *table, size_t size);

/* What has no table of its own but is counted: states of a run. */
#define FG_COUNTED(X)                                                                                                  \
    X(edges)                                                                                                           \
    X(plays)                                                                                                           \
    X(windows)                                                                                                         \
    X(window_values)                                                                                                   \
    X(text_bytes)

typedef struct fg_tables {
#define FG_GROWING(member, type) fg_growing member;
    FG_GATE_TABLES(FG_GROWING)
#undef FG_GROWING
    fg_growing op_sources;  /* one for each op */
    fg_growing looked_back; /* the atom of each `previously`, worked out last */
    uint32_t looked_back_done;
#define FG_COUNTER(member) uint32_t member;
    FG_COUNTED(FG_COUNTER)
#undef FG_COUNTER
    bool overflowed; /* a table was too small for 16 bits, and that was reported */
} fg_tables;

/* Entries of a gate that a 16-bit index reaches, with some to spare. */
#define FG_TABLE_MOST UINT32_C(65000)

/* Are so many entries, or bytes, still within 16 bits? If not it is reported, once. */
bool fg_tables_fit(fg_compiler *c, uint32_t count, fg_span span);

/* For each table: fg_push_MEMBER appends an entry and returns its index, FG_INDEX_NONE if there is no room (which is
 * reported); fg_at_MEMBER is the entry at an index. */
#define FG_TABLE_FUNCTIONS(member, type)                                                                               \
    uint16_t fg_push_##member(fg_compiler *c, type entry, fg_span span);                                               \
    type *fg_at_##member(const fg_tables *t, uint32_t i);
FG_GATE_TABLES(FG_TABLE_FUNCTIONS)
#undef FG_TABLE_FUNCTIONS

/* For each kind of state that is only counted: fg_add_MEMBER counts `by` more and returns the number of the first. */
#define FG_COUNTER_FUNCTION(member) uint16_t fg_add_##member(fg_compiler *c, uint32_t by, fg_span span);
FG_COUNTED(FG_COUNTER_FUNCTION)
#undef FG_COUNTER_FUNCTION

/* How far all tables have come, to go back to. What was pushed since a mark is void after the release. */
typedef struct fg_tables_mark {
    fg_table_sizes tables;
    uint32_t op_sources, looked_back;
#define FG_MARK(member) uint32_t counted_##member;
    FG_COUNTED(FG_MARK)
#undef FG_MARK
} fg_tables_mark;

fg_tables_mark fg_tables_mark_here(const fg_tables *t);
void fg_tables_release(fg_tables *t, const fg_tables_mark *mark);

/* The bytes of all tables of these sizes. */
size_t fg_tables_bytes(const fg_table_sizes *sizes);

/* Gives the tables to the gate. */
void fg_tables_hand_over(const fg_tables *t, fg_gate *gate);

#endif
