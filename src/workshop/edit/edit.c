/* SPDX-License-Identifier: MIT */
/* What stands at a place of a gate file, and what may stand there. Texts that are being written are looked at word by
 * word, since the compiler has no tree for half a row. */
#include "workshop/base/buffer.h"

#include <ficklegate/edit.h>
#include <ficklegate/number_lines.h>

#include <stdlib.h>
#include <string.h>

static bool is_letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; }
static bool is_digit(char c) { return c >= '0' && c <= '9'; }
static bool is_word(char c) { return is_letter(c) || is_digit(c); }

/* ---- pieces of a text ---- */

typedef enum piece_kind { PIECE_SIGN, PIECE_STRING, PIECE_COMMENT, PIECE_NUMBER, PIECE_WORD } piece_kind;

/* `open`: the text ends within it. A sign is one character, a blank or a line end too. */
typedef struct piece {
    piece_kind kind;
    fg_text text;
    bool open;
} piece;

static bool begins_comment(fg_text text, size_t at)
{
    if (text.at[at] != '#' || !at) return text.at[at] == '#';
    const char before = text.at[at - 1];
    return before == ' ' || before == '\t' || before == '\n' || before == ';' || before == '{' || before == '}';
}

/* The piece at `at`, which is no end. */
static piece piece_at(fg_text text, size_t at)
{
    const char c = text.at[at];
    piece p = {.kind = PIECE_SIGN};
    size_t i = at + 1;
    if (c == '"') {
        p.kind = PIECE_STRING;
        while (i < text.size && text.at[i] != '"' && text.at[i] != '\n') i++;
        p.open = i == text.size;
        i += !p.open && text.at[i] == '"';
    } else if (begins_comment(text, at)) {
        p.kind = PIECE_COMMENT;
        while (i < text.size && text.at[i] != '\n') i++;
        p.open = i == text.size;
    } else if (is_word(c)) {
        p.kind = is_digit(c) ? PIECE_NUMBER : PIECE_WORD;
        while (i < text.size && (is_word(text.at[i]) || (p.kind == PIECE_NUMBER && text.at[i] == '.' &&
                                                         i + 1 < text.size && is_digit(text.at[i + 1]))))
            i++;
    }
    p.text = (fg_text){text.at + at, i - at};
    return p;
}

/* ---- names ---- */

static bool covers(fg_span span, uint16_t source, uint32_t at)
{
    return span.source == source && at >= span.at && at <= span.at + span.size && span.size;
}

uint32_t fg_edit_name_at(const fg_program *p, uint16_t source, uint32_t at, fg_span *span)
{
    for (uint32_t i = 0; i < p->declared_count; i++) {
        if (!covers(p->declared[i].span, source, at)) continue;
        if (span) *span = p->declared[i].span;
        return i;
    }
    for (uint32_t i = 0; i < p->use_count; i++) {
        const fg_named *use = &p->uses[i];
        if (!covers(use->span, source, at) || use->declared >= p->declared_count) continue;
        if (span) *span = use->span;
        return use->declared;
    }
    return FG_DECLARED_NONE;
}

fg_status fg_edit_hover(const fg_program *p, const fg_declared *d, fg_text *text)
{
    enum { WIDTH = 60, LONG = 600 };
    fg_buffer out = {0};
    fg_text line = {0};
    fg_status status = FG_OK;
    fg_buffer_add_c(&out, fg_kind_word(d->kind));
    fg_buffer_add_c(&out, " ");
    fg_buffer_add(&out, d->name);
    if (d->unit.size) fg_buffer_add_c(&out, ", in ");
    fg_buffer_add(&out, d->unit);
    if (fg_kind_is(d->kind, FG_KIND_ON_SENSOR) || d->kind == FG_KIND_SENSOR) {
        char step[FG_VALUE_TEXT_SIZE];
        fg_value_short(1, d->decimals, step);
        fg_buffer_add_c(&out, ", in steps of ");
        fg_buffer_add_c(&out, step);
    }
    fg_buffer_add_c(&out, "\n\n");
    const fg_span whole = d->whole;
    if (whole.size < LONG) fg_buffer_add_written(&out, p, whole);
    if (!p->error_count && fg_kind_is(d->kind, FG_KIND_ON_SENSOR)) {
        status = fg_number_line(p, d, WIDTH, &line);
        fg_buffer_add_c(&out, "\n\n");
        fg_buffer_add(&out, line);
        fg_text_free(line);
    }
    *text = fg_buffer_text(&out);
    return status != FG_OK || out.full ? FG_ERROR_MEMORY : FG_OK;
}

/* ---- what may stand there ---- */

enum { WORDS_MOST = 4 };

/* Where in the text a place is. */
typedef struct place {
    fg_text statement;         /* its first word; of a block its head's */
    bool block;                /* between braces */
    bool aside;                /* in a text or a comment */
    fg_text words[WORDS_MOST]; /* of the row, the last first, without the one that is being written */
    size_t count;              /* of all words of the row */
} place;

static void add_word(place *p, fg_text word)
{
    for (size_t i = WORDS_MOST - 1; i; i--) p->words[i] = p->words[i - 1];
    p->words[0] = word;
    if (!p->count && !p->block) p->statement = word;
    p->count++;
}

static place find_place(fg_text text, uint32_t at)
{
    static const char counted[] = "=(,|+-*/.";
    place p = {0};
    while (at && is_word(text.at[at - 1])) at--; /* what is being written */
    text.size = at;
    for (size_t i = 0; i < text.size;) {
        const piece now = piece_at(text, i);
        const char c = text.at[i];
        p.aside = now.open;
        i += now.text.size;
        if (now.kind == PIECE_STRING) add_word(&p, fg_text_of("\"\""));
        if (now.kind == PIECE_NUMBER || now.kind == PIECE_WORD) add_word(&p, now.text);
        if (now.kind != PIECE_SIGN) continue;
        if (c == '{') p.block = true;
        if (c == '}') p.block = false;
        if (c == '{' || c == '}' || c == ';' || c == '\n') p.count = 0;
        if (memchr(counted, c, sizeof counted - 1)) add_word(&p, now.text);
    }
    return p;
}

typedef struct asking {
    const fg_program *program;
    void *context;
    void (*tell)(void *context, fg_text word, fg_choice_sort sort, const fg_declared *declared);
} asking;

static void tell(const asking *a, const char *word, fg_choice_sort sort)
{
    a->tell(a->context, fg_text_of(word), sort, NULL);
}

static void tell_all(const asking *a, const char *const *words, fg_choice_sort sort)
{
    for (; *words; words++) tell(a, *words, sort);
}

static void tell_names(const asking *a, uint32_t kinds)
{
    for (uint32_t i = 0; i < a->program->declared_count; i++) {
        const fg_declared *d = &a->program->declared[i];
        if (kinds & FG_KIND_BIT(d->kind)) a->tell(a->context, d->name, FG_CHOICE_IS_NAME, d);
    }
}

static void tell_condition(const asking *a, bool outputs)
{
    const char *word;
    tell_names(a, outputs ? UINT32_MAX : ~FG_KINDS_WITH(FG_KIND_IS_OUTPUT) & ~FG_KIND_BIT(FG_KIND_SEQUENCE));
    for (size_t i = 0; (word = fg_condition_word(i)); i++) tell(a, word, FG_CHOICE_IS_WORD);
}

static int kind_of(fg_text word)
{
    int k = 0;
    while (k < FG_KINDS_IN_ALL && !fg_text_is(word, fg_kind_word((fg_kind)k))) k++;
    return k;
}

const char *fg_edit_attribute_at(fg_text text, uint32_t at, fg_span *span)
{
    uint32_t from = at > text.size ? (uint32_t)text.size : at, kinds = 0;
    const place p = find_place(text, from);
    const int kind = kind_of(p.statement);
    const char *word;
    while (from && is_word(text.at[from - 1])) from--;
    if (p.aside || !p.block || p.count || kind == FG_KINDS_IN_ALL || from == text.size) return NULL;
    const fg_text written = piece_at(text, from).text;
    for (size_t i = 0; (word = fg_attribute_word(i, &kinds)); i++) {
        if (!fg_text_is(written, word) || !(kinds & FG_KIND_BIT((fg_kind)kind))) continue;
        *span = (fg_span){from, (uint32_t)written.size, 0};
        return fg_attribute_does(i);
    }
    return NULL;
}

/* The words that begin a row where no table of the compiler has them. */
static const struct {
    const char *statement;
    const char *rows[10];
} other_rows[] = {{"latch", {"set", "clear"}},
                  {"count", {"add", "take", "zero", "limit", "first"}},
                  {"pulse", {"start", "last", "again", "stop", "restarts"}},
                  {"hysteresis", {"on", "off"}},
                  {"threshold", {"over", "under", "at", "within", "outside", "near"}},
                  {"trial", {"readings", "expect", "set"}},
                  {"promise", {"assume"}},
                  {"scene", {"lasts", "every", "seed"}},
                  {"display", {"size"}},
                  {"servo", {"range", "rest"}}};

const char *fg_edit_row_word(size_t i)
{
    enum { EACH = sizeof other_rows->rows / sizeof *other_rows->rows };
    for (size_t k = 0; k < sizeof other_rows / sizeof *other_rows * EACH; k++) {
        const char *word = other_rows[k / EACH].rows[k % EACH];
        if (word && !i--) return word;
    }
    return NULL;
}

static void tell_rows(const asking *a, fg_text statement)
{
    const int number = kind_of(statement);
    const bool declares = number < FG_KINDS_IN_ALL;
    const fg_kind kind = declares ? (fg_kind)number : FG_KIND_NUMBER;
    const char *word;
    uint32_t kinds = 0;
    for (size_t i = 0; declares && (word = fg_attribute_word(i, &kinds)); i++)
        if (kinds & FG_KIND_BIT(kind)) tell(a, word, FG_CHOICE_IS_ROW);
    for (size_t i = 0; i < sizeof other_rows / sizeof *other_rows; i++)
        if (fg_text_is(statement, other_rows[i].statement)) tell_all(a, other_rows[i].rows, FG_CHOICE_IS_ROW);
    for (int form = 0; declares && fg_kind_is(kind, FG_KIND_IS_OUTPUT) && form < FG_FORMS_IN_ALL; form++)
        if (fg_form_fits((fg_form)form, (fg_output_kind)(kind - FG_KIND_LAMP)) &&
            !(fg_form_traits((fg_form)form) & FG_FORM_IS_NUMBER))
            tell(a, fg_form_word((fg_form)form), FG_CHOICE_IS_ROW);
    if (fg_text_is(statement, "scene")) tell_names(a, FG_KIND_BIT(FG_KIND_SENSOR) | FG_KIND_BIT(FG_KIND_FLAG));
    if (fg_text_is(statement, "promise")) tell_condition(a, true);
}

static void tell_statements(const asking *a)
{
    static const char *const others[] = {"gate", "every", "include", "trial", "promise", "scene", NULL};
    for (int k = 0; k < FG_KINDS_IN_ALL; k++) tell(a, fg_kind_word((fg_kind)k), FG_CHOICE_IS_STATEMENT);
    tell_all(a, others, FG_CHOICE_IS_STATEMENT);
}

/* Behind NAME is, NAME is not, and NAME is LABEL or: the labels of these bands, or the levels of an output. */
static bool tell_labels(const asking *a, const place *p)
{
    size_t is = 0;
    if (fg_text_is(p->words[0], "not")) is = 1;
    if (fg_text_is(p->words[0], "or") && fg_text_is(p->words[2], "is")) is = 2;
    if (!fg_text_is(p->words[is], "is") || is + 1 >= WORDS_MOST) return false;
    const fg_declared *d = fg_program_find(a->program, p->words[is + 1]);
    if (!d) return false;
    for (uint16_t i = 0; i < d->label_count; i++) a->tell(a->context, d->labels[i], FG_CHOICE_IS_LABEL, d);
    for (int form = 0; fg_kind_is(d->kind, FG_KIND_IS_OUTPUT) && form < FG_FORM_HOLD; form++)
        if (fg_form_fits((fg_form)form, (fg_output_kind)(d->kind - FG_KIND_LAMP)) &&
            !(fg_form_traits((fg_form)form) & FG_FORM_IS_NUMBER))
            tell(a, fg_form_word((fg_form)form), FG_CHOICE_IS_LABEL);
    return d->label_count || fg_kind_is(d->kind, FG_KIND_IS_OUTPUT);
}

void fg_edit_choices(const fg_program *program, fg_text text, uint32_t at, void *context,
                     void (*tell_one)(void *context, fg_text word, fg_choice_sort sort, const fg_declared *declared))
{
    const asking a = {program, context, tell_one};
    const place p = find_place(text, at > text.size ? (uint32_t)text.size : at);
    const bool trial = fg_text_is(p.statement, "trial") || fg_text_is(p.statement, "promise");
    if (p.aside || tell_labels(&a, &p)) return;
    if (!p.count) {
        if (p.block)
            tell_rows(&a, p.statement);
        else
            tell_statements(&a);
    } else if (fg_text_is(p.words[0], "from") && !p.block) {
        tell_names(&a, FG_KIND_BIT(FG_KIND_SENSOR));
    } else if (fg_text_is(p.words[0], "play") || fg_text_is(p.words[0], "plays")) {
        tell_names(&a, FG_KIND_BIT(FG_KIND_SEQUENCE));
    } else if (fg_text_is(p.words[0], "follow")) {
        tell_names(&a, FG_KINDS_WITH(FG_KIND_MEASURED));
    } else if (fg_text_is(p.statement, "number") || fg_text_is(p.statement, "sensor")) {
        if (p.count > 1) tell_names(&a, FG_KIND_BIT(FG_KIND_NUMBER) | FG_KIND_BIT(FG_KIND_SENSOR));
    } else if (p.block || fg_text_is(p.statement, "condition")) {
        tell_condition(&a, trial);
    }
}

/* ---- colours ---- */

static bool is_statement(fg_text word)
{
    static const char *const others[] = {"gate", "every", "include", "trial", "promise", "scene", "expect", "readings"};
    for (size_t i = 0; i < sizeof others / sizeof *others; i++)
        if (fg_text_is(word, others[i])) return true;
    return kind_of(word) < FG_KINDS_IN_ALL;
}

static bool is_condition_word(fg_text word)
{
    const char *other;
    for (size_t i = 0; (other = fg_condition_word(i)); i++)
        if (fg_text_is(word, other)) return true;
    return false;
}

/* Where names begin in a source; NULL: no memory, and none is painted. */
static bool *find_names(const fg_program *p, uint16_t source, size_t size)
{
    bool *begins = calloc(size + 1, sizeof *begins);
    for (uint32_t i = 0; begins && i < p->declared_count; i++)
        if (p->declared[i].span.source == source && p->declared[i].span.at < size)
            begins[p->declared[i].span.at] = true;
    for (uint32_t i = 0; begins && i < p->use_count; i++)
        if (p->uses[i].span.source == source && p->uses[i].span.at < size) begins[p->uses[i].span.at] = true;
    return begins;
}

static fg_paint word_paint(fg_text word, bool name)
{
    if (name) return FG_PAINT_NAME;
    if (is_condition_word(word)) return FG_PAINT_WORD;
    return is_statement(word) ? FG_PAINT_STATEMENT : FG_PAINT_NONE;
}

void fg_edit_paint(const fg_program *p, uint16_t source, fg_text text, void *context,
                   void (*tell_one)(void *context, fg_span span, fg_paint paint))
{
    bool *names = find_names(p, source, text.size);
    for (size_t i = 0; i < text.size;) {
        const piece now = piece_at(text, i);
        fg_span span = {(uint32_t)i, (uint32_t)now.text.size, source};
        fg_paint paint = FG_PAINT_NONE;
        if (now.kind == PIECE_STRING) paint = FG_PAINT_STRING;
        if (now.kind == PIECE_COMMENT) paint = FG_PAINT_COMMENT;
        if (now.kind == PIECE_NUMBER) paint = FG_PAINT_NUMBER;
        if (now.kind == PIECE_WORD) paint = word_paint(now.text, names && names[i]);
        if (now.kind == PIECE_COMMENT && now.text.at[span.size - 1] == '\r') span.size--;
        if (paint) tell_one(context, span, paint);
        i += now.text.size;
    }
    free(names);
}

void fg_edit_blocks(fg_text text, void *context, void (*tell_one)(void *context, uint32_t from, uint32_t to))
{
    size_t opened = text.size;
    for (size_t i = 0; i < text.size;) {
        const piece now = piece_at(text, i);
        const bool sign = now.kind == PIECE_SIGN, closes = sign && text.at[i] == '}';
        if (sign && text.at[i] == '{') opened = i;
        if (closes && opened < i) tell_one(context, (uint32_t)opened, (uint32_t)i);
        if (closes) opened = text.size;
        i += now.text.size;
    }
}

/* ---- hints ---- */

typedef struct hinting {
    const fg_program *program;
    const fg_declared *declared;
    void *context;
    void (*tell)(void *context, uint32_t at, fg_text hint);
} hinting;

static void tell_width(const hinting *h, uint32_t at, int64_t width)
{
    fg_buffer out = {0};
    fg_buffer_add_value(&out, width > INT32_MAX ? INT32_MAX : (fg_value)width, h->declared);
    fg_buffer_add_c(&out, " wide");
    if (!out.full) h->tell(h->context, at, fg_buffer_text(&out));
    fg_buffer_free(&out);
}

/* Behind a label, and the text it is shown as. */
static size_t end_of_label(fg_text text, size_t at)
{
    size_t next = at;
    while (next < text.size && text.at[next] == ' ') next++;
    return next < text.size && text.at[next] == '"' ? next + piece_at(text, next).text.size : at;
}

/* Each label once, where it stands first. `widths`: 0 for one that is told, or has nothing to tell. */
static void tell_widths(const hinting *h, int64_t *widths)
{
    const fg_declared *d = h->declared;
    const fg_text text = {h->program->sources[d->whole.source].text.at, d->whole.at + d->whole.size};
    size_t i = d->span.at + d->span.size;
    while (i < text.size && text.at[i] != '{') i++;
    while (i < text.size) {
        const piece now = piece_at(text, i);
        i += now.text.size;
        if (now.kind != PIECE_WORD) continue;
        for (uint16_t label = 0; label < d->label_count; label++) {
            if (!widths[label] || !fg_text_same(now.text, d->labels[label])) continue;
            tell_width(h, (uint32_t)end_of_label(text, i), widths[label]);
            widths[label] = 0;
        }
    }
}

void fg_edit_hints(const fg_program *p, uint16_t source, void *context,
                   void (*tell_one)(void *context, uint32_t at, fg_text hint))
{
    hinting h = {.program = p, .context = context, .tell = tell_one};
    for (uint32_t i = 0; i < p->declared_count; i++) {
        const fg_declared *d = h.declared = &p->declared[i];
        if (d->whole.source != source) continue;
        if (d->worked_out.size) {
            fg_buffer out = {0};
            fg_buffer_add_c(&out, "= ");
            fg_buffer_add(&out, d->worked_out);
            if (!out.full) tell_one(context, d->whole.at + d->whole.size, fg_buffer_text(&out));
            fg_buffer_free(&out);
        }
        int64_t *widths = p->error_count || !d->label_count ? NULL : calloc(d->label_count, sizeof *widths);
        if (widths && fg_band_widths(p, d, widths) == FG_OK) tell_widths(&h, widths);
        free(widths);
    }
}
