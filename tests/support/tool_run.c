/* SPDX-License-Identifier: MIT */
#include "tool_run.h"

#include <check.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

static char folder[64];

void enter_folder(void)
{
    strcpy(folder, "/tmp/fickle-tool-XXXXXX");
    ck_assert_ptr_nonnull(mkdtemp(folder));
    ck_assert_int_eq(chdir(folder), 0);
    ck_assert_int_eq(mkdir("sub", 0700), 0); /* for files of cases that stand in a folder */
}

void leave_folder(void)
{
    char command[128];
    ck_assert_int_eq(chdir("/"), 0);
    snprintf(command, sizeof command, "rm -rf %s", folder);
    ck_assert_int_eq(system(command), 0);
}

int run_fickle_with(const char *before, const char *words)
{
    char command[4096];
    snprintf(command, sizeof command, "NO_COLOR=1 LC_ALL=C %s%s %s >stdout.txt 2>stderr.txt <%s", before, FICKLE, words,
             exists("stdin.txt") ? "stdin.txt" : "/dev/null");
    const int status = system(command);
    ck_assert_msg(WIFEXITED(status), "fickle %s did not end by itself", words);
    return WEXITSTATUS(status);
}

int run_fickle(const char *words) { return run_fickle_with("", words); }

bool exists(const char *path)
{
    struct stat about;
    return lstat(path, &about) == 0;
}
