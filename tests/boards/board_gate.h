/* SPDX-License-Identifier: MIT */
/* The gate that a board plays and the memory of its run: the small gate, or with -DBOARD_TABLES="NAME.h"
 * -DBOARD_NAME=NAME baked tables, whose header knows how much memory a run needs on this chip. */
#ifndef BOARD_GATE_H
#define BOARD_GATE_H

#include "small_gate.h"

#ifdef BOARD_TABLES
#include BOARD_TABLES
#define BOARD_JOINED(name, what) name##what
#define BOARD_WORD(name, what)   BOARD_JOINED(name, what)
#define BOARD_GATE               BOARD_WORD(BOARD_NAME, _gate)
typedef BOARD_WORD(BOARD_NAME, _memory) board_memory;
#else
#define BOARD_GATE small_gate
typedef struct board_memory {
    void *aligned[900 / sizeof(void *)];
} board_memory;
#endif

#endif
