/* SPDX-License-Identifier: MIT */
/* Trials and promises: their times, labels, numbers and conditions. The slots of the conditions are filled in by
 * lowering. */
#include "language/check/check.h"

/* No time, a moment (or from then to the end), or a moment and a later one. */
static bool check_times(fg_compiler *c, fg_node *from, fg_expect *out)
{
    if (!from) return true;
    if (!fg_quantity_duration(c, from, T("a moment"), &out->from)) return false;
    if (!from->next) {
        out->to = FG_EXPECT_TO_END;
        return true;
    }
    if (!fg_quantity_duration(c, from->next, T("a moment"), &out->to)) return false;
    if (out->to >= out->from) return true;
    fg_report(c, FG_FIND_ORDER, from->next->span, "{} comes before {}", "write the earlier time first",
              fg_span_text(c, from->next->span), fg_span_text(c, from->span));
    return false;
}

/* The labels in the order in which they have to come. */
static bool check_goes(fg_compiler *c, const fg_node *expect, fg_expect *out)
{
    uint32_t count = 0;
    const fg_symbol *bands = expect->symbol;
    for (const fg_node *label = expect->first; label; label = label->next) count++;
    fg_verdict *labels = FG_TAKE(fg_verdict, &c->arena, count);
    out->labels = labels;
    if (!labels || !bands || count > UINT16_MAX) return false;
    for (const fg_node *label = expect->first; label; label = label->next) {
        const int i = fg_symbol_label(bands, label->word);
        if (fg_text_is(label->word, "none")) {
            labels[out->label_count++] = FG_NONE;
        } else if (i >= 0) {
            labels[out->label_count++] = fg_label((uint32_t)i);
        } else {
            fg_report(c, FG_FIND_UNKNOWN, label->span, "{} has no label '{}'", "correct the label", bands->name,
                      label->word);
            return false;
        }
    }
    return true;
}

/* 0 times is a good expectation: it never changes. */
static bool check_changes(fg_compiler *c, const fg_node *expect, fg_expect *out)
{
    const fg_number_spec slot = {.what = T("a number of changes"), .low = 0, .high = INT32_MAX};
    int64_t most = 0;
    if (!expect->first || !fg_quantity_steps(c, expect->first, &slot, &most)) return false;
    out->most = (uint32_t)most;
    return true;
}

/* The share of rows that has to match, in hundredths of a percent; all of them if nothing is said. */
static bool check_matches(fg_compiler *c, const fg_node *expect, const fg_node *least, fg_expect *out)
{
    const fg_number_spec slot = {
        .what = T("the share of rows that match"), .unit = T("%"), .decimals = 2, .high = 10000};
    int64_t share = 10000;
    out->column = expect->word;
    if (least && !fg_quantity_steps(c, least, &slot, &share)) return false;
    out->least = (uint32_t)share;
    return true;
}

/* Expectations about moments. */
static bool has_times(uint8_t kind)
{
    return kind == FG_EXPECT_AT || kind == FG_EXPECT_AT_END || kind == FG_EXPECT_FROM || kind == FG_EXPECT_BEGINS;
}

/* What does not hang on a condition is done first; behind it `rest` is what stands after the condition. */
static void check_expect(fg_compiler *c, fg_node *expect, fg_expect *out)
{
    *out = (fg_expect){.kind = (fg_expect_kind)expect->expect.kind,
                       .span = expect->span,
                       .condition = expect->expect.condition,
                       .slot = FG_INDEX_NONE,
                       .while_slot = FG_INDEX_NONE};
    if (expect->kind == NODE_BROKEN) return;
    if (expect->symbol) out->declared = expect->symbol->order;
    if (expect->expect.kind == FG_EXPECT_GOES) {
        (void)check_goes(c, expect, out);
        return;
    }
    if (expect->expect.kind == FG_EXPECT_CHANGES) {
        (void)check_changes(c, expect, out);
        return;
    }
    if (expect->expect.kind == FG_EXPECT_MATCHES && expect->symbol) {
        (void)check_matches(c, expect, expect->first, out);
        return;
    }
    fg_node *rest = expect->first->next;
    bool good = true;
    if (expect->expect.kind == FG_EXPECT_MATCHES) good = check_matches(c, expect, rest, out);
    if (expect->expect.kind == FG_EXPECT_WITHIN || expect->expect.kind == FG_EXPECT_CAN_END)
        good = fg_quantity_duration(c, rest, T("the time it may take"), &out->from);
    if (has_times(expect->expect.kind)) good = check_times(c, rest, out);
    if (!good) return;
    (void)fg_check_condition(c, expect->first);
    fg_node *other = fg_node_expect_other(expect);
    if (other) (void)fg_check_condition(c, other);
}

/* A trial that sets numbers is compiled anew for its run, so here its values only have to be right. The expectations
 * stay with their nodes: lowering adds slots to those of the trial that is played. */
void fg_check_trials(fg_compiler *c)
{
    fg_trial *trials = FG_TAKE(fg_trial, &c->arena, c->trial_count);
    uint32_t number = 0;
    for (const fg_trial_node *node = c->trials; node && trials; node = node->next, number++) {
        fg_expect *expects = FG_TAKE(fg_expect, &c->arena, node->expect_count);
        uint32_t count = 0;
        if (!expects) return;
        for (const fg_node *value = node->sets; value; value = value->next) (void)fg_quantity_of(c, value);
        for (fg_node *expect = node->expects; expect; expect = expect->next) {
            expect->found.expect = &expects[count++];
            check_expect(c, expect, expect->found.expect);
        }
        trials[number] = (fg_trial){node->name,  node->readings, node->span, node->readings_span,
                                    node->whole, expects,        count,      node->sets != NULL};
    }
    c->program->trials = trials;
    c->program->trial_count = c->trial_count;
}

/* What a promise says can be asked step by step only where steps come by themselves. */
void fg_check_promises(fg_compiler *c)
{
    fg_promise *promises = FG_TAKE(fg_promise, &c->arena, c->promise_count);
    uint32_t number = 0;
    for (const fg_promise_node *node = c->promises; node && promises; node = node->next, number++) {
        fg_expect *rows = FG_TAKE(fg_expect, &c->arena, node->row_count);
        uint32_t count = 0;
        if (!rows) return;
        for (fg_node *row = node->rows; row; row = row->next) {
            row->found.expect = &rows[count++];
            check_expect(c, row, row->found.expect);
        }
        promises[number] = (fg_promise){node->text, node->span, rows, count};
    }
    if (c->promises && !c->paced)
        fg_report(c, FG_FIND_MISSING, c->promises->span, "a gate that promises something says how often it steps",
                  "add every 50ms in front of its declarations");
    for (fg_node *asked = c->asked; asked; asked = asked->next) (void)fg_check_condition(c, asked);
    c->program->promises = promises;
    c->program->promise_count = c->promise_count;
}
