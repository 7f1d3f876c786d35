/* SPDX-License-Identifier: MIT */
/* Recordings that were found for a gate: saved under a name of their own, and printed. */
#include "tool.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

static const char begins[] = "# fickle found: ";

/* True if this file may be written: it is not there, or was made here. */
static bool may_write(const char *path)
{
    char start[sizeof begins] = "";
    FILE *file = fopen(path, "r");
    if (!file) return true;
    const bool ours = fread(start, 1, sizeof begins - 1, file) == sizeof begins - 1 && !strcmp(start, begins);
    fclose(file);
    return ours;
}

char *tool_found_save(const char *folder, const char *name, fg_text about, fg_text recording)
{
    char *path = NULL, *whole = NULL;
    fg_mistake mistake;
    if (asprintf(&path, "%s%s%s.csv", folder ? folder : "", folder ? "/" : "", name) < 0) {
        tool_no_memory();
        return NULL;
    }
    const int size =
        asprintf(&whole, "%s%.*s\n%.*s", begins, (int)about.size, about.at, (int)recording.size, recording.at);
    const char *const paths[] = {path};
    const fg_text texts[] = {{whole, size < 0 ? 0 : (size_t)size}};
    bool good = false;
    if (size < 0) {
        tool_no_memory();
    } else if (!may_write(path)) {
        tool_say("%s: error: is there already, and was not made by fickle; move it, or name a folder with --save-to\n",
                 path);
    } else if (fg_files_write(paths, texts, 1, &mistake) != FG_OK) {
        tool_print_mistake(&mistake);
    } else {
        good = true;
    }
    if (size >= 0) free(whole);
    if (good) return path;
    free(path);
    return NULL;
}

uint64_t tool_found_limit(const char *argument, struct argp_state *state)
{
    char *end;
    const uint64_t limit = strtoull(argument, &end, 10);
    if (*end || end == argument || *argument == '-' || !limit || limit > UINT64_C(1000000000000))
        tool_wrong_use(state, "--limit needs a number of steps, as in 20000000, not '%s'", argument);
    return limit;
}

static fg_text line_at(fg_text text, size_t at)
{
    const char *end = memchr(text.at + at, '\n', text.size - at);
    return (fg_text){text.at + at, end ? (size_t)(end - text.at) - at : text.size - at};
}

static fg_text next_cell(fg_text *row)
{
    const char *comma = memchr(row->at, ',', row->size);
    const fg_text cell = {row->at, comma ? (size_t)(comma - row->at) : row->size};
    *row = comma ? (fg_text){comma + 1, row->size - cell.size - 1} : (fg_text){0};
    return cell;
}

static void print_reading(FILE *out, fg_text heading, fg_text row)
{
    (void)next_cell(&heading);
    fprintf(out, "    %9.3f s ", strtod(next_cell(&row).at, NULL) / 1000);
    while (heading.size) {
        const fg_text name = next_cell(&heading), cell = row.size ? next_cell(&row) : (fg_text){0};
        if (cell.size) fprintf(out, " %.*s %.*s", (int)name.size, name.at, (int)cell.size, cell.at);
    }
    fputc('\n', out);
}

/* The rows of the recording in which something is new, and the last one. */
void tool_found_print(FILE *out, fg_text recording)
{
    enum { ROWS = 12 };
    const fg_text heading = line_at(recording, 0);
    fg_text before = {0};
    size_t printed = 0, left = 0;
    for (size_t at = heading.size + 1; at < recording.size;) {
        const fg_text row = line_at(recording, at);
        fg_text cells = row;
        (void)next_cell(&cells);
        at += row.size + 1;
        const bool last = at >= recording.size;
        if (!last && before.size && fg_text_same(before, cells)) continue;
        before = cells;
        if (printed++ < ROWS || last)
            print_reading(out, heading, row);
        else
            left++;
    }
    if (left) fprintf(out, "    and %zu rows more, in the file\n", left);
}
