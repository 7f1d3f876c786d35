/* SPDX-License-Identifier: MIT */
/* Sensors and flags moved by hand, and labels given by keys. */
#include "live.h"
#include "live_keys.h"

#include <stdlib.h>
#include <string.h>

/* ---- sensors and flags ---- */

static bool hold_at(live_session *s, const fg_declared *d, fg_text cell)
{
    const bool held = fg_live_hold(s->live, d, cell) == FG_OK;
    if (!held) live_tell(s, "there is not enough memory to hold it");
    return held;
}

static bool hold(live_session *s, const fg_declared *d, fg_value value)
{
    char text[FG_VALUE_TEXT_SIZE] = "";
    return hold_at(s, d, (fg_text){text, fg_value_write(value, d->kind == FG_KIND_FLAG ? 0 : d->decimals, text)});
}

/* Where a sensor is now: held there, or as it was read; else at the lower end of its scale. */
static fg_value value_now(const live_session *s, const fg_declared *d)
{
    const fg_text held = fg_live_held(s->live, d);
    fg_value value, low, high;
    if (held.size && fg_value_read(held.at, held.size, d->decimals, &value) == FG_OK) return value;
    if (fg_sensor_value(fg_live_run(s->live), d->index, &value)) return value;
    fg_watch_scale(s->watch, d, &low, &high);
    value = fg_sensor_at(fg_live_run(s->live), d->index)->value; /* before it was faulty */
    return value >= low && value <= high ? value : low;
}

bool live_hand_begin(live_session *s)
{
    bool good = true;
    for (uint32_t i = 0; i < s->file->program.declared_count && good; i++) {
        const fg_declared *d = &s->file->program.declared[i];
        if (!fg_program_reads(&s->file->program, d)) continue;
        good = hold(s, d, d->kind == FG_KIND_FLAG ? 0 : value_now(s, d));
    }
    return good;
}

static fg_value within(int64_t value, fg_value low, fg_value high)
{
    return (fg_value)(value < low ? low : value > high ? high : value);
}

/* What a key makes of a value; false if it is none that moves it. */
static bool moved(const live_session *s, const fg_declared *d, int key, fg_value *value)
{
    enum { MANY = 10 };
    fg_value low, high;
    fg_watch_scale(s->watch, d, &low, &high);
    switch (key) {
    case LIVE_KEY_LESS: *value = within((int64_t)*value - 1, low, high); return true;
    case LIVE_KEY_MORE: *value = within((int64_t)*value + 1, low, high); return true;
    case LIVE_KEY_MUCH_LESS: *value = within((int64_t)*value - MANY, low, high); return true;
    case LIVE_KEY_MUCH_MORE: *value = within((int64_t)*value + MANY, low, high); return true;
    case LIVE_KEY_LOWEST: *value = low; return true;
    case LIVE_KEY_HIGHEST: *value = high; return true;
    case 'n': (void)fg_watch_next_stop(s->watch, d, *value, 1, value); return true;
    case 'b': (void)fg_watch_next_stop(s->watch, d, *value, -1, value); return true;
    default: return false;
    }
}

/* "on its limit 14.0", "one step above 13.9"; empty if it is beside none. */
static void say_where(const live_session *s, const fg_declared *d, fg_value value, char *text, size_t room)
{
    static const char *const words[] = {"one step below the limit", "on the limit", "one step above the limit"};
    size_t count;
    const fg_value *limits = fg_watch_limits(s->watch, d, &count);
    *text = '\0';
    for (int beside = 0; beside < 3 && !*text; beside++) {
        const int which = beside == 0 ? 1 : beside == 1 ? 0 : 2; /* on it comes first */
        for (size_t i = 0; i < count && !*text; i++) {
            char limit[FG_VALUE_TEXT_SIZE];
            if ((int64_t)value - limits[i] != which - 1) continue;
            const size_t size = fg_value_write(limits[i], d->decimals, limit);
            snprintf(text, room, ", %s %.*s", words[which], (int)size, limit);
        }
    }
}

static const char *move(live_session *s, const fg_declared *d, int key)
{
    static char told[200];
    char number[FG_VALUE_TEXT_SIZE], where[80];
    fg_value value = value_now(s, d);
    if (key == 'f') {
        (void)hold_at(s, d, fg_text_of("faulty"));
        snprintf(told, sizeof told, "%.*s is faulty now; f makes it good again", (int)d->name.size, d->name.at);
        return told;
    }
    if (!moved(s, d, key, &value)) return NULL;
    (void)hold(s, d, value);
    const size_t size = fg_value_write(value, d->decimals, number);
    say_where(s, d, value, where, sizeof where);
    snprintf(told, sizeof told, "%.*s %.*s %.*s%s", (int)d->name.size, d->name.at, (int)size, number, (int)d->unit.size,
             d->unit.at ? d->unit.at : "", where);
    return told;
}

static const char *turn(live_session *s, const fg_declared *d, int key)
{
    static char told[100];
    if (key != ' ' && key != LIVE_KEY_LESS && key != LIVE_KEY_MORE && key != 'f') return NULL;
    const fg_text held = fg_live_held(s->live, d);
    const bool is = held.size ? fg_text_is(held, "1") : fg_answer(fg_live_run(s->live), d->slot) == FG_YES;
    const bool will = key == LIVE_KEY_MORE || (key == ' ' && !is);
    if (key == 'f')
        (void)hold_at(s, d, fg_text_of("faulty"));
    else
        (void)hold(s, d, will);
    snprintf(told, sizeof told, "%.*s is %s", (int)d->name.size, d->name.at,
             key == 'f' ? "faulty"
             : will     ? "yes"
                        : "no");
    return told;
}

const char *live_hand_key(live_session *s, const fg_declared *d, int key)
{
    static char told[200];
    if (!fg_program_reads(&s->file->program, d)) return NULL;
    const bool was_faulty = fg_text_is(fg_live_held(s->live, d), "faulty");
    if (key == 'r' || (key == 'f' && was_faulty)) {
        if (s->kind == LIVE_HAND)
            (void)hold(s, d, d->kind == FG_KIND_FLAG ? 0 : value_now(s, d));
        else
            (void)hold_at(s, d, (fg_text){0});
        snprintf(told, sizeof told, s->kind == LIVE_HAND ? "%.*s is good again" : "%.*s is read from the board again",
                 (int)d->name.size, d->name.at);
        return told;
    }
    return d->kind == FG_KIND_FLAG ? turn(s, d, key) : move(s, d, key);
}

/* ---- labels ---- */

static void add_label(live_session *s, int *count, const fg_text *label)
{
    for (int i = 1; i <= *count; i++)
        if (fg_text_same(*s->labels[i], *label)) return;
    if (*count + 1 < FG_WATCH_LABELS) s->labels[++*count] = label;
}

/* Those of the rule that the column is named like, or of all bands; else yes and no. */
bool live_labels_find(live_session *s)
{
    static const fg_text yes = {"yes", 3}, no = {"no", 2};
    const fg_program *program = &s->file->program;
    const fg_declared *named = fg_program_find(program, fg_text_of(s->options->label_as));
    int count = 0;
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        if (!fg_kind_is(d->kind, FG_KIND_LABELS) || (named && fg_kind_is(named->kind, FG_KIND_ON_SENSOR) && d != named))
            continue;
        for (uint16_t k = 0; k < d->label_count; k++) add_label(s, &count, &d->labels[k]);
    }
    if (!count) {
        add_label(s, &count, &yes);
        add_label(s, &count, &no);
    }
    if (named && fg_kind_is(named->kind, FG_KIND_READ)) {
        tool_say("fickle: error: --label-as %s is a sensor or flag of the gate; choose a name for a column of its own, "
                 "such as seen\n",
                 s->options->label_as);
        return false;
    }
    return true;
}
