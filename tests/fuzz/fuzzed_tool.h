/* SPDX-License-Identifier: MIT */
/* The tool within a fuzzer: it ends without ending the process, and waits for nothing. */
#ifndef FICKLEGATE_TESTS_FUZZED_TOOL_H
#define FICKLEGATE_TESTS_FUZZED_TOOL_H

#include "tool/tool.h"

#include <setjmp.h>

/* Where wrong words on the command line lead to. */
extern jmp_buf fuzz_out_of_it;

/* Before each run. */
void fuzz_tool_begin(void);

#endif
