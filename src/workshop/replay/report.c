/* SPDX-License-Identifier: MIT */
/* What a report keeps of single cells: how many, and the first. */
#include "workshop/replay/report.h"

#include "workshop/base/buffer.h"

#include <string.h>

void fg_report_unreadable(fg_replay_report *report, const fg_declared *input, fg_text cell, uint64_t line)
{
    if (report->unreadable++) return;
    report->unreadable_line = line;
    fg_text_keep(report->unreadable_cell, sizeof report->unreadable_cell, cell);
    fg_text_keep(report->unreadable_name, sizeof report->unreadable_name, input->name);
}

/* How many decimals a reading needs, if those of its sensor's step are too few; else 0. Nearly every cell is told apart
 * by what stands behind its point: no more digits than the step has, and no exponent. */
static uint8_t finer_decimals(fg_text cell, uint8_t decimals)
{
    const char *point = memchr(cell.at, '.', cell.size);
    const bool plain = !memchr(cell.at, 'e', cell.size) && !memchr(cell.at, 'E', cell.size);
    if (plain && (!point || (size_t)(cell.at + cell.size - point) <= decimals + 1u)) return 0;
    fg_value exact;
    uint8_t needed = 0;
    for (int more = decimals + 1; more <= FG_DECIMALS_MOST; more++)
        if (fg_value_read(cell.at, cell.size, (uint8_t)more, &exact) == FG_OK && exact % 10) needed = (uint8_t)more;
    return needed;
}

void fg_report_finer(fg_replay_report *report, const fg_declared *sensor, fg_text cell, uint64_t line)
{
    const uint8_t needed = finer_decimals(cell, sensor->decimals);
    if (!needed) return;
    if (!report->finer++) {
        report->finer_line = line;
        report->finer_sensor = sensor->index;
        fg_text_keep(report->finer_name, sizeof report->finer_name, sensor->name);
        fg_text_keep(report->finer_cell, sizeof report->finer_cell, cell);
    }
    if (sensor->index == report->finer_sensor && needed > report->finer_decimals) report->finer_decimals = needed;
}

void fg_report_refused(fg_replay_report *report, const fg_program *program, uint16_t pulse, bool spent, int64_t t_ms)
{
    const fg_pulser *p = &program->gate.pulses[pulse];
    const fg_span span = program->op_sources[spent ? p->again : p->stop].span;
    const fg_text condition = {program->sources[span.source].text.at + span.at, span.size};
    if (report->refused++) return;
    report->refused_ms = t_ms;
    for (uint32_t i = 0; i < program->declared_count; i++)
        if (program->declared[i].kind == FG_KIND_PULSE && program->declared[i].index == pulse)
            fg_text_keep(report->refused_name, sizeof report->refused_name, program->declared[i].name);
    char shown[60];
    fg_text_keep(shown, sizeof shown, condition);
    snprintf(report->refused_why, sizeof report->refused_why,
             spent ? "it waits for %s before it can start again" : "%s keeps it from starting", shown);
}
