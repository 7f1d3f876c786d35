/* Outputs: their attributes, and levels with numbers in their places. */
#include "front.h"

/* ---- attributes ---- */

static const fg_slot_for degrees = {.unit = {"deg", 3}, .low = INT32_MIN, .high = INT32_MAX};

/* The two ends of a range, the lower one first; false, and a finding, where they stand the wrong way round. */
static bool check_ends(fg_front *f, fg_symbol *of, const fg_node *range, const fg_slot_for *slot, const char *wrong_way)
{
    const fg_node *ends = range->first;
    if (!fg_quantity_steps(f, ends->first, slot, &of->low) || !fg_quantity_steps(f, ends->last, slot, &of->high))
        return true;
    if (of->low <= of->high) return true;
    fg_say(f, FG_FIND_ORDER, range->span, wrong_way, "write the lower end first", fg_span_text(f, ends->first->span),
           fg_span_text(f, ends->last->span));
    return false;
}

static void check_servo(fg_front *f, fg_symbol *servo)
{
    const fg_node *range = fg_check_attribute(servo, ATTR_RANGE);
    fg_slot_for slot = degrees;
    slot.what = T("the range of a servo");
    servo->high = 180;
    if (!range) {
        fg_say(f, FG_FIND_MISSING, servo->span, "the servo {} has no range",
               "add range 0..180, the angles it may turn to", servo->name);
        return;
    }
    check_ends(f, servo, range, &slot, "the range begins at {}, over its end {}");
}

static void check_bar(fg_front *f, fg_symbol *bar)
{
    const fg_node *lights = fg_check_attribute(bar, ATTR_LIGHTS);
    const fg_slot_for slot = {.what = T("a number of lights"), .low = 1, .high = 65535};
    bar->high = 65535;
    if (!lights)
        fg_say(f, FG_FIND_MISSING, bar->span, "the bar {} does not say how many lights it has", "add lights 8",
               bar->name);
    else
        (void)fg_quantity_steps(f, lights->first, &slot, &bar->high);
}

static bool whole_number(fg_text text, uint32_t most, uint8_t *out)
{
    uint32_t value = 0;
    for (size_t i = 0; i < text.size && value <= most; i++) {
        if (text.at[i] < '0' || text.at[i] > '9') return false;
        value = value * 10 + (uint32_t)(text.at[i] - '0');
    }
    *out = (uint8_t)value;
    return text.size && value >= 1 && value <= most;
}

static void check_display(fg_front *f, fg_symbol *display)
{
    enum { COLUMNS_MOST = 200, LINES_MOST = 50 };
    const fg_node *size = fg_check_attribute(display, ATTR_SIZE);
    display->columns = 16;
    display->lines = 2;
    if (!size) return;
    const fg_text lines = size->unit.size ? (fg_text){size->unit.at + 1, size->unit.size - 1} : size->unit;
    if (whole_number(size->word, COLUMNS_MOST, &display->columns) && whole_number(lines, LINES_MOST, &display->lines))
        return;
    fg_say(f, FG_FIND_RANGE, size->span, "a display has 1 to 200 columns and 1 to 50 lines", "write size 16x2");
    display->columns = 16;
    display->lines = 2;
}

void fg_check_output(fg_front *f, fg_symbol *output)
{
    if (output->kind == FG_KIND_SERVO) check_servo(f, output);
    if (output->kind == FG_KIND_BAR) check_bar(f, output);
    if (output->kind == FG_KIND_DISPLAY) check_display(f, output);
}

void fg_check_count(fg_front *f, fg_symbol *count)
{
    const fg_node *limit = fg_check_attribute(count, ATTR_LIMIT);
    const fg_slot_for slot = {.what = T("a limit of a count"), .low = INT32_MIN, .high = INT32_MAX};
    count->low = 0;
    count->high = INT32_MAX;
    if (!limit) return;
    if (!check_ends(f, count, limit, &slot, "the limit begins at {}, over its end {}")) count->high = count->low;
}

/* ---- levels ---- */

static bool percent_of(fg_front *f, const fg_node *number, fg_level *level)
{
    const fg_slot_for slot = {.what = T("a strength"), .unit = T("%"), .unit_needed = true, .low = 0, .high = 100};
    int64_t percent = 0;
    if (!fg_quantity_steps(f, number, &slot, &percent)) return false;
    level->percent = (uint8_t)percent;
    return true;
}

static bool number_of(fg_front *f, const fg_node *node, const fg_slot_for *slot, fg_level *level)
{
    int64_t number = 0;
    if (!node->first || !fg_quantity_steps(f, node->first, slot, &number)) return false;
    level->number = (int32_t)number;
    return true;
}

static bool tone_of(fg_front *f, const fg_node *node, fg_level *level)
{
    const fg_slot_for slot = {.what = T("a tone"), .unit = T("Hz"), .unit_needed = true, .low = 0, .high = INT32_MAX};
    level->number = node->first && node->first->role == ROLE_NUMBER ? 0 : fg_note_hz(node->word);
    return level->number || number_of(f, node, &slot, level);
}

static bool turn_of(fg_front *f, const fg_node *node, const fg_symbol *servo, fg_level *level)
{
    fg_slot_for slot = degrees;
    slot.what = T("an angle");
    slot.unit_needed = true;
    level->percent = 0;
    if (!number_of(f, node, &slot, level)) return false;
    if (servo->kind != FG_KIND_SERVO || (level->number >= servo->low && level->number <= servo->high)) return true;
    fg_say(f, FG_FIND_RANGE, node->span, "{} is outside the range of {}", "it goes from {} to {} deg",
           fg_span_text(f, node->first->span), servo->name, fg_text_of_value(f, servo->low, 0),
           fg_text_of_value(f, servo->high, 0));
    return false;
}

static bool lights_of(fg_front *f, const fg_node *node, const fg_symbol *bar, fg_level *level)
{
    const fg_slot_for slot = {
        .what = T("a number of lights"), .low = 0, .high = bar->kind == FG_KIND_BAR ? bar->high : 65535};
    level->percent = 0;
    return number_of(f, node, &slot, level);
}

/* ---- texts ---- */

static void piece_of(fg_front *f, const fg_node *node, fg_piece *piece)
{
    const fg_symbol *s = node->symbol;
    *piece = (fg_piece){.text = {node->word.at, (uint16_t)node->word.size}, .kind = FG_PIECE_TEXT};
    if (!s) return;
    piece->text = (fg_string){0};
    piece->index = s->slot;
    if (s->kind == FG_KIND_SENSOR) {
        piece->kind = FG_PIECE_SENSOR;
        piece->index = s->index;
        const fg_text unit = node->negated && s->unit.size ? fg_text_join(f, T(" "), "", s->unit) : (fg_text){0};
        piece->text = (fg_string){unit.at, (uint16_t)unit.size};
    } else if (s->kind == FG_KIND_BANDS) {
        piece->kind = FG_PIECE_BANDS;
        piece->first_label = s->strings;
    } else if (s->kind == FG_KIND_COUNT) {
        piece->kind = FG_PIECE_COUNT;
        piece->index = s->index;
    } else if (s->kind == FG_KIND_NUMBER) {
        const fg_text text = fg_quantity_text(f, &s->quantity, node->negated);
        piece->text = (fg_string){text.at, (uint16_t)text.size};
    } else if (fg_kind_is_output(s->kind)) {
        piece->kind = FG_PIECE_OUTPUT;
        piece->index = s->index;
    } else {
        piece->kind = FG_PIECE_ANSWER;
    }
}

static bool show_of(fg_front *f, const fg_node *node, const fg_symbol *display, fg_level *level)
{
    fg_tables *t = f->tables;
    fg_show *show = &t->shows[t->shows_used];
    *show = (fg_show){.first_line = (uint16_t)t->lines_used};
    for (const fg_node *line = node->first; line; line = line->next) {
        fg_line_of_text *l = &t->lines[t->lines_used++];
        *l = (fg_line_of_text){.first_piece = (uint16_t)t->pieces_used};
        for (const fg_node *piece = line->first; piece; piece = piece->next) {
            piece_of(f, piece, &t->pieces[t->pieces_used++]);
            l->piece_count++;
        }
        show->line_count++;
    }
    level->percent = 0;
    level->number = (int32_t)t->shows_used++;
    if (display->kind != FG_KIND_DISPLAY || show->line_count <= display->lines)
        return fg_emit_fits(f, t->pieces_used, node->span) && fg_emit_fits(f, t->lines_used, node->span);
    fg_say(f, FG_FIND_RANGE, node->span, "{} has {} lines, this text has {}",
           "leave some out, or give it a larger size", display->name, fg_text_of_value(f, display->lines, 0),
           fg_text_of_value(f, show->line_count, 0));
    return false;
}

/* ---- what moves by itself ---- */

/* What a follow goes to on this kind of output; its own range if none is written. */
static bool target_of(const fg_symbol *output, fg_slot_for *slot)
{
    *slot = (fg_slot_for){.what = T("what is followed to")};
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

static bool follow_of(fg_front *f, const fg_node *node, const fg_symbol *output, fg_level *level)
{
    fg_slot_for target;
    const bool has_own = target_of(output, &target);
    const fg_node *follow = node->first;
    if (!has_own && follow->first == follow->last) {
        fg_say(f, FG_FIND_MISSING, follow->span, "a buzzer needs the tones to follow to", "add to 200..2000 Hz");
        return false;
    }
    const uint16_t number = fg_emit_follow(f, follow, output, &target);
    *level = (fg_level){.form = FG_FORM_FOLLOW, .number = number};
    return number != FG_NONE_OF_THEM;
}

static bool sweep_of(fg_front *f, const fg_node *node, const fg_symbol *servo, fg_level *level)
{
    fg_tables *t = f->tables;
    fg_sweep *sweep = &t->sweeps[t->sweeps_used];
    const fg_node *range = node->first, *time = node->last;
    fg_slot_for slot = degrees;
    int64_t a = 0, b = 0;
    if (!range || !time) return false;
    slot.what = T("an end of the sweep");
    slot.low = servo->low;
    slot.high = servo->high;
    if (!fg_quantity_steps(f, range->first, &slot, &a) || !fg_quantity_steps(f, range->last, &slot, &b) ||
        !fg_quantity_duration(f, time, T("'in'"), &sweep->time))
        return false;
    if (!sweep->time) {
        fg_say(f, FG_FIND_RANGE, time->span, "a sweep takes more than no time", "write a time above 0");
        return false;
    }
    sweep->a = (int32_t)a;
    sweep->b = (int32_t)b;
    *level = (fg_level){.form = FG_FORM_SWEEP, .number = (int32_t)t->sweeps_used++};
    return true;
}

/* Every level of a sequence has to be one that this output has. */
static bool play_of(fg_front *f, const fg_node *node, const fg_symbol *output, fg_level *level)
{
    const fg_symbol *sequence = node->symbol;
    *level = (fg_level){.form = FG_FORM_PLAY, .number = sequence->index};
    for (const fg_node *segment = sequence->body; segment; segment = segment->next) {
        fg_level plain;
        if (segment->kind != NODE_SEGMENT) continue;
        fg_form form = (fg_form)segment->first->role;
        if (form == FG_FORM_TONE && output->kind == FG_KIND_SERVO) form = FG_FORM_TURN;
        if (!fg_level_fits(form, output->kind) ||
            (output->kind == FG_KIND_RELAY && segment->first->last && segment->first->last->role == ROLE_PERCENT)) {
            fg_say(f, FG_FIND_LEVEL, node->unit_span, "a {} has no level '{}', which '{}' plays",
                   "play a sequence made for a {}", fg_text_c(fg_kind_word(output->kind)),
                   fg_span_text(f, segment->first->span), sequence->name, fg_text_c(fg_kind_word(output->kind)));
            return false;
        }
        const fg_tables before = *f->tables; /* looked at for this output, kept once for the sequence */
        const bool good = fg_check_level(f, segment->first, output, &plain, NULL);
        *f->tables = before;
        if (!good) return false;
    }
    return true;
}

static bool plain_of(fg_front *f, const fg_node *node, const fg_symbol *output, fg_level *level)
{
    switch ((fg_form)level->form) {
    case FG_FORM_TONE: return tone_of(f, node, level);
    case FG_FORM_TURN: return turn_of(f, node, output, level);
    case FG_FORM_FILL:
    case FG_FORM_LIGHT: return lights_of(f, node, output, level);
    case FG_FORM_SHOW: return show_of(f, node, output, level);
    case FG_FORM_PLAY: return play_of(f, node, output, level);
    case FG_FORM_FOLLOW: return follow_of(f, node, output, level);
    case FG_FORM_SWEEP: return sweep_of(f, node, output, level);
    case FG_FORM_ON:
    case FG_FORM_FORWARD:
    case FG_FORM_BACK: return true;
    default: level->percent = 0; return true;
    }
}

/* In a sequence a bare number is a tone or an angle by its unit. */
static bool is_angle(fg_front *f, const fg_node *node, const fg_symbol *output)
{
    if (node->role != FG_FORM_TONE || !node->first || node->first->role != ROLE_NUMBER) return false;
    if (output->kind == FG_KIND_SERVO) return true;
    return output->kind == FG_KIND_SEQUENCE && fg_text_is(fg_quantity_of(f, node->first).unit, "deg");
}

bool fg_check_level(fg_front *f, const fg_node *node, const fg_symbol *output, fg_level *level, fg_pattern *pattern)
{
    const fg_node *percent = node->last && node->last->role == ROLE_PERCENT ? node->last : NULL;
    *level = (fg_level){.form = node->role, .percent = 100, .colour = node->colour};
    if (is_angle(f, node, output)) level->form = FG_FORM_TURN;
    if (!plain_of(f, node, output, level)) return false;
    if (percent && !percent_of(f, percent, level)) return false;
    *level = fg_level_normal(*level);
    if (pattern) *pattern = (fg_pattern){*level, percent != NULL, node->colour != 0};
    return true;
}
