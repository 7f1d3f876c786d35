/* SPDX-License-Identifier: MIT */
/* replay_corpus FOLDER: the saved inputs of a fuzz target, once each, without a fuzzer. */
#include "../support/case_file.h"

#include <dirent.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

/* Read before the first is tried: a target may change the folder it is in. */
typedef struct input {
    char *text;
    size_t size;
} input;

int main(int argc, char **argv)
{
    enum { MOST = 20000 };
    static input inputs[MOST];
    size_t count = 0;
    DIR *folder = argc == 2 ? opendir(argv[1]) : NULL;
    for (const struct dirent *entry; folder && count < MOST && (entry = readdir(folder));) {
        char path[4096];
        if (*entry->d_name == '.') continue;
        snprintf(path, sizeof path, "%s/%s", argv[1], entry->d_name);
        inputs[count].text = read_whole(path, &inputs[count].size);
        if (inputs[count++].text) continue;
        fprintf(stderr, "%s cannot be read\n", path);
        return 1;
    }
    if (folder) (void)closedir(folder);
    for (size_t i = 0; i < count; i++) {
        (void)LLVMFuzzerTestOneInput((const uint8_t *)inputs[i].text, inputs[i].size);
        free(inputs[i].text);
    }
    fprintf(stderr, "%zu inputs\n", count);
    return count ? 0 : 1;
}
