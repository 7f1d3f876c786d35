/* SPDX-License-Identifier: MIT */
/* Outputs and sequences: their rows, and the levels in them. */
#include "language/lower/lower.h"
#include "language/tree/parse.h"

/* A segment lasts a fixed time, or as long as its tempo says. `follows` spares those without a tempo a look at every
 * segment. */
void fg_lower_sequence(fg_compiler *c, const fg_symbol *s)
{
    fg_tables *t = c->tables;
    fg_sequence sequence = {.first_segment = (uint16_t)t->segments.used,
                            .runs = (uint32_t)s->checked.number,
                            .resumes = fg_node_attribute(s, ATTR_RESUMES) != NULL};
    for (const fg_node *node = s->body; node; node = node->next) {
        if (node->kind != NODE_SEGMENT) continue;
        fg_segment segment = {.level = fg_lower_level(c, node->first), .tempo = FG_INDEX_NONE};
        if (node->last->kind == NODE_FOLLOW)
            segment.tempo = fg_push_follows(c, node->last->found.follow, node->span);
        else
            segment.time = (fg_time)node->last->found.steps;
        sequence.follows = sequence.follows || segment.tempo != FG_INDEX_NONE;
        sequence.segment_count++;
        (void)fg_push_segments(c, segment, node->span);
    }
    *fg_at_sequences(t, s->index) = sequence;
}

/* A row's conditions add no rows, so the rows of an output stand side by side. */
static void lower_row(fg_compiler *c, const fg_node *node)
{
    fg_row row = {.slot = FG_INDEX_NONE, .when = node->when, .through = node->first->level.through};
    row.level = fg_lower_level(c, node->first);
    if (row.level.form == FG_FORM_PLAY || row.level.form == FG_FORM_SWEEP) row.play = fg_add_plays(c, 1, node->span);
    if (node->when == FG_ROW_WHEN) row.slot = fg_lower_condition(c, node->last);
    (void)fg_push_rows(c, row, node->span);
}

/* Rows first, then the op: it looks at the slots of all its rows. */
void fg_lower_output(fg_compiler *c, fg_symbol *s)
{
    fg_tables *t = c->tables;
    fg_output output = {.first_row = (uint16_t)t->rows.used,
                        .kind = (uint8_t)(s->kind - FG_KIND_LAMP),
                        .guarded = fg_kind_is(s->kind, FG_KIND_GUARDED),
                        .single = fg_node_attribute(s, ATTR_SINGLE) != NULL,
                        .columns = s->columns,
                        .lines = s->lines,
                        .rest = s->checked.rest};
    if (s->lines) output.text_at = fg_add_text_bytes(c, s->lines * fg_display_line_bytes(s->columns), s->span);
    for (const fg_node *row = s->body; row; row = row->next) {
        if (row->kind != NODE_ROW) continue;
        lower_row(c, row);
        output.row_count++;
    }
    *fg_at_outputs(t, s->index) = output;
    s->slot = fg_lower_op(c, (fg_op){.kind = FG_OP_OUTPUT, .rule = s->index}, s->span);
}
