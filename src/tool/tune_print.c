/* SPDX-License-Identifier: MIT */
/* What a tuning found out, as tables. */
#include "tune.h"

#include <inttypes.h>
#include <string.h>

typedef struct cell {
    char text[64];
} cell;

/* A value with its unit. */
static cell value_cell(const fg_declared *rule, fg_value value, bool unit)
{
    cell c;
    char number[FG_VALUE_TEXT_SIZE];
    const size_t size = fg_value_write(value, rule->decimals, number);
    if (unit && rule->unit.size)
        snprintf(c.text, sizeof c.text, "%.*s %.*s", (int)size, number, (int)rule->unit.size, rule->unit.at);
    else
        snprintf(c.text, sizeof c.text, "%.*s", (int)size, number);
    return c;
}

/* A position as the rule writes its number. */
static cell limit_cell(const tuner *t, const fg_declared *rule, const fg_tuned_cut *cut, fg_value position)
{
    const fg_value circle = t->file->program.gate.sensors[rule->sensor].circle;
    int64_t number = cut->writes_below ? (int64_t)position - 1 : position;
    if (circle && number < 0) number += circle;
    return value_cell(rule, (fg_value)number, true);
}

static void print_labels(const tuner *t, const fg_declared *rule, const fg_tuned *tuned)
{
    fprintf(t->output, "  %-14s  %9s  %7s  %12s  %12s  %12s  %12s  %12s\n", "label", "readings", "samples", "lowest",
            "median", "highest", "spread", "drift");
    for (size_t i = 0; i < tuned->label_count; i++) {
        const fg_tuned_label *l = &tuned->labels[i];
        const fg_text label = fg_answer_text(rule, l->label);
        const cell drift = value_cell(rule, l->drift, true);
        fprintf(t->output, "  %-14.*s  %9" PRIu64 "  %7" PRIu64 "  %12s  %12s  %12s  %12s  %12s\n", (int)label.size,
                label.at, l->readings, l->samples, value_cell(rule, l->lowest, true).text,
                value_cell(rule, l->median, true).text, value_cell(rule, l->highest, true).text,
                value_cell(rule, l->spread, true).text, l->drifts ? drift.text : "-");
    }
}

static void boundary_name(const fg_declared *rule, const fg_tuned_cut *cut, char *name, size_t room)
{
    const fg_text below = fg_answer_text(rule, cut->below), above = fg_answer_text(rule, cut->above);
    snprintf(name, room, "%.*s | %.*s", (int)below.size, below.at, (int)above.size, above.at);
}

static void print_cuts(const tuner *t, const fg_declared *rule, const fg_tuned *tuned)
{
    fprintf(t->output, "\n  %-20s  %12s %6s  %12s %6s  %12s %6s  %-24s  %s\n", "boundary", "now", "wrong", "halfway",
            "wrong", "fewest", "wrong", "gap between the readings", "widest margin");
    for (size_t i = 0; i < tuned->cut_count; i++) {
        const fg_tuned_cut *cut = &tuned->cuts[i];
        char name[80], space[140];
        boundary_name(rule, cut, name, sizeof name);
        fprintf(t->output, "  %-20s  %12s", name, limit_cell(t, rule, cut, cut->now).text);
        if (!cut->tuned) {
            fputc('\n', t->output);
            continue;
        }
        snprintf(space, sizeof space, "%s to %s", value_cell(rule, cut->last_below, false).text,
                 value_cell(rule, cut->first_above, true).text);
        fprintf(t->output, " %6" PRIu64 "  %12s %6" PRIu64 "  %12s %6" PRIu64 "  %-24s  %s\n", cut->wrong_now,
                limit_cell(t, rule, cut, cut->halfway).text, cut->wrong_halfway,
                limit_cell(t, rule, cut, cut->best).text, cut->wrong_best, space,
                cut->margin > 0 ? value_cell(rule, cut->margin, true).text : "none");
    }
    fputc('\n', t->output);
    for (size_t i = 0; i < tuned->cut_count; i++) {
        char name[80];
        boundary_name(rule, &tuned->cuts[i], name, sizeof name);
        fprintf(t->output, "  %-20s  ", name);
        const char *because = tuned->cuts[i].because;
        tool_wrapped(t->output, (fg_text){because, strlen(because)}, 24);
        fputc('\n', t->output);
    }
}

static void print_backwards(const tuner *t, const fg_declared *rule, const fg_tuned *tuned)
{
    size_t first = 0;
    if (!tuned->backwards) return;
    while (!tuned->cuts[first].tuned) first++;
    const fg_text below = fg_answer_text(rule, tuned->cuts[first].below);
    const fg_text above = fg_answer_text(rule, tuned->cuts[first].above);
    fprintf(t->output,
            "\n  the labels fit in reverse order: '%.*s' reads more than '%.*s' (medians above), and the rule has "
            "it the other way; %s\n",
            (int)below.size, below.at, (int)above.size, above.at,
            fg_kind_is(rule->kind, FG_KIND_LABELS) ? "reverse the order of its labels"
                                                   : "write 'under' for 'over', or 'over' for 'under'");
}

static void print_margin(const tuner *t, const fg_declared *rule, const fg_tuned *tuned)
{
    const bool dead = rule->kind == FG_KIND_HYSTERESIS;
    const fg_value times = dead ? 2 : 1;
    bool any = false;
    fprintf(t->output, "  %-20s  %s now", dead ? "dead band" : "margin",
            value_cell(rule, dead ? tuned->dead_band : tuned->margin_now, true).text);
    if (tuned->margin != tuned->margin_now)
        fprintf(t->output, ", better %s", value_cell(rule, tuned->margin * times, true).text);
    if (!dead && tuned->margin != tuned->margin_now && !tuned->margin_now)
        fprintf(t->output, ": add margin %s", value_cell(rule, tuned->margin, false).text);
    if (!tuned->moves)
        fputs("; the noise is unknown, because no two readings of one label follow each other", t->output);
    else if (!tuned->move)
        fputs("; there is almost no noise", t->output);
    else
        fprintf(t->output, "; the noise suggests %s (nine of ten changes are at most %s)",
                value_cell(rule, tuned->noise * times, true).text, value_cell(rule, tuned->move, true).text);
    for (size_t i = 0; i < tuned->cut_count; i++) any = any || tuned->cuts[i].tuned;
    if (any && tuned->noise > tuned->widest && tuned->widest)
        fprintf(t->output, ", but more than %s would include readings of the other label",
                value_cell(rule, tuned->widest * times, true).text);
    else if (any && tuned->noise > tuned->widest)
        fputs(", but the labels are closer together than that", t->output);
    fputc('\n', t->output);
}

static void print_smoothing(const tuner *t, const fg_tuned *tuned)
{
    char a[32], b[32];
    if (!tuned->smoothing_tried) return;
    fprintf(t->output, "  %-20s  ", "smoothing");
    if (tuned->smoothing)
        fprintf(t->output, "with %s %u the best limits get %s wrong instead of %s\n",
                tuned->smoothing_mean ? "mean" : "median", tuned->smoothing, tool_grouped(tuned->smoothing_wrong, a),
                tool_grouped(tuned->wrong_best, b));
    else
        fputs("means up to 32 and medians up to 15 were tried; none gets half as few wrong\n", t->output);
}

static void print_rule(const tuner *t, size_t i)
{
    const fg_declared *rule = fg_tuning_rule(t->tunings[i]);
    const fg_tuned *tuned = &t->tuned[i];
    char a[64], b[64];
    fprintf(t->output, "%s%s %.*s: %s with a label", i ? "\n" : "", fg_kind_word(rule->kind), (int)rule->name.size,
            rule->name.at, tool_counted(tuned->readings, "reading", a));
    fprintf(t->output, ", %s wrong now", tool_grouped(tuned->wrong_now, b));
    fprintf(t->output, ", %s at best", tool_grouped(tuned->wrong_best, b));
    if (tuned->unlabelled) fprintf(t->output, "; %s without", tool_counted(tuned->unlabelled, "reading", a));
    if (tuned->faulty) fprintf(t->output, "; %s left out", tool_counted(tuned->faulty, "faulty step", a));
    if (tuned->unknown)
        fprintf(t->output, "; %s with a label it does not have, as '%s'", tool_counted(tuned->unknown, "reading", a),
                tuned->unknown_label);
    fputs("\n\n", t->output);
    print_labels(t, rule, tuned);
    print_backwards(t, rule, tuned);
    if (!tuned->cut_count) return;
    print_cuts(t, rule, tuned);
    print_margin(t, rule, tuned);
    print_smoothing(t, tuned);
}

static void csv_value(const tuner *t, const fg_declared *rule, int64_t value)
{
    char number[FG_VALUE_TEXT_SIZE];
    const size_t size = fg_value_write((fg_value)value, rule->decimals, number);
    fprintf(t->output, ",%.*s", (int)size, number);
}

static void print_csv(const tuner *t, size_t i)
{
    const fg_declared *rule = fg_tuning_rule(t->tunings[i]);
    for (size_t k = 0; k < t->tuned[i].cut_count; k++) {
        const fg_tuned_cut *cut = &t->tuned[i].cuts[k];
        const int last = cut->writes_below;
        tool_text(t->output, rule->name);
        fputc(',', t->output);
        fg_csv_cell(t->output, fg_answer_text(rule, cut->below));
        fputc(',', t->output);
        fg_csv_cell(t->output, fg_answer_text(rule, cut->above));
        csv_value(t, rule, cut->now - last);
        csv_value(t, rule, cut->chosen - last);
        fprintf(t->output, ",%" PRIu64 ",%" PRIu64, cut->readings, cut->wrong_now);
        csv_value(t, rule, cut->halfway - last);
        fprintf(t->output, ",%" PRIu64, cut->wrong_halfway);
        csv_value(t, rule, cut->best - last);
        fprintf(t->output, ",%" PRIu64, cut->wrong_best);
        csv_value(t, rule, cut->margin);
        fputc(',', t->output);
        fg_csv_cell(t->output, (fg_text){cut->because, strlen(cut->because)});
        fputc('\n', t->output);
    }
}

void tune_print(const tuner *t)
{
    const bool csv = t->options->common.form == FORM_CSV;
    if (csv)
        fputs(
            "rule,below,above,now,chosen,readings,wrong_now,halfway,wrong_halfway,fewest,wrong_fewest,margin,because\n",
            t->output);
    for (size_t i = 0; i < t->count; i++) {
        if (csv)
            print_csv(t, i);
        else
            print_rule(t, i);
    }
}
