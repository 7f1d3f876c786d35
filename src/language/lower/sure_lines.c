/* Which lines of a program can never be unsure. */
#include <ficklegate/language.h>

static bool all_sure(const fg_gate *gate, const fg_op *op, const bool *sure)
{
    for (uint16_t i = 0; i < op->b; i++)
        if (!sure[gate->slots[op->rule + i]]) return false;
    return true;
}

static bool line_is_sure(const fg_gate *gate, const fg_op *op, const bool *sure)
{
    switch ((fg_op_kind)op->kind) {
    case FG_OP_FLAG:
    case FG_OP_THRESHOLD:
    case FG_OP_HYSTERESIS:
    case FG_OP_BANDS:
    case FG_OP_COMPARE:
    case FG_OP_PREVIOUSLY: return false; /* the last one at the first step */
    case FG_OP_IS:
    case FG_OP_NOT:
    case FG_OP_FOR:
    case FG_OP_STARTS:
    case FG_OP_ENDS: return sure[op->a];
    case FG_OP_AND:
    case FG_OP_OR: return sure[op->a] && sure[op->b];
    case FG_OP_LATCH: return sure[op->a] && (op->b == FG_INDEX_NONE || sure[op->b]);
    case FG_OP_AT_LEAST: return all_sure(gate, op, sure);
    default: return true;
    }
}

void fg_gate_sure_lines(const fg_gate *gate, bool *sure)
{
    const uint32_t lines = (uint32_t)gate->size.ops + gate->size.watched;
    for (uint32_t i = 0; i < lines; i++) sure[i] = line_is_sure(gate, &gate->ops[i], sure);
}
