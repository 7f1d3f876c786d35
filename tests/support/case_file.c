/* SPDX-License-Identifier: MIT */
#include "case_file.h"

#include <glob.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

char *read_whole(const char *path, size_t *size)
{
    FILE *file = fopen(path, "rb");
    char *text = NULL;
    size_t used = 0, room = 0, got = 0;
    if (!file) return NULL;
    do {
        if (room - used < 4097) {
            room = room ? room * 2 : 8192;
            text = realloc(text, room);
            if (!text) abort();
        }
        got = fread(text + used, 1, room - used - 1, file);
        used += got;
    } while (got);
    fclose(file);
    text[used] = '\0';
    if (size) *size = used;
    return text;
}

void write_whole(const char *path, const char *text, size_t size)
{
    FILE *file = fopen(path, "wb");
    if (!file || fwrite(text, 1, size, file) != size || fclose(file) != 0) {
        fprintf(stderr, "cannot write %s\n", path);
        abort();
    }
}

bool case_file_read(const char *path, case_file *file)
{
    *file = (case_file){.all = read_whole(path, NULL)};
    if (!file->all) return false;
    for (char *at = file->all; at;) {
        char *newline = strchr(at, '\n');
        if (strncmp(at, "== ", 3) == 0 && newline && file->count < 24) {
            *at = *newline = '\0';
            file->sections[file->count++] = (case_section){at + 3, newline + 1};
        }
        at = newline ? newline + 1 : NULL;
    }
    return file->count > 0;
}

void case_file_free(case_file *file) { free(file->all); }

const char *case_file_text(const case_file *file, const char *name)
{
    for (size_t i = 0; i < file->count; i++)
        if (strcmp(file->sections[i].name, name) == 0) return file->sections[i].text;
    return NULL;
}

case_list case_list_of(const char *folder)
{
    char pattern[512];
    glob_t found;
    case_list list = {0};
    const char *wanted = getenv("CASE");
    snprintf(pattern, sizeof pattern, "%s/%s.case", folder, wanted ? wanted : "*");
    if (glob(pattern, 0, NULL, &found) != 0) return list;
    list.paths = calloc(found.gl_pathc + 1, sizeof *list.paths);
    for (size_t i = 0; list.paths && i < found.gl_pathc; i++) {
        size_t size = strlen(found.gl_pathv[i]) + 1;
        list.paths[i] = malloc(size);
        if (!list.paths[i]) abort();
        memcpy(list.paths[i], found.gl_pathv[i], size);
        list.count++;
    }
    globfree(&found);
    return list;
}

void case_list_free(case_list *list)
{
    for (size_t i = 0; i < list->count; i++) free(list->paths[i]);
    free(list->paths);
}
