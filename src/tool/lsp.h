/* SPDX-License-Identifier: MIT */
/* fickle lsp, the Language Server Protocol 3.17: what its files share. lsp.c listens, lsp_messages.c speaks,
 * lsp_documents.c keeps the texts that are being edited, lsp_answers.c knows what is asked about them. */
#ifndef FICKLEGATE_TOOL_LSP_H
#define FICKLEGATE_TOOL_LSP_H

#include "tool.h"

#include <ficklegate/edit.h>
#include <ficklegate/promise.h>

#include <jansson.h>

/* What a lens said of a trial or promise when it was run last. */
typedef struct lsp_ran {
    bool promise;
    uint32_t number;
    char *said;
    json_t *failed; /* diagnostics */
} lsp_ran;

/* A text that is being edited. */
typedef struct lsp_document {
    struct lsp_document *next;
    char *uri, *path;
    char *text; /* ends in NUL */
    size_t size;
    int64_t version;
    bool stale;     /* it changed since it was compiled */
    bool open_gate; /* `gate` has to be closed */
    fg_gate_file gate;
    lsp_ran *ran; /* the last one has `said` NULL */
    size_t ran_count;
} lsp_document;

typedef struct lsp_server {
    lsp_document *documents;
    bool utf8; /* places count bytes, else units of UTF-16 */
    bool initialized, shut_down, exits, lens_refreshes;
    bool unpublished; /* a document changed since all was told */
    int64_t next_id;  /* of requests to the client */
    fg_open_text *open;
} lsp_server;

/* A document as its own gate, or as a part of the one that includes it. */
typedef struct lsp_view {
    lsp_document *document;
    const fg_program *program;
    const fg_gate_file *gate;
    uint16_t source;
} lsp_view;

/* lsp_documents.c. False, or NULL: there is no memory or no such document. */
bool lsp_document_open(lsp_server *s, const char *uri, const char *text, size_t size, int64_t version);
bool lsp_document_change(lsp_server *s, lsp_document *d, const json_t *changes, int64_t version);
void lsp_document_close(lsp_server *s, const char *uri);
lsp_document *lsp_document_find(const lsp_server *s, const char *uri);
/* Compiles whatever changed, and what includes it. */
bool lsp_documents_compile(lsp_server *s);
/* The document as it is seen. False: it was not compiled. */
bool lsp_view_of(const lsp_server *s, lsp_document *d, lsp_view *view);
void lsp_document_forget_runs(lsp_document *d);
void lsp_documents_end(lsp_server *s);

/* Places: bytes of a text to lines and characters from 0 on, and back; what lies outside is its end. */
uint32_t lsp_offset_of(const lsp_server *s, fg_text text, const json_t *position);
json_t *lsp_position_of(const lsp_server *s, fg_text text, uint32_t to);
json_t *lsp_range_of(const lsp_server *s, fg_text text, fg_span span);
/* The URI of a file, for free(); NULL: no memory. */
char *lsp_uri_of(const char *path);

/* lsp_answers.c. NULL: no memory. A request that has no answer is answered with null. */
json_t *lsp_diagnostics(const lsp_server *s, const lsp_view *view);
/* NULL: there is no such method. */
typedef json_t *lsp_answer(lsp_server *s, const json_t *params);
lsp_answer *lsp_answer_to(const char *method);
json_t *lsp_capabilities(const lsp_server *s);
/* Publishes what is known of all documents. */
void lsp_publish(lsp_server *s);

/* lsp_messages.c: sends a message; takes it. */
void lsp_send(json_t *message);
void lsp_notify(const char *method, json_t *params);

#endif
