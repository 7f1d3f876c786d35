/* SPDX-License-Identifier: MIT */
/* The rows of an output: a chain of ifs, one for each row, of which exactly one wins. */
#include "workshop/bake/write/rows.h"

#include <inttypes.h>

void fg_code_set_level(coder *c, int indent, uint16_t output, const fg_level *l)
{
    const code_output *o = &c->outputs[output];
    fg_code_line(c, indent, "%s = %s;", o->level, fg_code_number(c, fg_code_level_number(c, output, l)));
    if (o->colour) fg_code_line(c, indent, "%s = 0x%08" PRIx32 "u;", o->colour, l->colour);
    if (o->volume) fg_code_line(c, indent, "%s = %u;", o->volume, l->percent);
    if (o->single) fg_code_line(c, indent, "%s = %s;", o->single, l->form == FG_FORM_LIGHT ? "true" : "false");
}

static bool takes_one_line(const code_output *o) { return !o->colour && !o->volume && !o->single; }

static bool moves(const fg_level *l) { return l->form == FG_FORM_PLAY || l->form == FG_FORM_SWEEP; }

static const fg_row *row_at(const code_rows *r, uint16_t i) { return &r->c->gate->rows[r->rule->first_row + i]; }

/* What a row needs besides its condition: the source of what it follows, the tempo of what it plays. */
static code_test source(const code_rows *r, uint16_t i)
{
    coder *c = r->c;
    const fg_level *l = &row_at(r, i)->level;
    code_test all = code_always;
    if (l->form == FG_FORM_FOLLOW) return fg_code_follow_source(c, (uint16_t)l->number);
    if (l->form != FG_FORM_PLAY) return all;
    const fg_sequence *s = &c->gate->sequences[l->number];
    for (uint16_t k = 0; k < s->segment_count; k++) {
        const uint16_t tempo = c->gate->segments[s->first_segment + k].tempo;
        if (tempo != FG_INDEX_NONE) all = fg_code_both(c, all, fg_code_follow_source(c, tempo));
    }
    return all;
}

/* Does it play on to its end? */
static code_test playing_on(const code_rows *r, uint16_t i)
{
    if (!row_at(r, i)->through) return code_never;
    return fg_code_compare(r->c, r->through, CODE_EQUAL, i + 1);
}

static code_test condition(const code_rows *r, uint16_t i, bool yes)
{
    const fg_row *row = row_at(r, i);
    if (row->when == FG_ROW_WHEN) return yes ? fg_code_yes(r->c, row->slot) : fg_code_no(r->c, row->slot);
    return yes ? code_always : code_never;
}

/* What plays on has its tempo: it was broken off before if that is lost. */
static code_test row_yes(const code_rows *r, uint16_t i)
{
    return fg_code_either(r->c, playing_on(r, i), fg_code_both(r->c, condition(r, i, true), source(r, i)));
}

/* Is a row unsure, where it is known not to win? */
static code_test row_open(const code_rows *r, uint16_t i)
{
    coder *c = r->c;
    const fg_row *row = row_at(r, i);
    const code_test on = playing_on(r, i);
    code_test open = row->when == FG_ROW_WHEN ? fg_code_open(c, row->slot) : code_never;
    if (source(r, i).join != CODE_TRUE) open = fg_code_not(c, condition(r, i, false));
    return on.join == CODE_FALSE ? open : fg_code_both(c, fg_code_not(c, on), open);
}

static void win(const code_rows *r, uint16_t i, int indent)
{
    coder *c = r->c;
    const fg_level *l = &row_at(r, i)->level;
    const code_output *o = &c->outputs[r->number];
    if (moves(l) && r->play) {
        r->play(r, i, indent);
        return;
    }
    if (r->row) fg_code_line(c, indent, "%s = %u;", r->row, i + 1u);
    if (l->form == FG_FORM_FOLLOW) {
        const char **call = &r->follows[i]; /* a row that never wins needs no function */
        if (!*call) *call = fg_code_follow(c, (uint16_t)l->number, fg_code_local(c, o->declared->name, "_by"));
        fg_code_line(c, indent, "%s = %s;", o->level, *call);
        if (o->colour) fg_code_line(c, indent, "%s = 0;", o->colour);
        if (o->volume) fg_code_line(c, indent, "%s = 100;", o->volume);
        if (o->single) fg_code_line(c, indent, "%s = %s;", o->single, r->rule->single ? "true" : "false");
    } else if (l->form != FG_FORM_HOLD && !moves(l)) {
        fg_code_set_level(c, indent, r->number, l);
    } else if (!r->row) {
        fg_code_line(c, indent, "/* hold */");
    }
}

static void rest(const code_rows *r, int indent)
{
    if (r->row) fg_code_line(r->c, indent, "%s = 0;", r->row);
    fg_code_set_level(r->c, indent, r->number, &r->rule->rest);
}

/* An `if unsure` row that brings what rest is anyway. */
static bool means_rest(const code_rows *r, uint16_t i)
{
    const fg_row *row = row_at(r, i);
    return row->when == FG_ROW_IF_UNSURE && !r->row && fg_level_same(&row->level, &r->rule->rest);
}

/* Are there only such rows from this one on, or none? */
static bool only_rests(const code_rows *r, uint16_t from)
{
    while (from < r->rule->row_count && means_rest(r, from)) from++;
    return from == r->rule->row_count;
}

/* Do the branches need braces? Either all of them have some or none. */
static bool needs_braces(const code_rows *r)
{
    if (r->row || !takes_one_line(&r->c->outputs[r->number])) return true;
    for (uint16_t i = 0; i < r->rule->row_count; i++)
        if (row_at(r, i)->level.form == FG_FORM_HOLD ||
            (r->rule->guarded && row_at(r, i)->when == FG_ROW_IF_UNSURE && !means_rest(r, i)))
            return true;
    return false;
}

/* A chain of ifs while it is written. Behind a branch that is always taken it is closed: what would come later can
 * never win, and is not written. */
typedef struct chain {
    const code_rows *rows;
    int indent;
    bool braces, begun, closed;
} chain;

/* Begins a branch; how far what is in it stands further right. */
static int open_branch(chain *h, code_test test)
{
    const char *lead = !h->begun ? "" : h->braces ? "} else " : "else ", *brace = h->braces ? " {" : "";
    h->closed = test.join == CODE_TRUE;
    if (h->closed && !h->begun) return 0;
    if (h->closed)
        fg_code_line(h->rows->c, h->indent, h->braces ? "} else {" : "else");
    else
        fg_code_line(h->rows->c, h->indent, "%sif (%s)%s", lead, test.text, brace);
    h->begun = true;
    return 1;
}

/* One branch: who wins if `test` holds. */
static void branch(chain *h, code_test test, uint16_t winner)
{
    if (h->closed || test.join == CODE_FALSE) return;
    const int indent = h->indent + open_branch(h, test);
    if (winner == CODE_REST)
        rest(h->rows, indent);
    else
        win(h->rows, winner, indent);
}

/* Where no branch was taken the output rests. */
static void end_chain(chain *h)
{
    branch(h, code_always, CODE_REST);
    if (h->begun && h->braces) fg_code_line(h->rows->c, h->indent, "}");
}

bool fg_code_has_unsure_row(const code_rows *r, uint16_t from)
{
    for (uint16_t i = from; i < r->rule->row_count; i++)
        if (row_at(r, i)->when == FG_ROW_IF_UNSURE && !means_rest(r, i)) return true;
    return false;
}

/* A row above was unsure on something that moves or carries power: only an `if unsure` row may win now, unless a row
 * above it would hold. */
static void guarded_tail(const code_rows *r, uint16_t from, int indent)
{
    chain h = {.rows = r, .indent = indent, .braces = needs_braces(r)};
    code_test rests = code_never;
    for (uint16_t i = from; i < r->rule->row_count && !h.closed; i++) {
        if (row_at(r, i)->when == FG_ROW_IF_UNSURE) {
            branch(&h, rests, CODE_REST);
            branch(&h, source(r, i), i);
            rests = code_never;
        } else {
            rests = fg_code_either(r->c, rests, row_yes(r, i));
        }
    }
    end_chain(&h);
}

/* The rows of a motor, relay or servo: the first that is not no decides. */
static void guarded_rows(const code_rows *r, int indent)
{
    chain h = {.rows = r, .indent = indent, .braces = needs_braces(r)};
    for (uint16_t i = 0; i < r->rule->row_count && !h.closed; i++) {
        const bool if_unsure = row_at(r, i)->when == FG_ROW_IF_UNSURE; /* nothing above is unsure, but it may play on */
        branch(&h, if_unsure ? playing_on(r, i) : row_yes(r, i), i);
        const code_test open = if_unsure ? code_never : row_open(r, i);
        if (h.closed || open.join == CODE_FALSE) continue;
        if (fg_code_has_unsure_row(r, (uint16_t)(i + 1)))
            guarded_tail(r, (uint16_t)(i + 1), h.indent + open_branch(&h, open));
        else if (!only_rests(r, (uint16_t)(i + 1)) || open.join == CODE_TRUE)
            branch(&h, open, CODE_REST);
    }
    end_chain(&h);
}

static void open_rows(const code_rows *r, int indent)
{
    coder *c = r->c;
    chain h = {.rows = r, .indent = indent, .braces = needs_braces(r)};
    code_test unsure = code_never;
    for (uint16_t i = 0; i < r->rule->row_count && !h.closed; i++) {
        const bool if_unsure = row_at(r, i)->when == FG_ROW_IF_UNSURE;
        branch(&h,
               if_unsure ? fg_code_either(c, playing_on(r, i), fg_code_both(c, unsure, source(r, i))) : row_yes(r, i),
               i);
        if (!if_unsure) unsure = fg_code_either(c, unsure, row_open(r, i));
    }
    end_chain(&h);
}

/* A row that plays through is broken off where the tempo of its sequence is lost; then the rows are judged as ever. */
static void break_off(const code_rows *r, int indent)
{
    coder *c = r->c;
    for (uint16_t i = 0; i < r->rule->row_count; i++) {
        const code_test lost = fg_code_not(c, source(r, i));
        if (row_at(r, i)->through && lost.join != CODE_FALSE)
            fg_code_line(c, indent, "if (%s) %s = 0;", fg_code_both(c, playing_on(r, i), lost).text, r->through);
    }
}

void fg_code_rows(const code_rows *r, int indent)
{
    break_off(r, indent);
    if (r->rule->guarded)
        guarded_rows(r, indent);
    else
        open_rows(r, indent);
}
