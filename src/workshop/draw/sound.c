/* SPDX-License-Identifier: MIT */
/* What a buzzer of a gate would be heard to do, as a WAV file: sine tones, each beginning where the last one ended, so
 * that nothing clicks; percent is loudness. */
#include "workshop/base/draft.h"

#include <ficklegate/draw.h>

#ifdef FG_WITHOUT_SOUND

fg_status fg_sound(const fg_program *program, const fg_readings *readings, const fg_declared *buzzer, const char *path,
                   fg_replay_report *report, fg_mistake *mistake)
{
    (void)program;
    (void)readings;
    (void)buzzer;
    (void)report;
    *mistake = (fg_mistake){0};
    return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                          "this program was built without sound; install libsndfile1-dev and build it again");
}

#else

#include <math.h>
#include <sndfile.h>
#include <stdlib.h>

enum { RATE = 22050, BLOCK = 4096, LONGEST_MS = 3600000 };

typedef struct sounder {
    SNDFILE *file;
    uint16_t output;
    int64_t from_ms;
    int64_t written; /* samples */
    double phase;
    int32_t hz, percent; /* of the newest step */
    bool began, failed, too_long;
} sounder;

static double loudness(const sounder *s) { return s->hz ? 0.5 * 32767 * s->percent / 100 : 0; }

/* The tone that is on, up to a time; the last and first 2 ms of each tone swell and fade. */
static void sound_until(sounder *s, int64_t t_ms)
{
    const double two_pi = 6.283185307179586;
    const int64_t first = s->written, end = (t_ms - s->from_ms) * RATE / 1000, fade = RATE / 500;
    short block[BLOCK];
    while (s->written < end && !s->failed) {
        sf_count_t count = end - s->written < BLOCK ? (sf_count_t)(end - s->written) : BLOCK;
        for (sf_count_t i = 0; i < count; i++) {
            const int64_t here = s->written + i;
            double part = 1;
            if (here - first < fade) part = (double)(here - first) / (double)fade;
            if (end - here < fade) part = (double)(end - here) / (double)fade;
            block[i] = (short)lrint(part * loudness(s) * sin(s->phase));
            s->phase = fmod(s->phase + two_pi * s->hz / RATE, two_pi);
        }
        s->failed = sf_write_short(s->file, block, count) != count;
        s->written += count;
    }
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    sounder *s = context;
    const fg_level *level = &fg_output_at(run, s->output)->level;
    const bool tone = level->form == FG_FORM_TONE;
    const int32_t hz = tone ? level->number : 0, percent = tone ? (level->percent ? level->percent : 100) : 0;
    (void)before;
    s->too_long = t_ms - s->from_ms > LONGEST_MS;
    if (s->too_long) return false;
    if (s->began && t_ms > s->from_ms && (hz != s->hz || percent != s->percent)) sound_until(s, t_ms);
    s->hz = hz;
    s->percent = percent;
    s->began = true;
    return !s->failed;
}

static fg_status play(sounder *s, const fg_program *program, const fg_readings *readings, fg_replay_report *report,
                      fg_mistake *mistake)
{
    const fg_replay_observer observer = {.context = s, .step = on_step};
    const fg_status status = fg_replay(program, readings, &observer, report, mistake);
    if (status != FG_OK) return status;
    if (s->too_long)
        return fg_mistake_set(mistake, FG_ERROR_ARGUMENT, "fickle", 0,
                              "the sound would be longer than an hour; name the part to hear with --from and --to");
    sound_until(s, report->length_ms);
    return FG_OK;
}

fg_status fg_sound(const fg_program *program, const fg_readings *readings, const fg_declared *buzzer, const char *path,
                   fg_replay_report *report, fg_mistake *mistake)
{
    SF_INFO info = {.samplerate = RATE, .channels = 1, .format = SF_FORMAT_WAV | SF_FORMAT_PCM_16};
    sounder s = {.output = buzzer->index, .from_ms = readings->from_ms};
    fg_draft part;
    fg_status status = fg_draft_begin(&part, path, mistake);
    if (status != FG_OK) return status;
    s.file = sf_open_fd(part.handle, SFM_WRITE, &info, 0);
    if (s.file) status = play(&s, program, readings, report, mistake);
    const bool closed = s.file && sf_close(s.file) == 0;
    if (status == FG_OK && closed && !s.failed) return fg_draft_publish(&part, mistake);
    fg_draft_drop(&part);
    if (status != FG_OK) return status;
    return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "the sound cannot be written; is there room on the disk?");
}

#endif
