/* What the parts of baking share: bake.c has names and the header, bake_tables.c the tables. */
#ifndef FICKLEGATE_WORKSHOP_BAKER_H
#define FICKLEGATE_WORKSHOP_BAKER_H

#include "buffer.h"

#include <ficklegate/bake.h>

typedef struct baker {
    const fg_gate_file *file;
    const fg_program *program;
    const fg_gate *gate;
    const fg_bake_options *options;
    const char *name;
    FILE *out;
    bool open;              /* a table is being written */
    const char *tables[32]; /* those that were, by their name in the gate */
    size_t table_count;
} baker;

/* All tables and the gate. */
void fg_bake_source(baker *b);

#endif
