/* SPDX-License-Identifier: MIT */
/* A small gate as tables written by hand, for boards without the language. small_gate.c says in the language what it
 * is. */
#ifndef TESTS_SMALL_GATE_H
#define TESTS_SMALL_GATE_H

#include <ficklegate/gate.h>

enum { SMALL_DEPTH, SMALL_BILGE, SMALL_WIND, SMALL_VANE, SMALL_SENSORS };
enum { SMALL_GREEN, SMALL_BOOM, SMALL_HORN, SMALL_PUMP, SMALL_OUTPUTS };

extern const fg_gate small_gate;

/* The same in the language. */
extern const char small_gate_text[];

/* Plays readings on, one step below and one above every limit of a gate, with and without its margin, faults and uneven
 * times between, and returns the hash of all answers and levels: FNV-1a, 32 bits. `run`: just started. */
uint32_t small_gate_hash(const fg_gate *gate, fg_run *run, fg_time from);

#endif
