/* SPDX-License-Identifier: MIT */
/* Declarations by kind and number, and by the slot of the program they end. */
#include "workshop/bake/plan/coder.h"

#include <stdlib.h>

bool fg_code_index(coder *c)
{
    const fg_program *p = c->program;
    uint32_t counts[FG_KINDS_IN_ALL] = {0};
    c->owners = calloc(c->gate->size.ops + 1u, sizeof(fg_declared *));
    c->by_kind = calloc(FG_KINDS_IN_ALL, sizeof(fg_declared **));
    bool good = c->owners && c->by_kind;
    for (uint32_t i = 0; i < p->declared_count; i++) counts[p->declared[i].kind]++;
    for (int k = 0; good && k < FG_KINDS_IN_ALL; k++) {
        const bool output = fg_kind_is((fg_kind)k, FG_KIND_IS_OUTPUT); /* these are numbered together */
        c->by_kind[k] = calloc((output ? c->gate->size.outputs : counts[k]) + 1u, sizeof(fg_declared *));
        good = c->by_kind[k] != NULL;
    }
    for (uint32_t i = p->declared_count; good && i-- > 0;) { /* of two on one slot the first counts */
        const fg_declared *d = &p->declared[i];
        c->by_kind[d->kind][d->index] = d;
        if (d->slot != FG_INDEX_NONE) c->owners[d->slot] = d;
    }
    for (uint16_t slot = c->gate->size.ops; good && slot-- > 0;)
        if (!c->owners[slot] && slot + 1u < c->gate->size.ops) c->owners[slot] = c->owners[slot + 1];
    return good;
}

const fg_declared *fg_code_declared(const coder *c, fg_kind kind, uint16_t index) { return c->by_kind[kind][index]; }

const fg_declared *fg_code_owner(const coder *c, uint16_t slot) { return c->owners[slot]; }

const char *fg_code_label(const coder *c, const fg_declared *d, fg_verdict answer)
{
    if (answer == FG_NONE) return "\3NONE";
    return c->labels[c->first_label[d - c->program->declared] + answer - 1u];
}

const fg_op *fg_code_op(const coder *c, uint16_t slot) { return &c->gate->ops[slot]; }
