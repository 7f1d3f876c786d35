/* Outputs: a chain of ifs, one for each row, of which exactly one wins. What plays or sweeps is in code_play.c. */
#include "code_output.h"

#include <inttypes.h>
#include <string.h>

/* ---- what a level is: a number, and where they differ in it a colour, a strength, one light or all up to it ---- */

int32_t fg_code_level_number(const coder *c, uint16_t output, const fg_level *l)
{
    switch ((fg_form)l->form) {
    case FG_FORM_ON:
    case FG_FORM_FORWARD: return l->percent;
    case FG_FORM_BACK: return -(int32_t)l->percent;
    case FG_FORM_TONE:
    case FG_FORM_TURN:
    case FG_FORM_FILL:
    case FG_FORM_LIGHT: return l->number;
    case FG_FORM_SHOW: return fg_code_text_number(c, output, (uint32_t)l->number);
    default: return 0;
    }
}

typedef struct survey {
    const coder *c;
    code_output *o;
    uint16_t number;
    bool colour, volume, fill, light;
} survey;

static void widen(code_output *o, int32_t number)
{
    if (number < o->low) o->low = number;
    if (number > o->high) o->high = number;
}

static void look(void *context, const fg_level *l)
{
    survey *s = context;
    widen(s->o, fg_code_level_number(s->c, s->number, l));
    s->colour = s->colour || l->colour;
    s->volume = s->volume || (l->form == FG_FORM_TONE && l->percent != 100);
    s->fill = s->fill || l->form == FG_FORM_FILL;
    s->light = s->light || l->form == FG_FORM_LIGHT;
}

void fg_code_levels_of_sequence(const coder *c, const fg_level *play, void (*see)(void *context, const fg_level *level),
                                void *context)
{
    if (play->form != FG_FORM_PLAY) return;
    const fg_sequence *s = &c->gate->sequences[play->number];
    for (uint16_t i = 0; i < s->segment_count; i++) see(context, &c->gate->segments[s->first_segment + i].level);
}

static void survey_output(coder *c, uint16_t number)
{
    const fg_output *rule = &c->gate->outputs[number];
    code_output *o = &c->outputs[number];
    survey s = {.c = c, .o = o, .number = number};
    o->low = o->high = fg_code_level_number(c, number, &rule->rest);
    for (uint16_t i = 0; i < rule->row_count; i++) {
        const fg_level *l = &c->gate->rows[rule->first_row + i].level;
        if (l->form == FG_FORM_FOLLOW) {
            widen(o, c->gate->follows[l->number].low);
            widen(o, c->gate->follows[l->number].high);
            s.fill = s.fill || !rule->single;
            s.light = s.light || rule->single;
        } else if (l->form == FG_FORM_SWEEP) {
            widen(o, c->gate->sweeps[l->number].a);
            widen(o, c->gate->sweeps[l->number].b);
        } else if (l->form == FG_FORM_PLAY) {
            fg_code_levels_of_sequence(c, l, look, &s);
        } else if (l->form != FG_FORM_HOLD) {
            look(&s, l);
        }
    }
    const fg_text name = o->declared->name;
    static const char *const units[] = {
        "%", "%", "Hz", "%, back is negative", "degrees", "lights", "number of its text"};
    o->level = fg_code_member(c, fg_code_type(o->low, o->high), fg_code_word(c, name, ""), 0, units[rule->kind]);
    if (s.colour) o->colour = fg_code_member(c, "uint32_t", fg_code_word(c, name, "_colour"), 0, NULL);
    if (s.volume) o->volume = fg_code_member(c, "uint8_t", fg_code_word(c, name, "_volume"), 0, "%");
    o->light = s.light;
    if (rule->kind == FG_OUTPUT_BAR && s.fill && s.light)
        o->single = fg_code_member(c, "bool", fg_code_word(c, name, "_single"), 0, "one light instead of all up to it");
}

int64_t fg_code_common(int64_t a, int64_t b)
{
    while (b) {
        const int64_t rest = a % b;
        a = b;
        b = rest;
    }
    return a < 0 ? -a : a;
}

/* Short loops share one number of ms that all of them run through a whole number of times, as far as it stays short. */
static void plan_loops(coder *c)
{
    c->loop = 1;
    for (uint16_t i = 0; i < c->gate->size.outputs; i++)
        for (uint16_t k = 0; k < c->gate->outputs[i].row_count; k++) {
            const uint32_t total = fg_code_loop(c, &c->gate->rows[c->gate->outputs[i].first_row + k].level);
            const uint32_t loop = total ? c->loop / (uint32_t)fg_code_common(c->loop, total) * total : 0;
            if (loop && loop <= CODE_LOOP_MOST) c->loop = (uint16_t)loop;
        }
}

void fg_code_plan_outputs(coder *c)
{
    plan_loops(c);
    for (uint32_t i = 0; i < c->program->declared_count; i++)
        if (fg_kind_is(c->program->declared[i].kind, FG_KIND_IS_OUTPUT))
            c->outputs[c->program->declared[i].index].declared = &c->program->declared[i];
    for (uint16_t i = 0; i < c->gate->size.outputs; i++) {
        survey_output(c, i);
        const int32_t rest = fg_code_level_number(c, i, &c->gate->outputs[i].rest);
        fg_buffer *const out = c->out;
        c->out = &c->start;
        if (rest) fg_code_line(c, 1, "%s = %s;", c->outputs[i].level, fg_code_number(c, rest));
        c->out = out;
    }
}

/* The statements that bring an output to a level. */
void fg_code_set_level(coder *c, int indent, uint16_t output, const fg_level *l)
{
    const code_output *o = &c->outputs[output];
    fg_code_line(c, indent, "%s = %s;", o->level, fg_code_number(c, fg_code_level_number(c, output, l)));
    if (o->colour) fg_code_line(c, indent, "%s = 0x%08" PRIx32 "u;", o->colour, l->colour);
    if (o->volume) fg_code_line(c, indent, "%s = %u;", o->volume, l->percent);
    if (o->single) fg_code_line(c, indent, "%s = %s;", o->single, l->form == FG_FORM_LIGHT ? "true" : "false");
}

static bool takes_one_line(const code_output *o) { return !o->colour && !o->volume && !o->single; }

/* ---- follow ---- */

code_test fg_code_follow_source(coder *c, uint16_t number)
{
    const fg_follow *f = &c->gate->follows[number];
    return f->count ? code_always : fg_code_atom(c->sensors[f->source].ok);
}

/* What comes out is (slope * at + offset) / by, by its largest possible size in 16, 32 or 64 bits, or exactly in 128.
 */
static void write_line(coder *c, const char *type, int64_t slope, int64_t offset, int64_t by, const fg_follow *f)
{
    const fg_value low = f->from < f->to ? f->from : f->to, high = f->from < f->to ? f->to : f->from;
    const double size = (double)(slope < 0 ? -slope : slope) * (double)(low < -high ? -(double)low : (double)high) +
                        (double)(offset < 0 ? -offset : offset) + (double)by;
    const bool positive = slope >= 0 && offset >= 0 && low >= 0;
    const char *hold = size < INT16_MAX ? "16" : "32";
    if (by == 1 && size < INT32_MAX)
        fg_code_line(c, 1, "return (%s)(%" PRId64 " * (int%s_t)at + %" PRId64 ");", type, slope, hold, offset);
    else if (positive && size < INT32_MAX)
        fg_code_line(c, 1, "return (%s)((%" PRId64 "u * (uint%s_t)at + %" PRId64 "u) / %" PRId64 "u);", type, slope,
                     hold, offset + by / 2, by);
    else if (size < INT32_MAX)
        fg_code_line(c, 1, "return (%s)rounded_32((int32_t)%" PRId64 " * at + %" PRId64 ", %" PRId64 ");", type, slope,
                     offset, by);
    else
        fg_code_line(c, 1,
                     "return (%s)fg_rounded(INT64_C(%" PRId64 ") * at + INT64_C(%" PRId64 "), INT64_C(%" PRId64 "));",
                     type, slope, offset, by);
}

static void write_wide_line(coder *c, const char *type, const fg_follow *f)
{
    const bool rises = f->from < f->to;
    const int64_t across = rises ? (int64_t)f->to - f->from : (int64_t)f->from - f->to;
    fg_code_line(c, 1, "const int64_t way_there = %s;",
                 rises ? fg_code_say(c, "(int64_t)at - (%s)", fg_code_number(c, f->from))
                       : fg_code_say(c, "(int64_t)%s - at", fg_code_number(c, f->from)));
    fg_code_line(c, 1, "int64_t result = 0;");
    fg_code_line(c, 1,
                 "(void)fg_wide_quotient(fg_wide_sum(fg_wide_product(INT64_C(%" PRId32 "), INT64_C(%" PRId64
                 ")), fg_wide_product(INT64_C(%" PRId64 "), way_there)), INT64_C(%" PRId64 "), &result);",
                 f->low, across, (int64_t)f->high - f->low, across);
    fg_code_line(c, 1, "return (%s)result;", type);
}

const char *fg_code_follow(coder *c, uint16_t number, const char *name)
{
    const fg_follow *f = &c->gate->follows[number];
    const fg_value low = f->from < f->to ? f->from : f->to, high = f->from < f->to ? f->to : f->from;
    const bool rises = f->from < f->to;
    const int64_t across = (int64_t)high - low, span = (int64_t)f->high - f->low;
    const fg_count *count = f->count ? &c->gate->counters[f->source].rule : NULL;
    const char *type = fg_code_type(f->low < f->high ? f->low : f->high, f->low < f->high ? f->high : f->low);
    const char *from = count ? fg_code_type(count->low, count->high) : "int32_t";
    fg_buffer *const out = c->out;
    c->out = &c->functions;
    fg_code_line(c, 0,
                 "/* A straight line: %" PRId32 " gives %" PRId32 ", %" PRId32 " gives %" PRId32
                 "; beyond both ends it stays. */",
                 f->from, f->low, f->to, f->high);
    fg_code_line(c, 0, "static %s %s(%s at)", type, name, from);
    fg_code_line(c, 0, "{");
    if (!count || count->low < low)
        fg_code_line(c, 1, "if (at < %s) at = %s;", fg_code_number(c, low), fg_code_number(c, low));
    if (!count || count->high > high)
        fg_code_line(c, 1, "if (at > %s) at = %s;", fg_code_number(c, high), fg_code_number(c, high));
    const int64_t shared = fg_code_common(span, across), by = across / shared, slope = (rises ? span : -span) / shared;
    const int64_t most = (int64_t)1 << 30; /* products and sums fit into 63 bits */
    const bool fits = by < most && slope < most && slope > -most;
    if (fits)
        write_line(c, type, slope, f->low * by - slope * f->from, by, f);
    else
        write_wide_line(c, type, f);
    fg_code_line(c, 0, "}\n");
    c->out = out;
    return fg_code_say(c, "%s(%s)", name, f->count ? c->counts[f->source] : c->sensors[f->source].value);
}

/* ---- rows ---- */

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
    return fg_code_atom(fg_code_say(r->c, "%s == %u", r->through, i + 1u));
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
    if (moves(l) && r->inline_plays) {
        fg_code_play_row(r, i, indent);
        return;
    }
    if (r->row) fg_code_line(c, indent, "%s = %u;", r->row, i + 1u);
    if (l->form == FG_FORM_FOLLOW) {
        const char **call = &r->follows[i]; /* a row that never wins needs no function */
        if (!*call) *call = fg_code_follow(c, (uint16_t)l->number, fg_code_word(c, o->declared->name, "_by"));
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

void fg_code_output(coder *c, uint16_t number)
{
    const fg_output *rule = &c->gate->outputs[number];
    const char *follows[CODE_ROWS_MOST] = {NULL};
    code_rows r = {.c = c, .rule = rule, .number = number, .follows = follows};
    bool plays = false;
    for (uint16_t i = 0; i < rule->row_count; i++) plays = plays || moves(&c->gate->rows[rule->first_row + i].level);
    if (plays)
        fg_code_play(&r);
    else
        fg_code_rows(&r, 1);
}
