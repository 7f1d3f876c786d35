/* Levels and trials: numbers into their places. */
#include "front.h"

static bool percent_of(fg_front *f, const fg_node *number, fg_level *level)
{
    const fg_slot_for slot = {.what = T("a strength"), .unit = T("%"), .unit_needed = true, .low = 0, .high = 100};
    int64_t percent = 0;
    if (!fg_quantity_steps(f, number, &slot, &percent)) return false;
    level->percent = (uint8_t)percent;
    return true;
}

static bool tone_of(fg_front *f, const fg_node *node, fg_level *level)
{
    const fg_slot_for slot = {.what = T("a tone"), .unit = T("Hz"), .unit_needed = true, .low = 0, .high = INT32_MAX};
    int64_t hz = 0;
    level->number = fg_note_hz(node->word);
    if (level->number) return true;
    if (!node->first || node->first->role != ROLE_NUMBER || !fg_quantity_steps(f, node->first, &slot, &hz))
        return false;
    level->number = (int32_t)hz;
    return true;
}

static fg_form rest_form(fg_kind kind)
{
    return kind == FG_KIND_BUZZER ? FG_FORM_QUIET : kind == FG_KIND_MOTOR ? FG_FORM_STOP : FG_FORM_OFF;
}

bool fg_check_level(fg_front *f, const fg_node *node, const fg_symbol *output, fg_level *level, fg_pattern *pattern)
{
    const fg_node *percent = node->last && node->last->role == ROLE_PERCENT ? node->last : NULL;
    *level = (fg_level){.form = node->role, .percent = 100, .colour = node->colour};
    if (level->form == FG_FORM_HOLD) level->percent = 0;
    if (level->form == FG_FORM_TONE && !tone_of(f, node, level)) return false;
    if (percent && !percent_of(f, percent, level)) return false;
    if (pattern) {
        pattern->percent = percent != NULL;
        pattern->colour = node->colour != 0;
    }
    const bool rest = level->form == rest_form(output->kind) || !level->percent;
    if ((rest && level->form != FG_FORM_HOLD) || (level->form == FG_FORM_TONE && !level->number))
        *level = (fg_level){.form = (uint8_t)rest_form(output->kind)};
    if (pattern) pattern->level = *level;
    return true;
}

/* ---- trials ---- */

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
    fg_verdict *labels = fg_arena_take(&f->arena, count, sizeof *labels);
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

static void check_expect(fg_front *f, const fg_node *expect, fg_expect *out, bool compiled)
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
    const fg_node *rest = expect->first->next;
    const bool has_while = expect->role == FG_EXPECT_ALWAYS || expect->role == FG_EXPECT_NEVER;
    if (!has_while && !check_times(f, rest, out)) return;

    /* The lines are worked out for every trial, so that each mistake is found, but kept for this one only. */
    out->slot = fg_emit_condition(f, expect->first);
    if (has_while && rest) out->while_slot = fg_emit_condition(f, rest);
    (void)compiled;
}

void fg_check_trials(fg_front *f)
{
    fg_tables *t = f->tables;
    fg_trial *trials = fg_arena_take(&f->arena, f->trial_count, sizeof *trials);
    int32_t number = 0;
    uint32_t watched_from = t->op_count;
    if (!trials) return;
    for (const fg_trial_node *node = f->trials; node; node = node->next, number++) {
        fg_expect *expects = fg_arena_take(&f->arena, node->expect_count, sizeof *expects);
        const bool compiled = number == f->input->trial;
        const fg_tables before = *t;
        uint32_t count = 0;
        if (!expects) return;
        for (const fg_node *value = node->sets; value; value = value->next) (void)fg_quantity_of(f, value);
        for (const fg_node *expect = node->expects; expect; expect = expect->next)
            check_expect(f, expect, &expects[count++], compiled);
        trials[number] = (fg_trial){node->name, node->readings, node->span, node->readings_span, expects, count};
        if (!compiled) *t = before;
        if (compiled) f->program->gate.watched_count = (uint16_t)(t->op_count - watched_from);
    }
    f->program->trials = trials;
    f->program->trial_count = f->trial_count;
}
