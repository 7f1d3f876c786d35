/* SPDX-License-Identifier: MIT */
/* A gate as const tables: its source. */
#ifndef FICKLEGATE_WORKSHOP_BAKE_TABLES_TABLES_H
#define FICKLEGATE_WORKSHOP_BAKE_TABLES_TABLES_H

#include "workshop/bake/names.h"

/* All tables and the gate, into b->out. */
void fg_bake_source(baker *b);

#endif
