/* SPDX-License-Identifier: MIT */
/* Any words behind `fickle`, over a gate and a recording that are there: it ends with a status and never anything else.
 * The words are separated by line ends; they have no slash, so that nothing is written elsewhere. */
#include "fuzzed_tool.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);
int fickle_main(int argc, char **argv);

static void begin(void)
{
    static char folder[] = "/dev/shm/fickle-fuzz-XXXXXX";
    static const char gate[] =
        "number cut = 5\nsensor d { unit cm; step 0.1 }\nflag k\nbands b from d { low | cut | high }\n"
        "lamp l { on when k and b is high }\nbuzzer z { A4 when k }\n"
        "scene \"s\" { lasts 1s; d ramps 0 to 9 from 0s to 1s }\n"
        "trial \"t\" { readings \"a.csv\"; expect k never }\n";
    static const char rows[] = "t_ms,d,k,seen\n0,1,0,low\n100,9,1,high\n200,8,1,high\n300,1,0,low\n";
    static bool begun;
    if (begun) return;
    begun = true;
    if (!mkdtemp(folder) || chdir(folder) != 0) abort();
    FILE *file = fopen("a.gate", "w");
    if (!file || fputs(gate, file) < 0 || fclose(file) != 0) abort();
    file = fopen("a.csv", "w");
    if (!file || fputs(rows, file) < 0 || fclose(file) != 0) abort();
    if (!freopen("/dev/null", "r", stdin) || !freopen("/dev/null", "w", stdout)) abort();
    (void)setenv("PATH", "", 1);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    enum { WORDS = 24 };
    static char text[1024], name[] = "fickle";
    char *words[WORDS + 2] = {name};
    int count = 1;
    begin();
    if (size >= sizeof text) return 0;
    memcpy(text, data, size);
    text[size] = '\0';
    for (size_t i = 0; i < size; i++)
        if (text[i] == '/' || text[i] == '\0') text[i] = '_';
    for (char *word = strtok(text, "\n"); word && count < WORDS; word = strtok(NULL, "\n")) words[count++] = word;
    fuzz_tool_begin();
    if (setjmp(fuzz_out_of_it) == 0) {
        const int status = fickle_main(count, words);
        if (status < 0 || status > 2) abort();
    }
    return 0;
}
