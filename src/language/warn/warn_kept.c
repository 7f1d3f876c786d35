/* SPDX-License-Identifier: MIT */
/* Power that hangs on a count or a pulse. Both keep what they were while readings are missing, so a motor, relay or
 * servo goes on then, unless a row says what it does.
 *
 * For each row that moves or carries power: which counts and pulses it hangs on, and which inputs these hang on. An
 * input is told where its fault alone makes a row above win, or rest the output, or ends the pulse.
 */
#include "language/warn/warn.h"

/* Symbols to be looked at, each once: those reached carry the number of the search. */
typedef struct search {
    fg_compiler *c;
    const fg_symbol **queue; /* as many as there are symbols */
    uint32_t *reached;       /* by the number of a declaration */
    uint32_t count, number;
} search;

typedef struct power {
    search rows, keeper; /* from the rows; from one of the counts and pulses */
    uint32_t *told;      /* by the number of a declaration: the keeper for which it is told */
} power;

static bool keeps(const fg_symbol *s) { return s->kind == FG_KIND_COUNT || s->kind == FG_KIND_PULSE; }
static bool is_read(const fg_symbol *s) { return s->kind == FG_KIND_SENSOR || s->kind == FG_KIND_FLAG; }

static bool start(fg_compiler *c, search *s)
{
    *s = (search){.c = c};
    s->queue = FG_TAKE(const fg_symbol *, &c->arena, c->symbol_count + 1);
    s->reached = FG_TAKE(uint32_t, &c->arena, c->symbol_count + 1);
    for (uint32_t i = 0; s->reached && i < c->symbol_count; i++) s->reached[i] = 0;
    return s->queue && s->reached;
}

static void again(search *s)
{
    s->number++;
    s->count = 0;
}

static void reach(search *s, const fg_symbol *symbol)
{
    if (!symbol || s->reached[symbol->order] == s->number) return;
    s->reached[symbol->order] = s->number;
    s->queue[s->count++] = symbol;
}

/* Whom a condition looks at. What asks for a fault by name is never unsure. */
static void reach_in(search *s, const fg_node *node)
{
    if (!node || node->kind == NODE_FAULTY || node->kind == NODE_UNSURE) return;
    reach(s, node->symbol);
    for (const fg_node *child = node->first; child; child = child->next) reach_in(s, child);
}

/* Goes on from all that was reached; through counts and pulses only if `through`. */
static void follow(search *s, bool through)
{
    for (uint32_t i = 0; i < s->count; i++) {
        const fg_symbol *symbol = s->queue[i];
        if (is_read(symbol) || (keeps(symbol) && !through)) continue;
        reach(s, symbol->sensor);
        for (const fg_node *node = symbol->body; node; node = node->next) reach_in(s, node);
    }
}

/* ---- what is told ---- */

typedef struct telling {
    uint32_t *told;
    uint32_t number;
    fg_node_kind join; /* NODE_OR: the fault of one part is enough; NODE_AND: without one part nothing holds */
    uint32_t left;     /* conditions that may still be looked into */
} telling;

static void tell(telling *t, const fg_symbol *s)
{
    if (s && is_read(s)) t->told[s->order] = t->number;
}

/* The input whose fault alone makes this unsure, NULL if there is none. */
static const fg_symbol *unsure_with(const fg_node *node)
{
    if (node->kind == NODE_COMPARE) return node->symbol;
    if (node->kind != NODE_ANSWER && node->kind != NODE_IS) return NULL;
    return is_read(node->symbol) ? node->symbol : node->symbol->sensor;
}

static void tell_in(telling *t, const fg_node *node)
{
    if (!node || !t->left) return;
    t->left--;
    if (node->kind == t->join)
        for (const fg_node *part = node->first; part; part = part->next) tell_in(t, part);
    const bool faulty = (node->kind == NODE_FAULTY || node->kind == NODE_UNSURE) && t->join == NODE_OR;
    const bool not_faulty = node->kind == NODE_NOT && node->first->kind == NODE_FAULTY && t->join == NODE_AND;
    const fg_symbol *asked = faulty ? node->symbol : not_faulty ? node->first->symbol : NULL;
    if (asked) tell(t, is_read(asked) ? asked : asked->sensor);
    tell(t, unsure_with(node->kind == NODE_NOT ? node->first : node));
    if (node->kind == NODE_ANSWER && node->symbol->kind == FG_KIND_CONDITION) tell_in(t, node->symbol->body);
}

static const fg_node *condition_of(const fg_node *row) { return row->when == FG_ROW_WHEN ? row->first->next : NULL; }

/* What the rows above, the row itself, and a pulse's `stop` say of missing readings. */
static void tell_all(power *p, const fg_symbol *output, const fg_node *row, const fg_symbol *keeper)
{
    enum { LOOKED_AT = 200 };
    telling t = {p->told, p->keeper.number, NODE_OR, LOOKED_AT};
    for (const fg_node *above = output->body; above != row; above = above->next)
        if (above->kind == NODE_ROW) tell_in(&t, condition_of(above));
    const fg_node *stop = fg_node_attribute(keeper, ATTR_STOP);
    if (stop) tell_in(&t, stop->last);
    t.join = NODE_AND;
    tell_in(&t, condition_of(row));
}

/* ---- the note ---- */

static fg_text rest_words(fg_compiler *c, const fg_symbol *output)
{
    const fg_level *rest = &output->checked.rest;
    return rest->form == FG_FORM_TURN ? fg_text_of_value_unit(c, rest->number, 0, T("deg"))
                                      : fg_text_of(fg_form_word((fg_form)rest->form));
}

/* Only so many inputs are named. */
static bool keeper_told(power *p, const fg_symbol *output, const fg_node *row, const fg_symbol *keeper)
{
    enum { NAMED = 4 };
    fg_compiler *c = p->rows.c;
    fg_text faulty = {0}, names = {0};
    uint32_t count = 0;
    again(&p->keeper);
    for (const fg_node *node = keeper->body; node; node = node->next) reach_in(&p->keeper, node);
    follow(&p->keeper, false);
    tell_all(p, output, row, keeper);
    for (uint32_t i = 0; i < p->keeper.count && count < NAMED; i++) {
        const fg_symbol *s = p->keeper.queue[i];
        if (!is_read(s) || p->told[s->order] == p->keeper.number) continue;
        const fg_text one = fg_text_join(c, s->name, " faulty", (fg_text){0});
        names = count ? fg_text_join(c, names, " or ", s->name) : s->name;
        faulty = count ? fg_text_join(c, faulty, " or ", one) : one;
        count++;
    }
    if (!count) return true;
    fg_report(c, FG_FIND_KEPT, row->span, "the {} {} keeps its answer while {} is faulty, and so does this row",
              "put a row above it: {} when {}", fg_text_of(fg_kind_word(keeper->kind)), keeper->name, names,
              rest_words(c, output), faulty);
    return false;
}

static void rows_on_keepers(power *p, const fg_symbol *output)
{
    for (const fg_node *row = output->body; row; row = row->next) {
        const fg_node *level = row->kind == NODE_ROW ? row->first : NULL;
        if (!level || (fg_form_traits((fg_form)level->level.form) & FG_FORM_IS_REST)) continue;
        again(&p->rows);
        reach_in(&p->rows, condition_of(row));
        if (level->first && level->first->kind == NODE_FOLLOW) reach(&p->rows, level->first->symbol);
        follow(&p->rows, true);
        for (uint32_t i = 0; i < p->rows.count; i++)
            if (keeps(p->rows.queue[i]) && !keeper_told(p, output, row, p->rows.queue[i])) return;
    }
}

void fg_warn_kept(fg_compiler *c)
{
    power p;
    bool any = false;
    for (const fg_symbol *s = c->symbols; s && !any; s = s->next) any = keeps(s);
    if (!any || !start(c, &p.rows) || !start(c, &p.keeper)) return;
    p.told = FG_TAKE(uint32_t, &c->arena, c->symbol_count + 1);
    if (!p.told) return;
    for (uint32_t i = 0; i < c->symbol_count; i++) p.told[i] = 0;
    for (const fg_symbol *s = c->symbols; s; s = s->next)
        if (fg_kind_is(s->kind, FG_KIND_GUARDED)) rows_on_keepers(&p, s);
}
