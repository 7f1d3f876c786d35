/* SPDX-License-Identifier: MIT */
/* fickle lsp: messages in and out, as the Language Server Protocol 3.17 has them (JSON-RPC 2.0 behind a header). */
#include "lsp.h"

#include <errno.h>
#include <inttypes.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

enum {
    MESSAGE_MOST = 64 << 20,
    PARSE_ERROR = -32700,
    INVALID = -32600,
    UNKNOWN = -32601,
    TOO_EARLY = -32002,
    CANCELLED = -32800
};

static void answer(const json_t *id, json_t *result)
{
    lsp_send(json_pack("{s:s, s:O, s:o}", "jsonrpc", "2.0", "id", id, "result", result ? result : json_null()));
}

static void refuse(const json_t *id, int code, const char *why)
{
    json_t *null = json_null();
    lsp_send(json_pack("{s:s, s:O, s:{s:i, s:s}}", "jsonrpc", "2.0", "id", id ? id : null, "error", "code", code,
                       "message", why));
}

/* ---- what comes ---- */

/* Bytes that came, of which the first `used` were read. */
typedef struct input {
    char *at;
    size_t size, used, room;
    bool over;
} input;

static bool more(input *in)
{
    enum { ROOM = 1 << 16 };
    if (in->used) memmove(in->at, in->at + in->used, in->size - in->used);
    in->size -= in->used;
    in->used = 0;
    if (in->room - in->size < ROOM) {
        char *at = realloc(in->at, 2 * in->room + ROOM);
        if (!at) return false;
        in->at = at;
        in->room = 2 * in->room + ROOM;
    }
    ssize_t got;
    do got = read(STDIN_FILENO, in->at + in->size, in->room - in->size);
    while (got < 0 && errno == EINTR && !tool_stopped);
    in->over = got <= 0;
    if (got > 0) in->size += (size_t)got;
    return got > 0;
}

/* The line of a header up to its end. False: it is not all there. */
static bool header_line(const input *in, size_t from, fg_text *line)
{
    const char *newline = memchr(in->at + from, '\n', in->size - from);
    if (!newline) return false;
    *line = (fg_text){in->at + from, (size_t)(newline - in->at) - from};
    if (line->size && line->at[line->size - 1] == '\r') line->size--;
    return true;
}

/* A whole message that is there. False: more has to come. */
static bool take(input *in, fg_text *message)
{
    static const char name[] = "content-length:";
    size_t at = in->used, length = 0;
    fg_text line;
    while (in->at && header_line(in, at, &line)) {
        at = (size_t)(line.at - in->at) + line.size;
        while (in->at[at] != '\n') at++;
        at++;
        if (line.size) {
            if (line.size > sizeof name && !strncasecmp(line.at, name, sizeof name - 1))
                length = strtoul(line.at + sizeof name - 1, NULL, 10);
            continue;
        }
        if (!length || length > MESSAGE_MOST) { /* nothing that could be a message: go on behind it */
            in->used = at;
            length = 0;
            continue;
        }
        if (in->size - at < length) return false;
        *message = (fg_text){in->at + at, length};
        in->used = at + length;
        return true;
    }
    return false;
}

static bool comes(void)
{
    struct pollfd ready = {.fd = STDIN_FILENO, .events = POLLIN};
    return poll(&ready, 1, 0) > 0 && ready.revents & POLLIN;
}

/* Has the client said more, which had better be heard before anything is worked out? */
static bool waits(const input *in) { return in->used < in->size || comes(); }

/* Has the client said meanwhile that it no longer wants this request answered? */
static bool is_cancelled(input *in, const json_t *id)
{
    static const char method[] = "$/cancelRequest";
    bool found = false;
    if (comes()) (void)more(in);
    input ahead = *in;
    for (fg_text text; !found && take(&ahead, &text);) {
        if (!memmem(text.at, text.size, method, sizeof method - 1)) continue;
        json_t *message = json_loadb(text.at, text.size, JSON_ALLOW_NUL, NULL);
        const char *is = json_string_value(json_object_get(message, "method"));
        found = is && !strcmp(is, method) && json_equal(json_object_get(json_object_get(message, "params"), "id"), id);
        json_decref(message);
    }
    return found;
}

/* ---- what is done ---- */

static const char *uri_of(const json_t *params)
{
    return json_string_value(json_object_get(json_object_get(params, "textDocument"), "uri"));
}

static bool initialize(lsp_server *s, const json_t *id, const json_t *params)
{
    size_t i;
    json_t *word;
    const json_t *capabilities = json_object_get(params, "capabilities");
    const json_t *encodings = json_object_get(json_object_get(capabilities, "general"), "positionEncodings");
    json_array_foreach(encodings, i, word) if (json_is_string(word) && !strcmp(json_string_value(word), "utf-8"))
        s->utf8 = true;
    s->lens_refreshes = json_is_true(
        json_object_get(json_object_get(json_object_get(capabilities, "workspace"), "codeLens"), "refreshSupport"));
    s->initialized = true;
    answer(id, lsp_capabilities(s));
    return true;
}

static bool note(lsp_server *s, const char *method, const json_t *params)
{
    const json_t *document = json_object_get(params, "textDocument");
    const char *uri = uri_of(params);
    const json_int_t version = json_integer_value(json_object_get(document, "version"));
    if (!strcmp(method, "exit")) s->exits = true;
    if (!s->initialized || !uri) return true;
    if (!strcmp(method, "textDocument/didOpen")) {
        const json_t *text = json_object_get(document, "text");
        return !json_is_string(text) ||
               lsp_document_open(s, uri, json_string_value(text), json_string_length(text), version);
    }
    if (!strcmp(method, "textDocument/didChange")) {
        lsp_document *d = lsp_document_find(s, uri);
        return !d || lsp_document_change(s, d, json_object_get(params, "contentChanges"), version);
    }
    if (!strcmp(method, "textDocument/didClose")) {
        json_t *none = json_pack("{s:s, s:[]}", "uri", uri, "diagnostics");
        lsp_document_close(s, uri);
        lsp_notify("textDocument/publishDiagnostics", none);
    }
    return true;
}

static bool request(lsp_server *s, input *in, const char *method, const json_t *id, const json_t *params)
{
    if (!strcmp(method, "initialize")) return initialize(s, id, params);
    if (!s->initialized) {
        refuse(id, TOO_EARLY, "initialize comes first");
    } else if (!strcmp(method, "shutdown")) {
        s->shut_down = true;
        answer(id, NULL);
    } else if (s->shut_down) {
        refuse(id, INVALID, "after shutdown only exit may come");
    } else if (is_cancelled(in, id)) {
        refuse(id, CANCELLED, "the client cancelled it");
    } else {
        lsp_answer *how = lsp_answer_to(method);
        if (!how)
            refuse(id, UNKNOWN, "there is no such method");
        else if (lsp_documents_compile(s))
            answer(id, how(s, params));
        else
            refuse(id, INVALID, "there is not enough memory");
    }
    return true;
}

/* False: there is no memory to go on with. */
static bool handle(lsp_server *s, input *in, fg_text text)
{
    json_error_t error;
    json_t *message = json_loadb(text.at, text.size, JSON_ALLOW_NUL, &error);
    const char *method = json_string_value(json_object_get(message, "method"));
    const json_t *id = json_object_get(message, "id"), *params = json_object_get(message, "params");
    bool good = true;
    if (!message)
        refuse(NULL, PARSE_ERROR, error.text);
    else if (!json_is_object(message) || (!method && !id))
        refuse(NULL, INVALID, "this is no message of JSON-RPC");
    else if (method && id)
        good = request(s, in, method, id, params);
    else if (method)
        good = note(s, method, params);
    json_decref(message);
    return good;
}

static int run(void *given, const fg_gate_file *file)
{
    lsp_server s = {0};
    input in = {0};
    bool good = true;
    (void)given;
    (void)file;
    while (good && !s.exits && !tool_stopped) {
        fg_text message;
        if (take(&in, &message)) {
            good = handle(&s, &in, message);
        } else if (s.unpublished && !waits(&in)) {
            if (lsp_documents_compile(&s)) lsp_publish(&s);
            s.unpublished = false;
        } else if (!more(&in)) {
            good = in.over;
            break;
        }
    }
    lsp_documents_end(&s);
    free(in.at);
    if (!good) tool_no_memory();
    return good && (s.shut_down || !s.exits) ? EXIT_WELL : EXIT_HELD_NOT;
}

enum { STDIO = TOOL_OPTION_OWN };

static const struct argp_option own_options[] = {
    {"stdio", STDIO, NULL, 0, "on standard input and output, as always", 0}, {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    (void)argument;
    if (key == ARGP_KEY_INIT) return tool_begin(state->input, state);
    return key == STDIO ? 0 : ARGP_ERR_UNKNOWN;
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .doc = "Talks to an editor by the Language Server Protocol, on standard input and output."
           "\vMistakes with their fixes, what a name is and where it stands, completion, renaming, one layout, and a "
           "press that runs a trial or asks a promise. editors/ says how to set one up."};

const tool_command command_lsp = {.name = "lsp",
                                  .use = "lsp",
                                  .line = "talks to an editor",
                                  .argp = &argp,
                                  .options_size = sizeof(tool_options),
                                  .forms = 1 << FORM_TEXT,
                                  .run = run};
