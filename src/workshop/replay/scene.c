/* SPDX-License-Identifier: MIT */
/* Scenes: readings that nobody had to record.
 *
 * Noise: for each sensor a generator of its own (SplitMix64: Steele, Lea and Flood, Fast Splittable Pseudorandom Number
 * Generators, 2014), begun with the seed and the sensor's name. Each moment takes twelve numbers of 16 bits; their sum
 * is roughly normal with a standard deviation of 65536 (Irwin and Hall). Whole numbers throughout, so the same scene
 * gives the same readings on every machine, and a row for one sensor moves no other. */
#include "workshop/recordings/recording.h"

#include <ficklegate/scenes.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

typedef enum moment { SILENT, READING, FAULT } moment;

/* A sensor that the scene has rows for, or a flag. */
typedef struct scene_input {
    const fg_declared *declared;
    fg_value circle;
    uint64_t random;
    bool flag;
} scene_input;

typedef struct scene_player {
    const fg_program *program;
    const fg_scene *scene;
    scene_input *inputs;
    fg_text *cells; /* the time, then one for each scene_input */
    char (*texts)[FG_VALUE_TEXT_SIZE + 8];
    size_t count;
} scene_player;

static uint64_t next_random(uint64_t *state)
{
    uint64_t z = *state += UINT64_C(0x9e3779b97f4a7c15);
    z = (z ^ z >> 30) * UINT64_C(0xbf58476d1ce4e5b9);
    z = (z ^ z >> 27) * UINT64_C(0x94d049bb133111eb);
    return z ^ z >> 31;
}

/* 65536 times a number that is roughly normal around 0. */
static int64_t next_normal(uint64_t *state)
{
    int64_t sum = INT64_C(-6) * 65535;
    for (int i = 0; i < 3; i++) {
        const uint64_t bits = next_random(state);
        for (int shift = 0; shift < 64; shift += 16) sum += (int64_t)(bits >> shift & 0xffff);
    }
    return sum;
}

static int64_t rounded(int64_t a, int64_t by) { return (a < 0 ? a - by / 2 : a + by / 2) / by; }

/* On the straight line from a to b, `at` of `whole` ms along it: the value is rounded, not the way. Both products are
 * below 2^62. */
static fg_value between(fg_value a, fg_value b, int64_t at, int64_t whole)
{
    return (fg_value)rounded(a * (whole - at) + b * at, whole);
}

static fg_value swing(const fg_scene_row *row, fg_time t)
{
    const int64_t at = t % row->to; /* doubled, so that an odd time has its turning point */
    return 2 * at <= row->to ? between(row->a, row->b, 2 * at, row->to)
                             : between(row->b, row->a, 2 * at - row->to, row->to);
}

static bool in_time(const fg_scene_row *row, fg_time t) { return t >= row->from && t < row->to; }

/* What a row makes of a moment; false if it has nothing to say then. */
static bool row_says(const fg_scene_row *row, fg_time t, moment *what, fg_value *value)
{
    *what = READING;
    *value = row->a;
    switch (row->kind) {
    case FG_SCENE_STAYS: return true;
    case FG_SCENE_RAMPS:
        if (t >= row->from)
            *value = t >= row->to ? row->b : between(row->a, row->b, t - row->from, row->to - row->from);
        return t >= row->from;
    case FG_SCENE_JUMPS: return t >= row->from;
    case FG_SCENE_SWINGS: *value = swing(row, t); return true;
    case FG_SCENE_NOISE: return false;
    case FG_SCENE_DROPS: *what = FAULT; return in_time(row, t);
    case FG_SCENE_FALLS: *what = SILENT; return in_time(row, t);
    case FG_SCENE_READS: return in_time(row, t);
    case FG_SCENE_PRESSES: *value = 1; return in_time(row, t);
    }
    return false;
}

static int64_t unit_of(const fg_declared *d)
{
    int64_t millionths = 1;
    for (int i = d->decimals; i < FG_DECIMALS_MOST; i++) millionths *= 10;
    return millionths;
}

static fg_value with_noise(const scene_input *a, fg_value value, int64_t spread, int64_t normal)
{
    const int64_t most = INT64_MAX / (INT64_C(7) * 65536); /* the sum is below 6.1 standard deviations */
    const int64_t moved = rounded(rounded((spread < most ? spread : most) * normal, 65536), unit_of(a->declared));
    const int64_t sum = value + moved;
    if (a->circle) return fg_wrap(sum, a->circle);
    return (fg_value)(sum < INT32_MIN ? INT32_MIN : sum > INT32_MAX ? INT32_MAX : sum);
}

/* Later rows go over earlier ones in their time; noise goes on top of all but a bad reading. A ramp that is a sensor's
 * first row holds its first end before it begins. */
static moment judge(const scene_player *s, scene_input *a, fg_time t, fg_value *value)
{
    const int64_t normal = next_normal(&a->random);
    moment what = SILENT;
    int64_t spread = 0;
    bool first = true, bad = false;
    *value = 0;
    if (a->flag) what = READING; /* no, until it is pressed */
    for (uint32_t i = 0; i < s->scene->row_count; i++) {
        const fg_scene_row *row = &s->scene->rows[i];
        moment said;
        fg_value now;
        if (&s->program->declared[row->declared] != a->declared) continue;
        if (row->kind == FG_SCENE_NOISE) {
            spread = row->spread;
            continue;
        }
        if (row_says(row, t, &said, &now) || (first && row->kind == FG_SCENE_RAMPS)) {
            what = said;
            *value = now;
            bad = row->kind == FG_SCENE_READS;
        }
        first = false;
    }
    if (what == READING && a->circle && !bad) *value = fg_wrap(*value, a->circle); /* a ramp may run through north */
    if (what == READING && spread && !bad) *value = with_noise(a, *value, spread, normal);
    return what;
}

static void write_cell(scene_player *s, size_t i, fg_time t)
{
    scene_input *a = &s->inputs[i];
    char *text = s->texts[i + 1];
    fg_value value;
    const moment what = judge(s, a, t, &value);
    size_t size = 0;
    if (what == FAULT)
        size = (size_t)snprintf(text, sizeof *s->texts, "faulty");
    else if (what == READING)
        size = fg_value_write(value, a->flag ? 0 : a->declared->decimals, text);
    s->cells[i + 1] = (fg_text){text, size};
}

/* ---- the whole of it ---- */

static uint64_t begin_random(const fg_scene *scene, fg_text name)
{
    uint64_t state = scene->seed;
    for (size_t i = 0; i < name.size; i++) state = (state ^ (unsigned char)name.at[i]) * UINT64_C(0x100000001b3);
    return state;
}

/* The sensors with rows and all flags, in the order of declaration. A flag is no until it is pressed, also if it never
 * is. */
static bool gather(scene_player *s)
{
    const fg_program *program = s->program;
    bool *has_rows = calloc((size_t)program->declared_count + 1, sizeof *has_rows);
    s->inputs = calloc((size_t)program->declared_count + 1, sizeof *s->inputs);
    s->cells = calloc((size_t)program->declared_count + 1, sizeof *s->cells);
    s->texts = calloc((size_t)program->declared_count + 1, sizeof *s->texts);
    const bool good = has_rows && s->inputs && s->cells && s->texts;
    for (uint32_t i = 0; good && i < s->scene->row_count; i++) has_rows[s->scene->rows[i].declared] = true;
    for (uint32_t i = 0; good && i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        const bool flag = d->kind == FG_KIND_FLAG;
        if (!has_rows[i] && !flag) continue;
        s->inputs[s->count++] = (scene_input){.declared = d,
                                              .circle = flag ? 0 : program->gate.sensors[d->index].circle,
                                              .random = begin_random(s->scene, d->name),
                                              .flag = flag};
    }
    free(has_rows);
    return good;
}

static bool play(scene_player *s, const fg_recording_sink *sink, fg_mistake *mistake)
{
    static const char time[] = "t_ms";
    s->cells[0] = (fg_text){time, sizeof time - 1};
    for (size_t i = 0; i < s->count; i++) s->cells[i + 1] = s->inputs[i].declared->name;
    if (!sink->heading(sink->context, s->cells, s->count + 1, mistake)) return false;
    for (uint64_t t = 0, row = 1; t <= s->scene->lasts; t += s->scene->every, row++) {
        s->cells[0] = (fg_text){s->texts[0], (size_t)snprintf(s->texts[0], sizeof *s->texts, "%" PRIu64, t)};
        for (size_t i = 0; i < s->count; i++) write_cell(s, i, (fg_time)t);
        if (row % FG_PROGRESS_ROWS == 0 && sink->progress.tell)
            sink->progress.tell(sink->progress.context, row, t, s->scene->lasts);
        if (!sink->row(sink->context, (int64_t)t, s->cells, s->count + 1, row, mistake)) return false;
    }
    return true;
}

fg_status fg_scene_read(const fg_program *program, const fg_scene *scene, const fg_recording_sink *sink,
                        fg_mistake *mistake)
{
    scene_player s = {.program = program, .scene = scene};
    char name[sizeof mistake->file];
    *mistake = (fg_mistake){0};
    snprintf(name, sizeof name, "scene \"%.*s\"", (int)(scene->name.size > 200 ? 200 : scene->name.size),
             scene->name.at);
    fg_status status = FG_OK;
    if (!gather(&s)) {
        status = fg_mistake_set(mistake, FG_ERROR_MEMORY, name, 0, "there is not enough memory to play it");
    } else if (!play(&s, sink, mistake)) {
        status = mistake->status == FG_ERROR_MEMORY ? FG_ERROR_MEMORY : FG_ERROR_RECORDING;
        if (!*mistake->file) memcpy(mistake->file, name, sizeof name);
    }
    free(s.inputs);
    free(s.cells);
    free(s.texts);
    return status;
}

const fg_scene *fg_scene_find(const fg_program *program, fg_text name)
{
    for (uint32_t i = 0; i < program->scene_count; i++)
        if (fg_text_same(program->scenes[i].name, name)) return &program->scenes[i];
    return NULL;
}
