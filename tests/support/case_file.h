/* SPDX-License-Identifier: MIT */
/* Case files: `== name` begins a section, what follows up to the next is its text. */
#ifndef TESTS_CASE_FILE_H
#define TESTS_CASE_FILE_H

#include <stdbool.h>
#include <stddef.h>

typedef struct case_section {
    char *name, *text;
} case_section;

typedef struct case_file {
    char *all;
    case_section sections[24];
    size_t count;
} case_file;

bool case_file_read(const char *path, case_file *file);
void case_file_free(case_file *file);
/* The text of a section, or NULL. */
const char *case_file_text(const case_file *file, const char *name);

/* The *.case files of a folder in order, as full paths. */
typedef struct case_list {
    char **paths;
    size_t count;
} case_list;
/* The cases of a folder; where the environment has CASE, only those of this name, which may have * in it. */
case_list case_list_of(const char *folder);
void case_list_free(case_list *list);

/* A whole file, ended by NUL; NULL if it cannot be read. The caller frees it. */
char *read_whole(const char *path, size_t *size);
void write_whole(const char *path, const char *text, size_t size);

#endif
