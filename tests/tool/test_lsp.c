/* SPDX-License-Identifier: MIT */
/* The language server, as an editor meets it: messages go in by a pipe, and what comes out is looked at. */
#include "../support/case_file.h"
#include "../support/suite.h"

#include <ficklegate/files.h>
#include <jansson.h>

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

typedef struct client {
    pid_t server;
    FILE *to, *from;
    int id, version, told_version; /* of what changed last, and of what was told last */
    json_t *told;                  /* diagnostics by URI, as they were told last */
} client;

static client start(void)
{
    int in[2], out[2];
    client c = {.told = json_object()};
    ck_assert_int_eq(pipe(in), 0);
    ck_assert_int_eq(pipe(out), 0);
    c.server = fork();
    ck_assert_int_ge(c.server, 0);
    if (!c.server) {
        dup2(in[0], STDIN_FILENO);
        dup2(out[1], STDOUT_FILENO);
        close(in[1]);
        close(out[0]);
        execl(FICKLE, "fickle", "lsp", (char *)NULL);
        _exit(127);
    }
    close(in[0]);
    close(out[1]);
    c.to = fdopen(in[1], "w");
    c.from = fdopen(out[0], "r");
    ck_assert(c.to && c.from);
    return c;
}

static void send_text(client *c, const char *text)
{
    fprintf(c->to, "Content-Length: %zu\r\n\r\n%s", strlen(text), text);
    fflush(c->to);
}

static void send_json(client *c, json_t *message)
{
    ck_assert_ptr_nonnull(message);
    char *text = json_dumps(message, JSON_COMPACT);
    send_text(c, text);
    free(text);
    json_decref(message);
}

static json_t *receive(client *c)
{
    size_t size = 0;
    char line[200];
    while (fgets(line, sizeof line, c->from) && strcmp(line, "\r\n") != 0) sscanf(line, "Content-Length: %zu", &size);
    ck_assert_msg(size > 0, "the server said nothing");
    char *text = malloc(size);
    ck_assert_uint_eq(fread(text, 1, size, c->from), size);
    json_t *message = json_loadb(text, size, 0, NULL);
    free(text);
    ck_assert_ptr_nonnull(message);
    const char *method = json_string_value(json_object_get(message, "method"));
    const json_t *params = json_object_get(message, "params");
    if (method && !strcmp(method, "textDocument/publishDiagnostics"))
        json_object_set(c->told, json_string_value(json_object_get(params, "uri")),
                        json_object_get(params, "diagnostics"));
    if (method && !strcmp(method, "textDocument/publishDiagnostics"))
        c->told_version = (int)json_integer_value(json_object_get(params, "version"));
    return message;
}

/* The answer to a message with an id; what is told meanwhile is kept. */
static json_t *answer(client *c)
{
    for (;;) {
        json_t *message = receive(c);
        const bool is = !json_object_get(message, "method");
        if (is) return message;
        json_decref(message);
    }
}

static json_t *ask(client *c, const char *method, json_t *params)
{
    send_json(c, json_pack("{s:s, s:i, s:s, s:o}", "jsonrpc", "2.0", "id", ++c->id, "method", method, "params",
                           params ? params : json_object()));
    json_t *message = answer(c), *result = json_incref(json_object_get(message, "result"));
    ck_assert_int_eq(json_integer_value(json_object_get(message, "id")), c->id);
    ck_assert_msg(result != NULL, "%s: %s", method, json_dumps(message, 0));
    json_decref(message);
    return result;
}

static void note(client *c, const char *method, json_t *params)
{
    send_json(c, json_pack("{s:s, s:s, s:o}", "jsonrpc", "2.0", "method", method, "params", params));
}

static void open_document(client *c, const char *uri, const char *text)
{
    note(c, "textDocument/didOpen",
         json_pack("{s:{s:s, s:i, s:s, s:s}}", "textDocument", "uri", uri, "version", 1, "languageId", "gate", "text",
                   text));
}

static void change(client *c, const char *uri, int line, int from, int to, const char *text)
{
    note(c, "textDocument/didChange",
         json_pack("{s:{s:s, s:i}, s:[{s:{s:{s:i, s:i}, s:{s:i, s:i}}, s:s}]}", "textDocument", "uri", uri, "version",
                   2, "contentChanges", "range", "start", "line", line, "character", from, "end", "line", line,
                   "character", to, "text", text));
}

static void initialize(client *c, const char *encoding)
{
    json_decref(
        ask(c, "initialize", json_pack("{s:{s:{s:[s]}}}", "capabilities", "general", "positionEncodings", encoding)));
}

/* Asks, shuts down, ends; the status is that of a client that behaved. */
static void end(client *c)
{
    int status;
    json_decref(ask(c, "shutdown", NULL));
    note(c, "exit", json_object());
    ck_assert_int_eq(waitpid(c->server, &status, 0), c->server);
    ck_assert_int_eq(status, 0);
    fclose(c->to);
    fclose(c->from);
    json_decref(c->told);
}

static json_t *at(const char *uri, int line, int character)
{
    return json_pack("{s:{s:s}, s:{s:i, s:i}, s:s, s:{s:b}, s:{s:{s:i, s:i}, s:{s:i, s:i}}}", "textDocument", "uri",
                     uri, "position", "line", line, "character", character, "newName", "water", "context",
                     "includeDeclaration", 1, "range", "start", "line", line, "character", character, "end", "line",
                     line, "character", character);
}

#define URI "file:///tmp/fickle-lsp/a.gate"

static const char gate[] = "every 100ms\n"
                           "sensor t { unit \xC2\xB0\x43; step 0.1 }\n"
                           "bands tide from t { low | 20 | high; margin 1 }\n"
                           "condition wet = tide is high\n"
                           "lamp l { on when wet and tide is hihg }\n"
                           "trial \"a\" { readings \"s\"; expect wet never; expect not wet at 1s }\n"
                           "scene \"s\" { lasts 2s; t ramps 0 to 30 from 0s to 1900ms }\n"
                           "promise \"p\" { wet never while tide is low }\n";

/* What is asked of that gate, and what is in the answer. */
static const struct {
    const char *method;
    int line, character;
    const char *in[3], *not_in;
} questions[] = {
    {"textDocument/hover", 2, 7, {"bands tide, in \xC2\xB0\x43, in steps of 0.1", "low | 20 | high"}, NULL},
    {"textDocument/hover", 0, 2, {"null"}, NULL},
    {"textDocument/hover", 1, 22, {"whole steps of this size", "\"character\":20"}, NULL},
    {"textDocument/hover", 2, 40, {"holds this much beyond its limits"}, NULL},
    {"textDocument/hover", 2, 46, {"null"}, NULL},
    {"textDocument/hover", 6, 24, {"null"}, NULL}, /* `to` of a row of a scene */
    {"textDocument/definition", 3, 18, {"\"line\":2,\"character\":6"}, NULL},
    {"textDocument/references", 3, 11, {"\"line\":4,\"character\":17", "\"line\":7,\"character\":14"}, NULL},
    {"textDocument/documentHighlight", 1, 7, {"\"line\":6,\"character\":22"}, "\"line\":4"},
    {"textDocument/prepareRename", 3, 16, {"\"placeholder\":\"tide\""}, NULL},
    {"textDocument/rename", 3, 16, {"\"newText\":\"water\"", "\"line\":7"}, NULL},
    {"textDocument/completion", 3, 24, {"\"low\"", "\"high\""}, "\"wet\""},
    {"textDocument/completion", 1, 10, {"\"unit\"", "\"median\""}, "\"inverted\""},
    {"textDocument/completion", 4, 9, {"\"on\"", "\"hold\""}, "\"forward\""},
    {"textDocument/completion", 4, 17, {"\"wet\"", "\"and\""}, "\"lamp\""},
    {"textDocument/completion", 8, 0, {"\"sensor\"", "\"promise\""}, "\"unit\""},
    {"textDocument/codeAction", 4, 33, {"did you mean 'high'?", "\"newText\":\"high\""}, NULL},
    {"textDocument/codeAction", 1, 3, {"[]"}, NULL},
    {"textDocument/documentSymbol", 0, 0, {"\"wet\"", "\"trial\"", "\"promise\""}, NULL},
    {"textDocument/foldingRange", 0, 0, {"[]"}, NULL},
    {"textDocument/formatting", 0, 0, {"sensor    t    { unit", "\\nbands     tide from t {"}, NULL},
    {"textDocument/semanticTokens/full", 0, 0, {"\"data\":[0,0,5,3,0"}, NULL},
    {"textDocument/codeLens", 0, 0, {"[]"}, NULL}, /* there is a mistake */
};

START_TEST(test_answers)
{
    client c = start();
    initialize(&c, "utf-16");
    open_document(&c, URI, gate);
    json_t *got = ask(&c, questions[_i].method, at(URI, questions[_i].line, questions[_i].character));
    char *text = json_dumps(got, JSON_COMPACT | JSON_ENCODE_ANY);
    for (size_t i = 0; i < 3 && questions[_i].in[i]; i++)
        ck_assert_msg(strstr(text, questions[_i].in[i]), "%s: no %s in %s", questions[_i].method, questions[_i].in[i],
                      text);
    if (questions[_i].not_in) ck_assert_msg(!strstr(text, questions[_i].not_in), "%s", text);
    free(text);
    json_decref(got);
    end(&c);
}
END_TEST

static json_t *diagnostics(client *c, const char *uri)
{
    json_decref(ask(c, "textDocument/hover", at(uri, 0, 0)));
    while (!json_object_get(c->told, uri) || c->told_version < c->version) json_decref(receive(c));
    return json_object_get(c->told, uri);
}

static void forget(client *c, const char *uri) { json_object_del(c->told, uri); }

/* What the text leaves to be worked out, and where. Of the range that is asked about only. */
START_TEST(test_hints)
{
    static const char text[] = "number a = 12 cm\n"
                               "number b = a / 3 + 1\n"
                               "sensor t { unit cm; step 0.1 }\n"
                               "sensor v { unit deg; circle 360 }\n"
                               "bands tide from t { low \"dry\" | b | fair \"\xC3\xA4\" | 20 | top }\n"
                               "bands way from v { north 350..10; south 170..190; else otherwise }\n"
                               "lamp l { on when tide is low or way is else and t over a }\n";
    static const struct {
        int line, character;
        const char *label;
    } wanted[] = {{1, 20, "= 5 cm"},
                  {4, 44, "15.0 cm wide"},
                  {5, 24, "21 deg wide"},
                  {5, 39, "21 deg wide"},
                  {5, 54, "318 deg wide"}};
    client c = start();
    initialize(&c, "utf-16");
    open_document(&c, URI, text);
    for (int last = 0; last < 8; last++) {
        size_t count = 0;
        json_t *got = ask(&c, "textDocument/inlayHint",
                          json_pack("{s:{s:s}, s:{s:{s:i, s:i}, s:{s:i, s:i}}}", "textDocument", "uri", URI, "range",
                                    "start", "line", 0, "character", 0, "end", "line", last, "character", 0));
        for (size_t i = 0; i < sizeof wanted / sizeof *wanted; i++) {
            if (wanted[i].line >= last) continue;
            const json_t *hint = json_array_get(got, count++), *position = json_object_get(hint, "position");
            ck_assert_str_eq(json_string_value(json_object_get(hint, "label")), wanted[i].label);
            ck_assert_int_eq(json_integer_value(json_object_get(position, "line")), wanted[i].line);
            ck_assert_int_eq(json_integer_value(json_object_get(position, "character")), wanted[i].character);
        }
        ck_assert_uint_eq(json_array_size(got), count);
        json_decref(got);
    }
    end(&c);
}
END_TEST

/* A mistake, its fix, a run of the trial from its lens, a promise; and a name in UTF-8 and in UTF-16. */
START_TEST(test_session)
{
    client c = start();
    initialize(&c, _i ? "utf-8" : "utf-16");
    open_document(&c, URI, gate);
    json_t *told = diagnostics(&c, URI);
    ck_assert_uint_eq(json_array_size(told), 1);
    ck_assert_str_eq(json_string_value(json_object_get(json_array_get(told, 0), "code")), "unknown-name");
    forget(&c, URI);
    change(&c, URI, 4, 33, 37, "high");
    ck_assert_uint_eq(json_array_size(diagnostics(&c, URI)), 0);
    /* behind the sign for degrees places differ */
    forget(&c, URI);
    change(&c, URI, 1, _i ? 21 : 20, _i ? 25 : 24, "stop");
    told = diagnostics(&c, URI);
    ck_assert_str_eq(json_string_value(json_object_get(json_array_get(told, 0), "code")), "unknown-word");
    forget(&c, URI);
    change(&c, URI, 1, _i ? 21 : 20, _i ? 25 : 24, "step");
    ck_assert_uint_eq(json_array_size(diagnostics(&c, URI)), 0);
    static const char *const said[] = {"\"held 1 of 2\"", "\"holds 1 of 1\""};
    json_t *lenses = ask(&c, "textDocument/codeLens", at(URI, 0, 0));
    ck_assert_uint_eq(json_array_size(lenses), 2);
    for (size_t i = 0; i < 2; i++) {
        forget(&c, URI);
        json_t *command = json_object_get(json_array_get(lenses, i), "command");
        json_t *got = ask(&c, "workspace/executeCommand", json_incref(command));
        char *text = json_dumps(got, JSON_ENCODE_ANY);
        ck_assert_str_eq(text, said[i]);
        free(text);
        json_decref(got);
        ck_assert_uint_eq(json_array_size(json_object_get(c.told, URI)), 1); /* the row that failed */
    }
    json_decref(lenses);
    end(&c);
}
END_TEST

/* An included file that is being edited counts as it is in the editor, and a name is renamed in both. */
START_TEST(test_includes)
{
    char folder[] = "/tmp/fickle-lsp-XXXXXX", uris[2][80], path[80];
    ck_assert_ptr_nonnull(mkdtemp(folder));
    snprintf(path, sizeof path, "%s/part.gate", folder);
    write_whole(path, "flag other\n", 11);
    snprintf(uris[0], sizeof uris[0], "file://%s/whole.gate", folder);
    snprintf(uris[1], sizeof uris[1], "file://%s/part.gate", folder);
    client c = start();
    initialize(&c, "utf-16");
    open_document(&c, uris[0], "include \"part.gate\"\nlamp l { on when key }\n");
    ck_assert_uint_eq(json_array_size(diagnostics(&c, uris[0])), 1); /* no key */
    forget(&c, uris[0]);
    open_document(&c, uris[1], "flag key\n");
    ck_assert_uint_eq(json_array_size(diagnostics(&c, uris[0])), 0);
    ck_assert_uint_eq(json_array_size(diagnostics(&c, uris[1])), 0); /* seen as a part: it is used */
    json_t *got = ask(&c, "textDocument/rename", at(uris[1], 0, 6));
    ck_assert_uint_eq(json_object_size(json_object_get(got, "changes")), 2);
    json_decref(got);
    end(&c);
    unlink(path);
    rmdir(folder);
}
END_TEST

/* A name that a text shows is renamed in it, also behind a quote; the sharp of a note begins no comment. */
START_TEST(test_in_texts)
{
    static const char *const text = "sensor t\nflag key\nbuzzer h {\n    C#5 when key }\ndisplay d {\n    size 16x2\n"
                                    "    show \"a \"\"b\"\" {t}\"\n}\n";
    client c = start();
    initialize(&c, "utf-16");
    open_document(&c, URI, text);
    json_t *got = ask(&c, "textDocument/rename", at(URI, 0, 7));
    char *said = json_dumps(got, JSON_COMPACT);
    ck_assert_msg(strstr(said, "{\"line\":6,\"character\":19}") != NULL, "%s", said);
    free(said);
    json_decref(got);
    got = ask(&c, "textDocument/foldingRange", at(URI, 0, 0));
    said = json_dumps(got, JSON_COMPACT);
    ck_assert_str_eq(said, "[{\"startLine\":2,\"endLine\":2},{\"startLine\":4,\"endLine\":6}]");
    free(said);
    json_decref(got);
    end(&c);
}
END_TEST

/* What is no message is refused, and the server goes on. */
START_TEST(test_nonsense)
{
    static const char *const messages[] = {"{", "[]", "{\"jsonrpc\":\"2.0\",\"id\":\"x\",\"method\":\"a/b\"}",
                                           "{\"id\":7,\"method\":\"textDocument/hover\",\"params\":7}"};
    client c = start();
    json_t *early;
    send_text(&c, "{\"jsonrpc\":\"2.0\",\"id\":5,\"method\":\"textDocument/hover\",\"params\":{}}");
    early = answer(&c);
    ck_assert_int_eq(json_integer_value(json_object_get(json_object_get(early, "error"), "code")), -32002);
    json_decref(early);
    initialize(&c, "utf-16");
    open_document(&c, URI, gate);
    for (size_t i = 0; i + 1 < sizeof messages / sizeof *messages; i++) {
        send_text(&c, messages[i]);
        json_t *refused = answer(&c);
        ck_assert_msg(json_object_get(refused, "error") != NULL, "%s", messages[i]);
        json_decref(refused);
    }
    fputs("Content-Length: 0\r\n\r\nX-Other: 1\r\n\r\n", c.to);
    static const int far[][2] = {{-1, -1}, {100000, 3}, {2, 100000}, {2147483647, 2147483647}};
    static const char *const methods[] = {"textDocument/hover", "textDocument/completion", "textDocument/rename",
                                          "textDocument/codeAction", "textDocument/references"};
    for (size_t i = 0; i < sizeof far / sizeof *far; i++)
        for (size_t k = 0; k < sizeof methods / sizeof *methods; k++)
            json_decref(ask(&c, methods[k], at(URI, far[i][0], far[i][1])));
    json_decref(ask(&c, "textDocument/hover", at("file:///not/open", 0, 0)));
    change(&c, URI, 100000, 5, 2, "x");
    change(&c, "file:///not/open", 0, 0, 0, "x");
    json_decref(ask(&c, "workspace/executeCommand",
                    json_pack("{s:s, s:[s, i]}", "command", "fickle.trial", "arguments", URI, 99)));
    end(&c);
}
END_TEST

/* A request that is cancelled before its turn is not worked out; others are. */
START_TEST(test_cancelled)
{
    static const char ask_format[] =
        "{\"jsonrpc\":\"2.0\",\"id\":%s,\"method\":\"textDocument/hover\",\"params\":{"
        "\"textDocument\":{\"uri\":\"" URI "\"},\"position\":{\"line\":2,\"character\":7}}}",
                      cancel_format[] = "{\"jsonrpc\":\"2.0\",\"method\":\"$/cancelRequest\",\"params\":{\"id\":%s}}";
    static const char *const ids[] = {"70", "\"a\"", "71", "70.5"};
    char all[4000] = "", text[400];
    client c = start();
    initialize(&c, "utf-16");
    open_document(&c, URI, gate);
    for (size_t i = 0; i < 6; i++) { /* three questions, of which two are cancelled, and so is one that nobody asked */
        snprintf(text, sizeof text, i < 3 ? ask_format : cancel_format, ids[i < 3 ? i : i == 5 ? 3 : i - 3]);
        snprintf(all + strlen(all), sizeof all - strlen(all), "Content-Length: %zu\r\n\r\n%s", strlen(text), text);
    }
    fputs(all, c.to);
    fflush(c.to);
    for (size_t i = 0; i < 3; i++) {
        json_t *got = answer(&c), *id = json_loads(ids[i], JSON_DECODE_ANY, NULL);
        const json_int_t code = json_integer_value(json_object_get(json_object_get(got, "error"), "code"));
        ck_assert(json_equal(json_object_get(got, "id"), id));
        ck_assert_int_eq(code, i < 2 ? -32800 : 0);
        ck_assert(i < 2 || json_is_object(json_object_get(got, "result")));
        json_decref(id);
        json_decref(got);
    }
    end(&c);
}
END_TEST

static uint32_t state = 12345;

static uint32_t dice(uint32_t sides)
{
    state = state * 1664525u + 1013904223u;
    return (uint32_t)((uint64_t)(state >> 8) * sides >> 24);
}

/* What a process holds of memory, in kB. */
static long held_by(pid_t process)
{
    char path[40], line[200];
    long held = 0;
    snprintf(path, sizeof path, "/proc/%d/status", (int)process);
    FILE *status = fopen(path, "r");
    while (status && fgets(line, sizeof line, status)) sscanf(line, "VmRSS: %ld", &held);
    ck_assert(status && held > 0);
    fclose(status);
    return held;
}

/* Changes by chance, all over the harbour: what is told after some sixty is what the compiler says of that text. Now
 * and then the whole text is put back. FICKLEGATE_LSP_CHANGES: how many changes; the server, without sanitizers, does
 * not grow from a quarter of them to the last. */
START_TEST(test_many_changes)
{
    enum { CHANGES = 60, ROUNDS_TO_WHOLE = 5 };
    const char *asked = getenv("FICKLEGATE_LSP_CHANGES");
    const int rounds = (asked ? atoi(asked) : 720) / CHANGES;
    long held = 0;
    static const char *const pieces[] = {"x", " ", "\n", "{", "}", ";", "\"", "# ", "12 cm", "tide is ", "and ", ""};
    size_t size, whole;
    char *text = read_whole(ROOT "/examples/harbour/harbour.gate", &whole), *now = malloc(whole + 100000);
    client c = start();
    initialize(&c, "utf-8");
    open_document(&c, URI, "");
    for (int round = 0; round < rounds; round++) {
        if (round % ROUNDS_TO_WHOLE == 0) {
            size = whole;
            memcpy(now, text, size);
            note(&c, "textDocument/didChange",
                 json_pack("{s:{s:s, s:i}, s:[{s:s}]}", "textDocument", "uri", URI, "version", ++c.version,
                           "contentChanges", "text", text));
        }
        for (int i = 0; i < CHANGES; i++) {
            const size_t from = dice((uint32_t)size), cut = dice(3), to = from + cut > size ? size : from + cut;
            const char *piece = pieces[dice(COUNT_OF(pieces))];
            int line = 0, line_to = 0;
            size_t begin = 0, begin_to = 0;
            for (size_t k = 0; k < to; k++) {
                if (now[k] != '\n') continue;
                if (k < from) line++, begin = k + 1;
                line_to++, begin_to = k + 1;
            }
            note(&c, "textDocument/didChange",
                 json_pack("{s:{s:s, s:i}, s:[{s:{s:{s:i, s:i}, s:{s:i, s:i}}, s:s}]}", "textDocument", "uri", URI,
                           "version", ++c.version, "contentChanges", "range", "start", "line", line, "character",
                           (int)(from - begin), "end", "line", line_to, "character", (int)(to - begin_to), "text",
                           piece));
            memmove(now + from + strlen(piece), now + to, size - to);
            memcpy(now + from, piece, strlen(piece));
            size = size - (to - from) + strlen(piece);
        }
        fg_gate_file wanted;
        fg_mistake mistake;
        forget(&c, URI);
        const json_t *told = diagnostics(&c, URI);
        (void)!fg_gate_file_of_text(&wanted, "/tmp/fickle-lsp/a.gate", (fg_text){now, size},
                                    (fg_settings){.promises = true}, &mistake);
        const fg_program *p = &wanted.program;
        ck_assert_uint_eq(json_array_size(told), p->finding_count);
        for (uint32_t i = 0; i < p->finding_count; i++)
            ck_assert_str_eq(json_string_value(json_object_get(json_array_get(told, i), "code")),
                             fg_finding_word(p->findings[i].code));
        fg_gate_file_close(&wanted);
        if (round == rounds / 4) held = held_by(c.server);
    }
    if (asked) ck_assert_int_lt(held_by(c.server), held + held / 4);
    end(&c);
    free(text);
    free(now);
}
END_TEST

/* A client that goes away without a word ends the server. */
START_TEST(test_gone)
{
    int status;
    client c = start();
    initialize(&c, "utf-16");
    open_document(&c, URI, gate);
    fclose(c.to);
    ck_assert_int_eq(waitpid(c.server, &status, 0), c.server);
    ck_assert_int_eq(status, 0);
    fclose(c.from);
    json_decref(c.told);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_set_timeout(tests, 600);
    tcase_add_loop_test(tests, test_answers, 0, COUNT_OF(questions));
    tcase_add_loop_test(tests, test_session, 0, 2);
    tcase_add_test(tests, test_hints);
    tcase_add_test(tests, test_includes);
    tcase_add_test(tests, test_in_texts);
    tcase_add_test(tests, test_nonsense);
    tcase_add_test(tests, test_cancelled);
    tcase_add_test(tests, test_many_changes);
    tcase_add_test(tests, test_gone);
}

int main(void) { return run_suite("lsp", fill); }
