/* SPDX-License-Identifier: MIT */
/* All commands, in the order of their help. */
#include "shell.h"

static const tool_command *const commands[] = {
    &command_new,     &command_check, &command_tidy, &command_replay, &command_live, &command_trial, &command_promise,
    &command_pretend, &command_tune,  &command_why,  &command_draw,   &command_page, &command_bake,  &command_lsp};

/* NOLINTNEXTLINE(bugprone-sizeof-expression): these are pointers */
enum { COMMANDS = sizeof commands / sizeof *commands };

const tool_command *tool_command_at(size_t i) { return i < COMMANDS ? commands[i] : NULL; }
