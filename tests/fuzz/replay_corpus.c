/* replay_corpus FILE...: the saved inputs of a fuzz target, once each, without a fuzzer. */
#include "../support/case_file.h"

#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

int main(int argc, char **argv)
{
    for (int i = 1; i < argc; i++) {
        size_t size = 0;
        char *text = read_whole(argv[i], &size);
        if (!text) {
            fprintf(stderr, "%s cannot be read\n", argv[i]);
            return 1;
        }
        (void)LLVMFuzzerTestOneInput((const uint8_t *)text, size);
        free(text);
    }
    printf("%d inputs\n", argc - 1);
    return argc > 1 ? 0 : 1;
}
