/* SPDX-License-Identifier: MIT */
/* Answers of the program as C. An answer that is asked once, and that remembers nothing, becomes a test where it is
 * asked; every other answer has a variable. A test says whether an answer is yes, or whether it is no; what is neither
 * is unsure. */
#include "workshop/bake/expression/expression.h"

static code_test compare(coder *c, const fg_op *op, bool yes)
{
    const fg_compare *rule = &c->gate->compares[op->rule];
    if (op->kind == FG_OP_COMPARE_COUNT)
        return yes != rule->outside ? fg_code_in(c, NULL, c->counts[op->a], rule->range)
                                    : fg_code_out_of(c, NULL, c->counts[op->a], rule->range);
    const code_sensor *s = &c->sensors[op->a];
    return fg_code_both(c, fg_code_atom(s->ok),
                        yes != rule->outside ? fg_code_in(c, s, s->value, rule->range)
                                             : fg_code_out_of(c, s, s->value, rule->range));
}

static code_test is_one_of(coder *c, const fg_op *op, bool yes)
{
    const char *variable = c->slots[op->a];
    const fg_declared *bands = fg_code_declared(c, FG_KIND_BANDS, fg_code_op(c, op->a)->rule);
    code_test test = yes ? code_never : fg_code_is_not(c, variable, "\3UNSURE");
    for (uint16_t i = 0; i < op->b; i++) {
        const char *name = fg_code_label(c, bands, c->gate->labels[op->rule + i]);
        test = yes ? fg_code_either(c, test, fg_code_is(c, variable, name))
                   : fg_code_both(c, test, fg_code_is_not(c, variable, name));
    }
    return test;
}

static code_test test_of(coder *c, uint16_t slot, bool yes)
{
    const fg_op *op = fg_code_op(c, slot);
    if (slot == FG_INDEX_NONE) return yes ? code_never : code_always;
    if (c->slots[slot]) return fg_code_is(c, c->slots[slot], yes ? "\3YES" : "\3NO");
    switch ((fg_op_kind)op->kind) {
    case FG_OP_NOT: return test_of(c, op->a, !yes);
    case FG_OP_AND:
    case FG_OP_OR:
        return (op->kind == FG_OP_AND) == yes ? fg_code_both(c, test_of(c, op->a, yes), test_of(c, op->b, yes))
                                              : fg_code_either(c, test_of(c, op->a, yes), test_of(c, op->b, yes));
    case FG_OP_IS: return is_one_of(c, op, yes);
    case FG_OP_COMPARE:
    case FG_OP_COMPARE_COUNT: return compare(c, op, yes);
    case FG_OP_SENSOR_FAULTY:
        return yes ? fg_code_not(c, fg_code_atom(c->sensors[op->rule].ok)) : fg_code_atom(c->sensors[op->rule].ok);
    case FG_OP_FLAG_FAULTY:
        return yes ? fg_code_is(c, c->flags[op->rule].bridged, "\3UNSURE")
                   : fg_code_is_not(c, c->flags[op->rule].bridged, "\3UNSURE");
    case FG_OP_UNSURE:
        return yes ? fg_code_is(c, c->slots[op->a], "\3UNSURE") : fg_code_is_not(c, c->slots[op->a], "\3UNSURE");
    default: return code_never;
    }
}

code_test fg_code_yes(coder *c, uint16_t slot) { return test_of(c, slot, true); }

code_test fg_code_no(coder *c, uint16_t slot) { return test_of(c, slot, false); }

code_test fg_code_open(coder *c, uint16_t slot)
{
    if (slot == FG_INDEX_NONE || fg_code_is_sure(c, slot)) return code_never;
    if (c->slots[slot]) return fg_code_is(c, c->slots[slot], "\3UNSURE");
    const fg_op *op = fg_code_op(c, slot);
    if (op->kind == FG_OP_IS) return fg_code_is(c, c->slots[op->a], "\3UNSURE");
    if (op->kind == FG_OP_COMPARE) return fg_code_not(c, fg_code_atom(c->sensors[op->a].ok));
    if (op->kind == FG_OP_OR) return fg_code_either(c, fg_code_open(c, op->a), fg_code_open(c, op->b));
    return fg_code_not(c, fg_code_no(c, slot));
}

/* A test in front of `?`. */
static const char *grouped(coder *c, code_test t)
{
    return t.join == CODE_AND || t.join == CODE_OR ? fg_code_say(c, "(%s)", t.text) : t.text;
}

static const char *answer_in_c(coder *c, uint16_t slot)
{
    const code_test yes = test_of(c, slot, true), no = test_of(c, slot, false);
    if (fg_code_is_sure(c, slot)) return fg_code_say(c, "%s ? \3YES : \3NO", grouped(c, yes));
    const code_test open = fg_code_open(c, slot);
    if (fg_code_op(c, slot)->kind == FG_OP_IS || fg_code_op(c, slot)->kind == FG_OP_COMPARE) {
        const bool is = fg_code_op(c, slot)->kind == FG_OP_IS;
        const fg_op *op = fg_code_op(c, slot);
        const fg_compare *rule = is ? NULL : &c->gate->compares[op->rule];
        const code_sensor *s = is ? NULL : &c->sensors[op->a];
        const code_test only = is              ? yes
                               : rule->outside ? fg_code_out_of(c, s, s->value, rule->range)
                                               : fg_code_in(c, s, s->value, rule->range);
        return fg_code_say(c, "%s ? \3UNSURE : %s ? \3YES : \3NO", grouped(c, open), grouped(c, only));
    }
    return fg_code_say(c, "%s ? \3NO\v : %s ? \3YES\v : \3UNSURE", grouped(c, no), grouped(c, yes));
}

const char *fg_code_worked_out(coder *c, uint16_t slot)
{
    const char *const variable = c->slots[slot];
    c->slots[slot] = NULL;
    const char *value = answer_in_c(c, slot);
    c->slots[slot] = variable;
    return value;
}

const char *fg_code_value(coder *c, uint16_t slot)
{
    if (slot == FG_INDEX_NONE) return "\3NO";
    return c->slots[slot] ? c->slots[slot] : fg_code_worked_out(c, slot);
}
