/* SPDX-License-Identifier: MIT */
/* What moves by itself while a row holds: sequences, sweeps, and lines that follow a sensor. */
#include "run.h"
#include "wide.h"

/* ---- follow ---- */

/* A count is always there; a sensor may be faulty. */
bool fg_follow_lost(const fg_run *run, uint16_t number)
{
    const fg_follow *f = &run->gate->follows[number];
    return !f->count && !run->sensors[f->source].ok;
}

/* The reading is clamped to the ends first, so the line never leaves its two levels. 64 bits are enough for nearly all
 * lines; the others are worked out in 128. */
int32_t fg_follow_value(const fg_run *run, uint16_t number)
{
    const fg_follow *f = &run->gate->follows[number];
    fg_value at = f->count ? run->counters[f->source].value : run->sensors[f->source].value;
    const bool rises = f->from < f->to;
    const fg_value lowest = rises ? f->from : f->to, highest = rises ? f->to : f->from;
    if (at < lowest) at = lowest;
    if (at > highest) at = highest;
    int64_t across = (int64_t)f->to - f->from, way = (int64_t)at - f->from, result = 0;
    if (across < 0) {
        across = -across;
        way = -way;
    }
    const int64_t span = (int64_t)f->high - f->low;
    if (fg_is_small(across) && fg_is_small(span)) {
        result = fg_rounded(f->low * across + span * way, across);
    } else {
        const fg_wide sum = fg_wide_sum(fg_wide_product(f->low, across), fg_wide_product(span, way));
        (void)fg_wide_quotient(sum, across, &result); /* between low and high, so it fits */
    }
    return (int32_t)result;
}

/* ---- sequences ---- */

/* `follows` says whether any segment has a tempo, so that most sequences are not looked through. */
bool fg_play_lost(const fg_run *run, uint16_t sequence)
{
    const fg_sequence *s = &run->gate->sequences[sequence];
    if (!s->follows) return false;
    for (uint16_t i = 0; i < s->segment_count; i++) {
        const fg_segment *segment = &run->gate->segments[s->first_segment + i];
        if (segment->tempo != FG_INDEX_NONE && fg_follow_lost(run, segment->tempo)) return true;
    }
    return false;
}

/* How long a segment that begins now lasts. A tempo is at least 1 ms: nothing plays infinitely fast. */
static fg_time length_of(const fg_run *run, const fg_segment *segment)
{
    if (segment->tempo == FG_INDEX_NONE) return segment->time;
    if (fg_follow_lost(run, segment->tempo)) return 1;
    const int32_t time = fg_follow_value(run, segment->tempo);
    return time > 0 ? (fg_time)time : 1;
}

/* The length is fixed as the segment begins: a tempo that changes meanwhile counts from the next one on. */
static void begin_segment(const fg_run *run, const fg_sequence *s, fg_play_state *play)
{
    play->length = length_of(run, &run->gate->segments[s->first_segment + play->segment]);
}

/* Whole runs that lie in the time that has passed are skipped in one go: a step that comes a day late costs no more. */
static void skip_runs(const fg_run *run, const fg_sequence *s, fg_play_state *play)
{
    uint64_t total = 0;
    for (uint16_t i = 0; i < s->segment_count; i++) total += length_of(run, &run->gate->segments[s->first_segment + i]);
    if (!total || play->elapsed < total) return;
    uint64_t runs = play->elapsed / total;
    if (s->runs && runs > s->runs - play->run) runs = s->runs - play->run;
    play->run += (uint32_t)runs;
    play->elapsed -= (fg_time)(runs * total);
}

/* Time that is left over belongs to the next segment, so a sequence keeps its rhythm however seldom the gate steps. */
static void next_segment(const fg_run *run, const fg_sequence *s, fg_play_state *play)
{
    play->elapsed -= play->length;
    if (++play->segment < s->segment_count) {
        begin_segment(run, s, play);
        return;
    }
    play->segment = 0;
    play->run++;
    skip_runs(run, s, play);
    play->over = s->runs && play->run >= s->runs;
    begin_segment(run, s, play);
}

/* Several segments may have gone by since the last step. A sequence of segments without length cannot go on for ever,
 * because the compiler refuses a sequence that takes no time. */
static fg_level sequence_level(fg_run *run, uint16_t number, fg_play_state *play)
{
    const fg_sequence *s = &run->gate->sequences[number];
    while (!play->over && play->elapsed >= play->length) next_segment(run, s, play);
    return run->gate->segments[s->first_segment + play->segment].level;
}

/* To and fro on a straight line. Rounding is the same both ways, so a servo passes the same degrees back. */
static fg_level sweep_level(const fg_sweep *sweep, fg_play_state *play)
{
    const bool back = play->elapsed >= sweep->time;
    const int64_t from = back ? sweep->b : sweep->a, to = back ? sweep->a : sweep->b;
    const int64_t at = back ? play->elapsed - sweep->time : play->elapsed;
    int64_t degrees = 0;
    (void)fg_wide_quotient(fg_wide_of(from * sweep->time + (to - from) * at), sweep->time, &degrees);
    return fg_level_of(FG_FORM_TURN, 0, (int32_t)degrees);
}

/* A sweep has no segments; everything else that plays is a sequence. */
fg_level fg_play_level(fg_run *run, const fg_row *row, fg_play_state *play)
{
    const uint16_t number = (uint16_t)row->level.number;
    if (row->level.form == FG_FORM_SWEEP) return sweep_level(&run->gate->sweeps[number], play);
    return sequence_level(run, number, play);
}

/* A sweep comes round without leaving 32 bits: to and fro takes up to 48 days. A segment lasts, and a step takes, less
 * than 2^31 ms, so the sum fits; only one that is over may go on until it stops counting. */
void fg_play_pass(const fg_run *run, const fg_row *row, fg_time time)
{
    fg_play_state *play = &run->plays[row->play];
    if (row->level.form == FG_FORM_SWEEP) {
        const fg_time round = 2 * run->gate->sweeps[row->level.number].time;
        if (time >= round) time %= round;
        play->elapsed = play->elapsed >= round - time ? play->elapsed - (round - time) : play->elapsed + time;
    } else {
        play->elapsed = play->elapsed + time < time ? UINT32_MAX : play->elapsed + time;
    }
}

/* A sweep goes on where it stood. A sequence begins anew unless it `resumes`, and one that resumes begins anew once it
 * was over. */
void fg_play_take_over(fg_run *run, const fg_row *row, fg_play_state *play)
{
    const bool sweep = row->level.form == FG_FORM_SWEEP;
    const fg_sequence *s = sweep ? NULL : &run->gate->sequences[row->level.number];
    if (play->begun && sweep) return;
    if (play->begun && s->resumes) {
        (void)sequence_level(run, (uint16_t)row->level.number, play); /* it may have ended as the other row won */
        if (!play->over) return;
    }
    const fg_play_state nothing = {0};
    *play = nothing;
    play->begun = true;
    if (s) begin_segment(run, s, play);
}
