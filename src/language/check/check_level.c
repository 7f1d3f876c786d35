/* SPDX-License-Identifier: MIT */
/* Levels: their numbers fit their places, and what follows, sweeps or plays fits its output. */
#include "language/check/check.h"

static const fg_number_spec degrees = {.unit = {"deg", 3}, .low = INT32_MIN, .high = INT32_MAX};

/* 0 % to 100 %, in whole percent. */
static bool percent_of(fg_compiler *c, const fg_node *number, fg_level *level)
{
    const fg_number_spec slot = {.what = T("a strength"), .unit = T("%"), .unit_needed = true, .low = 0, .high = 100};
    int64_t percent = 0;
    if (!fg_quantity_steps(c, number, &slot, &percent)) return false;
    level->percent = (uint8_t)percent;
    return true;
}

/* The number of a level, as `slot` allows it. */
static bool number_of(fg_compiler *c, const fg_node *node, const fg_number_spec *slot, fg_level *level)
{
    int64_t number = 0;
    if (!node->first || !fg_quantity_steps(c, node->first, slot, &number)) return false;
    level->number = (int32_t)number;
    return true;
}

/* A note has its Hz already. */
static bool tone_of(fg_compiler *c, const fg_node *node, fg_level *level)
{
    const fg_number_spec slot = {
        .what = T("a tone"), .unit = T("Hz"), .unit_needed = true, .low = 0, .high = INT32_MAX};
    level->number = node->first && node->first->part == PART_NUMBER ? 0 : fg_note_hz(node->word);
    return level->number || number_of(c, node, &slot, level);
}

/* A servo that is told to turn further than it can breaks, so the range is checked here and not left to the port. */
static bool turn_of(fg_compiler *c, const fg_node *node, const fg_symbol *servo, fg_level *level)
{
    fg_number_spec slot = degrees;
    slot.what = T("an angle");
    slot.unit_needed = true;
    level->percent = 0;
    if (!number_of(c, node, &slot, level)) return false;
    if (servo->kind != FG_KIND_SERVO || (level->number >= servo->low && level->number <= servo->high)) return true;
    fg_report(c, FG_FIND_RANGE, node->span, "{} is outside the range of {}", "it goes from {} to {} deg",
              fg_span_text(c, node->first->span), servo->name, fg_text_of_value(c, servo->low, 0),
              fg_text_of_value(c, servo->high, 0));
    return false;
}

/* Not more than there are. Lights of a sequence are checked as far as the numbers go: it belongs to no bar. */
static bool lights_of(fg_compiler *c, const fg_node *node, const fg_symbol *bar, fg_level *level)
{
    const fg_number_spec slot = {
        .what = T("a number of lights"), .low = 0, .high = bar->kind == FG_KIND_BAR ? bar->high : 65535};
    level->percent = 0;
    return number_of(c, node, &slot, level);
}

/* ---- texts ---- */

/* A text has no more lines than the display. */
static bool show_of(fg_compiler *c, const fg_node *node, const fg_symbol *display, fg_level *level)
{
    uint32_t lines = 0;
    for (const fg_node *line = node->first; line; line = line->next) lines++;
    level->percent = 0;
    if (display->kind != FG_KIND_DISPLAY || lines <= display->lines) return true;
    fg_report(c, FG_FIND_RANGE, node->span, "{} has {} lines, this text has {}",
              "leave some out, or give it a larger size", display->name, fg_text_of_value(c, display->lines, 0),
              fg_text_of_value(c, lines, 0));
    return false;
}

/* ---- what moves by itself ---- */

/* What a follow goes to on this kind of output; its own range if none is written. */
static bool target_of(const fg_symbol *output, fg_number_spec *slot)
{
    *slot = (fg_number_spec){.what = T("what is followed to")};
    switch (output->kind) {
    case FG_KIND_LAMP:
        slot->unit = T("%");
        slot->high = 100;
        return true;
    case FG_KIND_MOTOR:
        slot->unit = T("%");
        slot->low = -100;
        slot->high = 100;
        return true;
    case FG_KIND_SERVO:
        slot->unit = T("deg");
        slot->low = output->low;
        slot->high = output->high;
        return true;
    case FG_KIND_BAR: slot->high = output->high; return true;
    default:
        slot->unit = T("Hz");
        slot->high = INT32_MAX;
        return false;
    }
}

/* Both ranges in whole steps: the source in its own, the target in those of the output. A motor that is told no range
 * goes both ways. */
bool fg_check_follow(fg_compiler *c, fg_node *node, const fg_symbol *output, const fg_number_spec *target)
{
    const fg_symbol *source = node->symbol;
    const fg_symbol count = {.name = source->name};
    const fg_number_spec limit = fg_check_limit_of(source->kind == FG_KIND_COUNT ? &count : source, false);
    fg_node *from = node->first, *to = node->first != node->last ? node->last : NULL;
    int64_t begin = 0, end = 0, low = target->low, high = target->high;
    if (!fg_quantity_steps(c, from->first, &limit, &begin) || !fg_quantity_steps(c, from->last, &limit, &end))
        return false;
    if (begin == end) {
        fg_report(c, FG_FIND_ORDER, from->span, "both ends are the same, so there is nothing to follow",
                  "give two different numbers");
        return false;
    }
    if (to && (!fg_quantity_steps(c, to->first, target, &low) || !fg_quantity_steps(c, to->last, target, &high)))
        return false;
    if (!to && output && output->kind == FG_KIND_MOTOR) low = -100;
    node->found.follow = (fg_follow){(fg_value)begin, (fg_value)end, (int32_t)low,
                                     (int32_t)high,   source->index, source->kind == FG_KIND_COUNT};
    return true;
}

/* Lamps, motors, servos and bars have a range of their own; a buzzer has to be told its tones. */
static bool follow_of(fg_compiler *c, const fg_node *node, const fg_symbol *output, fg_level *level)
{
    fg_number_spec target;
    const bool has_own = target_of(output, &target);
    fg_node *follow = node->first;
    *level = (fg_level){.form = FG_FORM_FOLLOW};
    if (has_own || follow->first != follow->last) return fg_check_follow(c, follow, output, &target);
    fg_report(c, FG_FIND_MISSING, follow->span, "a buzzer needs the tones to follow to", "add to 200..2000 Hz");
    return false;
}

/* The ends lie within what the servo can turn to. */
static bool sweep_of(fg_compiler *c, const fg_node *node, const fg_symbol *servo, fg_level *level)
{
    fg_node *range = node->first, *time = node->last;
    fg_number_spec spec = degrees;
    fg_sweep sweep = {0};
    int64_t a = 0, b = 0;
    if (!range || !time) return false;
    spec.what = T("an end of the sweep");
    spec.low = servo->low;
    spec.high = servo->high;
    if (!fg_quantity_steps(c, range->first, &spec, &a) || !fg_quantity_steps(c, range->last, &spec, &b) ||
        !fg_quantity_duration(c, time, T("'in'"), &sweep.time))
        return false;
    if (!sweep.time) {
        fg_report(c, FG_FIND_RANGE, time->span, "a sweep needs some time", "write a time above 0");
        return false;
    }
    sweep.a = (int32_t)a;
    sweep.b = (int32_t)b;
    range->found.sweep = sweep;
    *level = (fg_level){.form = FG_FORM_SWEEP};
    return true;
}

/* Has the output a level of this form, and strength if one is written? */
static bool output_has(const fg_symbol *output, const fg_node *level)
{
    fg_form form = (fg_form)level->level.form;
    if (form == FG_FORM_TONE && output->kind == FG_KIND_SERVO) form = FG_FORM_TURN;
    const bool strength = level->last && level->last->part == PART_PERCENT;
    return fg_level_fits(form, output->kind) && !(output->kind == FG_KIND_RELAY && strength);
}

/* Every level of a sequence has to be one that this output has. It was checked by itself where the sequence stands;
 * here only what the output adds to it counts. */
static bool play_of(fg_compiler *c, const fg_node *node, const fg_symbol *output, fg_level *level)
{
    const fg_symbol *sequence = node->symbol;
    const fg_text kind = fg_text_of(fg_kind_word(output->kind));
    *level = (fg_level){.form = FG_FORM_PLAY, .number = sequence->index};
    for (const fg_node *segment = sequence->body; segment; segment = segment->next) {
        fg_level plain;
        if (segment->kind != NODE_SEGMENT) continue;
        if (!output_has(output, segment->first)) {
            fg_report(c, FG_FIND_LEVEL, node->level.name_span, "a {} has no level '{}', which '{}' plays",
                      "play a sequence made for a {}", kind, fg_span_text(c, segment->first->span), sequence->name,
                      kind);
            return false;
        }
        if (!fg_check_level(c, segment->first, output, &plain)) return false;
    }
    return true;
}

/* What each form needs besides its strength. A level of rest has none. */
static bool plain_of(fg_compiler *c, const fg_node *node, const fg_symbol *output, fg_level *level)
{
    switch ((fg_form)level->form) {
    case FG_FORM_TONE: return tone_of(c, node, level);
    case FG_FORM_TURN: return turn_of(c, node, output, level);
    case FG_FORM_FILL:
    case FG_FORM_LIGHT: return lights_of(c, node, output, level);
    case FG_FORM_SHOW: return show_of(c, node, output, level);
    case FG_FORM_PLAY: return play_of(c, node, output, level);
    case FG_FORM_FOLLOW: return follow_of(c, node, output, level);
    case FG_FORM_SWEEP: return sweep_of(c, node, output, level);
    case FG_FORM_ON:
    case FG_FORM_FORWARD:
    case FG_FORM_BACK: return true;
    default: level->percent = 0; return true;
    }
}

/* In a sequence a bare number is a tone or an angle by its unit. */
static bool is_angle(fg_compiler *c, const fg_node *node, const fg_symbol *output)
{
    if (node->level.form != FG_FORM_TONE || !node->first || node->first->part != PART_NUMBER) return false;
    if (output->kind == FG_KIND_SERVO) return true;
    return output->kind == FG_KIND_SEQUENCE && fg_text_is(fg_quantity_of(c, node->first).unit, "deg");
}

/* The level as it will stand in the table, in its one form: `on 0%` has become `off`. */
bool fg_check_level(fg_compiler *c, fg_node *node, const fg_symbol *output, fg_level *level)
{
    const fg_node *percent = node->last && node->last->part == PART_PERCENT ? node->last : NULL;
    *level = (fg_level){.form = node->level.form, .percent = 100, .colour = node->level.colour};
    if (is_angle(c, node, output)) level->form = FG_FORM_TURN;
    if (!plain_of(c, node, output, level)) return false;
    if (percent && !percent_of(c, percent, level)) return false;
    *level = fg_level_normal(*level);
    return true;
}
