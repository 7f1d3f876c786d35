/* SPDX-License-Identifier: MIT */
/* Outputs with rows that play a sequence or sweep. A sequence whose times are fixed is a number of ms that runs through
 * it; one with a tempo, or longer than 32 bits of ms, remembers its segment. */
#include "workshop/bake/write/rows.h"

#include <inttypes.h>

typedef enum kind {
    LOOPS, /* ms in a run that begins again and again; also a sweep */
    ENDS,  /* ms up to the end of the last run, where it stays */
    BY_SEGMENT
} kind;

/* A row that plays. */
typedef struct code_playing {
    const fg_level *level;
    const fg_sequence *sequence; /* NULL: a sweep */
    const fg_sweep *sweep;
    kind kind;
    uint64_t total, end; /* ms of a run, of all */
    const char *at;      /* the member */
    const char *times;   /* BY_SEGMENT: a local */
    uint16_t row;        /* from 1 */
    bool is_short;       /* 16 bits are enough */
    bool resumes, through;
} playing;

enum { LOOP_MOST = 1 << 30 };

/* A division costs as much as some twenty subtractions on a chip that has none. */
enum { FEW_RUNS = 20 };

static const fg_segment *segment_at(const code_rows *r, const playing *p, uint16_t i)
{
    return &r->c->gate->segments[p->sequence->first_segment + i];
}

static void measure(const code_rows *r, playing *p)
{
    bool tempo = false;
    for (uint16_t i = 0; i < p->sequence->segment_count; i++) {
        p->total += segment_at(r, p, i)->time;
        tempo = tempo || segment_at(r, p, i)->tempo != FG_INDEX_NONE;
    }
    const bool is_long = p->total > LOOP_MOST || (p->sequence->runs && p->total > INT32_MAX / p->sequence->runs);
    p->end = is_long ? 0 : p->total * p->sequence->runs;
    p->resumes = p->sequence->resumes;
    if (tempo || !p->total || is_long)
        p->kind = BY_SEGMENT;
    else
        p->kind = p->sequence->runs ? ENDS : LOOPS;
}

static void plan(const code_rows *r, playing *p)
{
    coder *c = r->c;
    const fg_text name = c->outputs[r->number].declared->name;
    if (p->level->form == FG_FORM_SWEEP) {
        p->sweep = &c->gate->sweeps[p->level->number];
        p->total = 2 * (uint64_t)p->sweep->time;
        p->kind = LOOPS;
        p->resumes = true;
    } else {
        p->sequence = &c->gate->sequences[p->level->number];
        measure(r, p);
    }
    p->is_short = p->kind == ENDS ? p->end <= CODE_SHORT_TIME : p->kind == LOOPS && c->loop % p->total == 0;
    if (p->kind == BY_SEGMENT) {
        p->at = fg_code_member(c, fg_code_say(c, "%s_playing", c->name), fg_code_word(c, name, "_plays"), 0,
                               "where its sequence stands");
        c->playing = true;
    } else {
        p->at = fg_code_member(c, p->is_short ? "uint16_t" : "uint32_t", fg_code_word(c, name, "_at"), 0,
                               p->sweep ? "ms of its sweep" : "ms of its sequence");
    }
}

/* ---- time passes ---- */

/* The times of the segments as they would begin now. */
static void write_times(const code_rows *r, playing *p)
{
    coder *c = r->c;
    const fg_text name = c->outputs[r->number].declared->name;
    const char *list = "";
    for (uint16_t i = 0; i < p->sequence->segment_count; i++) {
        const fg_segment *s = segment_at(r, p, i);
        const char *time = fg_code_say(c, "%" PRIu32 "u", s->time);
        if (s->tempo != FG_INDEX_NONE)
            time = fg_code_say(c, "\3tempo(%s)", fg_code_follow(c, s->tempo, fg_code_local(c, name, "_tempo")));
        list = fg_code_say(c, "%s%s%s", list, i ? ", " : "", time);
    }
    p->times = fg_code_local(c, name, "_times");
    const char *size = fg_code_say(c, "[%u]", p->sequence->segment_count);
    fg_code_define(c, 1, (code_definition){"uint32_t", p->times, size, fg_code_say(c, "{%s}", list), false});
}

/* Where a loop stands after the time that has passed. */
static const char *moved_on(coder *c, const playing *p)
{
    return fg_code_say(c, "\3moved_on%s(%s, %s, %" PRIu64 "u)", p->is_short ? "" : "_long", p->at,
                       p->is_short ? "\3passed" : "\3gone", p->total);
}

/* What time does to a row that plays. */
static void pass(const code_rows *r, const playing *p, int indent)
{
    coder *c = r->c;
    const char *clock = p->is_short ? "\3passed" : "\3gone";
    if (p->kind == BY_SEGMENT)
        fg_code_line(c, indent, "\3play_pass(&%s, \3gone);", p->at);
    else if (p->kind == LOOPS)
        fg_code_line(c, indent, "%s = %s;", p->at, moved_on(c, p));
    else
        fg_code_line(c, indent, "if (%s < %" PRIu64 "u) %s = (%s)(%s + %s);", p->at, p->end, p->at,
                     p->is_short ? "uint16_t" : "uint32_t", p->at, clock);
}

/* ---- taking over ---- */

/* How its sequence begins as its row takes over; NULL if it goes on where it stood. */
static const char *begin_anew(coder *c, const playing *p)
{
    if (p->kind == BY_SEGMENT)
        return fg_code_say(c, "\3play_begin(&%s, %s, %u, %" PRIu32 "u, %s);", p->at, p->times,
                           p->sequence->segment_count, p->sequence->runs, p->resumes ? "true" : "false");
    if (!p->resumes) return fg_code_say(c, "%s = 0;", p->at);
    return p->kind == ENDS ? fg_code_say(c, "if (%s >= %" PRIu64 "u) %s = 0;", p->at, p->end, p->at) : NULL;
}

static void take_over(const code_rows *r, const playing *p, const char *last, int indent)
{
    coder *c = r->c;
    const char *anew = begin_anew(c, p);
    if (!anew && !r->through) return;
    fg_code_line(c, indent, "if (row != %s) {", last);
    if (anew) fg_code_line(c, indent + 1, "%s", anew);
    if (r->through) fg_code_line(c, indent + 1, "%s = %s;", r->through, p->through ? "row" : "0");
    fg_code_line(c, indent, "}");
}

/* ---- the level it brings ---- */

static void write_segments(const code_rows *r, const playing *p, int indent)
{
    coder *c = r->c;
    const char *at = p->at;
    const uint16_t count = p->sequence->segment_count;
    if (p->kind == ENDS && p->sequence->runs > 1 && count > 1) {
        const char *type = p->is_short ? "uint16_t" : "uint32_t";
        const bool few = p->is_short && p->sequence->runs <= FEW_RUNS;
        const char *value = few ? fg_code_say(c, "\3in_run(%s, %" PRIu64 "u)", p->at, p->total)
                                : fg_code_say(c, "(%s)(%s %% %" PRIu64 "u)", type, p->at, p->total);
        at = fg_code_local(c, c->outputs[r->number].declared->name, "_in_run");
        fg_code_define(c, indent, (code_definition){type, at, "", value, false});
    }
    uint64_t until = 0;
    for (uint16_t i = 0; i < count; i++) {
        const fg_segment *s = segment_at(r, p, i);
        until += s->time;
        const char *lead = i ? "} else " : "";
        if (i + 1 == count)
            fg_code_line(c, indent, i ? "} else {" : "{");
        else if (p->kind == BY_SEGMENT)
            fg_code_line(c, indent, "%sif (%s.segment == %u) {", lead, p->at, i);
        else
            fg_code_line(c, indent, "%sif (%s < %" PRIu64 "u) {", lead, at, until);
        fg_code_set_level(c, indent + 1, r->number, &s->level);
    }
    fg_code_line(c, indent, "}");
}

static void write_sweep(const code_rows *r, const playing *p, int indent)
{
    coder *c = r->c;
    const fg_sweep *s = p->sweep;
    const int64_t t = s->time, way = (int64_t)s->b - s->a;
    const int64_t a = s->a < 0 ? -(int64_t)s->a : s->a, b = s->b < 0 ? -(int64_t)s->b : s->b;
    const bool fits = (a > b ? a : b) * t + (way < 0 ? -way : way) * t + t < INT32_MAX;
    const char *rounds = fits ? "\3rounded_32" : "\3fg_rounded", *type = fits ? "int32_t" : "int64_t";
    const char *level = c->outputs[r->number].level,
               *stored = fg_code_type(c->outputs[r->number].low, c->outputs[r->number].high);
    fg_code_line(c, indent, "if (%s < %" PRIu32 "u)", p->at, s->time);
    fg_code_line(c, indent + 1, "%s = (%s)%s(%" PRId64 " + (%s)%" PRId64 " * (%s)%s, %" PRIu32 ");", level, stored,
                 rounds, s->a * t, type, way, type, p->at, s->time);
    fg_code_line(c, indent, "else");
    fg_code_line(c, indent + 1, "%s = (%s)%s(%" PRId64 " + (%s)%" PRId64 " * (%s)(%s - %" PRIu32 "u), %" PRIu32 ");",
                 level, stored, rounds, s->b * t, type, -way, type, p->at, s->time, s->time);
}

/* It is over: a row that played through lets the rows be judged again, on the level of the last step; else the output
 * rests. */
static void write_end(const code_rows *r, const playing *p, int indent)
{
    coder *c = r->c;
    if (p->through) {
        fg_code_line(c, indent, "if (%s) {", r->through);
        fg_code_line(c, indent + 1, "%s = 0;", r->through);
        fg_code_line(c, indent + 1, "continue;");
        fg_code_line(c, indent, "}");
    }
    fg_code_set_level(c, indent, r->number, &r->rule->rest);
}

/* Brings the level of a row that plays. */
static void bring(const code_rows *r, const playing *p, int indent)
{
    coder *c = r->c;
    const char *over = NULL;
    if (p->kind == BY_SEGMENT) {
        fg_code_line(c, indent, "\3play_advance(&%s, %s, %u, %" PRIu32 "u);", p->at, p->times,
                     p->sequence->segment_count, p->sequence->runs);
        if (p->sequence->runs) over = fg_code_say(c, "%s.over", p->at);
    } else if (p->kind == ENDS) {
        over = fg_code_say(c, "%s >= %" PRIu64 "u", p->at, p->end);
    }
    if (over) {
        fg_code_line(c, indent, "if (%s) {", over);
        write_end(r, p, indent + 1);
        fg_code_line(c, indent, "} else {");
    }
    if (p->sweep)
        write_sweep(r, p, indent + (over ? 1 : 0));
    else
        write_segments(r, p, indent + (over ? 1 : 0));
    if (over) fg_code_line(c, indent, "}");
}

/* A row that plays wins: its code where that stands in the chain. */
static void play_row(const code_rows *r, uint16_t row, int indent)
{
    coder *c = r->c;
    const playing *p = r->plays;
    while (p->row != row + 1) p++;
    const char *anew = begin_anew(c, p);
    playing begun;
    if (!p->resumes && p->kind == LOOPS) {
        begun = *p;
        begun.at = fg_code_local(c, c->outputs[r->number].declared->name, "_time");
        fg_code_define(c, indent,
                       (code_definition){p->is_short ? "uint16_t" : "uint32_t", begun.at, "",
                                         fg_code_say(c, "%s == %u ? %s : 0", r->row, p->row, moved_on(c, p)), false});
        fg_code_line(c, indent, "%s = %s;", p->at, begun.at);
        p = &begun;
    } else if (!p->resumes) {
        fg_code_line(c, indent, "if (%s == %u) {", r->row, p->row);
        pass(r, p, indent + 1);
        fg_code_line(c, indent, "} else {");
        fg_code_line(c, indent + 1, "%s", anew);
        fg_code_line(c, indent, "}");
    } else if (anew) {
        fg_code_line(c, indent, "if (%s != %u) {", r->row, p->row);
        fg_code_line(c, indent + 1, "%s", anew);
        fg_code_line(c, indent, "}");
    }
    bring(r, p, indent);
    fg_code_line(c, indent, "%s = %u;", r->row, p->row);
}

/* Time passes in a row that goes on where it stood, up to the step at which another one wins. */
static void pass_before(const code_rows *r, const playing *p, const char *last)
{
    fg_code_line(r->c, 1, "if (%s == %u) {", last, p->row);
    pass(r, p, 2);
    fg_code_line(r->c, 1, "}");
}

/* All rows in one chain, what plays where it wins. */
static void write_inline(code_rows *r)
{
    r->play = play_row;
    for (size_t i = 0; i < r->play_count; i++)
        if (r->plays[i].resumes) pass_before(r, &r->plays[i], r->row);
    fg_code_rows(r, 1);
}

/* First the row that wins, then what it plays: one that has played to its end lets the rows be judged once more. */
static void write_judged(code_rows *r, const char *type, bool through)
{
    coder *c = r->c;
    const char *kept = r->row, *last = fg_code_local(c, c->outputs[r->number].declared->name, "_last");
    fg_code_define(c, 1, (code_definition){type, last, "", kept, false});
    for (size_t i = 0; i < r->play_count; i++) pass_before(r, &r->plays[i], last);
    r->row = "row";
    fg_code_line(c, 1, through ? "for (;;) { /* once more where something has played to its end */" : "{");
    fg_code_line(c, 2, "%s row;", type);
    fg_code_rows(r, 2);
    if (through) fg_code_line(c, 2, "if (row != %s) %s = 0;", last, r->through);
    for (size_t i = 0; i < r->play_count; i++) {
        fg_code_line(c, 2, "if (row == %u) {", r->plays[i].row);
        take_over(r, &r->plays[i], last, 3);
        bring(r, &r->plays[i], 3);
        fg_code_line(c, 2, "}");
    }
    fg_code_line(c, 2, "%s = row;", kept);
    if (through) fg_code_line(c, 2, "break;");
    fg_code_line(c, 1, "}");
}

void fg_code_plays(code_rows *r)
{
    coder *c = r->c;
    playing list[CODE_ROWS_MOST];
    bool through = false;
    r->play_count = 0;
    for (uint16_t i = 0; i < r->rule->row_count && r->play_count < CODE_ROWS_MOST; i++) {
        const fg_row *row = &c->gate->rows[r->rule->first_row + i];
        if (row->level.form != FG_FORM_PLAY && row->level.form != FG_FORM_SWEEP) continue;
        list[r->play_count++] = (playing){.row = (uint16_t)(i + 1), .level = &row->level, .through = row->through};
        through = through || row->through;
    }
    r->plays = list;
    const fg_text name = c->outputs[r->number].declared->name;
    const char *type = fg_code_type(0, r->rule->row_count);
    r->row = fg_code_member(c, type, fg_code_word(c, name, "_row"), 0, "that won, from 1");
    if (through)
        r->through = fg_code_member(c, type, fg_code_word(c, name, "_through"), 0, "the row that plays on, or 0");
    for (size_t i = 0; i < r->play_count; i++) {
        plan(r, &list[i]);
        if (list[i].kind == BY_SEGMENT) write_times(r, &list[i]);
    }
    if (through || (r->rule->guarded && fg_code_has_unsure_row(r, 0)))
        write_judged(r, type, through);
    else
        write_inline(r);
}
