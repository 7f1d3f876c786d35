/* SPDX-License-Identifier: MIT */
/* Statements. Bodies that hold conditions are put off until every name is known. */
#include "language/text/encoding.h"
#include "language/tree/meant.h"

/* ---- statements ---- */

/* `number n 5`, `number n: 5`: told, and read all the same. False: something else stands here. */
static bool equals_missing(fg_compiler *c, const fg_symbol *symbol)
{
    const fg_span here = fg_lex_span(c);
    const bool sign = fg_parse_at(c, TOK_FOREIGN);
    if (!sign && !fg_parse_at(c, TOK_NUMBER)) {
        fg_parse_wrong(c, "'='", "write number NAME = VALUE");
        return false;
    }
    fg_report(c, FG_FIND_SYNTAX, here, "expected '=', not '{}'", "write number {} = {}", fg_lex_text(c), symbol->name,
              sign ? T("5") : fg_lex_text(c));
    fg_report_fix(c, sign ? here : (fg_span){here.at, 0, here.source}, sign ? T(" =") : T("= "));
    if (sign) fg_lex_next(c);
    return true;
}

/* number NAME = EXPRESSION */
static void parse_number_statement(fg_compiler *c, fg_symbol *symbol)
{
    if (!fg_parse_accept(c, TOK_EQUALS) && !equals_missing(c, symbol)) {
        fg_parse_skip_row(c);
        return;
    }
    symbol->body = fg_parse_number_expression(c);
    if (symbol->body->kind == NODE_BROKEN)
        fg_parse_skip_row(c);
    else
        fg_parse_row_end(c);
}

/* threshold NAME from SENSOR { ... }. Without a sensor, or without rows, the body is marked as broken, so that
 * checking does not complain that it has none. */
static void parse_rule(fg_compiler *c, fg_symbol *symbol)
{
    if (fg_parse_at_word(c, "of") || fg_parse_at_word(c, "on") || fg_parse_at_word(c, "for")) {
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "a rule is written 'from' its sensor, not '{}'", "write from",
                  fg_lex_text(c));
        fg_report_fix(c, fg_lex_span(c), T("from"));
        fg_lex_next(c);
        symbol->from = fg_parse_name(c, &symbol->from_span, "the name of a sensor");
    } else if (fg_parse_at(c, TOK_NAME) && !fg_parse_at_word(c, "from") && fg_parse_peek(c).kind == TOK_OPEN_BRACE) {
        const fg_span here = fg_lex_span(c);
        fg_report(c, FG_FIND_SYNTAX, here, "'from' is missing before '{}'", "write from {}", fg_lex_text(c),
                  fg_lex_text(c));
        fg_report_fix(c, (fg_span){here.at, 0, here.source}, T("from "));
        symbol->from = fg_parse_name(c, &symbol->from_span, "the name of a sensor");
    } else if (fg_parse_expect_word(c, "from", "a rule names its sensor: from SENSOR"))
        symbol->from = fg_parse_name(c, &symbol->from_span, "the name of a sensor");
    /* Both are needed to say anything more about the rule. */
    if (symbol->from.size && fg_parse_rows(c, symbol)) return;
    fg_symbol_add(symbol, fg_node_new(c, NODE_BROKEN, symbol->span)); /* nothing more is said about it */
    fg_parse_skip_row(c);
}

/* Keeps the place of a body that holds conditions, and skips it quietly. It is read when every name is known, wherever
 * it is declared. */
static void defer(fg_compiler *c, fg_deferred body)
{
    fg_deferred *d = FG_TAKE(fg_deferred, &c->arena, 1);
    if (d) {
        *d = body;
        d->lexer = c->lexer;
        if (c->deferred_last)
            c->deferred_last->next = d;
        else
            c->deferred = d;
        c->deferred_last = d;
    }
    c->quiet = true;
    fg_parse_skip_row(c);
    c->quiet = false;
}

/* A sensor or flag. */
static void parse_input(fg_compiler *c, fg_symbol *symbol)
{
    if (symbol->kind == FG_KIND_SENSOR && fg_parse_accept(c, TOK_EQUALS)) symbol->sum = fg_parse_sensor_sum(c);
    if (c->lost) fg_parse_skip_row(c);
    if (fg_parse_at_row_end(c) || fg_parse_at_kind_word(c))
        fg_parse_row_end(c);
    else
        (void)fg_parse_rows(c, symbol);
}

/* A declaration ends behind the last token that was read and is no end of a row. */
static void end_declaration(const fg_compiler *c, fg_symbol *symbol)
{
    if (c->lexer.row_end > symbol->whole.at) symbol->whole.size = c->lexer.row_end - symbol->whole.at;
}

/* KIND NAME ... The name is declared first, so that a mistake in the body does not make every use of it a mistake as
 * well. */
static void parse_declaration(fg_compiler *c, fg_kind kind)
{
    fg_span span;
    const fg_span first = fg_lex_span(c);
    fg_lex_next(c);
    fg_text name = fg_parse_new_name(c, &span, kind);
    if (!name.size) {
        fg_parse_skip_row(c);
        return;
    }
    c->lost = false; /* a name of two words was told; what follows is as good as ever */
    uint32_t colour;
    if (kind == FG_KIND_NUMBER && fg_colour_named(name, &colour)) /* `on amber` would mean two things */
        fg_report(c, FG_FIND_RESERVED, span, "'{}' is a colour and cannot be the name of a number",
                  "choose another name, such as {}_limit", name, name);
    fg_symbol *symbol = fg_name_declare(c, kind, name, span);
    symbol->whole = first;
    if (kind == FG_KIND_NUMBER)
        parse_number_statement(c, symbol);
    else if (fg_kind_is(kind, FG_KIND_READ))
        parse_input(c, symbol);
    else if (fg_kind_is(kind, FG_KIND_ON_SENSOR))
        parse_rule(c, symbol);
    else
        defer(c, (fg_deferred){.symbol = symbol});
    end_declaration(c, symbol);
}

/* trial "NAME" { ... }. Trials stand in their own list, in the order of the file. */
static void parse_trial_head(fg_compiler *c)
{
    fg_trial_node *trial = FG_TAKE(fg_trial_node, &c->arena, 1);
    const fg_span first = fg_lex_span(c);
    fg_lex_next(c);
    if (!trial) return;
    trial->span = fg_lex_span(c);
    if (!fg_parse_string(c, &trial->name, "a trial has a name in quotes")) {
        fg_parse_skip_row(c);
        return;
    }
    for (const fg_trial_node *other = c->trials; other; other = other->next)
        if (fg_text_same(other->name, trial->name)) {
            fg_report(c, FG_FIND_TWICE, trial->span, "there is a trial of this name already", "give each its own name");
            break;
        }
    if (c->trials_last)
        c->trials_last->next = trial;
    else
        c->trials = trial;
    c->trials_last = trial;
    c->trial_count++;
    defer(c, (fg_deferred){.trial = trial});
    trial->whole = fg_span_to_here(c, first);
}

/* promise ["TEXT"] { ... } */
static void parse_promise_head(fg_compiler *c)
{
    fg_promise_node *promise = FG_TAKE(fg_promise_node, &c->arena, 1);
    if (promise) promise->span = fg_lex_span(c);
    fg_lex_next(c);
    if (!promise) return;
    if (fg_parse_at(c, TOK_STRING)) {
        promise->span = fg_lex_span(c);
        (void)fg_parse_string(c, &promise->text, "a promise has its text in quotes, or none");
    }
    if (c->promises_last)
        c->promises_last->next = promise;
    else
        c->promises = promise;
    c->promises_last = promise;
    c->promise_count++;
    defer(c, (fg_deferred){.promise = promise});
}

/* scene "NAME" { ... } */
static void parse_scene_head(fg_compiler *c)
{
    fg_scene_node *scene = FG_TAKE(fg_scene_node, &c->arena, 1);
    fg_lex_next(c);
    if (!scene) return;
    scene->span = fg_lex_span(c);
    if (!fg_parse_string(c, &scene->name, "a scene has a name in quotes")) {
        fg_parse_skip_row(c);
        return;
    }
    for (const fg_scene_node *other = c->scenes; other; other = other->next)
        if (fg_text_same(other->name, scene->name)) {
            fg_report(c, FG_FIND_TWICE, scene->span, "there is a scene of this name already", "give each its own name");
            break;
        }
    if (c->scenes_last)
        c->scenes_last->next = scene;
    else
        c->scenes = scene;
    c->scenes_last = scene;
    c->scene_count++;
    defer(c, (fg_deferred){.scene = scene});
}

/* For what stands once in a gate: `gate` and `every`. */
static void once(fg_compiler *c, bool *seen, const char *word)
{
    if (*seen)
        fg_report(c, FG_FIND_TWICE, fg_lex_span(c), "'{}' appears a second time in this file", "keep only one",
                  fg_text_of(word));
    *seen = true;
    fg_lex_next(c);
}

/* gate "TITLE" */
static void parse_gate(fg_compiler *c)
{
    once(c, &c->titled, "gate");
    if (!fg_parse_string(c, &c->title, "put the title in quotes: gate \"Pebble Quay\""))
        fg_parse_skip_row(c);
    else
        fg_parse_row_end(c);
}

/* every T */
static void parse_every(fg_compiler *c)
{
    once(c, &c->paced, "every");
    fg_node *time = fg_parse_number(c);
    if (time->kind == NODE_BROKEN) {
        fg_parse_skip_row(c);
        return;
    }
    fg_parse_row_end(c);
    c->pace = time;
}

/* A brace that is left over is taken as well: it belongs to the block whose head was wrong. */
static void unknown_statement(fg_compiler *c)
{
    static const char *const words[] = {
#define FG_KIND_WORD(name, word, traits, op) word,
        FG_KINDS(FG_KIND_WORD)
#undef FG_KIND_WORD
            "gate",
        "every",
        "trial",
        "promise",
        "scene",
        "include",
        NULL};
    fg_text word = fg_lex_text(c);
    fg_text guess = fg_parse_at(c, TOK_NAME) ? fg_name_nearest_word(word, words) : (fg_text){0};
    const fg_meant *meant = fg_parse_at(c, TOK_NAME) ? fg_meant_statement(word) : NULL;
    if (fg_parse_at(c, TOK_MINUS) && fg_parse_peek(c).kind == TOK_MINUS)
        fg_parse_wrong(c, "a declaration", "a comment begins with #");
    if (fg_parse_at(c, TOK_CLOSE_BRACE)) fg_parse_wrong(c, "a declaration", "remove it: no { is open here");
    const fg_symbol *known = fg_parse_at(c, TOK_NAME) ? fg_name_find(c, word) : NULL;
    for (size_t i = 0; !guess.size && words[i]; i++) /* SENSOR */
        if (fg_meant_word(word, words[i])) guess = fg_text_of(words[i]);
    if (meant) {
        const fg_token next = fg_parse_peek(c);
        const fg_text named = {c->lexer.text.at + next.at, next.end - next.at};
        const fg_text name = next.kind == TOK_NAME && fg_name_fits(named) ? named : T("NAME");
        fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "'{}' does not begin a declaration", meant->instead, word,
                  name, name, name);
        if (meant->fix) fg_report_fix(c, fg_lex_span(c), fg_text_of(meant->fix));
    } else if (guess.size) {
        fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "'{}' does not begin a declaration", "did you mean '{}'?",
                  word, guess);
        if (fg_meant_word(word, guess.at)) fg_report_fix(c, fg_lex_span(c), guess);
    } else if (known) {
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "rows of {} belong inside its braces", "write it inside {} {} { }",
                  word, fg_text_of(fg_kind_word(known->kind)), word);
    } else
        fg_parse_wrong(c, "a declaration", "it begins with a word like sensor, bands, condition or lamp");
    fg_parse_skip_row(c);
    (void)fg_parse_accept(c, TOK_CLOSE_BRACE);
}

static void parse_statements(fg_compiler *c);

/* Two names of one file have one identity, so a circle of includes is found by links too. */
static fg_text identity_of(const fg_source *source) { return source->identity.size ? source->identity : source->name; }

/* Reads another file in place. */
static void include(fg_compiler *c, fg_text path, fg_span span)
{
    fg_source source = {0};
    const fg_text from = c->sources[c->lexer.source].name;
    if (!c->input->read_file || !c->input->read_file(c->input->context, path, from, &source)) {
        fg_report(c, FG_FIND_INCLUDE, span, "the file '{}' {}", "its path counts from the folder of this file", path,
                  source.text.size ? source.text : T("cannot be read"));
        return;
    }
    if (source.text.size > FG_SOURCE_MOST_BYTES) {
        fg_report(c, FG_FIND_TOO_MANY, span, "the file '{}' is too long for a gate file", "is it the right file?",
                  path);
        return;
    }
    for (uint32_t i = 0; i < c->include_depth; i++)
        if (fg_text_same(identity_of(&c->sources[c->including[i]]), identity_of(&source))) {
            fg_report(c, FG_FIND_INCLUDE, span, "'{}' includes itself", "remove one of the two includes", source.name);
            return;
        }
    if (c->source_count == FG_SOURCES_MOST || c->include_depth == FG_INCLUDES_DEEP) {
        fg_report(c, FG_FIND_TOO_MANY, span, "this includes too many files", "a gate has at most 100, at most 20 deep");
        return;
    }
    const fg_lexer here = c->lexer;
    const uint16_t number = (uint16_t)c->source_count++;
    c->sources[number] = source;
    c->including[c->include_depth++] = number;
    if (fg_check_encoding(c, source.text, number)) {
        fg_lex_start(c, source.text, number, 0);
        parse_statements(c);
    }
    c->include_depth--;
    c->lexer = here;
}

/* include "FILE". It is read in place, in its own lexer; the row ends first, so that the outer file goes on behind it.
 */
static void parse_include(fg_compiler *c)
{
    fg_text path;
    fg_lex_next(c);
    const fg_span span = fg_lex_span(c);
    if (!fg_parse_string(c, &path, "put the file name in quotes")) {
        fg_parse_skip_row(c);
        return;
    }
    fg_parse_row_end(c);
    include(c, path, span);
}

/* A word says what begins here. `gate` and `every` belong to the outermost file, since an included file is a part of
 * several gates. */
static void parse_statement(fg_compiler *c)
{
    fg_text word = fg_lex_text(c);
    /* It is reported, and read all the same, so that the rest of the file makes sense. */
    const bool outer = fg_text_is(word, "gate") || fg_text_is(word, "every");
    if (fg_parse_at(c, TOK_NAME) && outer && c->lexer.source)
        fg_report(c, FG_FIND_INCLUDE, fg_lex_span(c), "'{}' cannot stand in an included file",
                  "put it into the file that includes this one", word);
    if (!fg_parse_at(c, TOK_NAME))
        unknown_statement(c);
    else if (fg_text_is(word, "gate"))
        parse_gate(c);
    else if (fg_text_is(word, "every"))
        parse_every(c);
    else if (fg_text_is(word, "trial"))
        parse_trial_head(c);
    else if (fg_text_is(word, "promise"))
        parse_promise_head(c);
    else if (fg_text_is(word, "scene"))
        parse_scene_head(c);
    else if (fg_text_is(word, "include"))
        parse_include(c);
    else {
        for (int k = 0; k < FG_KINDS_IN_ALL; k++) {
            if (!fg_text_is(word, fg_kind_word((fg_kind)k))) continue;
            parse_declaration(c, (fg_kind)k);
            return;
        }
        unknown_statement(c);
    }
}

/* Empty lines and a `;` that is left over are no mistakes. */
static void parse_statements(fg_compiler *c)
{
    while (!fg_parse_at(c, TOK_END)) {
        if (fg_parse_accept(c, TOK_NEWLINE) || fg_parse_accept(c, TOK_SEMICOLON)) continue;
        parse_statement(c);
    }
}

/* The bodies that hold conditions, now that every name and label is known. */
static void parse_body(fg_compiler *c, const fg_deferred *d)
{
    c->lexer = d->lexer;
    c->dependent = d->symbol;
    c->in_trial = d->trial || d->promise;
    c->in_promise = d->promise != NULL;
    c->brackets = 0;
    if (d->trial)
        fg_parse_trial(c, d->trial);
    else if (d->promise)
        fg_parse_promise(c, d->promise);
    else if (d->scene)
        fg_parse_scene(c, d->scene);
    else if (d->symbol->kind == FG_KIND_CONDITION)
        fg_parse_condition_statement(c, d->symbol);
    else if (d->symbol->kind == FG_KIND_SEQUENCE)
        fg_parse_sequence(c, d->symbol);
    else if (fg_kind_is(d->symbol->kind, FG_KIND_LISTENS))
        fg_parse_listener(c, d->symbol);
    else
        fg_parse_output(c, d->symbol);
    if (d->symbol) end_declaration(c, d->symbol);
}

/* Twice over the text: declarations without conditions, then, with every name and label known, the bodies that were
 * put off. So the order of a gate file is its author's. */
void fg_parse(fg_compiler *c)
{
    /* The stack of files being read begins with the gate file itself, which is source 0. */
    c->including[c->include_depth++] = 0;
    fg_lex_start(c, c->input->text, 0, 0);
    c->declaring = true;
    parse_statements(c);
    c->declaring = false;
    /* Before any condition is read: `is LABEL` asks for them. */
    for (fg_symbol *s = c->symbols; s; s = s->next)
        if (fg_kind_is(s->kind, FG_KIND_LABELS)) fg_symbol_collect_labels(c, s);
    for (const fg_deferred *d = c->deferred; d && !c->arena.full; d = d->next) parse_body(c, d);
}
