/* SPDX-License-Identifier: MIT */
/* The tables as they grow.
 *
 * Each table is a piece of the arena that is replaced by one of twice the size when it is full. So a pointer into a
 * table holds until the next push to it, and no longer: whoever needs an entry across a push keeps its index.
 */
#include "language/lower/tables.h"

#include "core/mem.h"
#include "language/text/findings.h"

/* Twice the room when it is full; what was there stays in the arena as waste, at most as much as the table itself.
 * NULL: the arena is full, and nothing was added. */
void *fg_growing_push(fg_compiler *c, fg_growing *table, size_t size)
{
    enum { FIRST_ROOM = 16 };
    if (table->used == table->room) {
        const uint32_t room = table->room ? 2 * table->room : FIRST_ROOM;
        void *more = fg_arena_take(&c->arena, room, size);
        if (!more) return NULL;
        if (table->used) memcpy(more, table->at, table->used * size);
        table->at = more;
        table->room = room;
    }
    return (unsigned char *)table->at + size * table->used++;
}

/* Indexes have 16 bits, and FG_INDEX_NONE is one of them. Said once for the whole gate. */
bool fg_tables_fit(fg_compiler *c, uint32_t count, fg_span span)
{
    if (count <= FG_TABLE_MOST) return true;
    if (!c->tables->overflowed)
        fg_report(c, FG_FIND_TOO_MANY, span, "a gate has at most 65000 rules, rows and parts of each kind",
                  "split it into two gates");
    c->tables->overflowed = true;
    return false;
}

#define FG_TABLE_FUNCTIONS(member, type)                                                                               \
    type *fg_at_##member(const fg_tables *t, uint32_t i) { return (type *)t->member.at + i; }                          \
    uint16_t fg_push_##member(fg_compiler *c, type entry, fg_span span)                                                \
    {                                                                                                                  \
        if (!fg_tables_fit(c, c->tables->member.used + 1, span)) return FG_INDEX_NONE;                                 \
        type *to = (type *)fg_growing_push(c, &c->tables->member, sizeof(type));                                       \
        if (!to) return FG_INDEX_NONE;                                                                                 \
        *to = entry;                                                                                                   \
        return (uint16_t)(c->tables->member.used - 1);                                                                 \
    }
FG_GATE_TABLES(FG_TABLE_FUNCTIONS)
#undef FG_TABLE_FUNCTIONS

#define FG_COUNTER_FUNCTION(member)                                                                                    \
    uint16_t fg_add_##member(fg_compiler *c, uint32_t by, fg_span span)                                                \
    {                                                                                                                  \
        const uint32_t first = c->tables->member;                                                                      \
        if (!fg_tables_fit(c, first + by, span)) return 0;                                                             \
        c->tables->member += by;                                                                                       \
        return (uint16_t)first;                                                                                        \
    }
FG_COUNTED(FG_COUNTER_FUNCTION)
#undef FG_COUNTER_FUNCTION

/* Remembers how far every table has come. */
fg_tables_mark fg_tables_mark_here(const fg_tables *t)
{
    fg_tables_mark mark = {.op_sources = t->op_sources.used, .looked_back = t->looked_back.used};
#define FG_MARK(member, type) mark.tables.member = t->member.used;
    FG_GATE_TABLES(FG_MARK)
#undef FG_MARK
#define FG_MARK(member) mark.counted_##member = t->member;
    FG_COUNTED(FG_MARK)
#undef FG_MARK
    return mark;
}

/* Takes back what was added since the mark: the conditions of a trial that is not played. The next entries overwrite
 * those. */
void fg_tables_release(fg_tables *t, const fg_tables_mark *mark)
{
#define FG_RELEASE(member, type) t->member.used = mark->tables.member;
    FG_GATE_TABLES(FG_RELEASE)
#undef FG_RELEASE
#define FG_RELEASE(member) t->member = mark->counted_##member;
    FG_COUNTED(FG_RELEASE)
#undef FG_RELEASE
    t->op_sources.used = mark->op_sources;
    t->looked_back.used = t->looked_back_done = mark->looked_back;
}

/* What the tables take on a board, where they are const. */
size_t fg_tables_bytes(const fg_table_sizes *sizes)
{
    size_t bytes = 0;
#define FG_BYTES(member, type) bytes += sizes->member * sizeof(type);
    FG_GATE_TABLES(FG_BYTES)
#undef FG_BYTES
    return bytes;
}

/* The gate points into the arena, which belongs to the caller and lives as long as the program. */
void fg_tables_hand_over(const fg_tables *t, fg_gate *gate)
{
#define FG_HAND_OVER(member, type) gate->member = (const type *)t->member.at;
    FG_GATE_TABLES(FG_HAND_OVER)
#undef FG_HAND_OVER
#define FG_HAND_OVER(member) gate->size.member = (uint16_t)t->member;
    FG_COUNTED(FG_HAND_OVER)
#undef FG_HAND_OVER
}
