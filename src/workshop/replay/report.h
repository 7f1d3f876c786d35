/* SPDX-License-Identifier: MIT */
/* What a report keeps of single cells. */
#ifndef FICKLEGATE_WORKSHOP_REPORT_H
#define FICKLEGATE_WORKSHOP_REPORT_H

#include <ficklegate/replay.h>

/* A cell that is no reading of `input`. */
void fg_report_unreadable(fg_replay_report *report, const fg_declared *input, fg_text cell, uint64_t line);
/* A reading of `sensor`, in case it is finer than its step. */
void fg_report_finer(fg_replay_report *report, const fg_declared *sensor, fg_text cell, uint64_t line);

/* A start of a pulse that came to nothing at this time; `spent`: it waits for `again`, else it is stopped. */
void fg_report_refused(fg_replay_report *report, const fg_program *program, uint16_t pulse, bool spent, int64_t t_ms);

#endif
