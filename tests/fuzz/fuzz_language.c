/* SPDX-License-Identifier: MIT */
/* Any bytes as a gate file: the compiler says yes or no, and touches only what it was lent. */
#include <ficklegate/language.h>

#include <stdlib.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    const size_t room = 200 * size + (1 << 17);
    const fg_language_input input = {
        .text = {(const char *)data, size}, .trial = size % 3 ? FG_TRIAL_NONE : 1, .promises = size % 2};
    fg_program program;
    void *memory = malloc(room);
    if (!memory) return 0;
    const fg_status status = fg_language_compile(&input, memory, room, &program);
    for (uint32_t i = 0; status == FG_ERROR_GATE && i < program.finding_count; i++)
        (void)fg_text_place(input.text, program.findings[i].span.at);
    free(memory);
    return 0;
}
