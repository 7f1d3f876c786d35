/* SPDX-License-Identifier: MIT */
/* What is made of the commands and their options themselves: completion and manual pages. */
#ifndef FICKLEGATE_TOOL_SHELL_H
#define FICKLEGATE_TOOL_SHELL_H

#include "tool.h"

/* Command number `i`; NULL behind the last. */
const tool_command *tool_command_at(size_t i);
/* fickle complete WORD..., and fickle manual [COMMAND]: for the shells and the build, so no help speaks of them. */
int tool_complete(int count, char **words);
int tool_manual(const char *name);
/* fickle words: each word of the language and what it is, for the grammars of editors. */
int tool_words(void);

#endif
