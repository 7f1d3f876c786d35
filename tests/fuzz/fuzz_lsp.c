/* SPDX-License-Identifier: MIT */
/* Any messages of an editor, one a line, behind those that begin a session and open a gate: the server answers, and
 * ends when there are no more. An input that begins with a C is taken as it is, headers and all. Trials are not run:
 * how long one takes is the gate's affair, and the target `workshop` has them. */
#include "fuzzed_tool.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

#define URI "file:///fickle-fuzz/a.gate"

static const char beginning[] =
    "{\"jsonrpc\":\"2.0\",\"id\":1,\"method\":\"initialize\",\"params\":{\"capabilities\":{}}}\n"
    "{\"jsonrpc\":\"2.0\",\"method\":\"textDocument/didOpen\",\"params\":{\"textDocument\":{\"uri\":\"" URI
    "\",\"version\":1,\"text\":\"every 100ms\\nnumber n = 2 + 18\\nsensor t { unit \xC2\xB0\x43; step 0.1 }\\nbands "
    "tide from t "
    "{ low | n | high; margin 1 }\\nlamp l { on when tide is hihg }\\npromise { tide is low never while t over n "
    "}\\n\"}}}\n";

/* All of it goes into a pipe that takes it at once. */
enum { MOST = 60000 };

static void put(int to, const char *text, size_t size)
{
    if (write(to, text, size) != (ssize_t)size) abort();
}

static void put_messages(int to, const char *text, size_t size)
{
    while (size) {
        char header[40];
        const char *newline = memchr(text, '\n', size);
        const size_t line = newline ? (size_t)(newline - text) : size;
        const int head = snprintf(header, sizeof header, "Content-Length: %zu\r\n\r\n", line);
        if (!memmem(text, line, "fickle.trial", strlen("fickle.trial"))) {
            put(to, header, (size_t)head);
            put(to, text, line);
        }
        text += line;
        size -= line;
        if (size) text++, size--;
    }
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static tool_options options;
    static FILE *nowhere;
    const char *text = (const char *)data;
    int ends[2];
    size_t lines = 0;
    for (size_t i = 0; i < size; i++) lines += data[i] == '\n';
    if (size + 40 * lines > MOST) return 0;
    if (pipe(ends)) abort();
    put_messages(ends[1], beginning, sizeof beginning - 1);
    if (size && *text == 'C')
        put(ends[1], text, size);
    else
        put_messages(ends[1], text, size);
    close(ends[1]);
    dup2(ends[0], STDIN_FILENO);
    close(ends[0]);
    if (!nowhere) nowhere = freopen("/dev/null", "w", stdout);
    fuzz_tool_begin();
    (void)command_lsp.run(&options, NULL);
    return 0;
}
