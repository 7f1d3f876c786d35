/* SPDX-License-Identifier: MIT */
/* The order of the ops: every name behind the names it looks at. */
#include "language/check/check.h"

/* "a -> b -> a": the way from a name on the stack back to itself; of a long one its two ends. */
static fg_text cycle_path(fg_compiler *c, fg_symbol **stack, uint32_t depth, const fg_symbol *again)
{
    enum { SHOWN = 16 };
    uint32_t from = depth;
    /* The name is on the stack, so this finds it; its circle is what stands above. */
    while (from && stack[from - 1] != again) from--;
    const uint32_t first = from ? from - 1 : 0, count = depth - first;
    fg_text path = stack[first]->name;
    for (uint32_t i = first + 1; i < depth; i++) {
        /* A circle of thousands of names is told by its two ends. */
        if (count > SHOWN && i - first == SHOWN / 2) {
            const uint32_t left_out = count - SHOWN;
            path = fg_text_join(c, path, " -> ", T("("));
            path = fg_text_join(c, path, "", fg_text_of_value(c, left_out, 0));
            path = fg_text_join(c, path, "", T(" more)"));
            i += left_out;
        }
        path = fg_text_join(c, path, " -> ", stack[i]->name);
    }
    return fg_text_join(c, path, " -> ", again->name);
}

/* One step down from the top of the stack: the next name it looks at that has no place yet. */
static fg_symbol *next_use(fg_compiler *c, fg_symbol **stack, uint32_t depth)
{
    fg_symbol *top = stack[depth - 1];
    while (top->uses) {
        const fg_use *use = top->uses;
        /* Each use is looked at once: a name that comes back to the top of the stack goes on where it was. */
        top->uses = use->next;
        if (use->symbol->placed || use->symbol->kind == FG_KIND_NUMBER) continue;
        if (!use->symbol->visited) return use->symbol;
        fg_report(c, FG_FIND_CYCLE, use->span, "'{}' depends on itself: {}",
                  "calculate one of them from something else, or use 'previously'", use->symbol->name,
                  cycle_path(c, stack, depth, use->symbol));
    }
    return NULL;
}

/* To the end of the order, with the rules on it right behind a sensor: a steady sensor skips them. */
static void place(fg_compiler *c, fg_symbol *s)
{
    if (s->placed) return;
    s->placed = s->visited = true;
    if (c->order_last)
        c->order_last->next_in_order = s;
    else
        c->order = s;
    c->order_last = s;
}

/* Depth first with a stack of our own: a chain of ten thousand names is no deeper for the machine than one. */
void fg_check_order(fg_compiler *c)
{
    fg_symbol **stack = FG_TAKE(fg_symbol *, &c->arena, c->symbol_count + 1);
    for (fg_symbol *s = c->symbols; s && stack; s = s->next) {
        uint32_t depth = 0;
        if (s->kind == FG_KIND_NUMBER || s->placed) continue;
        stack[depth++] = s;
        s->visited = true;
        while (depth) {
            fg_symbol *deeper = next_use(c, stack, depth);
            if (deeper) {
                deeper->visited = true;
                stack[depth++] = deeper;
                continue;
            }
            fg_symbol *done = stack[--depth];
            place(c, done);
            /* Right behind their sensor, so that a step can leave them out together (lower_steady.c). */
            for (fg_symbol *rule = done->rules; rule; rule = rule->next_rule) place(c, rule);
        }
    }
}
