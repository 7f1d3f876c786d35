/* SPDX-License-Identifier: MIT */
/* Messages to the client. */
#include "lsp.h"

#include <stdlib.h>
#include <string.h>

void lsp_send(json_t *message)
{
    char *text = message ? json_dumps(message, JSON_COMPACT | JSON_PRESERVE_ORDER) : NULL;
    if (text) printf("Content-Length: %zu\r\n\r\n%s", strlen(text), text);
    fflush(stdout);
    free(text);
    json_decref(message);
}

void lsp_notify(const char *method, json_t *params)
{
    lsp_send(json_pack("{s:s, s:s, s:o}", "jsonrpc", "2.0", "method", method, "params", params));
}
