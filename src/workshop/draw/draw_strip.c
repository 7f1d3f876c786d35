/* SPDX-License-Identifier: MIT */
/* The strips of answers and outputs: boxes with their label or level in them. A lamp has its own colour; a strength, an
 * angle or a number of lights is the height of its box. */
#include "workshop/draw/plot.h"

#include <string.h>

enum { TEXTS_MOST = 64, LISTED_MOST = 40, COUNT_FILLS = 2, NUMBER_ROOM = 16 };

typedef enum box_kind { BOX_SOLID, BOX_HATCHED, BOX_REST } box_kind;

typedef struct strip_box {
    double from, to;  /* pixels */
    double low, high; /* from the bottom of the plot */
    box_kind kind;
    uint32_t rgb;
    const char *text;
} strip_box;

typedef void put_box(fg_plotter *p, const strip_box *box, void *context);

/* ---- heights ---- */

static int32_t value_of(const fg_declared *d, const fg_level *level)
{
    switch (d->kind) {
    case FG_KIND_LAMP: return level->form == FG_FORM_ON ? level->percent : 0;
    case FG_KIND_MOTOR:
        return level->form == FG_FORM_FORWARD ? level->percent : level->form == FG_FORM_BACK ? -level->percent : 0;
    default: return level->form == FG_FORM_OFF ? 0 : level->number;
    }
}

fg_strip fg_plot_strip_of(const fg_lane *lane)
{
    const fg_declared *d = lane->declared;
    fg_strip strip = {.low = INT32_MAX, .high = INT32_MIN, .height = FG_PLOT_STRIP};
    const bool known =
        d->kind == FG_KIND_LAMP || d->kind == FG_KIND_MOTOR || d->kind == FG_KIND_SERVO || d->kind == FG_KIND_BAR;
    bool between = false; /* a lamp that is only on or off is just that */
    for (size_t i = 0; i < lane->stretch_count && known; i++) {
        const int32_t value = value_of(d, &lane->stretches[i].at);
        if (value < strip.low) strip.low = value;
        if (value > strip.high) strip.high = value;
        between = between || (value > 0 && value < 100);
    }
    if (!known || strip.low > strip.high) return strip;
    if (d->kind == FG_KIND_LAMP || d->kind == FG_KIND_MOTOR) {
        strip.low = strip.low < 0 ? -100 : 0;
        strip.high = strip.high > 0 || strip.low == 0 ? 100 : 0;
    }
    if (d->kind == FG_KIND_BAR) strip.low = 0;
    if (strip.high == strip.low) strip.low--;
    strip.curve = d->kind != FG_KIND_LAMP || between;
    if (strip.curve) strip.height = FG_PLOT_CURVE;
    return strip;
}

static double y_of(const fg_strip *s, int32_t value)
{
    return s->middle - s->height / 2 + ((double)value - s->low) * s->height / ((double)s->high - s->low);
}

/* ---- colours ---- */

/* The level's own colour, else the lamp's name if it is one, else one that says nothing. */
static uint32_t lamp_rgb(const fg_declared *lamp, const fg_level *level)
{
    static const uint32_t neutral = 0xd9d2bf;
    uint32_t rgb;
    if (level->colour) return level->colour & 0xffffff;
    for (size_t i = 0;; i++) {
        const char *name = fg_colour_name(i, &rgb);
        if (!name) return neutral;
        if (fg_text_is(lamp->name, name)) return rgb;
    }
}

static uint32_t stretch_rgb(fg_plotter *p, const fg_lane *lane, const fg_stretch *s)
{
    const fg_declared *d = lane->declared;
    const fg_text text = fg_text_of(s->text);
    if (d->kind == FG_KIND_LAMP) return lamp_rgb(d, &s->at);
    if (d->kind == FG_KIND_COUNT)
        return fg_plot_rgb(fg_plot_fill(text.size ? (size_t)text.at[text.size - 1] % COUNT_FILLS : 0));
    if (d->kind == FG_KIND_DISPLAY) return fg_plot_rgb(fg_plot_fill(s->level % (FG_FILLS - 1)));
    if (d->kind == FG_KIND_BUZZER || fg_kind_is(d->kind, FG_KIND_LABELS))
        return fg_plot_rgb(fg_plot_fill(fg_plot_fill_of(p, text)));
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT))
        return fg_plot_rgb(fg_plot_fill(fg_plot_fill_of(p, fg_text_of(fg_form_word((fg_form)s->at.form)))));
    return fg_plot_rgb(fg_plot_fill(FG_FILL_YES));
}

/* By the weights of ITU-R BT.601 for how bright the eye takes each part. */
static bool is_bright(uint32_t rgb)
{
    return 299 * (rgb >> 16 & 255) + 587 * (rgb >> 8 & 255) + 114 * (rgb & 255) > 128 * 1000;
}

/* ---- boxes ---- */

static strip_box box_of(fg_plotter *p, const fg_lane *lane, const fg_strip *strip, size_t i)
{
    const fg_stretch *s = &lane->stretches[i];
    const int64_t end = i + 1 < lane->stretch_count ? s[1].t_ms : p->picture->to_ms;
    strip_box box = {fg_plot_pixel(p, s->t_ms),
                     fg_plot_pixel(p, end),
                     strip->middle - strip->height / 2,
                     strip->middle + strip->height / 2,
                     BOX_SOLID,
                     0,
                     s->text};
    const bool none = fg_kind_is(lane->declared->kind, FG_KIND_LABELS) && fg_text_is(fg_text_of(s->text), "none");
    if (s->unsure)
        box.kind = BOX_HATCHED;
    else if (s->rest || none)
        box.kind = BOX_REST;
    if (strip->curve && box.kind != BOX_HATCHED) {
        const int32_t value = value_of(lane->declared, &s->at),
                      base = strip->low < 0 && strip->high > 0 ? 0 : strip->low;
        const double a = y_of(strip, base), b = y_of(strip, value);
        box.low = a < b ? a : b;
        box.high = a < b ? b : a;
        if (box.high - box.low < 1) box.kind = BOX_REST;
    }
    if (box.kind == BOX_SOLID) box.rgb = stretch_rgb(p, lane, s);
    return box;
}

/* What is shorter than a pixel is drawn as a pixel and a half, one for each column. */
static void each_box(fg_plotter *p, const fg_lane *lane, const fg_strip *strip, put_box *put, void *context)
{
    double last = -10;
    for (size_t i = 0; i < lane->stretch_count; i++) {
        strip_box box = box_of(p, lane, strip, i);
        if (box.from > p->columns) return;
        if (box.to - box.from < 1.5) {
            if (box.kind == BOX_REST || box.from - last < 1) continue;
            last = box.from;
            box.to = box.from + 1.5;
        }
        put(p, &box, context);
    }
}

static void put_rect(const fg_plotter *p, const strip_box *box)
{
    fprintf(p->out, "%.9g %.2f %.9g %.9g %.2f %.2f", fg_plot_at(p, fg_plot_time(p, (box->from + box->to) / 2)),
            (box->low + box->high) / 2, fg_plot_at(p, fg_plot_time(p, box->from)),
            fg_plot_at(p, fg_plot_time(p, box->to)), box->low, box->high);
}

static void put_solid(fg_plotter *p, const strip_box *box, void *context)
{
    (void)context;
    if (box->kind != BOX_SOLID) return;
    /* Boxes are kept apart by the paper; what is as bright as that has an edge, and a narrow box is all colour. */
    const uint32_t paper = fg_plot_rgb(p->theme.paper);
    const bool like_paper = is_bright(box->rgb) == is_bright(paper) && (box->rgb & 0xe0e0e0) == (paper & 0xe0e0e0);
    const uint32_t edge = box->to - box->from < 4 ? box->rgb : like_paper ? fg_plot_rgb(p->theme.faint) : paper;
    put_rect(p, box);
    fprintf(p->out, " 0x%06x 0x%06x\n", (unsigned)box->rgb, (unsigned)edge);
}

static void put_hatched(fg_plotter *p, const strip_box *box, void *context)
{
    (void)context;
    if (box->kind != BOX_HATCHED) return;
    put_rect(p, box);
    fputc('\n', p->out);
}

/* At rest a curve lies where it begins, other strips have a line in the middle. */
static void put_resting(fg_plotter *p, const strip_box *box, void *context)
{
    const fg_strip *strip = context;
    const double y = strip->curve ? box->low : strip->middle;
    if (box->kind == BOX_REST)
        fprintf(p->out, "%.9g %.2f\n%.9g %.2f\n\n", fg_plot_at(p, fg_plot_time(p, box->from)), y,
                fg_plot_at(p, fg_plot_time(p, box->to)), y);
}

void fg_plot_solid(fg_plotter *p, const fg_lane *lane, const fg_strip *strip)
{
    each_box(p, lane, strip, put_solid, NULL);
}

void fg_plot_hatched(fg_plotter *p, const fg_lane *lane, const fg_strip *strip)
{
    each_box(p, lane, strip, put_hatched, NULL);
}

void fg_plot_resting(fg_plotter *p, const fg_lane *lane, const fg_strip *strip)
{
    each_box(p, lane, strip, put_resting, (void *)strip);
}

/* ---- texts ---- */

/* What stands in a box; empty where its colour says it all. Of a display what it shows. */
static fg_text text_in(const strip_box *box)
{
    const fg_text text = fg_text_of(box->text);
    static const char show[] = "show ";
    if (box->kind != BOX_SOLID || fg_text_is(text, "yes")) return (fg_text){0};
    if (text.size > sizeof show && !strncmp(text.at, show, sizeof show - 1))
        return (fg_text){text.at + sizeof show - 1, text.size - sizeof show + 1};
    return text;
}

static bool has_room(const strip_box *box, fg_text text)
{
    return box->to - box->from >= fg_plot_letters(text) * FG_PLOT_LETTER + 8;
}

/* A strip whose texts are written. */
typedef struct named {
    const fg_lane *lane;
    const fg_strip *strip;
} named;

/* The number below which a text of this lane is told; 0 if it is not. */
static size_t number_of(const fg_plotter *p, const fg_lane *lane, const char *text)
{
    for (size_t i = 0; i < p->note_count; i++)
        if (&p->picture->lanes[p->notes[i].lane] == lane && strcmp(p->notes[i].text, text) == 0) return i + 1;
    return 0;
}

static bool number_fits(const strip_box *box) { return box->to - box->from >= NUMBER_ROOM; }

static void put_name(fg_plotter *p, const strip_box *box, void *context)
{
    const named *n = context;
    const fg_text text = text_in(box);
    const size_t number = !text.size || has_room(box, text) || !number_fits(box) ? 0 : number_of(p, n->lane, box->text);
    if (!text.size || (!number && !has_room(box, text))) return;
    const bool covered = box->low <= n->strip->middle - 4 && box->high >= n->strip->middle + 4;
    const bool dark_text = covered ? is_bright(box->rgb) : !p->picture->options->dark;
    fprintf(p->out, "%.9g %.2f ", fg_plot_at(p, fg_plot_time(p, (box->from + box->to) / 2)), n->strip->middle);
    if (number)
        fprintf(p->out, "\"%zu\"", number);
    else
        fg_plot_datum(p->out, text, SIZE_MAX);
    fprintf(p->out, " 0x%s\n", dark_text ? "101418" : "ffffff");
}

void fg_plot_names(fg_plotter *p, const fg_lane *lane, const fg_strip *strip)
{
    const char *ink = p->picture->options->dark ? "ffffff" : "101418";
    named n = {lane, strip};
    each_box(p, lane, strip, put_name, &n);
    /* numbers of boxes that are narrower than they are; those that would touch stand one above the other */
    double last = -1e9;
    bool low = false;
    for (size_t i = 0; i < p->note_count; i++) {
        const fg_plot_note *note = &p->notes[i];
        if (&p->picture->lanes[note->lane] != lane || note->inside) continue;
        low = note->pixel - last < 14 && last - note->pixel < 14 && !low;
        last = note->pixel;
        fprintf(p->out, "%.9g %.2f \"%zu\" 0x%s\n", fg_plot_at(p, fg_plot_time(p, note->pixel)),
                strip->middle + (low ? -1 : 1) * (strip->height / 2 - 5), i + 1, ink);
    }
}

/* The texts of one lane: which of them stand in a box, and where the widest box of each is. */
typedef struct texts {
    struct {
        const char *text;
        bool told, lacks; /* it stands in a box; a box that could hold a number lacks it */
        double width, pixel;
    } at[TEXTS_MOST];
    size_t count, more;
} texts;

static void note_text(fg_plotter *p, const strip_box *box, void *context)
{
    texts *t = context;
    const fg_text text = text_in(box);
    size_t i = 0;
    (void)p;
    if (!text.size) return;
    while (i < t->count && strcmp(t->at[i].text, box->text) != 0) i++;
    if (i == TEXTS_MOST) {
        t->more++;
        return;
    }
    if (i == t->count) {
        t->at[i].text = box->text;
        t->at[i].width = -1;
        t->at[i].lacks = false;
        t->at[t->count++].told = false;
    }
    t->at[i].told = t->at[i].told || has_room(box, text);
    t->at[i].lacks = t->at[i].lacks || (!has_room(box, text) && number_fits(box));
    if (box->to - box->from <= t->at[i].width) return;
    t->at[i].width = box->to - box->from;
    t->at[i].pixel = (box->from + box->to) / 2;
}

void fg_plot_collect_notes(fg_plotter *p, size_t number)
{
    texts t = {.count = 0};
    const fg_lane *lane = &p->picture->lanes[number];
    const fg_strip strip = fg_plot_strip_of(lane);
    /* An angle or a number of lights is the height of its box already. */
    if (lane->declared->kind == FG_KIND_SERVO || lane->declared->kind == FG_KIND_BAR) return;
    each_box(p, lane, &strip, note_text, &t);
    size_t untold = t.more;
    for (size_t i = 0; i < t.count; i++) untold += !t.at[i].told || t.at[i].lacks;
    if (untold > LISTED_MOST) { /* as of a display that shows a reading: nobody reads them all */
        p->crowded[number] = untold;
        return;
    }
    for (size_t i = 0; i < t.count; i++)
        if ((!t.at[i].told || t.at[i].lacks) && p->note_count < FG_PLOT_NOTES)
            p->notes[p->note_count++] = (fg_plot_note){number, t.at[i].text, t.at[i].pixel, t.at[i].lacks};
        else if (!t.at[i].told || t.at[i].lacks)
            p->crowded[number]++;
}
