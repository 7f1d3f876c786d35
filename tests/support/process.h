/* SPDX-License-Identifier: MIT */
/* Programs that run while the test looks at them. */
#ifndef TESTS_PROCESS_H
#define TESTS_PROCESS_H

#include <sys/types.h>

/* Starts words of the shell in the background; standard output and error go to NAME.out and NAME.err, standard input
 * comes from NAME.in, a pipe that this test holds open (`write_to`). */
pid_t start_process(const char *name, const char *words);
/* Starts `fickle` with these words. */
pid_t start_fickle(const char *name, const char *words);
void write_to(const char *name, const char *text);
void close_input(const char *name);

/* Waits until a file holds a text, at most twenty seconds; fails with what is in it. */
void await_text(const char *file, const char *text);
/* How often it holds it now. */
int count_text(const char *file, const char *text);
/* Waits until there is such a file. */
void await_file(const char *path);

/* Sends a signal (0: none) and waits for the end: the exit status, or minus the signal that ended it. */
int end_process(pid_t process, int signal_number);

void pause_ms(int ms);

#endif
