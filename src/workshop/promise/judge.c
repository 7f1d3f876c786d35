/* SPDX-License-Identifier: MIT */
/* Whether a row of a promise holds at a step: as a replay has it (replay/promises.c), with what it awaits as a number.
 */
#include "workshop/promise/ask.h"

static bool outside(const fg_ask *a)
{
    for (uint32_t i = 0; i < a->promise->row_count; i++) {
        const fg_expect *row = &a->promise->rows[i];
        if (row->kind == FG_EXPECT_ASSUME && fg_answer(a->run, row->slot) != FG_YES) return true;
    }
    return false;
}

static bool breaks_within(const fg_ask *a, fg_judge *j, fg_verdict answer)
{
    const bool event = fg_answer(a->run, a->row->while_slot) == FG_YES;
    if (j->awaits) j->awaits += a->gate->every;
    if (j->stepped && !j->event && event && !j->awaits) j->awaits = 1;
    j->event = event;
    if (!j->awaits) return false;
    const fg_time passed = j->awaits - 1;
    if (answer == FG_YES && passed <= a->row->from) j->awaits = 0;
    return j->awaits && passed >= a->row->from;
}

fg_judged fg_judge_step(const fg_ask *a, fg_judge *j)
{
    const fg_expect *row = a->row;
    const fg_verdict answer = fg_answer(a->run, row->slot);
    bool broken = false;
    if (a->situation) return fg_situation_happens(a->program, a->situation, a->run) ? FG_JUDGED_BROKEN : FG_JUDGED_WELL;
    if (outside(a)) return FG_JUDGED_OUTSIDE;
    if (row->kind == FG_EXPECT_CAN_END)
        j->event = answer != FG_NO; /* what is unsure has not ended */
    else if (row->kind == FG_EXPECT_WITHIN)
        broken = breaks_within(a, j, answer);
    else if (row->while_slot == FG_INDEX_NONE || fg_answer(a->run, row->while_slot) == FG_YES)
        broken = row->kind == FG_EXPECT_ALWAYS ? answer != FG_YES : answer == FG_YES;
    j->stepped = row->kind == FG_EXPECT_WITHIN; /* nobody else asks for it */
    return broken ? FG_JUDGED_BROKEN : FG_JUDGED_WELL;
}
