/* A recording through a gate on the simulated board: rows become readings, steps become reports of what changed. */
#include "workshop/explain/explain.h"
#include "workshop/recordings/recording.h"
#include "workshop/replay/report.h"

#include <ficklegate/replay.h>
#include <ficklegate/scenes.h>
#include <ficklegate/sim.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* What a column of the recording is for. */
typedef struct column {
    uint16_t input; /* as the port numbers them */
    bool counts;    /* NAME.raw */
    bool flag;
    const fg_declared *declared; /* NULL: nobody's */
    const fg_declared *said_of;  /* the name a board said something of, if that is listened to */
    fg_buffer said;              /* what it said in a row whose step is yet to come; empty: nothing */
    uint64_t said_line;
} column;

typedef struct player {
    const fg_program *program;
    const fg_readings *readings;
    const fg_replay_observer *observer;
    fg_replay_report *report;
    bool stopped; /* the observer has seen enough */
    bool over;    /* the part to report has ended */

    fg_sim sim;
    fg_port port;
    void *memory;
    fg_run *run;
    fg_verdict *before;
    fg_value *counts_before;
    fg_verdict *starts_before; /* of each pulse: its newest sure start */
    fg_buffer *texts_before;   /* what each output was at, in its one form */
    uint16_t *rows_before;     /* and which row of it won */
    fg_buffer text;
    fg_explainer explainer;
    fg_buffer because;

    column *columns;
    size_t column_count;

    bool began, stepped;
    int64_t first_ms; /* of the first row, as written */
    int64_t t_ms;     /* of the newest row, from the first */
    fg_time clock;    /* what the board's clock says at the newest row */
    int64_t next_ms;  /* of the next step, with `every` */
} player;

/* ---- reports ---- */

/* The level of an output in its one form. */
static fg_text output_text(player *p, uint16_t output)
{
    const size_t size = fg_output_text(p->run, output, NULL, 0);
    fg_buffer *b = &p->text;
    b->size = 0;
    fg_buffer_room(b, size);
    if (!b->full) b->size = fg_output_text(p->run, output, b->text, size);
    return fg_buffer_text(b);
}

/* Does an output play the sequence or sweep of the same row as before? */
static bool plays_on(const player *p, uint16_t output)
{
    const fg_gate *gate = &p->program->gate;
    const uint16_t row = fg_output_at(p->run, output)->row;
    if (!p->stepped || row == FG_INDEX_NONE || row != p->rows_before[output]) return false;
    const uint8_t form = gate->rows[gate->outputs[output].first_row + row].level.form;
    return form == FG_FORM_PLAY || form == FG_FORM_SWEEP;
}

/* Did this output change, and if so from what to what? `was` lives in `texts_before` until it is replaced. */
static bool output_changed(player *p, const fg_declared *d, fg_change *change)
{
    if (!fg_output_at(p->run, d->index)->changed) return false;
    change->was = fg_buffer_text(&p->texts_before[d->index]);
    change->is = output_text(p, d->index);
    change->plays_on = plays_on(p, d->index);
    return !p->stepped || !fg_text_same(change->was, change->is);
}

static bool count_changed(const player *p, const fg_declared *d, fg_change *change, char *was, char *is)
{
    const fg_value before = p->counts_before[d->index], now = fg_count_value(p->run, d->index);
    change->was = (fg_text){was, fg_value_write(before, 0, was)};
    change->is = (fg_text){is, fg_value_write(now, 0, is)};
    return !p->stepped || before != now;
}

static bool answer_changed(const player *p, const fg_declared *d, fg_change *change)
{
    const fg_verdict before = p->before[d->slot], now = fg_answer(p->run, d->slot);
    if (p->stepped && before == now) return false;
    change->was = fg_answer_text(d, before);
    change->is = fg_answer_text(d, now);
    return true;
}

static bool changed(player *p, const fg_declared *d, fg_change *change, char *was, char *is)
{
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) return output_changed(p, d, change);
    if (d->kind == FG_KIND_COUNT) return count_changed(p, d, change, was, is);
    return d->slot != FG_INDEX_NONE && answer_changed(p, d, change);
}

/* What comes before the part is played without a word. */
static bool is_told(const player *p, int64_t t_ms) { return t_ms >= p->readings->from_ms; }

static bool report_changes(player *p, int64_t t_ms)
{
    const bool told = is_told(p, t_ms);
    p->explainer.before = p->stepped ? p->before : NULL;
    for (uint32_t i = 0; i < p->program->declared_count; i++) {
        char was[FG_VALUE_TEXT_SIZE], is[FG_VALUE_TEXT_SIZE];
        const fg_declared *d = &p->program->declared[i];
        fg_change change = {.t_ms = t_ms, .declared = d};
        if (!changed(p, d, &change, was, is)) continue;
        p->report->changes += told;
        if (told && p->observer->change) {
            if (!p->stepped) change.was = (fg_text){0};
            p->because.size = 0;
            fg_explain(&p->explainer, d, &p->because);
            change.because = fg_buffer_text(&p->because);
            if (p->because.full || p->text.full) return false;
            if (!p->observer->change(p->observer->context, &change)) return false;
        }
        if (!fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) continue;
        const fg_buffer old = p->texts_before[d->index];
        p->texts_before[d->index] = p->text;
        p->text = old;
    }
    for (uint16_t i = 0; i < p->program->gate.size.outputs; i++) p->rows_before[i] = fg_output_at(p->run, i)->row;
    return true;
}

static void count_faulty(player *p)
{
    const fg_gate *gate = &p->program->gate;
    for (uint16_t i = 0; i < gate->size.sensors; i++) {
        const fg_sensor_state *state = fg_sensor_at(p->run, i);
        p->report->faulty_steps += !state->ok;
        p->report->zeros_missed += state->zero_missed;
    }
    for (uint16_t i = 0; i < gate->size.flags; i++)
        p->report->faulty_steps += fg_flag_at(p->run, i)->bridged == FG_UNSURE;
}

/* Starts that came to nothing. A pulse that runs already is no such case. */
static void count_refused(player *p, int64_t t_ms)
{
    for (uint16_t i = 0; i < p->program->gate.size.pulses; i++) {
        const fg_pulser *pulse = &p->program->gate.pulses[i];
        const fg_pulse_state *state = fg_pulse_at(p->run, i);
        const fg_verdict before = p->starts_before[i], now = state->start.previous;
        const bool stopped = pulse->stop != FG_INDEX_NONE && fg_answer(p->run, pulse->stop) != FG_NO;
        p->starts_before[i] = now;
        if (before != FG_NO || now != FG_YES || state->running || !(state->spent || stopped)) continue;
        if (is_told(p, t_ms)) fg_report_refused(p->report, p->program, i, state->spent, t_ms);
    }
}

static bool counts_changed(const player *p)
{
    for (uint16_t i = 0; i < p->program->gate.size.counters; i++)
        if (p->counts_before[i] != fg_count_value(p->run, i)) return true;
    return false;
}

/* What the step that begins is compared with. */
static void keep_answers(player *p)
{
    const fg_gate_sizes *n = &p->program->gate.size;
    memcpy(p->before, fg_answers(p->run), (size_t)n->ops + n->watched);
    for (uint16_t i = 0; i < n->counters; i++) p->counts_before[i] = fg_count_value(p->run, i);
}

/* ---- what a board said ---- */

static fg_text own_text(player *p, const fg_declared *d, char *digits)
{
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) return output_text(p, d->index);
    if (d->kind == FG_KIND_COUNT) return (fg_text){digits, fg_value_write(fg_count_value(p->run, d->index), 0, digits)};
    return fg_answer_text(d, fg_answer(p->run, d->slot));
}

static bool agrees(const player *p, const fg_declared *d, fg_text said, fg_text own)
{
    bool yes;
    fg_value count;
    if (fg_text_same(said, own)) return true;
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT | FG_KIND_LABELS)) return false;
    if (d->kind == FG_KIND_COUNT)
        return fg_value_read(said.at, said.size, 0, &count) == FG_OK && count == fg_count_value(p->run, d->index);
    return fg_flag_word(said, &yes) && fg_answer(p->run, d->slot) == (yes ? FG_YES : FG_NO);
}

/* Holds what the newest row said against the step that was made last. */
static bool tell_said(player *p, bool between)
{
    for (size_t i = 0; i < p->column_count; i++) {
        column *c = &p->columns[i];
        char digits[FG_VALUE_TEXT_SIZE];
        if (!c->said.size) continue;
        fg_said said = {
            .t_ms = p->t_ms, .line = c->said_line, .declared = c->said_of, .said = fg_buffer_text(&c->said)};
        said.between = between;
        said.own = own_text(p, c->said_of, digits);
        said.agrees = agrees(p, c->said_of, said.said, said.own);
        p->because.size = 0;
        p->explainer.before = p->stepped ? p->before : NULL;
        if (!said.agrees) fg_explain(&p->explainer, c->said_of, &p->because);
        said.because = fg_buffer_text(&p->because);
        if (p->because.full || p->text.full) return false;
        if (!p->observer->said(p->observer->context, &said)) return false;
        c->said.size = 0;
    }
    return true;
}

static void keep_said(player *p, const fg_text *cells, uint64_t line)
{
    for (size_t i = 0; i < p->column_count; i++) {
        column *c = &p->columns[i];
        const fg_text cell = fg_text_trimmed(cells[i]);
        if (!c->said_of || !cell.size) continue;
        c->said.size = 0;
        c->said_line = line;
        fg_buffer_add(&c->said, cell);
        p->because.full = p->because.full || c->said.full; /* which ends it */
    }
}

/* ---- steps ---- */

/* The time between two steps; 0: there is one for each row. */
static fg_time pace(const player *p) { return p->readings->options.row_steps ? 0 : p->program->gate.every; }

/* `t_ms` from the first row, at which the board's clock says `now`. */
static bool step_at(player *p, int64_t t_ms, fg_time now)
{
    const fg_gate_sizes *n = &p->program->gate.size;
    const size_t written = p->sim.event_count;
    if (p->stepped) keep_answers(p);
    p->sim.now = now;
    (void)fg_port_step(&p->port, p->run);
    count_refused(p, t_ms);
    if (is_told(p, t_ms)) {
        p->report->steps++;
        count_faulty(p);
    }
    bool quiet = p->stepped && p->sim.event_count == written && !memcmp(p->before, fg_answers(p->run), n->ops) &&
                 !counts_changed(p);
    bool go_on = quiet || report_changes(p, t_ms);
    if (go_on && p->observer->step)
        go_on = p->observer->step(p->observer->context, p->run, p->stepped ? p->before : NULL, t_ms);
    if (go_on && p->observer->said && t_ms == p->t_ms) go_on = tell_said(p, false);
    p->stepped = true;
    p->stopped = !go_on;
    return go_on;
}

/* ---- rows ---- */

static bool read_flag(fg_text cell, int32_t *value)
{
    bool yes;
    if (!fg_flag_word(cell, &yes)) return false;
    *value = yes;
    return true;
}

/* A cell that is no number, or one that no sensor can hold, is a faulty reading. */
static void put_cell(player *p, const column *c, fg_text cell, fg_time at, uint64_t line)
{
    int32_t value = 0;
    cell = fg_text_trimmed(cell);
    if (!cell.size) return;
    bool good = c->flag ? read_flag(cell, &value)
                        : fg_value_read(cell.at, cell.size, c->counts ? 0 : c->declared->decimals, &value) == FG_OK;
    const bool told = is_told(p, p->t_ms);
    if (!good && told) fg_report_unreadable(p->report, c->declared, cell, line);
    if (good && told && !c->flag && !c->counts) fg_report_finer(p->report, c->declared, cell, line);
    fg_reading_kind kind = !good ? FG_READING_FAULT : c->counts ? FG_READING_COUNTS : FG_READING_VALUE;
    if (!fg_sim_put(&p->sim, c->input, kind, value, at) && pace(p)) p->report->overlooked += told;
}

/* Where steps are rows, the clock stops after 24 days without one: no wait is longer, and its 32 bits hold no more. */
static fg_time clock_after(const player *p, int64_t passed)
{
    static const int64_t longest = (int64_t)24 * 24 * 60 * 60 * 1000;
    return p->clock + (fg_time)(!pace(p) && passed > longest ? longest : passed);
}

/* With `every`: the steps before `end_ms`, which lie between two rows, the second of them in `line`. */
static bool steps_before(player *p, int64_t end_ms, uint64_t line)
{
    enum { OFTEN = 1 << 16 };
    const fg_time every = pace(p);
    const uint64_t steps = end_ms > p->next_ms ? (uint64_t)(end_ms - p->next_ms + every - 1) / every : 0;
    if (steps > FG_GAP_STEPS && p->readings->options.gap)
        p->readings->options.gap(p->readings->options.gap_context, line, end_ms - p->t_ms, steps);
    for (uint64_t step = 1; p->next_ms < end_ms; p->next_ms += every, step++) {
        if (!step_at(p, p->next_ms, p->clock + (fg_time)(p->next_ms - p->t_ms))) return false;
        if (step % OFTEN == 0 && p->observer->progress.tell)
            p->observer->progress.tell(p->observer->progress.context, p->report->rows, step, steps);
    }
    return true;
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake)
{
    player *p = context;
    (void)mistake;
    if (!p->began) {
        p->first_ms = t_ms;
        p->clock = (fg_time)(uint64_t)t_ms;
    }
    const int64_t from_first = t_ms - p->first_ms, last = p->readings->to_ms;
    const bool over = last && from_first > last;
    if (pace(p) ? !steps_before(p, over ? last + 1 : from_first, line)
                : p->began && from_first != p->t_ms && !step_at(p, p->t_ms, p->clock))
        return false;
    p->over = over;
    if (over) return false;
    p->began = true;
    p->clock = clock_after(p, from_first - p->t_ms);
    p->t_ms = from_first;
    if (p->observer->row && !p->observer->row(p->observer->context, p->t_ms, cells, count)) {
        p->stopped = true;
        return false;
    }
    for (size_t i = 0; i < count; i++)
        if (p->columns[i].declared) put_cell(p, &p->columns[i], cells[i], p->clock, line);
    if (p->observer->said && is_told(p, from_first)) {
        keep_said(p, cells, line);
        p->stopped = pace(p) && p->next_ms != p->t_ms && !tell_said(p, true); /* no step is for this row */
        if (p->stopped) return false;
    }
    p->report->rows += is_told(p, from_first);
    return true;
}

static void last_steps(player *p)
{
    const fg_time every = pace(p);
    if (!p->began || p->stopped) return;
    p->report->length_ms = p->over ? p->readings->to_ms : p->t_ms;
    if (p->over) {
        /* the row behind the part has made its last step */
    } else if (every) {
        if (p->next_ms <= p->t_ms) (void)step_at(p, p->next_ms, p->clock);
        for (uint16_t i = 0; i < p->sim.input_count; i++)
            p->report->overlooked += p->sim.inputs[i].kind != FG_READING_NONE;
    } else {
        (void)step_at(p, p->t_ms, p->clock);
    }
    if (!p->stopped && p->observer->end) p->observer->end(p->observer->context, p->run);
}

/* ---- the heading ---- */

static void list_name(char *list, size_t room, fg_text name)
{
    const size_t size = strlen(list), comma = size ? 2 : 0;
    char shown[200];
    fg_text_keep(shown, sizeof shown, name);
    if (size + comma + strlen(shown) + 1 <= room) snprintf(list + size, room - size, "%s%s", comma ? ", " : "", shown);
}

/* A sensor or flag; a sensor that is worked out from others is none. */
static bool is_read(const player *p, const fg_declared *d)
{
    return fg_kind_is(d->kind, FG_KIND_READ) &&
           (d->kind == FG_KIND_FLAG || !p->program->gate.sensors[d->index].term_count);
}

static const fg_declared *input_of(const player *p, fg_text name, bool *counts)
{
    static const char raw[] = ".raw";
    const size_t tail = sizeof raw - 1;
    const fg_declared *d = fg_program_find(p->program, name);
    *counts = false;
    if (!d && name.size > tail && !memcmp(name.at + name.size - tail, raw, tail)) {
        d = fg_program_find(p->program, (fg_text){name.at, name.size - tail});
        *counts = d && d->kind == FG_KIND_SENSOR;
        if (!*counts) d = NULL;
    }
    return d && is_read(p, d) ? d : NULL;
}

/* Gives a column to its sensor or flag; each has one at most. */
static bool take_column(player *p, size_t i, fg_text name, const fg_declared **owners, fg_mistake *mistake)
{
    bool counts;
    const fg_declared *d = input_of(p, name, &counts);
    const fg_gate *gate = &p->program->gate;
    if (!d) return true;
    const bool flag = d->kind == FG_KIND_FLAG;
    const uint16_t input = (uint16_t)(d->index + (flag ? gate->size.sensors : 0));
    if (counts && !gate->sensors[d->index].scale_count) {
        fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                       "the column '%.*s' holds counts, but the sensor has no 'raw ... reads' to make units of them",
                       (int)name.size, name.at);
        return false;
    }
    if (owners[input]) {
        fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0, "'%.*s' has two columns; remove one of them",
                       (int)d->name.size, d->name.at);
        return false;
    }
    owners[input] = d;
    p->columns[i] = (column){.input = input, .counts = counts, .flag = flag, .declared = d};
    return true;
}

/* The rule, count or output that a column of this name says something of. */
static const fg_declared *said_of(const player *p, fg_text name)
{
    const fg_declared *d = fg_program_find(p->program, name);
    if (!d || fg_kind_is(d->kind, FG_KIND_READ)) return NULL;
    const bool has_answer = d->kind == FG_KIND_COUNT || d->slot != FG_INDEX_NONE;
    return fg_kind_is(d->kind, FG_KIND_IS_OUTPUT) || has_answer ? d : NULL;
}

/* A column that nothing uses and that is called as this input, but for letter case, unit, or what stands around it. */
static fg_text column_like(const player *p, const fg_text *columns, size_t count, fg_text name)
{
    fg_text best = {0}, unit;
    for (size_t i = 0; i < count; i++) {
        const fg_text bare = fg_column_name(columns[i], &unit);
        if (p->columns[i].declared) continue;
        if (fg_text_alike(bare, name)) return columns[i];
        for (size_t k = 0; !best.size && name.size > 2 && k + name.size <= bare.size; k++)
            if (fg_text_alike((fg_text){bare.at + k, name.size}, name)) best = columns[i];
    }
    return best;
}

static void note_unread(player *p, const fg_text *columns, size_t count, const fg_declared *input)
{
    fg_replay_report *report = p->report;
    list_name(report->unread, sizeof report->unread, input->name);
    if (report->unread_count++) return;
    fg_text_keep(report->unread_name, sizeof report->unread_name, input->name);
    const fg_text like = column_like(p, columns, count, input->name);
    if (like.size < sizeof report->unread_like) fg_text_keep(report->unread_like, sizeof report->unread_like, like);
}

static bool on_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    player *p = context;
    const fg_declared **owners = calloc((size_t)p->sim.input_count + 1, sizeof(fg_declared *));
    p->columns = calloc(count, sizeof *p->columns);
    p->column_count = count;
    size_t said = 0;
    bool good = owners && p->columns;
    if (!good) fg_mistake_set(mistake, FG_ERROR_MEMORY, "", 0, "there is not enough memory for its columns");
    for (size_t i = 0; good && i < count; i++) {
        list_name(p->report->columns, sizeof p->report->columns, columns[i]);
        good = take_column(p, i, columns[i], owners, mistake);
        p->columns[i].said_of = p->observer->said ? said_of(p, columns[i]) : NULL;
        said += p->columns[i].said_of != NULL;
        if (!p->columns[i].declared && !p->columns[i].said_of && fg_time_kind_of(columns[i]) == FG_TIME_NONE)
            list_name(p->report->ignored, sizeof p->report->ignored, columns[i]);
    }
    uint32_t inputs = 0;
    for (uint32_t i = 0; good && i < p->program->declared_count; i++) {
        const fg_declared *d = &p->program->declared[i];
        if (!is_read(p, d)) continue;
        inputs++;
        if (owners[d->index + (d->kind == FG_KIND_FLAG ? p->program->gate.size.sensors : 0)]) continue;
        note_unread(p, columns, count, d);
    }
    if (good && p->report->unread_count == inputs) {
        fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                       "no column belongs to a sensor or flag of the gate; it has %s, the gate has %s",
                       p->report->columns, inputs ? p->report->unread : "none");
        good = false;
    }
    if (good && p->observer->said && !said) {
        fg_mistake_set(
            mistake, FG_ERROR_RECORDING, "", 0,
            "no column is named like a rule, count or output of the gate, so there is nothing to compare; it "
            "has %s",
            p->report->columns);
        good = false;
    }
    free(owners);
    return good && (!p->observer->columns || p->observer->columns(p->observer->context, columns, count, mistake));
}

/* ---- the way in ---- */

static bool start(player *p)
{
    const fg_gate *gate = &p->program->gate;
    const size_t size = fg_run_size(gate);
    p->sim.input_count = (uint16_t)(gate->size.sensors + gate->size.flags);
    p->sim.output_count = gate->size.outputs;
    p->sim.inputs = calloc((size_t)p->sim.input_count + 1, sizeof *p->sim.inputs);
    p->sim.outputs = calloc((size_t)p->sim.output_count + 1, sizeof *p->sim.outputs);
    p->before = calloc((size_t)gate->size.ops + gate->size.watched + 1, 1);
    p->memory = malloc(size);
    p->counts_before = calloc((size_t)gate->size.counters + 1, sizeof *p->counts_before);
    p->texts_before = calloc((size_t)gate->size.outputs + 1, sizeof *p->texts_before);
    p->rows_before = calloc((size_t)gate->size.outputs + 1, sizeof *p->rows_before);
    p->starts_before = calloc((size_t)gate->size.pulses + 1, sizeof *p->starts_before);
    if (!p->starts_before) return false;
    if (!p->counts_before || !p->texts_before || !p->rows_before) return false;
    if (!p->sim.inputs || !p->sim.outputs || !p->before || !p->memory) return false;
    if (fg_run_start(gate, p->memory, size, &p->run) != FG_OK) return false;
    fg_sim_start(&p->sim, 0);
    p->port = fg_sim_port(&p->sim);
    if (!fg_explainer_start(&p->explainer, p->program, p->run)) return false;
    return true;
}

static void finish(player *p)
{
    fg_explainer_end(&p->explainer);
    fg_buffer_free(&p->because);
    fg_buffer_free(&p->text);
    for (uint16_t i = 0; p->texts_before && i < p->program->gate.size.outputs; i++) fg_buffer_free(&p->texts_before[i]);
    free(p->texts_before);
    free(p->rows_before);
    free(p->counts_before);
    free(p->starts_before);
    for (size_t i = 0; p->columns && i < p->column_count; i++) fg_buffer_free(&p->columns[i].said);
    free(p->columns);
    free(p->memory);
    free(p->before);
    free(p->sim.inputs);
    free(p->sim.outputs);
}

/* A text lacks something there was no memory for. */
static bool is_cut_short(const player *p)
{
    bool cut = p->because.full || p->text.full;
    for (uint16_t i = 0; p->texts_before && i < p->program->gate.size.outputs; i++)
        cut = cut || p->texts_before[i].full;
    return cut;
}

static void on_note(void *context, const char *text)
{
    player *p = context;
    fg_text_keep(p->report->note, sizeof p->report->note, (fg_text){text, strlen(text)});
}

static bool on_unit(void *context, fg_text name, fg_text unit, uint64_t line)
{
    player *p = context;
    fg_replay_report *report = p->report;
    bool counts;
    const fg_declared *d = input_of(p, name, &counts);
    if (!d) return false;
    if (counts || !d->unit.size || fg_text_same(unit, d->unit) || *report->other_unit) return true;
    fg_text_keep(report->other_unit, sizeof report->other_unit, unit);
    fg_text_keep(report->other_unit_name, sizeof report->other_unit_name, d->name);
    fg_text_keep(report->own_unit, sizeof report->own_unit, d->unit);
    report->other_unit_line = line;
    return true;
}

/* Numbers that stand alone belong to the sensor, where there is just one and no flag. */
static fg_text only_input(const player *p)
{
    const fg_declared *only = NULL;
    for (uint32_t i = 0; i < p->program->declared_count; i++) {
        const fg_declared *d = &p->program->declared[i];
        if (!is_read(p, d)) continue;
        if (only) return (fg_text){0};
        only = d;
    }
    return only ? only->name : (fg_text){0};
}

static fg_status read_all(player *p, const fg_readings *readings, fg_mistake *mistake)
{
    const fg_recording_sink sink = {p, on_heading, on_row, on_note, p->observer->progress, on_unit};
    fg_recording_options options = readings->options;
    if (!options.only.size) options.only = only_input(p);
    fg_status status = readings->scene ? fg_scene_read(p->program, readings->scene, &sink, mistake)
                                       : fg_recording_read(readings->recording, &options, &sink, mistake);
    if (status == FG_OK && !p->began)
        status = fg_mistake_set(mistake, FG_ERROR_RECORDING, readings->recording, 0, "has a heading but no rows");
    if (status == FG_OK || p->over) last_steps(p);
    if (p->stopped || p->over) return FG_OK;
    if (status == FG_OK && p->t_ms < readings->from_ms)
        status = fg_mistake_set(mistake, FG_ERROR_ARGUMENT, readings->scene ? "fickle" : readings->recording, 0,
                                "ends at %" PRId64 ".%03" PRId64 " s, before the part you asked for begins",
                                p->t_ms / 1000, p->t_ms % 1000);
    return status;
}

fg_status fg_replay(const fg_program *program, const fg_readings *readings, const fg_replay_observer *observer,
                    fg_replay_report *report, fg_mistake *mistake)
{
    player p = {.program = program, .readings = readings, .observer = observer, .report = report};
    const char *name = readings->scene ? "fickle" : readings->recording;
    fg_status status = FG_ERROR_MEMORY;
    *report = (fg_replay_report){0};
    *mistake = (fg_mistake){0};
    if (start(&p)) status = read_all(&p, readings, mistake);
    if (is_cut_short(&p) || (status == FG_ERROR_MEMORY && !*mistake->text))
        status = fg_mistake_set(mistake, FG_ERROR_MEMORY, name, 0, "there is not enough memory to play it");
    finish(&p);
    return status;
}
