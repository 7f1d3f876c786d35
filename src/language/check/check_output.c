/* SPDX-License-Identifier: MIT */
/* Outputs, sequences and the limit of a count: attributes and rows. */
#include "language/check/check.h"

/* ---- attributes ---- */

static const fg_number_spec degrees = {.unit = {"deg", 3}, .low = INT32_MIN, .high = INT32_MAX};

/* The two ends of a range, the lower one first; false, and a finding, where they stand the wrong way round. */
static bool check_ends(fg_compiler *c, fg_symbol *of, fg_node *range, const fg_number_spec *slot, const char *wrong_way)
{
    const fg_node *ends = range->first;
    if (!fg_quantity_steps(c, ends->first, slot, &of->low) || !fg_quantity_steps(c, ends->last, slot, &of->high))
        return true;
    if (of->kind == FG_KIND_COUNT) {
        fg_check_note_limit(c, ends->first, 0);
        fg_check_note_limit(c, ends->last, 0);
    }
    if (of->low <= of->high) return true;
    fg_report(c, FG_FIND_ORDER, range->span, wrong_way, "write the lower end first", fg_span_text(c, ends->first->span),
              fg_span_text(c, ends->last->span));
    return false;
}

/* What a servo may turn to is different for each, and guessing it breaks gears: it has to be written. */
static void check_servo(fg_compiler *c, fg_symbol *servo)
{
    fg_node *range = fg_node_attribute(servo, ATTR_RANGE);
    fg_number_spec slot = degrees;
    slot.what = T("the range of a servo");
    servo->high = 180;
    if (!range) {
        fg_report(c, FG_FIND_MISSING, servo->span, "the servo {} has no range",
                  "add range 0..180, the angles it may turn to", servo->name);
        return;
    }
    check_ends(c, servo, range, &slot, "the range begins at {}, over its end {}");
}

/* Without its number of lights nobody knows what `fill` and `follow` go up to. */
static void check_bar(fg_compiler *c, fg_symbol *bar)
{
    const fg_node *lights = fg_node_attribute(bar, ATTR_LIGHTS);
    const fg_number_spec slot = {.what = T("a number of lights"), .low = 1, .high = 65535};
    bar->high = 65535;
    if (!lights)
        fg_report(c, FG_FIND_MISSING, bar->span, "the bar {} does not say how many lights it has", "add lights 8",
                  bar->name);
    else
        (void)fg_quantity_steps(c, lights->first, &slot, &bar->high);
}

/* From 1 to `most`, which is below 256. */
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

/* `size 16x2`: the lexer gives `16` and `x2`. Two lines of sixteen are what most displays have. */
static void check_display(fg_compiler *c, fg_symbol *display)
{
    enum { COLUMNS_MOST = 200, LINES_MOST = 50 };
    const fg_node *size = fg_node_attribute(display, ATTR_SIZE);
    display->columns = 16;
    display->lines = 2;
    if (!size) return;
    const fg_text lines =
        size->row.lines.size ? (fg_text){size->row.lines.at + 1, size->row.lines.size - 1} : size->row.lines;
    if (whole_number(size->word, COLUMNS_MOST, &display->columns) && whole_number(lines, LINES_MOST, &display->lines))
        return;
    fg_report(c, FG_FIND_RANGE, size->span, "a display has 1 to 200 columns and 1 to 50 lines", "write size 16x2");
    display->columns = 16;
    display->lines = 2;
}

/* From 0 up, if it is not limited. */
static void check_count(fg_compiler *c, fg_symbol *count)
{
    fg_node *limit = fg_node_attribute(count, ATTR_LIMIT);
    const fg_number_spec slot = {.what = T("a limit of a count"), .low = INT32_MIN, .high = INT32_MAX};
    count->low = 0;
    count->high = INT32_MAX;
    if (!limit) return;
    if (!check_ends(c, count, limit, &slot, "the limit begins at {}, over its end {}")) count->high = count->low;
}

/* Where an output is at rest. */
static fg_level rest_of(fg_compiler *c, const fg_symbol *output)
{
    const fg_node *rest = fg_node_attribute(output, ATTR_REST);
    const fg_number_spec spec = {
        .what = T("the rest position"), .unit = T("deg"), .low = output->low, .high = output->high};
    int64_t angle = output->low;
    for (int form = 0; form < FG_FORMS_IN_ALL; form++)
        if (fg_level_fits((fg_form)form, output->kind) && fg_form_traits((fg_form)form) & FG_FORM_IS_REST)
            return (fg_level){.form = (uint8_t)form};
    if (rest && rest->first && !fg_quantity_steps(c, rest->first, &spec, &angle)) angle = output->low;
    return (fg_level){.form = FG_FORM_TURN, .number = (int32_t)angle};
}

/* Every output rests somewhere, so a level of rest is worked out for each. */
void fg_check_output_attributes(fg_compiler *c, fg_symbol *output)
{
    switch (output->kind) {
    case FG_KIND_SERVO: check_servo(c, output); break;
    case FG_KIND_BAR: check_bar(c, output); break;
    case FG_KIND_DISPLAY: check_display(c, output); break;
    case FG_KIND_COUNT: check_count(c, output); return;
    default: break;
    }
    output->checked.rest = rest_of(c, output);
}

/* ---- sequences and rows ---- */

/* False: its time was reported. */
static bool check_segment(fg_compiler *c, const fg_symbol *sequence, fg_node *node, bool *takes_time)
{
    const fg_number_spec tempo = {
        .what = T("a tempo"), .duration = true, .unit_needed = true, .low = 0, .high = FG_TIME_MOST};
    fg_time time = 0;
    (void)fg_check_level(c, node->first, sequence, &node->first->found.level);
    const bool follows = node->last->kind == NODE_FOLLOW;
    const bool good =
        follows ? fg_check_follow(c, node->last, NULL, &tempo) : fg_quantity_duration(c, node->last, T("'for'"), &time);
    *takes_time = follows || time;
    return good;
}

/* One run unless it repeats; 0 runs are for ever. A sequence that takes no time would never end inside a step, so it
 * is refused, and the step relies on that. */
void fg_check_sequence(fg_compiler *c, fg_symbol *sequence)
{
    fg_node *repeat = fg_node_attribute(sequence, ATTR_REPEAT);
    const fg_number_spec spec = {.what = T("a number of runs"), .low = 1, .high = INT32_MAX};
    bool takes_time = false, reported = false;
    for (fg_node *node = sequence->body; node; node = node->next) {
        bool time = false;
        if (node->kind == NODE_BROKEN) reported = true;
        if (node->kind != NODE_SEGMENT) continue;
        if (!check_segment(c, sequence, node, &time)) reported = true;
        takes_time = takes_time || time;
    }
    sequence->checked.number = repeat ? 0 : 1;
    if (repeat && repeat->first && !fg_quantity_steps(c, repeat->first, &spec, &sequence->checked.number))
        sequence->checked.number = 1;
    if (!takes_time && !reported)
        fg_report(c, FG_FIND_MISSING, sequence->span, "the sequence {} takes no time", "add a row: LEVEL for TIME",
                  sequence->name);
}

/* Levels and conditions become numbers and ranges in their nodes. */
void fg_check_output_rows(fg_compiler *c, fg_symbol *output)
{
    for (fg_node *row = output->body; row; row = row->next) {
        if (row->kind != NODE_ROW) continue;
        (void)fg_check_level(c, row->first, output, &row->first->found.level);
        if (row->when == FG_ROW_WHEN) (void)fg_check_condition(c, row->last);
    }
}
