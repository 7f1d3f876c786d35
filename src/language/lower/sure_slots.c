/* SPDX-License-Identifier: MIT */
/* Which answers can never be unsure. */
#include <ficklegate/language.h>

/* Of a list of slots. */
static bool all_sure(const fg_gate *gate, const fg_op *op, const bool *sure)
{
    for (uint16_t i = 0; i < op->b; i++)
        if (!sure[gate->slots[op->rule + i]]) return false;
    return true;
}

/* A slot that is looked at makes an answer as unsure as it may be itself, unless the op is always sure. */
static bool op_is_sure(const fg_gate *gate, const fg_op *op, const bool *sure)
{
    const uint8_t traits = fg_op_traits((fg_op_kind)op->kind);
    if (traits & FG_OP_ALWAYS_SURE) return true;
    if (traits & FG_OP_MAY_BE_UNSURE) return false;
    if (op->kind == FG_OP_AT_LEAST) return all_sure(gate, op, sure);
    if (traits & FG_OP_A_IS_SLOT && !sure[op->a]) return false;
    return !(traits & FG_OP_B_IS_SLOT) || op->b == FG_INDEX_NONE || sure[op->b];
}

/* An op looks only at those before it, so one way through is enough. */
void fg_gate_sure_slots(const fg_gate *gate, bool *sure)
{
    const uint32_t slots = (uint32_t)gate->size.ops + gate->size.watched;
    for (uint32_t i = 0; i < slots; i++) sure[i] = op_is_sure(gate, &gate->ops[i], sure);
}
