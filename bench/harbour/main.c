/* SPDX-License-Identifier: MIT */
/* What a step of the harbour costs: the gate in the engine, and the same rules by hand, on one recording.
 *
 *   harbour print RECORDING          by hand: what `fickle replay --as csv` prints, but for its fifth column
 *   harbour hand  RECORDING TIMES    nothing is printed; for counting instructions
 *   harbour gate  RECORDING TIMES GATE
 */
#include "by_hand.h"

#include <ficklegate.h>
#include <ficklegate/language.h>

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static const char *const names[HARBOUR_NAMES] = {
    "depth",  "bilge",   "wind",    "vane",  "rock_x",    "rock_y",   "rock_z", "rocking",   "heel",
    "rising", "crest",   "key",     "ack",   "level",     "boat",     "tide",   "wind_from", "list",
    "gale",   "swell",   "pumping", "rough", "storm",     "may_land", "blind",  "busy",      "flooding",
    "turned", "waiting", "done",    "alarm", "landings",  "greeting", "green",  "red",       "beacon",
    "boom",   "horn",    "pump",    "winch", "flagstaff", "gauge",    "board"};

enum { TEXT = 120 };

static void lamp_text(int32_t is, char *text)
{
    static const char *const colours[] = {"", " amber", " red", " \"\"ff8000\"\""};
    if (!is)
        snprintf(text, TEXT, "off");
    else if (is % 1000 == 100)
        snprintf(text, TEXT, "on%s", colours[is / 1000]);
    else
        snprintf(text, TEXT, is >= LAMP_FF8000 ? "\"on%s %d%%\"" : "on%s %d%%", colours[is / 1000], is % 1000);
}

static void output_text(int name, const harbour_answers *a, char *text)
{
    const int32_t is = a->is[name];
    switch (name) {
    case IS_LANDINGS: snprintf(text, TEXT, "%d", is); return;
    case IS_BOOM: snprintf(text, TEXT, "%s", is ? "on" : "off"); return;
    case IS_HORN:
        if (!is)
            snprintf(text, TEXT, "quiet");
        else
            snprintf(text, TEXT, is >= HORN_HALF ? "%dHz 50%%" : "%dHz", is % HORN_HALF);
        return;
    case IS_PUMP:
    case IS_WINCH:
        if (!is)
            snprintf(text, TEXT, "stop");
        else
            snprintf(text, TEXT, "%s %d%%", is > 0 ? "forward" : "back", abs(is));
        return;
    case IS_FLAGSTAFF: snprintf(text, TEXT, "%d deg", is); return;
    case IS_GAUGE:
        if (!is)
            snprintf(text, TEXT, "off");
        else
            snprintf(text, TEXT, is >= GAUGE_LIGHT ? "light %d" : "fill %d", is % GAUGE_LIGHT);
        return;
    case IS_BOARD:
        if (!a->board_lines)
            snprintf(text, TEXT, "blank");
        else
            snprintf(text, TEXT, "\"show \"\"%.20s\"\", \"\"%.20s\"\"\"", a->board[0], a->board[1]);
        return;
    default: lamp_text(is, text); return;
    }
}

static void answer_text(int name, const harbour_answers *a, char *text)
{
    static const char *const words[][5] = {{"unsure", "no", "yes"},
                                           {"", "faulty", "ok"},
                                           {"unsure", "aground", "shallow", "fair", "high"},
                                           {"unsure", "onshore", "along", "offshore"},
                                           {"unsure", "port", "starboard", "upright"}};
    const int32_t is = a->is[name];
    if (name == IS_LANDINGS || name >= IS_GREEN) {
        output_text(name, a, text);
        return;
    }
    const int list = name < IS_KEY ? 1 : name >= IS_TIDE && name <= IS_LIST ? name - IS_TIDE + 2 : 0;
    snprintf(text, TEXT, "%s", words[list][is]);
}

static void report(uint32_t t, const harbour_answers *now, const harbour_answers *before)
{
    for (int i = 0; i < HARBOUR_NAMES; i++) {
        char is[TEXT], was[TEXT] = "";
        if (before && now->is[i] == before->is[i]) continue;
        answer_text(i, now, is);
        if (before) answer_text(i, before, was);
        printf("%u,%s,%s,%s\n", (unsigned)t, names[i], was, is);
    }
}

static bool number(const char *cell, int scale, int32_t *value)
{
    char *end;
    const double read = strtod(cell, &end);
    if (end == cell || *end || read != read) return false;
    *value = (int32_t)(read * scale + (read < 0 ? -0.5 : 0.5));
    return true;
}

static void read_row(char *line, harbour_row *row)
{
    char *cell = strtok(line, ",\n");
    row->now = (uint32_t)strtoul(cell, NULL, 10);
    for (int i = 0; i < READ_SENSORS; i++)
        row->bad[i] = !number(strtok(NULL, ",\n"), i == BILGE ? 10 : 1, &row->value[i]);
    for (int i = 0; i < FLAGS; i++) {
        cell = strtok(NULL, ",\n");
        row->flag[i] = !strcmp(cell, "1") ? YES : !strcmp(cell, "0") ? NO : UNSURE;
    }
}

/* ---- the rows in memory ---- */

static harbour_row rows[20000];
static size_t row_count;

static bool read_rows(const char *name)
{
    char line[256];
    FILE *file = fopen(name, "r");
    while (file && fgets(line, sizeof line, file) && row_count < sizeof rows / sizeof *rows)
        if (line[0] >= '0' && line[0] <= '9') read_row(line, &rows[row_count++]);
    if (file) (void)fclose(file);
    return row_count > 0;
}

static void print_by_hand(void)
{
    harbour_answers now = {0}, before;
    harbour_start();
    for (size_t i = 0; i < row_count; i++) {
        before = now;
        harbour_step(&rows[i], &now);
        report(rows[i].now, &now, i ? &before : NULL);
    }
}

static int32_t step_by_hand(long times)
{
    harbour_answers now = {0};
    for (long k = 0; k < times; k++) {
        harbour_start();
        for (size_t i = 0; i < row_count; i++) harbour_step(&rows[i], &now);
    }
    return now.is[IS_LANDINGS];
}

/* ---- the gate ---- */

enum { MEMORY = 4000000 };
static char gate_text[20000], included[20000];
static const char *folder;

static size_t read_text(const char *name, char *text, size_t room)
{
    FILE *file = fopen(name, "r");
    const size_t size = file ? fread(text, 1, room, file) : 0;
    if (file) (void)fclose(file);
    return size;
}

static bool read_included(void *context, fg_text path, fg_text from, fg_source *source)
{
    char name[300];
    (void)context;
    (void)from;
    snprintf(name, sizeof name, "%s/%.*s", folder, (int)path.size, path.at);
    source->text = (fg_text){included, (uint32_t)read_text(name, included, sizeof included)};
    source->name = source->identity = path;
    return source->text.size > 0;
}

static inline void feed_flag(fg_run *run, const harbour_row *row, uint16_t flag)
{
    if (row->flag[flag] == UNSURE)
        fg_feed_flag_fault(run, flag, row->now);
    else
        fg_feed_flag(run, flag, row->flag[flag] == YES, row->now);
}

static inline void feed_sensor(fg_run *run, const harbour_row *row, uint16_t sensor)
{
    if (row->bad[sensor])
        fg_feed_fault(run, sensor, row->now);
    else if (sensor == DEPTH || sensor == WIND)
        fg_feed_counts(run, sensor, row->value[sensor], row->now);
    else
        fg_feed(run, sensor, row->value[sensor], row->now);
}

static void feed(fg_run *run, const harbour_row *row)
{
    feed_sensor(run, row, DEPTH);
    feed_sensor(run, row, BILGE);
    feed_sensor(run, row, WIND);
    feed_sensor(run, row, VANE);
    feed_sensor(run, row, ROCK_X);
    feed_sensor(run, row, ROCK_Y);
    feed_sensor(run, row, ROCK_Z);
    feed_flag(run, row, KEY);
    feed_flag(run, row, ACK);
    feed_flag(run, row, LEVEL);
    feed_flag(run, row, BOAT);
}

static int32_t step_gate(long times, char *gate)
{
    static max_align_t memory[MEMORY / sizeof(max_align_t)], state[4096 / sizeof(max_align_t)];
    fg_program program;
    const fg_language_input input = {.text = {gate_text, (uint32_t)read_text(gate, gate_text, sizeof gate_text)},
                                     .trial = FG_TRIAL_NONE,
                                     .read_file = read_included};
    char *slash = strrchr(gate, '/');
    if (slash) *slash = '\0';
    folder = slash ? gate : ".";
    if (fg_language_compile(&input, memory, sizeof memory, &program) != FG_OK) return -1;
    fg_run *run = NULL;
    for (long k = 0; k < times; k++) {
        if (fg_run_start(&program.gate, state, sizeof state, &run) != FG_OK) return -1;
        for (size_t i = 0; i < row_count; i++) {
            feed(run, &rows[i]);
            fg_step(run, rows[i].now);
        }
    }
    return run ? fg_count_value(run, 0) : -1;
}

int main(int count, char **words)
{
    const long times = count > 3 ? strtol(words[3], NULL, 10) : 0;
    int32_t landings = 0;
    if (count < 3 || !read_rows(words[2])) {
        fputs("usage: harbour print|hand|gate RECORDING [TIMES [GATE]]\n", stderr);
        return 2;
    }
    if (!strcmp(words[1], "print"))
        print_by_hand();
    else
        landings = count > 4 ? step_gate(times, words[4]) : step_by_hand(times);
    return landings < 0;
}
