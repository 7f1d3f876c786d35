/* SPDX-License-Identifier: MIT */
/* The time of a live run: that of the board where it sends one, else that of arrival. It never goes back. */
#include "workshop/live/live.h"

static int64_t greater(int64_t a, int64_t b) { return a > b ? a : b; }

/* A board that was switched off and on begins at zero again; the run goes on. */
static void start_again(fg_live *l, int64_t written, int64_t arrived)
{
    fg_live_clock *c = &l->clock;
    fg_live_tell(
        l,
        "the board started again, or its clock was set back: its time went from %.3f s to %.3f s; the run goes "
        "on",
        (double)(c->newest_ms - c->turned_ms) / 1000, (double)written / 1000);
    c->turned_ms = 0;
    c->shift_ms = greater(arrived, l->player.t_ms) - written;
}

/* Two times that agree are believed, however far ahead they are; one alone is a torn line. */
static bool is_believed(fg_live *l, int64_t written, int64_t passed)
{
    fg_live_clock *c = &l->clock;
    const int64_t most = l->options.leap_ms ? l->options.leap_ms : (int64_t)24 * 60 * 60 * 1000;
    if (written - c->newest_ms <= passed + most ||
        (c->leapt && written >= c->leapt_ms && written - c->leapt_ms < most)) {
        c->leapt = false;
        return true;
    }
    c->leapt = true;
    c->leapt_ms = written;
    return false;
}

static bool own_time(fg_live *l, fg_time_kind kind, fg_text text, int64_t arrived, int64_t *t_ms)
{
    fg_live_clock *c = &l->clock;
    int64_t written;
    if (!fg_time_read(kind, text, &c->of_day, &written)) return false;
    if (!c->own) {
        c->own = true;
        c->shift_ms = greater(arrived, 0) - written;
    } else {
        const int64_t fall = c->newest_ms - c->turned_ms - written;
        const int64_t turn = fall > 0 ? fg_time_turn(kind, c->of_day, c->newest_ms - c->turned_ms, written) : 0;
        const bool wraps = turn && fall >= turn / 2;
        const int64_t unwrapped = written + c->turned_ms + (wraps ? turn : 0);
        if (fall > 0 && !wraps)
            start_again(l, written, arrived);
        else if (!is_believed(l, unwrapped, arrived - c->anchor_ms))
            return false;
        else if (wraps)
            c->turned_ms += turn;
    }
    c->newest_ms = written + c->turned_ms;
    *t_ms = c->newest_ms + c->shift_ms;
    return true;
}

bool fg_live_row_time(fg_live *l, fg_time_kind kind, fg_text written, int64_t now_ms, int64_t *t_ms)
{
    fg_live_clock *c = &l->clock;
    const int64_t arrived = l->player.began ? c->anchor_ms + now_ms - c->anchor_now : 0;
    *t_ms = l->options.reading.every ? (int64_t)(c->rows * l->options.reading.every) : arrived;
    if (written.size && !own_time(l, kind, written, arrived, t_ms)) return false;
    *t_ms = greater(*t_ms, greater(c->reached_ms, l->player.t_ms)); /* one that was late counts now */
    return true;
}
