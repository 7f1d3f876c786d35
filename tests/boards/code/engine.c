/* SPDX-License-Identifier: MIT */
/* The engine on a gate file; the arguments behind its name are the outputs of which one light is told from many, and
 * `saved` where the bytes that are saved are reported, `details` where values and changes are. */
#include "guard.h"
#include "subject.h"

#include <stdlib.h>
#include <string.h>

static fg_gate_file file;
static fg_run *run;
static bool lights[1000];
static void *memory, *kept;
static size_t memory_size;
static bool trying, tried_flag, puts_saved, puts_details;
static uint16_t tried;

/* How many answers of guarded outputs were held against a reading that was missing. */
static void say_compared(void)
{
    if (getenv("COMPARED")) fprintf(stderr, "compared %lu\n", guard_compared());
}

bool subject_start(int argc, char **argv)
{
    fg_mistake mistake = {0};
    if (argc < 2 || fg_gate_file_open(&file, argv[1], (fg_settings){0}, &mistake) != FG_OK) return false;
    for (int i = 2; i < argc; i++) {
        if (!strcmp(argv[i], "saved"))
            puts_saved = true;
        else if (!strcmp(argv[i], "details"))
            puts_details = true;
        else
            lights[atoi(argv[i])] = true;
    }
    memory_size = fg_run_size(&file.program.gate);
    memory = malloc(memory_size);
    kept = malloc(memory_size);
    return memory && kept && guard_start(&file.program.gate) && atexit(say_compared) == 0 &&
           fg_run_start(&file.program.gate, memory, memory_size, &run) == FG_OK;
}

void subject_feed(uint16_t sensor, int32_t value, bool counts, uint32_t at)
{
    tried = sensor;
    tried_flag = false;
    if (counts)
        fg_feed_counts(run, sensor, value, at);
    else
        fg_feed(run, sensor, value, at);
}

void subject_fault(uint16_t sensor, uint32_t at) { fg_feed_fault(run, sensor, at); }

void subject_flag(uint16_t flag, bool yes, uint32_t at)
{
    tried = flag;
    tried_flag = true;
    fg_feed_flag(run, flag, yes, at);
}

void subject_flag_fault(uint16_t flag, uint32_t at) { fg_feed_flag_fault(run, flag, at); }

void subject_step(uint32_t now)
{
    fg_step(run, now);
    if (trying)
        guard_tried(run, tried, tried_flag);
    else
        guard_stepped(run);
}

/* A run points into its own memory, so it is put back where it was. */
void subject_keep(void)
{
    memcpy(kept, memory, memory_size);
    trying = true;
}

void subject_back(void)
{
    memcpy(memory, kept, memory_size);
    trying = false;
}

void subject_power(bool damaged, void (*put)(int32_t number))
{
    unsigned char bytes[200];
    const fg_gate *gate = &file.program.gate;
    const size_t size = fg_run_saved_size(gate);
    if (size > sizeof bytes || fg_run_save(run, bytes, sizeof bytes) != FG_OK) abort();
    for (size_t i = 0; puts_saved && size > 8 && i < size; i++) put(bytes[i]);
    if (damaged) bytes[size - 1] ^= 16;
    if (fg_run_start(gate, memory, memory_size, &run) != FG_OK) abort();
    const fg_status status = fg_run_restore(run, bytes, size);
    if (size > 8) put(status == FG_OK);
}

/* The one number that a level is. A display's is not asked: its texts are. */
static int32_t level_number(const fg_level *l)
{
    switch ((fg_form)l->form) {
    case FG_FORM_ON:
    case FG_FORM_FORWARD: return l->percent;
    case FG_FORM_BACK: return -(int32_t)l->percent;
    case FG_FORM_TONE:
    case FG_FORM_TURN:
    case FG_FORM_FILL:
    case FG_FORM_LIGHT: return l->number;
    default: return 0;
    }
}

static void report_output(uint16_t i, void (*put)(int32_t number))
{
    const fg_output *output = &file.program.gate.outputs[i];
    const fg_level *l = &fg_output_at(run, i)->level;
    const int32_t number = level_number(l);
    put(number);
    put((int32_t)FG_COLOUR_RGB(l->colour));
    put(number && l->form == FG_FORM_TONE ? l->percent : 100);
    put(lights[i] && number && l->form == FG_FORM_LIGHT);
    for (uint8_t line = 0; line < output->lines; line++) {
        const fg_text text = fg_display_line(run, i, line);
        put(text.size);
        for (uint16_t k = 0; k < text.size; k++) put((unsigned char)text.at[k]);
    }
}

/* Every sensor's value, and which outputs changed. */
static void report_details(void (*put)(int32_t number))
{
    const fg_gate_sizes *n = &file.program.gate.size;
    for (uint16_t i = 0; i < n->sensors; i++) {
        fg_value value = 0;
        const bool is_there = fg_sensor_value(run, i, &value);
        put(is_there);
        put(value);
    }
    for (uint16_t i = 0; i < n->outputs; i++)
        put(file.program.gate.outputs[i].kind == FG_OUTPUT_DISPLAY || fg_output_at(run, i)->changed);
}

void subject_report(void (*put)(int32_t number))
{
    const fg_program *p = &file.program;
    for (uint32_t i = 0; i < p->declared_count; i++) {
        const fg_declared *d = &p->declared[i];
        const bool asked = d->slot != FG_INDEX_NONE && d->kind != FG_KIND_SENSOR && d->kind != FG_KIND_COUNT;
        if (asked && !fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) put(fg_answer(run, d->slot));
    }
    for (uint32_t i = 0; i < p->declared_count; i++)
        if (p->declared[i].kind == FG_KIND_COUNT) put(fg_count_value(run, p->declared[i].index));
    for (uint16_t i = 0; i < p->gate.size.outputs; i++) report_output(i, put);
    if (puts_details) report_details(put);
}
