/* SPDX-License-Identifier: MIT */
/* What all files of fickle live ask of the run: its clock, a word to the person, a turn of its loop. */
#include "live.h"

void live_tell(void *context, const char *text)
{
    const live_session *s = context;
    s->tell(s, text);
}

bool live_turn(live_session *s, int64_t until_ms) { return s->turn(s, until_ms); }

int64_t live_clock(const live_session *s) { return s->still ? s->still_ms : tool_now() - s->lost_ms; }

void live_stand(live_session *s, bool stands)
{
    if (stands && !s->still) s->still_ms = live_clock(s);
    if (!stands && s->still) s->lost_ms = tool_now() - s->still_ms;
    s->still = stands;
}

void live_one_step(live_session *s)
{
    const fg_time every = s->file->program.gate.every;
    live_stand(s, true);
    s->still_ms += every ? every : LIVE_IDLE_MS;
}
