/* SPDX-License-Identifier: MIT */
/* Trials: readings, numbers set for it, and what has to come out. Promises: what holds whatever is read. */
#include "language/tree/meant.h"

#define CHANGING (~(FG_KIND_BIT(FG_KIND_NUMBER) | FG_KIND_BIT(FG_KIND_SEQUENCE)))

/* A time of an expectation. */
static void add_time(fg_compiler *c, fg_node *expect)
{
    fg_node *time = fg_parse_number(c);
    if (time->kind == NODE_BROKEN)
        expect->kind = NODE_BROKEN;
    else
        fg_node_add(expect, time);
}

/* T between T: `from T to T`, `between T and T`. */
static void add_two_times(fg_compiler *c, fg_node *expect, const char *between)
{
    add_time(c, expect);
    if (expect->kind == NODE_BROKEN || !fg_parse_expect_word(c, between, "write from T to T, or between T and T"))
        return;
    if (expect->expect.kind == FG_EXPECT_FROM && fg_parse_accept_word(c, "end")) return; /* one time only: to the end */
    add_time(c, expect);
}

/* [while CONDITION] */
static void parse_while(fg_compiler *c, fg_node *expect)
{
    if (!fg_parse_accept_word(c, "while")) return;
    fg_node *condition = fg_parse_condition(c);
    if (condition->kind == NODE_BROKEN)
        expect->kind = NODE_BROKEN;
    else
        fg_node_add(expect, condition);
}

/* goes LABEL { , LABEL }. The labels are resolved when the trial is checked. */
static void parse_goes(fg_compiler *c, fg_node *expect)
{
    do {
        fg_node *label = fg_node_new(c, NODE_WORD, fg_lex_span(c));
        label->word = fg_lex_text(c);
        if (!fg_parse_at(c, TOK_NAME)) {
            fg_parse_wrong(c, "a label", "write NAME goes LABEL, LABEL, ...");
            return;
        }
        fg_lex_next(c);
        fg_node_add(expect, label);
    } while (fg_parse_accept(c, TOK_COMMA));
}

/* changes at most N times */
static void parse_changes(fg_compiler *c, fg_node *expect)
{
    if (!fg_parse_expect_word(c, "at", "write NAME changes at most N times") ||
        !fg_parse_expect_word(c, "most", "write NAME changes at most N times"))
        return;
    fg_node *most = fg_parse_number(c);
    if (most->kind == NODE_BROKEN) return;
    fg_node_add(expect, most);
    if (!fg_parse_accept_word(c, "times")) (void)fg_parse_expect_word(c, "time", "write NAME changes at most N times");
}

/* matches COLUMN [at least P%] */
static void parse_matches(fg_compiler *c, fg_node *expect)
{
    static const char *const how = "write NAME matches COLUMN, or NAME matches COLUMN at least 98%";
    expect->expect.kind = FG_EXPECT_MATCHES;
    expect->word = fg_lex_text(c);
    if (fg_parse_at(c, TOK_STRING)) {
        (void)fg_parse_string(c, &expect->word, how);
    } else if (fg_parse_at(c, TOK_NAME)) {
        fg_lex_next(c);
    } else {
        fg_parse_wrong(c, "a column of the recording", how);
        return;
    }
    if (!fg_parse_accept_word(c, "at")) return;
    if (!fg_parse_expect_word(c, "least", how)) return;
    fg_node *least = fg_parse_number(c);
    if (least->kind == NODE_BROKEN)
        expect->kind = NODE_BROKEN;
    else
        fg_node_add(expect, least);
}

/* Bands by themselves are no condition, but can be matched. */
static bool at_bands_that_match(fg_compiler *c)
{
    const fg_symbol *symbol = fg_parse_at(c, TOK_NAME) ? fg_name_find(c, fg_lex_text(c)) : NULL;
    return symbol && fg_kind_is(symbol->kind, FG_KIND_LABELS) && fg_parse_peek_word(c, "matches");
}

/* within T of C */
static void parse_within(fg_compiler *c, fg_node *expect)
{
    expect->expect.kind = FG_EXPECT_WITHIN;
    add_time(c, expect);
    if (expect->kind == NODE_BROKEN || !fg_parse_expect_word(c, "of", "write C within T of C")) return;
    fg_node *condition = fg_parse_condition(c);
    if (condition->kind == NODE_BROKEN)
        expect->kind = NODE_BROKEN;
    else
        fg_node_add(expect, condition);
}

/* NAME goes ..., NAME changes ...: what stands in front is a name, not a condition. */
static bool parse_of_name(fg_compiler *c, fg_node *expect)
{
    if (at_bands_that_match(c)) {
        expect->expect.condition = fg_lex_span(c);
        expect->symbol = fg_name_use(c, fg_lex_text(c), expect->expect.condition, FG_KINDS_WITH(FG_KIND_LABELS));
        fg_lex_next(c);
        fg_lex_next(c);
        parse_matches(c, expect);
        return true;
    }
    bool goes = fg_parse_peek_word(c, "goes");
    if (!fg_parse_at(c, TOK_NAME) || !(goes || fg_parse_peek_word(c, "changes"))) return false;
    fg_span span = fg_lex_span(c);
    expect->symbol = fg_name_use(c, fg_lex_text(c), span, goes ? FG_KINDS_WITH(FG_KIND_LABELS) : CHANGING);
    expect->expect.kind = goes ? FG_EXPECT_GOES : FG_EXPECT_CHANGES;
    expect->expect.condition = span;
    fg_lex_next(c);
    fg_lex_next(c);
    if (goes)
        parse_goes(c, expect);
    else
        parse_changes(c, expect);
    if (!expect->symbol) expect->kind = NODE_BROKEN;
    return true;
}

/* always [while C] | never [while C] | within T of C, behind a condition. False: something else stands here. */
static bool parse_lasting(fg_compiler *c, fg_node *expect)
{
    const bool always = fg_parse_at_word(c, "always");
    if (always || fg_parse_at_word(c, "never")) {
        expect->expect.kind = always ? FG_EXPECT_ALWAYS : FG_EXPECT_NEVER;
        fg_lex_next(c);
        parse_while(c, expect);
        return true;
    }
    if (!fg_parse_accept_word(c, "within")) return false;
    parse_within(c, expect);
    return true;
}

/* The condition in front. */
static fg_node *parse_asked(fg_compiler *c, fg_node *expect)
{
    fg_node *condition = fg_parse_condition(c);
    fg_node_add(expect, condition);
    if (condition->kind == NODE_BROKEN) expect->kind = NODE_BROKEN;
    expect->expect.condition = condition->span;
    return condition;
}

/* C at T | C at end | C from T to T | C from T to end | C begins between T and T | C always | C never | C within T of C
 * | C matches COLUMN */
static void parse_of_condition(fg_compiler *c, fg_node *expect)
{
    (void)parse_asked(c, expect);
    if (c->lost || parse_lasting(c, expect)) return;
    if (fg_parse_accept_word(c, "at")) {
        expect->expect.kind = FG_EXPECT_AT;
        if (fg_parse_accept_word(c, "end"))
            expect->expect.kind = FG_EXPECT_AT_END;
        else
            add_time(c, expect);
    } else if (fg_parse_accept_word(c, "from")) {
        expect->expect.kind = FG_EXPECT_FROM;
        add_two_times(c, expect, "to");
    } else if (fg_parse_accept_word(c, "begins")) {
        expect->expect.kind = FG_EXPECT_BEGINS;
        if (fg_parse_expect_word(c, "between", "write C begins between T and T")) add_two_times(c, expect, "and");
    } else if (fg_parse_accept_word(c, "matches")) {
        parse_matches(c, expect);
    } else if (fg_parse_at_word(c, "after") || fg_parse_at_word(c, "between") || fg_parse_at_word(c, "until") ||
               fg_parse_at_word(c, "before")) {
        const fg_text word = fg_lex_text(c);
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "'{}' does not say whether it begins then or lasts",
                  "write begins between T and T, from T to T, or from T to end", word);
        c->lost = true;
    } else if (fg_parse_at_word(c, "then") || fg_parse_at(c, TOK_COMMA)) {
        fg_parse_wrong(c, "a time, always or never", "for one label after the other write BANDS goes low, high");
    } else if (fg_parse_at_row_end(c)) {
        fg_parse_wrong(c, "a time, always or never", "write at 2s, at end, from 2s to 3s, always or never behind it");
    } else {
        fg_parse_wrong(c, "what is expected of it",
                       "at T, at end, from T to T, from T to end, begins between T and T, always, never (with while "
                       "C), within T of "
                       "C, matches COLUMN");
    }
}

/* expect EXPECTATION. What begins with a name alone (`goes`, `changes`, `matches`) is tried first, because a condition
 * may begin with a name too. */
static void parse_expect(fg_compiler *c, fg_trial_node *trial)
{
    fg_node *expect = fg_node_new(c, NODE_EXPECT, fg_lex_span(c));
    fg_lex_next(c);
    /* False also means that nothing was taken. */
    if (!parse_of_name(c, expect)) parse_of_condition(c, expect);
    if (c->lost) expect->kind = NODE_BROKEN;
    expect->span = fg_span_to_here(c, expect->span);
    if (trial->expects_last)
        trial->expects_last->next = expect;
    else
        trial->expects = expect;
    trial->expects_last = expect;
    trial->expect_count++;
}

/* set NAME = VALUE: the number has this value in this trial only. */
static void parse_set(fg_compiler *c, fg_trial_node *trial)
{
    fg_span span;
    fg_lex_next(c);
    fg_text name = fg_parse_name(c, &span, "the name of a number");
    if (!name.size) return;
    fg_symbol *number = fg_name_use(c, name, span, FG_KIND_BIT(FG_KIND_NUMBER));
    if (!fg_parse_accept(c, TOK_EQUALS)) {
        fg_parse_wrong(c, "'='", "write set NUMBER = VALUE");
        return;
    }
    fg_node *value = fg_parse_number_expression(c);
    if (value->kind == NODE_BROKEN || !number) return;
    value->symbol = number;
    value->next = trial->sets;
    trial->sets = value;
}

/* trial "NAME" { readings "FILE" | set NUMBER = VALUE | expect ... } */
void fg_parse_trial(fg_compiler *c, fg_trial_node *trial)
{
    fg_block block;
    bool unknown = false; /* a row that may have been meant as its readings */
    if (!fg_parse_block_open(c, &block)) return;
    while (fg_parse_block_row(c, &block)) {
        if (fg_parse_at_word(c, "expect")) {
            parse_expect(c, trial);
        } else if (fg_parse_at_word(c, "set")) {
            parse_set(c, trial);
        } else if (fg_parse_at_word(c, "readings")) {
            if (trial->readings.at)
                fg_report(c, FG_FIND_TWICE, fg_lex_span(c), "'readings' appears twice in this trial", "keep only one");
            fg_lex_next(c);
            trial->readings_span = fg_lex_span(c);
            if (!fg_parse_string(c, &trial->readings, "put the recording's file name in quotes"))
                trial->readings = T("?");
        } else {
            const fg_meant *meant = fg_parse_at(c, TOK_NAME) ? fg_meant_trial(fg_lex_text(c)) : NULL;
            fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "a trial has no '{}'",
                      meant ? meant->instead : "its rows begin with readings, set or expect",
                      fg_span_text(c, fg_lex_span(c)));
            if (meant && meant->fix) fg_report_fix(c, fg_lex_span(c), fg_text_of(meant->fix));
            unknown = true;
            c->lost = true;
        }
        fg_parse_row_end(c);
    }
    if (!trial->readings.at && !c->lost && !unknown)
        fg_report(c, FG_FIND_MISSING, trial->span, "this trial names no readings", "add readings \"FILE\"");
}

/* ---- promises ---- */

/* C can end within T */
static void parse_can_end(fg_compiler *c, fg_node *row)
{
    static const char *const how = "write C can end within T";
    row->expect.kind = FG_EXPECT_CAN_END;
    if (fg_parse_expect_word(c, "end", how) && fg_parse_expect_word(c, "within", how)) add_time(c, row);
}

/* assume C | C never [while C] | C always [while C] | C within T of C | C can end within T */
static void parse_promise_row(fg_compiler *c, fg_promise_node *promise)
{
    static const char *const rows = "never, always (both with while C), within T of C, or can end within T";
    fg_node *row = fg_node_new(c, NODE_EXPECT, fg_lex_span(c));
    const bool name = fg_parse_peek_word(c, "never") || fg_parse_peek_word(c, "always") ||
                      fg_parse_peek_word(c, "within") || fg_parse_peek_word(c, "can"); /* of something called so */
    const bool assume = !name && fg_parse_accept_word(c, "assume");
    (void)parse_asked(c, row);
    if (assume) {
        row->expect.kind = FG_EXPECT_ASSUME;
    } else if (!c->lost && fg_parse_accept_word(c, "can")) {
        parse_can_end(c, row);
    } else if (!c->lost && (fg_parse_at_word(c, "at") || fg_parse_at_word(c, "from") || fg_parse_at_word(c, "begins") ||
                            fg_parse_at_word(c, "matches"))) {
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "'{}' asks for one recording, and a promise is about all",
                  "write it in a trial, or promise never, always or within T of C", fg_lex_text(c));
        c->lost = true;
    } else if (!c->lost && !parse_lasting(c, row)) {
        fg_parse_wrong(c, "what is promised of it", rows);
    }
    if (c->lost) row->kind = NODE_BROKEN;
    row->span = fg_span_to_here(c, row->span);
    if (promise->rows_last)
        promise->rows_last->next = row;
    else
        promise->rows = row;
    promise->rows_last = row;
    promise->row_count++;
}

/* promise ["TEXT"] { ROW ... } */
void fg_parse_promise(fg_compiler *c, fg_promise_node *promise)
{
    fg_block block;
    if (!fg_parse_block_open(c, &block)) return;
    bool promised = false;
    while (fg_parse_block_row(c, &block)) {
        if (fg_parse_at_word(c, "expect")) {
            fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "a promise has no 'expect'",
                      "write the condition alone: CONDITION never");
            fg_report_fix(c, fg_lex_span(c), T(""));
            c->lost = true;
        } else {
            parse_promise_row(c, promise);
        }
        promised = promised || c->lost || promise->rows_last->expect.kind != FG_EXPECT_ASSUME;
        fg_parse_row_end(c);
    }
    if (!promised)
        fg_report(c, FG_FIND_UNUSED, promise->span, "this promise promises nothing",
                  "add a row: CONDITION never, CONDITION always, or CONDITION within 2s of CONDITION");
}
