/* SPDX-License-Identifier: MIT */
/* What is played: a gate's straight code, or the engine on the same gate. After each step it puts everything that can
 * be asked of it, in one order: answers, counts, and of each output its level, colour, strength, kind of light and
 * texts. */
#ifndef SUBJECT_H
#define SUBJECT_H

#include <stdbool.h>
#include <stdint.h>

bool subject_start(int argc, char **argv);
void subject_feed(uint16_t sensor, int32_t value, bool counts, uint32_t at);
void subject_fault(uint16_t sensor, uint32_t at);
void subject_flag(uint16_t flag, bool yes, uint32_t at);
void subject_flag_fault(uint16_t flag, uint32_t at);
void subject_step(uint32_t now);
void subject_keep(void); /* as it is now, */
void subject_back(void); /* and so it is again */
/* The power is lost: what is saved is put, then it begins anew with that. With `damaged` a bit of it has turned. */
void subject_power(bool damaged, void (*put)(int32_t number));
void subject_report(void (*put)(int32_t number));
void subject_line(uint32_t now, void (*out)(void *context, char c)); /* of a gate that was baked with --report */

#endif
