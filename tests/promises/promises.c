/* SPDX-License-Identifier: MIT */
/* promises GATE SEED: asks each promise of a gate, and holds the verdicts against readings by chance, any readings and
 * not only those that the search takes: what holds never breaks, what breaks never breaks sooner, what cannot end does
 * not, and what can never happen does not. Prints how many hold, break and are not decided. */
#include <ficklegate/workshop.h>

#include <inttypes.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { RUNS = 60, STEPS = 300, INPUTS_MOST = 16, ROWS_MOST = 64, ENDINGS = 40 };

static uint32_t state;

static uint32_t dice(uint32_t sides)
{
    state = state * 1664525u + 1013904223u;
    return (uint32_t)((uint64_t)(state >> 8) * sides >> 24);
}

typedef struct asked {
    const fg_expect *row;
    const fg_promise *promise;
    fg_promise_result result;
} asked;

typedef struct check {
    const fg_program *program;
    asked rows[ROWS_MOST];
    size_t count;
    const asked *wrong;
    int64_t wrong_ms;
    const fg_situation *never[ROWS_MOST]; /* proven to */
    size_t never_count;
    const fg_situation *happened;
    const asked *ending; /* `can end` that breaks, being played */
    const fg_promise *promise;
} check;

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    check *c = context;
    (void)before;
    for (size_t i = 0; i < c->never_count; i++)
        if (fg_situation_happens(c->program, c->never[i], run)) c->happened = c->never[i];
    if (c->ending) {
        const fg_expect *row = c->ending->row;
        for (uint32_t i = 0; i < c->promise->row_count; i++)
            if (c->promise->rows[i].kind == FG_EXPECT_ASSUME && fg_answer(run, c->promise->rows[i].slot) != FG_YES)
                return false; /* such readings do not come */
        if (t_ms > c->ending->result.after_ms && t_ms <= c->ending->result.after_ms + row->from &&
            fg_answer(run, row->slot) == FG_NO) {
            c->wrong = c->ending;
            c->wrong_ms = t_ms;
        }
    }
    return !c->wrong && !c->happened;
}

static bool on_broken(void *context, const fg_broken *broken)
{
    check *c = context;
    for (size_t i = 0; i < c->count; i++) {
        const asked *a = &c->rows[i];
        if (a->row != broken->row) continue;
        const bool holds = a->result.verdict == FG_PROMISE_HOLDS;
        const bool sooner =
            a->result.verdict == FG_PROMISE_BREAKS && a->result.shortest && broken->t_ms < a->result.after_ms;
        if (holds || sooner) {
            c->wrong = a;
            c->wrong_ms = broken->t_ms;
        }
    }
    return !c->wrong;
}

/* Cell number `column` of line number `line` of a recording that was found. */
static fg_text cell_of(fg_text recording, size_t line, size_t column)
{
    const char *at = recording.at, *const end = at + recording.size;
    while (line && at < end) line -= *at++ == '\n';
    while (column && at < end && *at != '\n') column -= *at++ == ',';
    const char *to = at;
    while (to < end && *to != ',' && *to != '\n') to++;
    return (fg_text){at, (size_t)(to - at)};
}

/* What it has for this input at this time, as long as it lasts. */
static bool found_cell(const asked *a, fg_text name, int64_t t_ms, fg_text *cell)
{
    const fg_text recording = a->result.recording;
    size_t column = 0, line = 1;
    while (cell_of(recording, 0, column).size && !fg_text_same(cell_of(recording, 0, column), name)) column++;
    if (t_ms > a->result.after_ms || !cell_of(recording, 0, column).size) return false;
    while (cell_of(recording, line + 1, 0).size && strtol(cell_of(recording, line + 1, 0).at, NULL, 10) <= t_ms) line++;
    *cell = cell_of(recording, line, column);
    return true;
}

/* A run in which each input stays for a while, moves a little, or is anything; behind the readings of `ending`. */
static void play(check *c)
{
    const fg_program *p = c->program;
    const fg_replay_observer observer = {.context = c, .broken = on_broken, .step = on_step};
    const fg_live_options options = {0};
    fg_replay_report report;
    fg_live *live = fg_live_start(p, &options, &observer, &report);
    const fg_declared *inputs[INPUTS_MOST];
    fg_text columns[INPUTS_MOST], cells[INPUTS_MOST];
    char texts[INPUTS_MOST][FG_VALUE_TEXT_SIZE];
    int32_t at[INPUTS_MOST];
    size_t count = 0;
    for (uint32_t i = 0; i < p->declared_count && count < INPUTS_MOST; i++)
        if (fg_program_reads(p, &p->declared[i])) inputs[count++] = &p->declared[i];
    const uint32_t calm = 1 + dice(12);
    bool good = live != NULL;
    for (int step = 0; step < STEPS && good; step++) {
        for (size_t i = 0; i < count; i++) {
            const bool flag = inputs[i]->kind == FG_KIND_FLAG;
            const int32_t unit = inputs[i]->decimals ? 10 : 1;
            columns[i] = inputs[i]->name;
            if (!step || !dice(calm)) at[i] = (int32_t)dice(70) * unit + (int32_t)dice(3) - 1;
            if (dice(calm) == 1) at[i] += (int32_t)dice(5) - 2;
            cells[i] = (fg_text){texts[i], 0};
            if (flag)
                cells[i].size = (size_t)snprintf(texts[i], sizeof texts[i], "%d", at[i] / unit & 1);
            else
                cells[i].size = fg_value_write(at[i], inputs[i]->decimals, texts[i]);
            if (!dice(4 * calm)) cells[i] = fg_text_of("x");
            if (!dice(8 * calm)) cells[i].size = 0;
            if (c->ending) (void)found_cell(c->ending, columns[i], (int64_t)step * p->gate.every, &cells[i]);
        }
        good = fg_live_row(live, columns, cells, count, (int64_t)step * p->gate.every);
    }
    fg_live_end(live);
}

/* Some of what may happen, each as far as a moment goes. */
static bool ask_situations(check *c, const fg_gate_file *file, fg_coverage *coverage, fg_mistake *mistake)
{
    enum { ASKED = 12, QUICK = 20000 };
    const fg_promise_options options = {.steps = QUICK};
    const size_t size = fg_coverage_size(coverage);
    if (fg_promise_wander(file, QUICK, coverage, mistake) != FG_OK) return false;
    for (size_t i = 0, asked = 0; i < size && asked < ASKED; i++) {
        bool tried;
        fg_promise_result result;
        const fg_situation *s = fg_coverage_at(coverage, i, &tried);
        if (tried) continue;
        asked++;
        if (fg_promise_reach(file, s, &options, &result, mistake) != FG_OK) return false;
        if (result.verdict == FG_PROMISE_HOLDS && c->never_count < ROWS_MOST) c->never[c->never_count++] = s;
        fg_promise_result_free(&result);
    }
    return true;
}

int main(int argc, char **argv)
{
    static check c;
    fg_gate_file file;
    fg_mistake mistake = {0};
    uint32_t counts[3] = {0};
    if (argc < 3) return 2;
    if (fg_gate_file_open(&file, argv[1], (fg_settings){.promises = true}, &mistake) != FG_OK) {
        puts("no gate");
        return 0;
    }
    state = (uint32_t)strtoul(argv[2], NULL, 10) * 2654435761u + 1;
    c.program = &file.program;
    const fg_promise_options options = {.steps = 400000};
    for (uint32_t i = 0; i < file.program.promise_count; i++)
        for (uint32_t k = 0; k < file.program.promises[i].row_count && c.count < ROWS_MOST; k++) {
            asked *a = &c.rows[c.count];
            a->row = &file.program.promises[i].rows[k];
            if (a->row->kind == FG_EXPECT_ASSUME) continue;
            a->promise = &file.program.promises[i];
            if (fg_promise_ask(&file, i, k, &options, &a->result, &mistake) != FG_OK) {
                fprintf(stderr, "%s: %s\n", argv[1], mistake.text);
                return 1;
            }
            static const char doubt[] = "a break was found";
            if (a->result.because.size > sizeof doubt && !memcmp(a->result.because.at, doubt, sizeof doubt - 1)) {
                fprintf(stderr, "%s line %" PRIu32 ": %.*s\n", argv[1], fg_program_line(&file.program, a->row->span),
                        (int)a->result.because.size, a->result.because.at);
                return 1;
            }
            counts[a->result.verdict]++;
            c.count++;
        }
    fg_coverage *coverage = fg_coverage_start(&file.program);
    if (!coverage || !ask_situations(&c, &file, coverage, &mistake)) {
        fprintf(stderr, "%s: %s\n", argv[1], mistake.text);
        return 1;
    }
    for (int run = 0; run < RUNS && !c.wrong && !c.happened; run++) play(&c);
    for (size_t i = 0; i < c.count && !c.wrong && !c.happened; i++) {
        const bool ending = c.rows[i].row->kind == FG_EXPECT_CAN_END && c.rows[i].result.verdict == FG_PROMISE_BREAKS;
        c.ending = ending ? &c.rows[i] : NULL;
        c.promise = c.rows[i].promise;
        for (int run = 0; ending && run < ENDINGS && !c.wrong; run++) play(&c);
    }
    if (c.happened) {
        const fg_declared *d = &file.program.declared[c.happened->declared];
        fprintf(stderr, "%s: %.*s was to be never so (kind %d, answer %d, row %d, limit %d), and is\n", argv[1],
                (int)d->name.size, d->name.at, (int)c.happened->kind, (int)c.happened->answer, (int)c.happened->row,
                (int)c.happened->limit);
        return 1;
    }
    if (c.wrong) {
        fprintf(stderr, "%s line %" PRIu32 " %s (after %" PRId64 " ms), and breaks at %" PRId64 " ms\n", argv[1],
                fg_program_line(&file.program, c.wrong->row->span), fg_promise_word(c.wrong->result.verdict),
                c.wrong->result.after_ms, c.wrong_ms);
        return 1;
    }
    printf("same %" PRIu32 " hold %" PRIu32 " break %" PRIu32 " open %zu never\n", counts[FG_PROMISE_HOLDS],
           counts[FG_PROMISE_BREAKS], counts[FG_PROMISE_UNDECIDED], c.never_count);
    fg_coverage_end(coverage);
    for (size_t i = 0; i < c.count; i++) fg_promise_result_free(&c.rows[i].result);
    fg_gate_file_close(&file);
    return 0;
}
