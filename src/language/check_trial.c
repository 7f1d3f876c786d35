/* Trials: their times, labels and numbers, and the lines that watch. */
#include "front.h"

static bool check_times(fg_front *f, const fg_node *from, fg_expect *out)
{
    if (!from) return true;
    if (!fg_quantity_duration(f, from, T("a moment"), &out->from)) return false;
    if (!from->next) return true;
    if (!fg_quantity_duration(f, from->next, T("a moment"), &out->to)) return false;
    if (out->to >= out->from) return true;
    fg_say(f, FG_FIND_ORDER, from->next->span, "{} comes before {}", "write the earlier time first",
           fg_span_text(f, from->next->span), fg_span_text(f, from->span));
    return false;
}

static bool check_goes(fg_front *f, const fg_node *expect, fg_expect *out)
{
    uint32_t count = 0;
    const fg_symbol *bands = expect->symbol;
    for (const fg_node *label = expect->first; label; label = label->next) count++;
    fg_verdict *labels = FG_TAKE(fg_verdict, &f->arena, count);
    out->labels = labels;
    if (!labels || !bands || count > UINT16_MAX) return false;
    for (const fg_node *label = expect->first; label; label = label->next) {
        uint16_t i = 0;
        while (i < bands->label_count && !fg_text_same(bands->labels[i], label->word)) i++;
        if (fg_text_is(label->word, "none")) {
            labels[out->label_count++] = FG_NONE;
        } else if (i < bands->label_count) {
            labels[out->label_count++] = FG_LABEL(i);
        } else {
            fg_say(f, FG_FIND_UNKNOWN, label->span, "{} has no label '{}'", "correct the label", bands->name,
                   label->word);
            return false;
        }
    }
    return true;
}

static bool check_changes(fg_front *f, const fg_node *expect, fg_expect *out)
{
    const fg_slot_for slot = {.what = T("a number of changes"), .low = 0, .high = INT32_MAX};
    int64_t most = 0;
    if (!expect->first || !fg_quantity_steps(f, expect->first, &slot, &most)) return false;
    out->most = (uint32_t)most;
    return true;
}

static bool check_matches(fg_front *f, const fg_node *expect, const fg_node *least, fg_expect *out)
{
    const fg_slot_for slot = {.what = T("the share of rows that match"), .unit = T("%"), .decimals = 2, .high = 10000};
    int64_t share = 10000;
    out->column = expect->word;
    if (least && !fg_quantity_steps(f, least, &slot, &share)) return false;
    out->least = (uint32_t)share;
    return true;
}

static void check_expect(fg_front *f, const fg_node *expect, fg_expect *out)
{
    *out = (fg_expect){.kind = (fg_expect_kind)expect->role,
                       .span = expect->span,
                       .condition = expect->unit_span,
                       .slot = FG_SLOT_NONE,
                       .while_slot = FG_SLOT_NONE};
    if (expect->kind == NODE_BROKEN) return;
    if (expect->symbol) out->declared = expect->symbol->order;
    if (expect->role == FG_EXPECT_GOES) {
        (void)check_goes(f, expect, out);
        return;
    }
    if (expect->role == FG_EXPECT_CHANGES) {
        (void)check_changes(f, expect, out);
        return;
    }
    if (expect->role == FG_EXPECT_MATCHES && expect->symbol) {
        (void)check_matches(f, expect, expect->first, out);
        return;
    }
    const fg_node *rest = expect->first->next;
    if (expect->role == FG_EXPECT_MATCHES) {
        if (check_matches(f, expect, rest, out)) out->slot = fg_emit_condition(f, expect->first);
        return;
    }
    if (expect->role == FG_EXPECT_WITHIN) {
        if (!fg_quantity_duration(f, rest, T("the time it may take"), &out->from)) return;
        out->slot = fg_emit_condition(f, expect->first);
        out->while_slot = fg_emit_condition(f, rest->next);
        return;
    }
    const bool has_while = expect->role == FG_EXPECT_ALWAYS || expect->role == FG_EXPECT_NEVER;
    if (!has_while && !check_times(f, rest, out)) return;

    /* The lines are worked out for every trial, so that each mistake is found, but kept for this one only. */
    out->slot = fg_emit_condition(f, expect->first);
    if (has_while && rest) out->while_slot = fg_emit_condition(f, rest);
}

void fg_check_trials(fg_front *f)
{
    fg_tables *t = f->tables;
    fg_trial *trials = FG_TAKE(fg_trial, &f->arena, f->trial_count);
    int32_t number = 0;
    const uint32_t watched_from = t->ops_used;
    if (!trials) return;
    for (const fg_trial_node *node = f->trials; node; node = node->next, number++) {
        fg_expect *expects = FG_TAKE(fg_expect, &f->arena, node->expect_count);
        const bool compiled = number == f->input->trial;
        const fg_tables before = *t;
        uint32_t count = 0;
        if (!expects) return;
        for (const fg_node *value = node->sets; value; value = value->next) (void)fg_quantity_of(f, value);
        for (const fg_node *expect = node->expects; expect; expect = expect->next)
            check_expect(f, expect, &expects[count++]);
        trials[number] = (fg_trial){node->name,  node->readings, node->span, node->readings_span,
                                    node->whole, expects,        count,      node->sets != NULL};
        fg_emit_looked_back(f);
        if (compiled) {
            fg_emit_states(f);
            f->program->gate.count.watched = (uint16_t)(t->ops_used - watched_from);
        } else {
            *t = before;
        }
    }
    f->program->trials = trials;
    f->program->trial_count = f->trial_count;
}
