/* SPDX-License-Identifier: MIT */
/* Labelled readings of a page: how they lie, and where the limits of a rule had best stand among them. */
#include "workshop/page/session.h"
#include "workshop/tune/tuning.h"

#include <stdlib.h>

enum { BINS = 120, EDITS_MOST = 64 };

/* Where the readings lie: whole steps to a bin, or some would hold more of them than others. */
typedef struct bins {
    fg_value low;
    int64_t wide;
} bins;

static bins bins_of(const fg_tuning *t)
{
    fg_value low = 0, high = 0;
    bool any = false;
    for (size_t i = 0; i < t->step_count; i++) {
        const fg_value value = t->steps[i].value;
        if (t->steps[i].label >= FG_LABEL_OTHER) continue;
        if (!any || value < low) low = value;
        if (!any || value > high) high = value;
        any = true;
    }
    return (bins){low, ((int64_t)high - low) / BINS + 1};
}

static json_t *counts_of(const fg_tuning *t, const bins *b, fg_verdict label)
{
    uint32_t counts[BINS] = {0};
    json_t *all = json_array();
    for (size_t i = 0; i < t->step_count; i++)
        if (t->steps[i].label < FG_LABEL_OTHER && fg_label_verdict(t, t->steps[i].label) == label)
            counts[((int64_t)t->steps[i].value - b->low) / b->wide]++;
    for (size_t i = 0; i < BINS; i++) json_array_append_new(all, json_integer(counts[i]));
    return all;
}

static json_t *labels_of(const fg_tuning *t, const fg_tuned *tuned, const bins *b)
{
    const uint8_t decimals = t->rule->decimals;
    json_t *all = json_array();
    for (size_t i = 0; i < tuned->label_count; i++) {
        const fg_tuned_label *l = &tuned->labels[i];
        json_array_append_new(
            all, json_pack("{s:o, s:I, s:o, s:o, s:o, s:o}", "label", fg_page_text(fg_answer_text(t->rule, l->label)),
                           "readings", (json_int_t)l->readings, "lowest", fg_page_value(l->lowest, decimals, true),
                           "median", fg_page_value(l->median, decimals, true), "highest",
                           fg_page_value(l->highest, decimals, true), "counts", counts_of(t, b, l->label)));
    }
    return all;
}

/* As the rule writes it: `over` names the last reading below. */
static json_t *place_of(const fg_tuning *t, const fg_tuned_cut *cut, fg_value position)
{
    const int64_t number = cut->writes_below ? (int64_t)position - 1 : position;
    return fg_page_value((fg_value)number, t->rule->decimals, true);
}

static json_t *cuts_of(const fg_tuning *t, const fg_tuned *tuned)
{
    json_t *all = json_array();
    for (size_t i = 0; i < tuned->cut_count; i++) {
        const fg_tuned_cut *c = &tuned->cuts[i];
        json_array_append_new(all, json_pack("{s:o, s:o, s:b, s:o, s:o, s:o, s:I, s:I, s:I, s:o}", "below",
                                             fg_page_text(fg_answer_text(t->rule, c->below)), "above",
                                             fg_page_text(fg_answer_text(t->rule, c->above)), "tuned", (int)c->tuned,
                                             "now", place_of(t, c, c->now), "halfway", place_of(t, c, c->halfway),
                                             "best", place_of(t, c, c->chosen), "wrong_now", (json_int_t)c->wrong_now,
                                             "wrong_halfway", (json_int_t)c->wrong_halfway, "wrong_best",
                                             (json_int_t)c->wrong_best, "because",
                                             fg_page_text(fg_text_of(c->because ? c->because : ""))));
    }
    return all;
}

static json_t *edits_of(const fg_page *page, const fg_tuning *t, const fg_tuned *tuned)
{
    const fg_program *p = &page->file.program;
    fg_edit edits[EDITS_MOST];
    json_t *all = json_array();
    const size_t count = fg_tuning_edits(t, tuned, edits, EDITS_MOST, NULL, NULL);
    for (size_t i = 0; i < count && i < EDITS_MOST; i++)
        json_array_append_new(all, json_pack("{s:o, s:I, s:I, s:s}", "file",
                                             fg_page_text(p->sources[edits[i].span.source].name), "from",
                                             (json_int_t)edits[i].span.at, "to",
                                             (json_int_t)edits[i].span.at + edits[i].span.size, "text", edits[i].text));
    return all;
}

const char *fg_page_labels(fg_page *page, uint32_t name, const char *recording, const char *column)
{
    fg_mistake mistake = {.text = "labels are for a threshold, hysteresis or bands"};
    fg_replay_report report;
    if (!page->open || name >= page->file.program.declared_count ||
        !fg_kind_is(page->file.program.declared[name].kind, FG_KIND_ON_SENSOR))
        return fg_page_mistake(page, &mistake);
    fg_tuning *t = fg_tuning_start(&page->file.program, &page->file.program.declared[name], fg_text_of(column));
    const fg_tuning_source source = {.recording = recording};
    fg_tuned tuned;
    const char *answer = NULL;
    if (!t) return NULL;
    if (fg_tuning_read(&t, 1, &source, &report, &mistake) != FG_OK) {
        answer = fg_page_mistake(page, &mistake);
    } else if (fg_tuning_work(t, &tuned)) {
        const bins b = bins_of(t);
        const uint8_t decimals = t->rule->decimals;
        answer = fg_page_answer(page, json_pack("{s:o, s:o, s:o, s:o, s:o, s:I, s:I, s:I, s:o}", "labels",
                                                labels_of(t, &tuned, &b), "from", fg_page_value(b.low, decimals, true),
                                                "wide", fg_page_value((fg_value)b.wide, decimals, true), "cuts",
                                                cuts_of(t, &tuned), "edits", edits_of(page, t, &tuned), "readings",
                                                (json_int_t)tuned.readings, "wrong_now", (json_int_t)tuned.wrong_now,
                                                "wrong_best", (json_int_t)tuned.wrong_best, "margin",
                                                fg_page_value(tuned.margin, decimals, true)));
    }
    fg_tuning_end(t);
    return answer;
}
