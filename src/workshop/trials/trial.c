/* SPDX-License-Identifier: MIT */
/* Trials: the recording is played once, every expectation watches each step, and at the end each says how it came out.
 */
#include "workshop/explain/explain.h"
#include "workshop/trials/trial.h"

#include <ficklegate/scenes.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* What watching one expectation has come to. */
typedef struct watcher {
    const fg_expect *expect;
    fg_outcome outcome;
    bool decided;
    bool looked;     /* it was put to the test at least once */
    bool stepped;    /* there was a step before */
    fg_verdict last; /* the answer at the step before; of `changes` and `goes` the last sure one */
    fg_value length_count;
    int64_t off_by; /* how far from its time it began */
    uint32_t count; /* changes, or labels matched */
    int64_t
        since; /* of `within`: when what it follows began; of `matches`: the time of the label, -1 if there is none */
    uint64_t rows, matched;
    size_t column;     /* of the recording */
    fg_buffer label;   /* of the row that waits for its step */
    fg_buffer written; /* the expectation, in one line */
    fg_buffer because;
} watcher;

typedef struct trial_run {
    const fg_gate_file *file;
    const fg_trial *trial;
    watcher *watchers;
    fg_explainer explainer;
    bool explains;
    const fg_run *run; /* once it has stepped */
    int64_t t_ms;      /* of the present step */
    fg_coverage *coverage;
    const fg_trial_observer *observer;
} trial_run;

static void decide(watcher *w, fg_outcome outcome)
{
    w->outcome = outcome;
    w->decided = true;
}

static void say_at(watcher *w, int64_t t_ms)
{
    w->because.size = 0;
    fg_buffer_add_c(&w->because, "at ");
    fg_buffer_add_time(&w->because, t_ms);
}

/* "at 12.4 s it is no: bilge 4.2 cm is not over 5 cm" */
static void say_answer(trial_run *r, watcher *w, const char *is, uint16_t slot)
{
    say_at(w, r->t_ms);
    fg_buffer_add_c(&w->because, is);
    fg_explain_slot(&r->explainer, slot, &w->because);
}

static const char *it_is(fg_verdict answer)
{
    return answer == FG_YES ? " it is yes: " : answer == FG_NO ? " it is no: " : " it is unsure: ";
}

static bool in_time(const fg_expect *e, int64_t t_ms)
{
    return t_ms >= e->from && (t_ms <= e->to || e->to == FG_EXPECT_TO_END);
}

static void watch_begins(trial_run *r, watcher *w, fg_verdict answer)
{
    const fg_expect *e = w->expect;
    const bool in = in_time(e, r->t_ms), begins = w->stepped && w->last != FG_YES && answer == FG_YES;
    const int64_t off = r->t_ms < e->from ? (int64_t)e->from - r->t_ms : r->t_ms - (int64_t)e->to;
    if (in) {
        w->looked = true;
        if (answer != FG_YES && w->off_by == INT64_MAX) say_answer(r, w, it_is(answer), e->slot);
    }
    if (!begins || (!in && off >= w->off_by)) return;
    w->off_by = off; /* of the beginnings at the wrong time the nearest is told */
    say_answer(r, w, in ? " it began: " : " it began, but at the wrong time: ", e->slot);
    if (in) decide(w, FG_OUTCOME_HELD);
}

static void watch_always(trial_run *r, watcher *w, const fg_run *run, fg_verdict answer)
{
    const fg_expect *e = w->expect;
    if (e->while_slot != FG_INDEX_NONE && fg_answer(run, e->while_slot) != FG_YES) return;
    w->looked = true;
    if (e->kind == FG_EXPECT_ALWAYS ? answer == FG_YES : answer != FG_YES) return;
    say_answer(r, w, it_is(answer), e->slot);
    if (e->while_slot != FG_INDEX_NONE) {
        fg_buffer_add_c(&w->because, ", while ");
        fg_explain_slot(&r->explainer, e->while_slot, &w->because);
    }
    decide(w, FG_OUTCOME_FAILED);
}

/* The answer that counts is that of the last step not after its time, or of the last step there is. */
static void watch_at(trial_run *r, watcher *w, fg_verdict answer)
{
    w->outcome = answer == FG_YES ? FG_OUTCOME_HELD : FG_OUTCOME_FAILED;
    say_answer(r, w, it_is(answer), w->expect->slot);
}

static void watch_from(trial_run *r, watcher *w, fg_verdict answer)
{
    if (!in_time(w->expect, r->t_ms)) return;
    w->looked = true;
    if (answer == FG_YES) return;
    say_answer(r, w, it_is(answer), w->expect->slot);
    decide(w, FG_OUTCOME_FAILED);
}

static void watch_goes(trial_run *r, watcher *w, const fg_run *run)
{
    const fg_expect *e = w->expect;
    const fg_declared *bands = &r->file->program.declared[e->declared];
    const fg_verdict answer = fg_answer(run, bands->slot);
    if (answer == FG_UNSURE || (w->looked && answer == w->last)) return;
    w->looked = true;
    w->last = answer;
    if (w->count < e->label_count && e->labels[w->count] == answer) {
        w->count++;
        return;
    }
    say_at(w, r->t_ms);
    fg_buffer_add_c(&w->because, " it went to ");
    fg_buffer_add(&w->because, fg_answer_text(bands, answer));
    fg_buffer_add_c(&w->because, " (");
    fg_explain(&r->explainer, bands, &w->because);
    fg_buffer_add_c(&w->because, "); expected ");
    if (w->count < e->label_count)
        fg_buffer_add(&w->because, fg_answer_text(bands, e->labels[w->count]));
    else
        fg_buffer_add_c(&w->because, "nothing more");
    decide(w, FG_OUTCOME_FAILED);
}

static void watch_changes(trial_run *r, watcher *w, const fg_run *run)
{
    const fg_declared *d = &r->file->program.declared[w->expect->declared];
    bool changed;
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) {
        changed = fg_output_at(run, d->index)->changed && w->looked;
    } else if (d->kind == FG_KIND_COUNT) {
        changed = w->looked && fg_count_value(run, d->index) != w->length_count;
        w->length_count = fg_count_value(run, d->index);
    } else {
        const fg_verdict answer = fg_answer(run, d->slot);
        if (answer == FG_UNSURE) return;
        changed = w->looked && answer != w->last;
        w->last = answer;
    }
    w->looked = true;
    if (!changed || ++w->count <= w->expect->most) return;
    if (w->count != w->expect->most + 1) return;
    say_at(w, r->t_ms);
    fg_buffer_add_c(&w->because, " it changed once more: ");
    fg_explain(&r->explainer, d, &w->because);
    w->outcome = FG_OUTCOME_FAILED;
}

/* The earliest beginning that still waits is the one that can break it. */
static void watch_within(trial_run *r, watcher *w, const fg_run *run, fg_verdict answer)
{
    const fg_expect *e = w->expect;
    const fg_verdict other = fg_answer(run, e->while_slot);
    if (w->stepped && w->last != FG_YES && other == FG_YES && w->since < 0) {
        w->since = r->t_ms;
        w->looked = true;
    }
    w->last = other;
    w->stepped = true;
    if (answer == FG_YES && (w->since < 0 || r->t_ms - w->since <= e->from)) w->since = -1;
    if (w->since < 0) return;
    if (r->t_ms - w->since < e->from) { /* the last word on it may be this step's */
        say_answer(r, w, it_is(answer), e->slot);
        return;
    }
    const bool late = r->t_ms - w->since > e->from;
    if (!late || !w->because.size) say_answer(r, w, it_is(answer), e->slot);
    fg_buffer_add_c(&w->because, "; the event it should follow was at ");
    fg_buffer_add_time(&w->because, w->since);
    decide(w, FG_OUTCOME_FAILED);
}

/* ---- matches: what the column says against what came out ---- */

static bool label_is(const trial_run *r, const watcher *w, fg_verdict answer)
{
    const fg_text label = fg_buffer_text(&w->label);
    if (answer == FG_UNSURE) return false;
    if (w->expect->slot != FG_INDEX_NONE) {
        bool yes;
        return fg_flag_word(label, &yes) && yes == (answer == FG_YES);
    }
    const fg_text is = fg_answer_text(&r->file->program.declared[w->expect->declared], answer);
    return fg_text_same(is, label);
}

/* Judges the row that waits. `answers`: those of the last step not after it. */
static void judge_label(trial_run *r, watcher *w, const fg_verdict *answers)
{
    const fg_declared *bands = &r->file->program.declared[w->expect->declared];
    const bool condition = w->expect->slot != FG_INDEX_NONE;
    const fg_verdict answer = answers[condition ? w->expect->slot : bands->slot];
    if (w->since < 0) return;
    w->rows++;
    if (label_is(r, w, answer)) {
        w->matched++;
    } else if (!w->because.size) { /* the first one is told */
        say_at(w, w->since);
        fg_buffer_add_c(&w->because, " it is ");
        if (condition)
            fg_buffer_add_c(&w->because, answer == FG_YES ? "yes" : answer == FG_NO ? "no" : "unsure");
        else
            fg_buffer_add(&w->because, fg_answer_text(bands, answer));
        fg_buffer_add_c(&w->because, ", the column says ");
        fg_buffer_add_shown(&w->because, fg_buffer_text(&w->label));
    }
    w->since = -1;
}

static bool on_columns(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    trial_run *r = context;
    for (uint32_t i = 0; i < r->trial->expect_count; i++) {
        watcher *w = &r->watchers[i];
        const fg_text name = w->expect->column;
        if (w->expect->kind != FG_EXPECT_MATCHES) continue;
        while (w->column < count && !fg_text_same(columns[w->column], name)) w->column++;
        if (w->column < count) continue;
        fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                       "there is no column '%.*s' for line %" PRIu32 " of the gate file", (int)name.size, name.at,
                       fg_text_place(r->file->program.sources[w->expect->span.source].text, w->expect->span.at).line);
        return false;
    }
    return true;
}

/* Of rows with one time the later cell counts. */
static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count)
{
    trial_run *r = context;
    (void)count;
    for (uint32_t i = 0; i < r->trial->expect_count; i++) {
        watcher *w = &r->watchers[i];
        if (w->expect->kind != FG_EXPECT_MATCHES) continue;
        const fg_text label = fg_text_trimmed(cells[w->column]);
        if (w->since >= 0 && w->since < t_ms && r->run) judge_label(r, w, fg_answers(r->run));
        if (!label.size) continue;
        w->label.size = 0;
        fg_buffer_add(&w->label, label);
        w->since = t_ms;
    }
    return true;
}

static void watch(trial_run *r, watcher *w, const fg_run *run)
{
    const fg_expect *e = w->expect;
    const fg_verdict answer = e->slot == FG_INDEX_NONE ? (fg_verdict)FG_UNSURE : fg_answer(run, e->slot);
    if (w->decided) return;
    switch (e->kind) {
    case FG_EXPECT_AT:
        if (r->t_ms <= e->from) watch_at(r, w, answer);
        return;
    case FG_EXPECT_AT_END: /* in on_end */
    case FG_EXPECT_CAN_END:
    case FG_EXPECT_ASSUME: return; /* in promises only */
    case FG_EXPECT_FROM: watch_from(r, w, answer); return;
    case FG_EXPECT_ALWAYS:
    case FG_EXPECT_NEVER: watch_always(r, w, run, answer); return;
    case FG_EXPECT_GOES: watch_goes(r, w, run); return;
    case FG_EXPECT_CHANGES: watch_changes(r, w, run); return;
    case FG_EXPECT_WITHIN: watch_within(r, w, run, answer); return;
    case FG_EXPECT_MATCHES: /* a row before this step goes with the one before */
        if (w->since >= 0 && w->since < r->t_ms && r->explainer.before) judge_label(r, w, r->explainer.before);
        return;
    case FG_EXPECT_BEGINS:
        watch_begins(r, w, answer);
        w->last = answer;
        w->stepped = true;
        return;
    }
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    trial_run *r = context;
    r->t_ms = t_ms;
    r->run = run;
    if (!r->explains) {
        r->explains = fg_explainer_start(&r->explainer, &r->file->program, run);
        if (!r->explains) return false;
    }
    r->explainer.before = before;
    if (r->coverage) fg_coverage_step(r->coverage, run);
    for (uint32_t i = 0; i < r->trial->expect_count; i++) watch(r, &r->watchers[i], run);
    return true;
}

/* The last step is behind us: what asks for it, and the rows that came after it. */
static void on_end(void *context, const fg_run *run)
{
    trial_run *r = context;
    for (uint32_t i = 0; i < r->trial->expect_count; i++) {
        watcher *w = &r->watchers[i];
        if (w->expect->kind == FG_EXPECT_AT_END) watch_at(r, w, fg_answer(run, w->expect->slot));
        if (w->expect->kind == FG_EXPECT_MATCHES) judge_label(r, w, fg_answers(run));
    }
}

/* ---- the end ---- */

static void undecided(watcher *w, int64_t end_ms, int64_t needed_ms)
{
    w->because.size = 0;
    fg_buffer_add_c(&w->because, "the recording ends at ");
    fg_buffer_add_time(&w->because, end_ms);
    fg_buffer_add_c(&w->because, ", before ");
    fg_buffer_add_time(&w->because, needed_ms);
    decide(w, FG_OUTCOME_UNDECIDED);
}

static void never_tried(watcher *w, const char *because)
{
    w->because.size = 0;
    fg_buffer_add_c(&w->because, because);
    decide(w, FG_OUTCOME_NEVER_TRIED);
}

static void held(watcher *w, const char *because)
{
    w->because.size = 0;
    fg_buffer_add_c(&w->because, because);
    decide(w, FG_OUTCOME_HELD);
}

static void finish_goes(trial_run *r, watcher *w)
{
    const fg_declared *bands = &r->file->program.declared[w->expect->declared];
    if (w->count == w->expect->label_count) {
        held(w, "it happened as expected");
        return;
    }
    w->because.size = 0;
    fg_buffer_add_c(&w->because, "it never went to ");
    fg_buffer_add(&w->because, fg_answer_text(bands, w->expect->labels[w->count]));
    fg_buffer_add_c(&w->because, "; it ended in ");
    fg_buffer_add(&w->because, fg_answer_text(bands, w->last));
    decide(w, FG_OUTCOME_FAILED);
}

static void finish_changes(watcher *w)
{
    if (w->count <= w->expect->most) {
        held(w, "it changed ");
    } else {
        fg_buffer_add_c(&w->because, "; it changed ");
        decide(w, FG_OUTCOME_FAILED);
    }
    fg_buffer_add_number(&w->because, w->count);
    fg_buffer_add_c(&w->because, w->count == 1 ? " time" : " times");
}

static void finish_within(watcher *w, int64_t end_ms)
{
    if (!w->looked)
        never_tried(w, "the event it should follow never happened");
    else if (w->since < 0)
        held(w, "it followed every time");
    else if (end_ms - w->since < w->expect->from)
        undecided(w, end_ms, w->since + w->expect->from);
    else {
        fg_buffer_add_c(&w->because, "; the event it should follow was at ");
        fg_buffer_add_time(&w->because, w->since);
        decide(w, FG_OUTCOME_FAILED);
    }
}

static void finish_matches(watcher *w)
{
    if (!w->rows) {
        never_tried(w, "its column is empty");
        return;
    }
    const bool good = w->matched * 10000 >= w->rows * w->expect->least;
    if (w->because.size) fg_buffer_add_c(&w->because, "; ");
    fg_buffer_add_number(&w->because, (int64_t)w->matched);
    fg_buffer_add_c(&w->because, " of ");
    fg_buffer_add_number(&w->because, (int64_t)w->rows);
    fg_buffer_add_c(&w->because, w->rows == 1 ? " row matches" : " rows match");
    decide(w, good ? FG_OUTCOME_HELD : FG_OUTCOME_FAILED);
}

static void finish(trial_run *r, watcher *w, int64_t end_ms)
{
    const fg_expect *e = w->expect;
    if (w->decided) return;
    switch (e->kind) {
    case FG_EXPECT_AT_END:
    case FG_EXPECT_CAN_END:
    case FG_EXPECT_ASSUME: break;
    case FG_EXPECT_AT:
        if (end_ms < e->from) undecided(w, end_ms, e->from);
        break;
    case FG_EXPECT_FROM: {
        const int64_t needed_ms = e->to == FG_EXPECT_TO_END ? e->from : e->to;
        if (end_ms < needed_ms)
            undecided(w, end_ms, needed_ms);
        else if (!w->looked)
            never_tried(w, "there is no step in this period");
        else
            held(w, "it was yes throughout");
        break;
    }
    case FG_EXPECT_BEGINS:
        if (end_ms < e->to)
            undecided(w, end_ms, e->to);
        else if (!w->looked)
            never_tried(w, "there is no step in this period");
        else {
            if (w->off_by == INT64_MAX)
                fg_buffer_add_c(&w->because,
                                w->because.size ? "; it never began" : "it was yes throughout, so it did not begin");
            decide(w, FG_OUTCOME_FAILED);
        }
        break;
    case FG_EXPECT_ALWAYS:
    case FG_EXPECT_NEVER:
        if (!w->looked)
            never_tried(w, "the condition after 'while' was never yes");
        else
            held(w, e->kind == FG_EXPECT_ALWAYS ? "it was yes at every step checked" : "it was never yes");
        break;
    case FG_EXPECT_GOES:
        if (!w->looked)
            never_tried(w, "it was unsure throughout");
        else
            finish_goes(r, w);
        break;
    case FG_EXPECT_WITHIN: finish_within(w, end_ms); break;
    case FG_EXPECT_MATCHES: finish_matches(w); break;
    case FG_EXPECT_CHANGES:
        if (!w->looked)
            never_tried(w, "it was unsure throughout");
        else
            finish_changes(w);
        break;
    }
}

void fg_expect_text(const fg_program *program, const fg_expect *e, fg_buffer *out)
{
    const uint32_t word = (uint32_t)strlen("expect");
    fg_buffer_add_written(out, program, (fg_span){e->span.at + word, e->span.size - word, e->span.source});
}

/* Everything is decided and said before anything is told. False: there was no memory to say it. */
static bool finish_all(trial_run *r, const fg_replay_report *replayed)
{
    bool good = true;
    for (uint32_t i = 0; i < r->trial->expect_count; i++) {
        watcher *w = &r->watchers[i];
        finish(r, w, replayed->length_ms);
        fg_expect_text(&r->file->program, w->expect, &w->written);
        good = good && !w->because.full && !w->label.full && !w->written.full;
    }
    return good;
}

static void report(trial_run *r, const fg_trial_observer *observer, const fg_replay_report *replayed)
{
    if (observer->trial) observer->trial(observer->context, r->trial, replayed);
    for (uint32_t i = 0; i < r->trial->expect_count; i++) {
        const watcher *w = &r->watchers[i];
        const fg_trial_result result = {.trial = r->trial,
                                        .expect = w->expect,
                                        .line = fg_program_line(&r->file->program, w->expect->span),
                                        .expectation = fg_buffer_text(&w->written),
                                        .outcome = w->outcome,
                                        .because = fg_buffer_text(&w->because)};
        if (observer->result) observer->result(observer->context, &result);
    }
}

static bool on_broken(void *context, const fg_broken *broken)
{
    const trial_run *r = context;
    r->observer->broken(r->observer->context, r->trial, broken);
    return true;
}

static fg_status play(trial_run *r, const char *recording, const fg_recording_options *options,
                      const fg_trial_observer *observer, fg_mistake *mistake)
{
    const fg_program *program = &r->file->program;
    const fg_replay_observer replay = {.context = r,
                                       .step = on_step,
                                       .end = on_end,
                                       .columns = on_columns,
                                       .row = on_row,
                                       .broken = observer->broken ? on_broken : NULL,
                                       .progress = observer->progress};
    fg_readings readings = {.recording = recording, .scene = fg_scene_find(program, r->trial->readings)};
    fg_replay_report replayed;
    if (options) readings.options = *options;
    r->coverage = observer->coverage;
    r->observer = observer;
    if (r->coverage) fg_coverage_use(r->coverage, program);
    for (uint32_t i = 0; i < r->trial->expect_count; i++)
        r->watchers[i] = (watcher){.expect = &r->trial->expects[i], .off_by = INT64_MAX, .since = -1};
    fg_status status = fg_replay(program, &readings, &replay, &replayed, mistake);
    if (status == FG_OK && (!r->explains || !finish_all(r, &replayed)))
        status = fg_mistake_set(mistake, FG_ERROR_MEMORY, recording, 0, "there is not enough memory");
    if (status == FG_OK) report(r, observer, &replayed);
    if (r->explains) fg_explainer_end(&r->explainer);
    r->coverage = NULL;
    for (uint32_t i = 0; i < r->trial->expect_count; i++) {
        fg_buffer_free(&r->watchers[i].because);
        fg_buffer_free(&r->watchers[i].label);
        fg_buffer_free(&r->watchers[i].written);
    }
    return status;
}

/* A recording that is not there: where the gate asks for it. */
static void tell_where(const trial_run *r, const char *gate_path, const char *recording, fg_mistake *mistake)
{
    const fg_text text = r->file->program.sources[r->trial->span.source].text;
    char reason[sizeof mistake->text];
    memcpy(reason, mistake->text, sizeof reason);
    fg_mistake_set(mistake, FG_ERROR_FILE, gate_path, fg_text_place(text, r->trial->readings_span.at).line,
                   "the recording '%s' %s; put it beside the gate file", recording, reason);
}

/* The first error of a gate, at its place in the file it stands in. */
static void tell_error(const fg_gate_file *own, fg_mistake *mistake)
{
    const fg_finding *finding = own->program.findings;
    while (fg_finding_severity(finding->code) != FG_SEVERITY_ERROR) finding++;
    const bool setting = finding->span.source >= FG_SOURCE_SETTING; /* or a condition that is asked */
    const fg_source *source = &own->program.sources[setting ? 0 : finding->span.source];
    char *path = fg_c_string_of(source->name);
    fg_mistake_set(mistake, FG_ERROR_GATE, path ? path : own->path,
                   setting ? 0 : fg_text_place(source->text, finding->span.at).line, "%.*s", (int)finding->what.size,
                   finding->what.at);
    free(path);
}

static fg_status run(const fg_gate_file *own, const fg_recording_options *options, const fg_trial_observer *observer,
                     fg_mistake *mistake)
{
    trial_run r = {.file = own, .trial = &own->program.trials[own->trial]};
    /* a trial may stand in an included file */
    char *gate_path = fg_c_string_of(own->program.sources[r.trial->span.source].name);
    char *recording = gate_path ? fg_file_beside(gate_path, r.trial->readings) : NULL;
    fg_status status = FG_ERROR_MEMORY;
    r.watchers = calloc((size_t)r.trial->expect_count + 1, sizeof *r.watchers);
    if (r.watchers && recording)
        status = play(&r, recording, options, observer, mistake);
    else
        fg_mistake_set(mistake, status, own->path, 0, "there is not enough memory");
    if (status == FG_ERROR_FILE) tell_where(&r, gate_path, recording, mistake);
    free(r.watchers);
    free(recording);
    free(gate_path);
    return status;
}

fg_status fg_trial_run(const fg_gate_file *file, const fg_recording_options *options, uint32_t trial,
                       const fg_trial_observer *observer, fg_mistake *mistake)
{
    fg_gate_file own;
    if (trial >= file->program.trial_count) return FG_ERROR_ARGUMENT;
    fg_status status = fg_gate_file_for_trial(file, (int32_t)trial, &own, mistake);
    if (status == FG_ERROR_GATE) tell_error(&own, mistake);
    if (status == FG_OK) status = run(&own, options, observer, mistake);
    fg_gate_file_close(&own);
    return status;
}

const char *fg_outcome_word(fg_outcome outcome)
{
    static const char *const words[] = {
#define FG_OUTCOME_WORD(code, word) word,
        FG_OUTCOMES(FG_OUTCOME_WORD)
#undef FG_OUTCOME_WORD
    };
    return words[outcome];
}
