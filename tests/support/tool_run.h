/* SPDX-License-Identifier: MIT */
/* The tool, run as a person would, in a folder of its own. The program is the environment's or FICKLE. */
#ifndef TESTS_TOOL_RUN_H
#define TESTS_TOOL_RUN_H

#include <stdbool.h>

/* Fixtures: a new folder under /tmp with an empty folder `sub`, and away with it. */
void enter_folder(void);
void leave_folder(void);

/* Runs `fickle` with these words through the shell; standard output and error go to stdout.txt and stderr.txt, standard
 * input is stdin.txt if that is there. Returns its status. */
int run_fickle(const char *words);

/* The same with anything in front of the program, such as `HOME=. `. */
int run_fickle_with(const char *before, const char *words);

bool exists(const char *path);

#endif
