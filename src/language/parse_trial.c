/* Trials: readings, numbers set for it, and what has to come out. */
#include "front.h"

#define CHANGING (~(KIND(FG_KIND_NUMBER) | KIND(FG_KIND_SEQUENCE)))

static void add_time(fg_front *f, fg_node *expect)
{
    fg_node *time = fg_parse_number(f);
    if (time->kind == NODE_BROKEN)
        expect->kind = NODE_BROKEN;
    else
        fg_node_add(expect, time);
}

static void add_two_times(fg_front *f, fg_node *expect, const char *between)
{
    add_time(f, expect);
    if (expect->kind == NODE_BROKEN || !fg_parse_expect_word(f, between, "write from T to T, or between T and T"))
        return;
    add_time(f, expect);
}

static void parse_while(fg_front *f, fg_node *expect)
{
    if (!fg_parse_accept_word(f, "while")) return;
    fg_node *condition = fg_parse_condition(f);
    if (condition->kind == NODE_BROKEN)
        expect->kind = NODE_BROKEN;
    else
        fg_node_add(expect, condition);
}

static void parse_goes(fg_front *f, fg_node *expect)
{
    do {
        fg_node *label = fg_node_new(f, NODE_WORD, fg_lex_span(f));
        label->word = fg_lex_text(f);
        if (!fg_parse_at(f, TOK_NAME)) {
            fg_parse_wrong(f, "a label", "write NAME goes LABEL, LABEL, ...");
            return;
        }
        fg_lex_next(f);
        fg_node_add(expect, label);
    } while (fg_parse_accept(f, TOK_COMMA));
}

static void parse_changes(fg_front *f, fg_node *expect)
{
    if (!fg_parse_expect_word(f, "at", "write NAME changes at most N times") ||
        !fg_parse_expect_word(f, "most", "write NAME changes at most N times"))
        return;
    fg_node *most = fg_parse_number(f);
    if (most->kind == NODE_BROKEN) return;
    fg_node_add(expect, most);
    if (!fg_parse_accept_word(f, "times")) (void)fg_parse_expect_word(f, "time", "write NAME changes at most N times");
}

/* matches COLUMN [at least P%] */
static void parse_matches(fg_front *f, fg_node *expect)
{
    static const char *const how = "write NAME matches COLUMN, or NAME matches COLUMN at least 98%";
    expect->role = FG_EXPECT_MATCHES;
    expect->word = fg_lex_text(f);
    if (fg_parse_at(f, TOK_STRING)) {
        (void)fg_parse_string(f, &expect->word, how);
    } else if (fg_parse_at(f, TOK_NAME)) {
        fg_lex_next(f);
    } else {
        fg_parse_wrong(f, "a column of the recording", how);
        return;
    }
    if (!fg_parse_accept_word(f, "at")) return;
    if (!fg_parse_expect_word(f, "least", how)) return;
    fg_node *least = fg_parse_number(f);
    if (least->kind == NODE_BROKEN)
        expect->kind = NODE_BROKEN;
    else
        fg_node_add(expect, least);
}

/* Bands by themselves are no condition, but can be matched. */
static bool at_bands_that_match(fg_front *f)
{
    const fg_symbol *symbol = fg_parse_at(f, TOK_NAME) ? fg_name_find(f, fg_lex_text(f)) : NULL;
    return symbol && symbol->kind == FG_KIND_BANDS && fg_parse_peek_word(f, "matches");
}

/* within T of C */
static void parse_within(fg_front *f, fg_node *expect)
{
    expect->role = FG_EXPECT_WITHIN;
    add_time(f, expect);
    if (expect->kind == NODE_BROKEN || !fg_parse_expect_word(f, "of", "write C within T of C")) return;
    fg_node *condition = fg_parse_condition(f);
    if (condition->kind == NODE_BROKEN)
        expect->kind = NODE_BROKEN;
    else
        fg_node_add(expect, condition);
}

/* NAME goes ..., NAME changes ...: what stands in front is a name, not a condition. */
static bool parse_of_name(fg_front *f, fg_node *expect)
{
    if (at_bands_that_match(f)) {
        expect->unit_span = fg_lex_span(f);
        expect->symbol = fg_name_use(f, fg_lex_text(f), expect->unit_span, KIND(FG_KIND_BANDS));
        fg_lex_next(f);
        fg_lex_next(f);
        parse_matches(f, expect);
        return true;
    }
    bool goes = fg_parse_peek_word(f, "goes");
    if (!fg_parse_at(f, TOK_NAME) || !(goes || fg_parse_peek_word(f, "changes"))) return false;
    fg_span span = fg_lex_span(f);
    expect->symbol = fg_name_use(f, fg_lex_text(f), span, goes ? KIND(FG_KIND_BANDS) : CHANGING);
    expect->role = goes ? FG_EXPECT_GOES : FG_EXPECT_CHANGES;
    expect->unit_span = span;
    fg_lex_next(f);
    fg_lex_next(f);
    if (goes)
        parse_goes(f, expect);
    else
        parse_changes(f, expect);
    if (!expect->symbol) expect->kind = NODE_BROKEN;
    return true;
}

static void parse_of_condition(fg_front *f, fg_node *expect)
{
    fg_node *condition = fg_parse_condition(f);
    fg_node_add(expect, condition);
    if (condition->kind == NODE_BROKEN) expect->kind = NODE_BROKEN;
    expect->unit_span = condition->span;
    if (f->lost) return;
    if (fg_parse_accept_word(f, "at")) {
        expect->role = FG_EXPECT_AT;
        if (fg_parse_accept_word(f, "end"))
            expect->role = FG_EXPECT_AT_END;
        else
            add_time(f, expect);
    } else if (fg_parse_accept_word(f, "from")) {
        expect->role = FG_EXPECT_FROM;
        add_two_times(f, expect, "to");
    } else if (fg_parse_accept_word(f, "begins")) {
        expect->role = FG_EXPECT_BEGINS;
        if (fg_parse_expect_word(f, "between", "write C begins between T and T")) add_two_times(f, expect, "and");
    } else if (fg_parse_at_word(f, "always") || fg_parse_at_word(f, "never")) {
        expect->role = fg_parse_at_word(f, "always") ? FG_EXPECT_ALWAYS : FG_EXPECT_NEVER;
        fg_lex_next(f);
        parse_while(f, expect);
    } else if (fg_parse_accept_word(f, "within")) {
        parse_within(f, expect);
    } else if (fg_parse_accept_word(f, "matches")) {
        parse_matches(f, expect);
    } else {
        fg_parse_wrong(f, "what is expected of it",
                       "at T, at end, from T to T, begins between T and T, always, never (with while C), within T of "
                       "C, matches COLUMN");
    }
}

static void parse_expect(fg_front *f, fg_trial_node *trial)
{
    fg_node *expect = fg_node_new(f, NODE_EXPECT, fg_lex_span(f));
    fg_lex_next(f);
    if (!parse_of_name(f, expect)) parse_of_condition(f, expect);
    if (f->lost) expect->kind = NODE_BROKEN;
    expect->span = fg_span_to_here(f, expect->span);
    if (trial->expects_last)
        trial->expects_last->next = expect;
    else
        trial->expects = expect;
    trial->expects_last = expect;
    trial->expect_count++;
}

/* set NAME = VALUE: the number has this value in this trial only. */
static void parse_set(fg_front *f, fg_trial_node *trial)
{
    fg_span span;
    fg_lex_next(f);
    fg_text name = fg_parse_name(f, &span, "the name of a number");
    if (!name.size) return;
    fg_symbol *number = fg_name_use(f, name, span, KIND(FG_KIND_NUMBER));
    if (!fg_parse_accept(f, TOK_EQUALS)) {
        fg_parse_wrong(f, "'='", "write set NUMBER = VALUE");
        return;
    }
    fg_node *value = fg_parse_number_expression(f);
    if (value->kind == NODE_BROKEN || !number) return;
    value->symbol = number;
    value->next = trial->sets;
    trial->sets = value;
}

void fg_parse_trial(fg_front *f, fg_trial_node *trial)
{
    fg_block block;
    if (!fg_parse_block_open(f, &block)) return;
    while (fg_parse_block_row(f, &block)) {
        if (fg_parse_at_word(f, "expect")) {
            parse_expect(f, trial);
        } else if (fg_parse_at_word(f, "set")) {
            parse_set(f, trial);
        } else if (fg_parse_at_word(f, "readings")) {
            if (trial->readings.at)
                fg_say(f, FG_FIND_TWICE, fg_lex_span(f), "'readings' stands twice in this trial", "keep one of them");
            fg_lex_next(f);
            trial->readings_span = fg_lex_span(f);
            if (!fg_parse_string(f, &trial->readings, "the recording's file stands in quotes"))
                trial->readings = T("?");
        } else {
            fg_say(f, FG_FIND_UNKNOWN_WORD, fg_lex_span(f), "a trial has no '{}'",
                   "its rows begin with readings, set or expect", fg_span_text(f, fg_lex_span(f)));
            f->lost = true;
        }
        fg_parse_row_end(f);
    }
    if (!trial->readings.at && !f->lost)
        fg_say(f, FG_FIND_MISSING, trial->span, "this trial names no readings", "add readings \"FILE\"");
}
