/* SPDX-License-Identifier: MIT-0 OR MIT */
/* Parts of baked gates: sequences. */

/* What counts of a step, once whole runs of every sequence are taken off one that comes very late; `runs`: many of
 * them. Of one that comes before the last nothing. After an hour's pause it takes a few hundred rounds. */
static uint16_t late(uint32_t gone, uint16_t runs)
{
    while (gone > 32767u) gone = gone & 0x80000000u ? 0 : gone - runs;
    return (uint16_t)gone;
}

/* Where a sequence that repeats for ever, or a sweep, stands when time has passed; `total`: of a run. */
static uint16_t moved_on(uint16_t at, uint16_t passed, uint16_t total)
{
    at = (uint16_t)(at + passed);
    while (at >= total) at = (uint16_t)(at - total);
    return at;
}

/* Where in a run a sequence of a few runs stands; `total`: of a run. A division would take longer. */
static uint16_t in_run(uint16_t at, uint16_t total)
{
    while (at >= total) at = (uint16_t)(at - total);
    return at;
}

/* Where a sequence that repeats for ever, or a sweep, stands after `gone` ms more; `total` above 0. */
static uint32_t moved_on_long(uint32_t at, uint32_t gone, uint32_t total)
{
    if (gone >= total) gone %= total;
    return at >= total - gone ? at - (total - gone) : at + gone;
}

/* How long a segment lasts that follows a sensor: nothing plays infinitely fast. */
static uint32_t tempo(int32_t time) { return time > 0 ? (uint32_t)time : 1; }

/* Time passes in a sequence, whoever wins now. */
static void play_pass(fg_playing *play, uint32_t gone)
{
    play->elapsed = play->elapsed + gone < gone ? UINT32_MAX : play->elapsed + gone;
}

/* Whole runs that lie in the time that has passed are skipped in one go. */
static void play_skip(fg_playing *play, const uint32_t *times, uint16_t count, uint32_t runs)
{
    uint64_t total = 0, skipped;
    for (uint16_t i = 0; i < count; i++) total += times[i];
    if (!total || play->elapsed < total) return;
    skipped = play->elapsed / total;
    if (runs && skipped > runs - play->run) skipped = runs - play->run;
    play->run += (uint32_t)skipped;
    play->elapsed -= (uint32_t)(skipped * total);
}

/* Brings a sequence to where it is now. `times`: of its segments, as they would begin now; `runs`: 0 for ever. */
static void play_advance(fg_playing *play, const uint32_t *times, uint16_t count, uint32_t runs)
{
    while (!play->over && play->elapsed >= play->length) {
        play->elapsed -= play->length;
        if (++play->segment >= count) {
            play->segment = 0;
            play->run++;
            play_skip(play, times, count, runs);
            play->over = runs && play->run >= runs;
        }
        play->length = times[play->segment];
    }
}

/* A row took over: its sequence begins, or goes on where it stood. */
static void play_begin(fg_playing *play, const uint32_t *times, uint16_t count, uint32_t runs, bool resumes)
{
    if (resumes && play->begun) {
        play_advance(play, times, count, runs);
        if (!play->over) return;
    }
    play->elapsed = play->run = 0;
    play->segment = 0;
    play->over = false;
    play->begun = true;
    play->length = times[0];
}
