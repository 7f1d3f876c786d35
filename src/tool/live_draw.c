/* SPDX-License-Identifier: MIT */
/* The view of a live run: texts in columns, and what stands for a sensor, an answer, an output. */
#ifndef FG_WITHOUT_VIEW
#include "live_view.h"

#include <inttypes.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>
#include <wchar.h>

/* ---- writing ---- */

static int attributes(const live_view *v, look l)
{
    const attr_t colour = v->colours ? (attr_t)COLOR_PAIR(l) : 0;
    switch (l) {
    case LOOK_GOOD:
    case LOOK_BAD:
    case LOOK_MARK: return (int)(colour | A_BOLD);
    case LOOK_UNSURE: return (int)colour;
    case LOOK_CHOSEN: return (int)A_REVERSE;
    case LOOK_DIM: return (int)A_DIM;
    default: return (int)A_NORMAL;
    }
}

/* The next character as the terminal can show it, and how wide it is. */
static size_t next_wide(const live_view *v, const char *at, size_t size, wchar_t *wide, int *width)
{
    mbstate_t state = {0};
    const size_t taken = v->utf8 ? mbrtowc(wide, at, size, &state) : 1;
    if (taken == 0 || taken > size || !v->utf8) {
        *wide = (unsigned char)*at < 0x20 || (unsigned char)*at > 0x7e ? L'?' : (wchar_t)*at;
        *width = 1;
        return 1;
    }
    *width = wcwidth(*wide);
    if (*width < 0) *width = 0;
    return taken;
}

/* A text in at most `width` columns of a line; returns how many it took. */
int live_put(const live_view *v, int y, int x, int width, look l, fg_text text)
{
    char escape[FG_ESCAPE_SIZE];
    int used = 0;
    (void)attrset(attributes(v, l));
    while (text.size && used < width) {
        fg_text piece = fg_text_next_shown(&text, escape);
        while (piece.size) {
            wchar_t wide[2] = {0};
            int columns;
            const size_t taken = next_wide(v, piece.at, piece.size, wide, &columns);
            if (used + columns > width) {
                width = used;
                break;
            }
            if (columns) (void)mvaddnwstr(y, x + used, wide, 1);
            used += columns;
            piece = (fg_text){piece.at + taken, piece.size - taken};
        }
    }
    (void)attrset(A_NORMAL);
    return used;
}

__attribute__((format(printf, 6, 7))) int live_putf(const live_view *v, int y, int x, int width, look l,
                                                    const char *format, ...)
{
    char text[600];
    va_list values;
    va_start(values, format);
    (void)vsnprintf(text, sizeof text, format, values);
    va_end(values);
    return live_put(v, y, x, width, l, fg_text_of(text));
}

const char *live_sign(const live_view *v, const char *utf8, const char *ascii) { return v->utf8 ? utf8 : ascii; }

void live_heading(const live_view *v, int y, const char *text)
{
    const int used = live_putf(v, y, 0, COLS, LOOK_DIM, "%s %s ", live_sign(v, "──", "--"), text);
    for (int x = used; x < COLS; x++) (void)live_putf(v, y, x, 1, LOOK_DIM, "%s", live_sign(v, "─", "-"));
}

fg_text live_value_text(const fg_declared *d, fg_value value, char *room)
{
    return (fg_text){room, fg_value_write(value, d->decimals, room)};
}

/* ---- sensors ---- */

bool live_is_chosen(const live_view *v, const fg_declared *d) { return v->item_count && v->items[v->chosen] == d; }

/* To scale: limits as lines, the reading as a block. */
static void draw_bar(const live_view *v, const fg_declared *d, int y, int x, int width)
{
    fg_value low, high, value;
    size_t count;
    const fg_value *limits = fg_watch_limits(v->s->watch, d, &count);
    fg_watch_scale(v->s->watch, d, &low, &high);
    const double apart = (double)high - low > 0 ? (double)high - low : 1;
    for (int i = 0; i < width; i++) (void)live_putf(v, y, x + i, 1, LOOK_DIM, "%s", live_sign(v, "·", "."));
    for (size_t i = 0; i < count; i++) {
        const int at = (int)lround(((double)limits[i] - low) / apart * (width - 1));
        if (at >= 0 && at < width) (void)live_putf(v, y, x + at, 1, LOOK_PLAIN, "%s", live_sign(v, "│", "|"));
    }
    if (!fg_sensor_value(fg_live_run(v->s->live), d->index, &value)) return;
    const int at = (int)lround(((double)value - low) / apart * (width - 1));
    const bool beyond = at < 0 || at >= width;
    (void)live_putf(v, y,
                    x + (at < 0        ? 0
                         : at >= width ? width - 1
                                       : at),
                    1, beyond ? LOOK_BAD : LOOK_MARK, "%s",
                    at < 0        ? "<"
                    : at >= width ? ">"
                                  : live_sign(v, "█", "#"));
}

static void draw_trace(const live_view *v, const fg_declared *d, int y, int x, int width)
{
    static const char *const blocks[] = {"▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"};
    static const char *const signs[] = {"_", "_", ".", "-", "-", "=", "=", "#"};
    fg_trace trace;
    fg_value low = 0, high = 0;
    bool any = false;
    fg_watch_trace(v->s->watch, d, fg_live_time(v->s->live), &trace);
    if (width > FG_WATCH_SECONDS) width = FG_WATCH_SECONDS;
    const int first = FG_WATCH_SECONDS - width;
    for (int i = first; i < FG_WATCH_SECONDS; i++) {
        if (!trace.good[i]) continue;
        if (!any || trace.values[i] < low) low = trace.values[i];
        if (!any || trace.values[i] > high) high = trace.values[i];
        any = true;
    }
    for (int i = first; i < FG_WATCH_SECONDS; i++) {
        if (!trace.good[i]) continue;
        const int64_t apart = (int64_t)high - low;
        const int block = apart ? (int)(((int64_t)trace.values[i] - low) * 7 / apart) : 0;
        (void)live_putf(v, y, x + i - first, 1, LOOK_DIM, "%s", v->utf8 ? blocks[block] : signs[block]);
    }
}

/* What the rules on a sensor make of it now. */
static void describe_rules(const live_view *v, const fg_declared *d, char *text, size_t room)
{
    const fg_program *program = &v->s->file->program;
    size_t size = 0;
    *text = '\0';
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *r = &program->declared[i];
        if (!fg_kind_is(r->kind, FG_KIND_ON_SENSOR) || r->sensor != d->index || r->slot == FG_INDEX_NONE) continue;
        const fg_verdict answer = fg_answer(fg_live_run(v->s->live), r->slot);
        const fg_text word = fg_kind_is(r->kind, FG_KIND_LABELS) ? fg_answer_text(r, answer) : r->name;
        if (!fg_kind_is(r->kind, FG_KIND_LABELS) && answer != FG_YES) continue;
        if (answer == FG_UNSURE || size + word.size + 3 > room) continue;
        size += (size_t)snprintf(text + size, room - size, "%s%.*s", size ? ", " : "", (int)word.size, word.at);
    }
}

void live_draw_sensor(const live_view *v, const fg_declared *d, int y)
{
    enum { NAME = 12, NUMBER = 15, RULES = 14, TRACE = 20 };
    const fg_run *run = fg_live_run(v->s->live);
    char number[FG_VALUE_TEXT_SIZE], rules[120];
    fg_value value;
    const bool good = fg_sensor_value(run, d->index, &value);
    const bool held = fg_live_held(v->s->live, d).size != 0;
    (void)live_putf(v, y, 0, 1, LOOK_PLAIN, "%s", live_is_chosen(v, d) ? ">" : " ");
    (void)live_put(v, y, 2, NAME - 1, live_is_chosen(v, d) ? LOOK_CHOSEN : LOOK_PLAIN, d->name);
    int x = 2 + NAME;
    if (good) {
        const fg_text text = live_value_text(d, value, number);
        const int width = (int)text.size < 7 ? 7 - (int)text.size : 0;
        (void)live_putf(v, y, x + width, NUMBER - 1 - width, LOOK_PLAIN, "%.*s %.*s", (int)text.size, text.at,
                        (int)d->unit.size, d->unit.at ? d->unit.at : "");
    } else {
        const bool read = fg_live_was_read(v->s->live, d) || v->s->file->program.gate.sensors[d->index].term_count;
        (void)live_putf(v, y, x, NUMBER - 1, LOOK_BAD, "%s", read ? " faulty" : "no reading");
    }
    x += NUMBER;
    if (held && v->s->kind != LIVE_HAND) (void)live_putf(v, y, x - 2, 1, LOOK_UNSURE, "%s", live_sign(v, "✋", "h"));
    const int left = COLS - x - RULES - 1, trace = left > 44 ? TRACE : left > 34 ? 10 : 0;
    const int bar = left - (trace ? trace + 1 : 0);
    draw_bar(v, d, y, x, bar);
    describe_rules(v, d, rules, sizeof rules);
    (void)live_putf(v, y, x + bar + 1, RULES - 1, LOOK_GOOD, "%s", rules);
    if (trace) draw_trace(v, d, y, x + bar + 1 + RULES, trace);
}

/* What was read of the chosen sensor since the mark. */
void live_draw_figures(const live_view *v, const fg_declared *d, int y)
{
    const fg_figures *f = &v->figures[d->index];
    char a[FG_VALUE_TEXT_SIZE], b[FG_VALUE_TEXT_SIZE], c[FG_VALUE_TEXT_SIZE], n[FG_VALUE_TEXT_SIZE];
    if (!f->count) {
        (void)live_putf(v, y, 2, COLS - 2, LOOK_DIM, "%.*s: nothing read since the mark", (int)d->name.size,
                        d->name.at);
        return;
    }
    const fg_text low = live_value_text(d, f->lowest, a), mid = live_value_text(d, f->median, b),
                  high = live_value_text(d, f->highest, c);
    const fg_text noise = live_value_text(d, f->noise, n);
    (void)live_putf(v, y, 2, COLS - 2, LOOK_DIM,
                    "%.*s since the mark: lowest %.*s, median %.*s, highest %.*s %.*s, noise %.*s (%" PRIu64
                    " readings%s)",
                    (int)d->name.size, d->name.at, (int)low.size, low.at, (int)mid.size, mid.at, (int)high.size,
                    high.at, (int)d->unit.size, d->unit.at ? d->unit.at : "", (int)noise.size, noise.at, f->count,
                    f->faults ? ", some faulty" : "");
}

/* ---- answers and outputs ---- */

static void write_since(const live_view *v, const fg_declared *d, char *text, size_t room)
{
    const int64_t since = v->since[d - v->s->file->program.declared], now = fg_live_time(v->s->live);
    *text = '\0';
    if (since < 0 || now < since) return;
    const int64_t seconds = (now - since) / 1000;
    if (seconds < 100)
        snprintf(text, room, "%" PRId64 " s", seconds);
    else if (seconds < 6000)
        snprintf(text, room, "%" PRId64 " min", seconds / 60);
    else
        snprintf(text, room, "%" PRId64 " h", seconds / 3600);
}

static look look_of(const fg_declared *d, fg_verdict answer)
{
    if (fg_kind_is(d->kind, FG_KIND_LABELS)) return answer == FG_UNSURE ? LOOK_UNSURE : LOOK_PLAIN;
    return answer == FG_YES ? LOOK_GOOD : answer == FG_UNSURE ? LOOK_UNSURE : LOOK_DIM;
}

void live_draw_answer(const live_view *v, const fg_declared *d, int y, int x, int width)
{
    const fg_run *run = fg_live_run(v->s->live);
    const bool count = d->kind == FG_KIND_COUNT;
    char digits[FG_VALUE_TEXT_SIZE], since[24];
    const fg_verdict answer = count ? FG_YES : fg_answer(run, d->slot);
    const fg_text is =
        count ? (fg_text){digits, fg_value_write(fg_count_value(run, d->index), 0, digits)} : fg_answer_text(d, answer);
    const bool held = fg_kind_is(d->kind, FG_KIND_READ) && fg_live_held(v->s->live, d).size && v->s->kind != LIVE_HAND;
    int used = live_put(v, y, x, width - 9, live_is_chosen(v, d) ? LOOK_CHOSEN : LOOK_PLAIN, d->name);
    used += live_putf(v, y, x + used, width - used, LOOK_PLAIN, " ");
    used += live_put(v, y, x + used, width - used - 1, look_of(d, answer), is);
    write_since(v, d, since, sizeof since);
    if (*since) (void)live_putf(v, y, x + used, width - used - 1, LOOK_DIM, "  %s%s", held ? "by hand, " : "", since);
}

/* The nearest of the colours a terminal with 256 has; 8 have at least the strongest parts. */
static int nearest(uint32_t colour)
{
    const int parts[3] = {(int)(colour >> 16 & 255), (int)(colour >> 8 & 255), (int)(colour & 255)};
    if (COLORS >= 256) return 16 + 36 * (parts[0] * 5 / 255) + 6 * (parts[1] * 5 / 255) + parts[2] * 5 / 255;
    return (parts[0] > 127 ? COLOR_RED : 0) | (parts[1] > 127 ? COLOR_GREEN : 0) | (parts[2] > 127 ? COLOR_BLUE : 0);
}

static void draw_lamp(const live_view *v, const fg_declared *d, const fg_level *level, int y, int x)
{
    const bool on = level->form != FG_FORM_OFF;
    const char *lamp = on ? live_sign(v, "●", "*") : live_sign(v, "○", "o");
    if (!v->colours || !on) {
        (void)live_putf(v, y, x, 2, on ? LOOK_MARK : LOOK_DIM, "%s", lamp);
        return;
    }
    const short pair = (short)(FIRST_LAMP + d->index % (COLOR_PAIRS - FIRST_LAMP));
    (void)init_pair(pair,
                    (short)(level->colour & 0xffffff ? nearest(level->colour)
                            : COLORS >= 256          ? 172
                                                     : COLOR_YELLOW),
                    -1);
    (void)attrset((int)((attr_t)COLOR_PAIR(pair) | A_BOLD));
    (void)mvaddstr(y, x, lamp);
    (void)attrset(A_NORMAL);
}

/* As what it is: a lamp, an arrow, a needle, lights, a note. */
static int draw_sign(const live_view *v, const fg_declared *d, const fg_level *level, int y, int x)
{
    static const char *const needles[] = {"↙", "←", "↖", "↑", "↗", "→", "↘"};
    static const char *const plain[] = {"/", "-", "\\", "|", "/", "-", "\\"};
    const bool rests = level->form == v->s->file->program.gate.outputs[d->index].rest.form && !level->percent;
    switch (d->kind) {
    case FG_KIND_LAMP:
    case FG_KIND_RELAY: draw_lamp(v, d, level, y, x); return 2;
    case FG_KIND_MOTOR:
        return live_putf(v, y, x, 3, rests ? LOOK_DIM : LOOK_GOOD, "%s",
                         level->form == FG_FORM_FORWARD ? live_sign(v, "▶▶ ", ">> ")
                         : level->form == FG_FORM_BACK  ? live_sign(v, "◀◀ ", "<< ")
                                                        : live_sign(v, "■  ", "[] "));
    case FG_KIND_SERVO: {
        const int at = level->number < 0 ? 0 : level->number > 180 ? 6 : level->number / 30;
        return live_putf(v, y, x, 2, LOOK_PLAIN, "%s ", v->utf8 ? needles[at] : plain[at]);
    }
    case FG_KIND_BUZZER:
        return live_putf(v, y, x, 2, rests ? LOOK_DIM : LOOK_GOOD, "%s ",
                         rests ? live_sign(v, "·", ".") : live_sign(v, "♪", "~"));
    default: return 0;
    }
}

void live_draw_output(live_view *v, const fg_declared *d, int y, int x, int width)
{
    const fg_run *run = fg_live_run(v->s->live);
    const fg_level *level = &fg_output_at(run, d->index)->level;
    const bool now = v->since[d - v->s->file->program.declared] >= 0;
    char text[200];
    size_t size = fg_output_text(run, d->index, text, sizeof text);
    if (size > sizeof text) size = sizeof text;
    int used = live_put(v, y, x, 12, live_is_chosen(v, d) ? LOOK_CHOSEN : LOOK_PLAIN, d->name);
    used = used < 10 ? 10 : used;
    if (!now) return;
    used += 1 + draw_sign(v, d, level, y, x + used + 1);
    used += live_put(v, y, x + used, width - used - 1, LOOK_PLAIN, (fg_text){text, size});
    if (d->kind != FG_KIND_BAR || (level->form != FG_FORM_FILL && level->form != FG_FORM_LIGHT)) return;
    for (int i = 1; i <= 10 && used + 2 + i < width; i++) {
        const bool lit = level->form == FG_FORM_FILL ? i <= level->number : i == level->number;
        (void)live_putf(v, y, x + used + 1 + i, 1, lit ? LOOK_GOOD : LOOK_DIM, "%s",
                        lit ? live_sign(v, "▮", "#") : live_sign(v, "▯", "."));
    }
}

#else
typedef int live_without_view; /* a file holds at least one declaration */
#endif
