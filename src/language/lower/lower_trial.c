/* SPDX-License-Identifier: MIT */
/* The ops that watch: the conditions of promises and expectations, behind those of the gate. */
#include "language/lower/lower.h"

#include "language/tree/parse.h"

/* The slots of its conditions stand in the expectation. */
static void lower_expect(fg_compiler *c, const fg_node *node)
{
    fg_expect *expect = node->found.expect;
    const bool of_name = node->symbol != NULL; /* what stands in front is a name, and no condition */
    const fg_node *other = fg_node_expect_other(node);
    if (of_name) return;
    expect->slot = fg_lower_condition(c, node->first);
    if (other) expect->while_slot = fg_lower_condition(c, other);
}

/* The conditions of promises stand in front of a trial's, so that they are the same for all trials. */
void fg_lower_promises(fg_compiler *c)
{
    fg_tables *t = c->tables;
    const uint32_t ops = t->ops.used;
    const fg_tables_mark mark = fg_tables_mark_here(t);
    for (const fg_promise_node *promise = c->promises; promise; promise = promise->next)
        for (const fg_node *row = promise->rows; row; row = row->next) lower_expect(c, row);
    fg_lower_looked_back(c);
    c->program->promises_watched = c->input->promises;
    if (c->input->promises) {
        c->program->gate.size.watched = (uint16_t)(t->ops.used - ops);
        return;
    }
    fg_tables_release(t, &mark);
    for (const fg_promise_node *promise = c->promises; promise; promise = promise->next)
        for (const fg_node *row = promise->rows; row; row = row->next)
            row->found.expect->slot = row->found.expect->while_slot = FG_INDEX_NONE;
}

void fg_lower_asked(fg_compiler *c)
{
    fg_tables *t = c->tables;
    const uint32_t ops = t->ops.used;
    if (!c->asked) return;
    uint16_t *slots = FG_TAKE(uint16_t, &c->arena, c->input->asked_count);
    size_t count = 0;
    for (const fg_node *asked = c->asked; asked && slots; asked = asked->next)
        slots[count++] = fg_lower_condition(c, asked);
    fg_lower_looked_back(c);
    c->program->asked = slots;
    c->program->gate.size.watched = (uint16_t)(c->program->gate.size.watched + t->ops.used - ops);
}

/* Every trial is lowered, so that one that is too large is told; only that of the trial which is played stays. Its ops
 * stand behind the program, which so is the same for all trials. */
void fg_lower_trials(fg_compiler *c)
{
    fg_tables *t = c->tables;
    uint32_t number = 1;
    const uint32_t ops = t->ops.used;
    for (const fg_trial_node *trial = c->trials; trial; trial = trial->next, number++) {
        const fg_tables_mark mark = fg_tables_mark_here(t);
        for (const fg_node *expect = trial->expects; expect; expect = expect->next) lower_expect(c, expect);
        fg_lower_looked_back(c);
        if (number == c->input->trial)
            c->program->gate.size.watched = (uint16_t)(c->program->gate.size.watched + t->ops.used - ops);
        else
            fg_tables_release(t, &mark);
    }
}
