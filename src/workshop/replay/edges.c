/* SPDX-License-Identifier: MIT */
/* The recording that a careful tester would make: each sensor slowly through each limit of its rules, from below, on
 * it, one step beside it, and back again, all others at rest; once with every flag no and once with every flag yes;
 * each sensor failing once; each flag pressed once by itself.
 *
 * A reading is held until everything that waits on it has settled: as long as the longest `settle` and `for` of the
 * gate and its smoothing take, but ten seconds at most. */
#include "workshop/base/limits.h"

#include <ficklegate/scenes.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { EVERY = 100, HOLD_MOST = 10000, AWAY = 2 };

/* A sensor or flag that is read. */
typedef struct input {
    const fg_declared *declared;
    fg_value value;
    bool flag, faulty;
    fg_value *limits; /* of a sensor, from low to high */
    size_t limit_count;
    int far; /* steps from a limit that are beyond every margin */
} input;

typedef struct tester {
    const fg_program *program;
    const fg_recording_sink *sink;
    fg_mistake *mistake;
    input *inputs;
    size_t count;
    fg_text *cells;
    char (*texts)[FG_VALUE_TEXT_SIZE + 8];
    uint64_t t_ms, rows;
    fg_time every, hold;
    bool stopped, full;
} tester;

/* ---- what is to be gone through ---- */

static void gather_limits(tester *t, input *in)
{
    const fg_gate *gate = &t->program->gate;
    for (uint16_t slot = 0; slot < gate->size.ops; slot++) {
        if (!fg_op_is(gate->ops[slot].kind, FG_OP_ON_SENSOR) || gate->ops[slot].a != in->declared->index) continue;
        if (t->program->op_sources[slot].margin + AWAY > in->far) in->far = t->program->op_sources[slot].margin + AWAY;
    }
    t->full = t->full || !fg_limits_of_sensor(t->program, in->declared->index, &in->limits, &in->limit_count);
}

static void gather(tester *t)
{
    const fg_program *program = t->program;
    t->inputs = calloc((size_t)program->declared_count + 1, sizeof *t->inputs);
    t->cells = calloc((size_t)program->declared_count + 1, sizeof *t->cells);
    t->texts = calloc((size_t)program->declared_count + 1, sizeof *t->texts);
    t->full = !t->inputs || !t->cells || !t->texts;
    for (uint32_t i = 0; i < program->declared_count && !t->full; i++) {
        const fg_declared *d = &program->declared[i];
        if (d->kind != FG_KIND_FLAG && d->kind != FG_KIND_SENSOR) continue;
        if (d->kind == FG_KIND_SENSOR && program->gate.sensors[d->index].term_count) continue;
        input *in = &t->inputs[t->count++];
        *in = (input){.declared = d, .flag = d->kind == FG_KIND_FLAG};
        if (!in->flag) gather_limits(t, in);
        if (in->limit_count) in->value = fg_limit_beside(program, d->index, in->limits[0], -in->far);
    }
}

static fg_time later(fg_time a, fg_time b) { return a > b ? a : b; }

/* How long a reading has to stay until everything behind it knows. */
static fg_time hold_of(const fg_program *program, fg_time every)
{
    const fg_gate *gate = &program->gate;
    fg_time longest = 0, smoothing = 0;
    for (uint16_t i = 0; i < gate->size.ops; i++) {
        const fg_settle *settle = fg_op_settle(gate, &gate->ops[i]);
        if (settle) longest = later(longest, settle->time);
    }
    for (uint16_t i = 0; i < gate->size.lastings; i++) longest = later(longest, gate->lastings[i]);
    for (uint16_t i = 0; i < gate->size.sensors; i++)
        smoothing = later(smoothing, (fg_time)gate->sensors[i].window * every);
    const uint64_t hold = (uint64_t)longest + smoothing + 2 * (uint64_t)every;
    return hold < HOLD_MOST ? (fg_time)hold : HOLD_MOST;
}

/* ---- rows ---- */

static void row(tester *t)
{
    t->cells[0] = (fg_text){t->texts[0], (size_t)snprintf(t->texts[0], sizeof *t->texts, "%" PRIu64, t->t_ms)};
    for (size_t i = 0; i < t->count; i++) {
        const input *in = &t->inputs[i];
        char *text = t->texts[i + 1];
        const size_t size = in->faulty ? (size_t)snprintf(text, sizeof *t->texts, "faulty")
                                       : fg_value_write(in->value, in->flag ? 0 : in->declared->decimals, text);
        t->cells[i + 1] = (fg_text){text, size};
    }
    t->stopped =
        t->stopped || !t->sink->row(t->sink->context, (int64_t)t->t_ms, t->cells, t->count + 1, ++t->rows, t->mistake);
    t->t_ms += t->every;
}

static void hold(tester *t)
{
    for (uint64_t end = t->t_ms + t->hold; t->t_ms < end && !t->stopped;) row(t);
}

static void put(tester *t, input *in, fg_value value)
{
    in->value = value;
    hold(t);
}

/* Through a limit from below and back, beginning and ending beyond its margin. */
static void pass(tester *t, input *in, fg_value limit)
{
    const uint16_t sensor = in->declared->index;
    put(t, in, fg_limit_beside(t->program, sensor, limit, -in->far));
    for (int k = -AWAY; k <= AWAY; k++) put(t, in, fg_limit_beside(t->program, sensor, limit, k));
    put(t, in, fg_limit_beside(t->program, sensor, limit, in->far));
    for (int k = AWAY; k >= -AWAY; k--) put(t, in, fg_limit_beside(t->program, sensor, limit, k));
    put(t, in, fg_limit_beside(t->program, sensor, limit, -in->far));
}

static void fail_once(tester *t, input *in)
{
    in->faulty = true;
    hold(t);
    in->faulty = false;
    hold(t);
}

static void try_all(tester *t)
{
    hold(t);
    for (int yes = 0; yes <= 1; yes++) {
        for (size_t i = 0; i < t->count; i++)
            if (t->inputs[i].flag) t->inputs[i].value = yes;
        for (size_t i = 0; i < t->count; i++) {
            input *in = &t->inputs[i];
            const fg_value rest = in->value;
            for (size_t k = 0; k < in->limit_count && !t->stopped; k++) pass(t, in, in->limits[k]);
            in->value = rest;
            if (yes && !in->flag) fail_once(t, in);
        }
    }
    for (size_t i = 0; i < t->count; i++) t->inputs[i].value = t->inputs[i].flag ? 0 : t->inputs[i].value;
    for (size_t i = 0; i < t->count; i++) {
        if (!t->inputs[i].flag) continue;
        put(t, &t->inputs[i], 1);
        put(t, &t->inputs[i], 0);
    }
}

fg_status fg_edges_read(const fg_program *program, const fg_recording_sink *sink, fg_mistake *mistake)
{
    tester t = {.program = program, .sink = sink, .mistake = mistake};
    fg_status status = FG_OK;
    *mistake = (fg_mistake){0};
    t.every = program->gate.every ? program->gate.every : EVERY;
    t.hold = hold_of(program, t.every);
    gather(&t);
    if (t.full) {
        status = fg_mistake_set(mistake, FG_ERROR_MEMORY, "", 0, "there is not enough memory for the edges");
    } else {
        t.cells[0] = (fg_text){"t_ms", 4};
        for (size_t i = 0; i < t.count; i++) t.cells[i + 1] = t.inputs[i].declared->name;
        t.stopped = !sink->heading(sink->context, t.cells, t.count + 1, mistake);
        if (!t.stopped) try_all(&t);
        if (t.stopped) status = FG_ERROR_RECORDING;
    }
    for (size_t i = 0; t.inputs && i < t.count; i++) free(t.inputs[i].limits);
    free(t.inputs);
    free(t.cells);
    free(t.texts);
    return status;
}
