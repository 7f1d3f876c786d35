/* Statements: which declarations there are, and those whose rows hold no conditions. */
#include "front.h"

/* ---- attributes ---- */

typedef enum attribute_shape {
    SHAPE_NONE,
    SHAPE_NUMBER,
    SHAPE_RANGE,
    SHAPE_UNIT,
    SHAPE_RAW,
    SHAPE_SETTLE,
    SHAPE_ON,
    SHAPE_AFTER,
    SHAPE_ZERO
} attribute_shape;

enum { RULES = KIND(FG_KIND_THRESHOLD) | KIND(FG_KIND_HYSTERESIS) | KIND(FG_KIND_BANDS) };

/* Every attribute: its word, what stands behind it, and whose it is. */
static const struct {
    const char *word;
    fg_attribute attribute;
    attribute_shape shape;
    uint32_t kinds;
} attributes[] = {
    {"unit", ATTR_UNIT, SHAPE_UNIT, KIND(FG_KIND_SENSOR)},
    {"step", ATTR_STEP, SHAPE_NUMBER, KIND(FG_KIND_SENSOR)},
    {"raw", ATTR_RAW, SHAPE_RAW, KIND(FG_KIND_SENSOR)},
    {"trust", ATTR_TRUST, SHAPE_RANGE, KIND(FG_KIND_SENSOR)},
    {"circle", ATTR_CIRCLE, SHAPE_NUMBER, KIND(FG_KIND_SENSOR)},
    {"stale", ATTR_STALE, SHAPE_AFTER, KIND(FG_KIND_SENSOR) | KIND(FG_KIND_FLAG)},
    {"stuck", ATTR_STUCK, SHAPE_AFTER, KIND(FG_KIND_SENSOR)},
    {"bridge", ATTR_BRIDGE, SHAPE_NUMBER, KIND(FG_KIND_SENSOR) | KIND(FG_KIND_FLAG)},
    {"median", ATTR_MEDIAN, SHAPE_NUMBER, KIND(FG_KIND_SENSOR)},
    {"mean", ATTR_MEAN, SHAPE_NUMBER, KIND(FG_KIND_SENSOR)},
    {"zero", ATTR_ZERO, SHAPE_ZERO, KIND(FG_KIND_SENSOR)},
    {"inverted", ATTR_INVERTED, SHAPE_NONE, KIND(FG_KIND_FLAG)},
    {"margin", ATTR_MARGIN, SHAPE_NUMBER, KIND(FG_KIND_THRESHOLD) | KIND(FG_KIND_BANDS)},
    {"settle", ATTR_SETTLE, SHAPE_SETTLE, RULES},
    {"settle", ATTR_SETTLE, SHAPE_NUMBER, KIND(FG_KIND_FLAG)},
    {"first", ATTR_FIRST_ON, SHAPE_ON, KIND(FG_KIND_HYSTERESIS)},
};

enum { ATTRIBUTES = sizeof attributes / sizeof *attributes };

/* A..B, or a list A, B, C: a node with two or more numbers. */
static fg_node *parse_points(fg_front *f)
{
    fg_node *first = fg_parse_number(f);
    fg_node *points = fg_node_new(f, NODE_WITHIN, first->span);
    if (first->kind == NODE_BROKEN) return first;
    fg_node_add(points, first);
    if (!fg_parse_at(f, TOK_DOTS) && !fg_parse_at(f, TOK_COMMA)) {
        fg_parse_wrong(f, "'..' or ','", "write raw A..B reads C..D, or raw A, B, C reads P, Q, R");
        return fg_node_new(f, NODE_BROKEN, points->span);
    }
    points->negated = fg_parse_at(f, TOK_DOTS); /* a range: may fall */
    do {
        fg_lex_next(f);
        fg_node *point = fg_parse_number(f);
        if (point->kind == NODE_BROKEN) return point;
        fg_node_add(points, point);
    } while (!points->negated && fg_parse_at(f, TOK_COMMA));
    points->span = fg_span_to_here(f, points->span);
    /* A unit behind the last holds for all. */
    for (fg_node *point = points->first; point; point = point->next)
        if (point->kind == NODE_LITERAL && !point->unit.size && points->last->kind == NODE_LITERAL) {
            point->unit = points->last->unit;
            point->unit_span = points->last->unit_span;
        }
    return points;
}

static void parse_raw(fg_front *f, fg_node *attribute)
{
    fg_node *counts = parse_points(f);
    if (counts->kind == NODE_BROKEN) return;
    if (!fg_parse_expect_word(f, "reads", "write raw A..B reads C..D: counts A reads C, counts B reads D")) return;
    fg_node *units = parse_points(f);
    if (units->kind == NODE_BROKEN) return;
    fg_node_add(attribute, counts);
    fg_node_add(attribute, units);
}

static void parse_zero(fg_front *f, fg_node *attribute)
{
    if (!fg_parse_expect_word(f, "when", "write zero when FLAG")) return;
    attribute->word = fg_parse_name(f, &attribute->unit_span, "the name of a flag");
}

static void parse_settle(fg_front *f, fg_node *attribute)
{
    fg_node *time = fg_parse_number(f);
    if (time->kind == NODE_BROKEN) return;
    fg_node_add(attribute, time);
    if (!fg_parse_accept_word(f, "within")) return;
    fg_node *within = fg_parse_number(f);
    if (within->kind != NODE_BROKEN) fg_node_add(attribute, within);
}

static void parse_unit(fg_front *f, fg_node *attribute)
{
    if (fg_lex_unit_word(f, &attribute->word)) return;
    fg_lex_next(f);
    if (fg_parse_at(f, TOK_STRING))
        (void)fg_parse_string(f, &attribute->word, "");
    else
        fg_parse_wrong(f, "a unit", "letters, ° µ % ² ³, with / between them; anything else in \"quotes\"");
}

static void parse_shape(fg_front *f, fg_node *attribute, attribute_shape shape)
{
    fg_node *number = NULL;
    switch (shape) {
    case SHAPE_NONE: return;
    case SHAPE_UNIT: parse_unit(f, attribute); return;
    case SHAPE_RAW: parse_raw(f, attribute); return;
    case SHAPE_SETTLE: parse_settle(f, attribute); return;
    case SHAPE_ON: (void)fg_parse_expect_word(f, "on", "write first on"); return;
    case SHAPE_ZERO: parse_zero(f, attribute); return;
    case SHAPE_AFTER:
        if (!fg_parse_expect_word(f, "after", "write stale after T, stuck after T")) return;
        number = fg_parse_number(f);
        break;
    case SHAPE_NUMBER: number = fg_parse_number(f); break;
    case SHAPE_RANGE: number = fg_parse_range(f); break;
    }
    if (number->kind != NODE_BROKEN) fg_node_add(attribute, number);
}

/* One attribute, if the word here is one of this kind of declaration. */
static bool parse_attribute(fg_front *f, fg_symbol *symbol)
{
    fg_text word = fg_lex_text(f);
    if (!fg_parse_at(f, TOK_NAME)) return false;
    int i = 0;
    while (i < ATTRIBUTES && !(fg_text_is(word, attributes[i].word) && attributes[i].kinds & KIND(symbol->kind))) i++;
    if (i == ATTRIBUTES) return false;

    fg_span from = fg_lex_span(f);
    fg_node *node = fg_node_new(f, NODE_ATTRIBUTE, from);
    node->attribute = (uint8_t)attributes[i].attribute;
    if (symbol->attributes >> node->attribute & 1)
        fg_say(f, FG_FIND_TWICE, from, "'{}' stands twice in {}", "keep one of them", word, symbol->name);
    symbol->attributes |= (uint64_t)1 << node->attribute;
    if (attributes[i].shape != SHAPE_UNIT) fg_lex_next(f);
    parse_shape(f, node, attributes[i].shape);
    node->span = fg_span_to_here(f, from);
    if (f->lost) node->kind = NODE_BROKEN;
    fg_symbol_add(symbol, node);
    return true;
}

static void unknown_attribute(fg_front *f, const fg_symbol *symbol)
{
    const char *words[ATTRIBUTES + 1] = {NULL};
    size_t count = 0;
    for (int i = 0; i < ATTRIBUTES; i++)
        if (attributes[i].kinds & KIND(symbol->kind)) words[count++] = attributes[i].word;
    fg_parse_unknown_row(f, symbol, words);
}

/* ---- rows of the rules ---- */

static void parse_switch(fg_front *f, fg_symbol *symbol, fg_node_kind kind)
{
    fg_span from = fg_lex_span(f);
    fg_lex_next(f);
    fg_node *comparison = fg_parse_comparison(f);
    fg_node *node = fg_node_new(f, comparison->kind == NODE_BROKEN ? NODE_BROKEN : kind, fg_span_to_here(f, from));
    if (comparison->kind != NODE_BROKEN) fg_node_add(node, comparison);
    fg_symbol_add(symbol, node);
}

static bool parse_rule_row(fg_front *f, fg_symbol *symbol)
{
    if (symbol->kind == FG_KIND_THRESHOLD && fg_parse_at_comparison(f)) {
        fg_symbol_add(symbol, fg_parse_comparison(f));
        return true;
    }
    if (symbol->kind != FG_KIND_HYSTERESIS) return false;
    if (!fg_parse_at_word(f, "on") && !fg_parse_at_word(f, "off")) return false;
    parse_switch(f, symbol, fg_parse_at_word(f, "on") ? NODE_ON : NODE_OFF);
    return true;
}

/* May this word be a band's label? */
static bool is_label_word(fg_text word)
{
    static const char *const allowed[] = {"near", "over", "under", "within", "outside", "in", "least", "most", "is"};
    if (fg_text_is(word, "margin") || fg_text_is(word, "settle")) return false;
    if (!fg_word_reserved(word)) return true;
    for (size_t i = 0; i < sizeof allowed / sizeof *allowed; i++)
        if (fg_text_is(word, allowed[i])) return true;
    return false;
}

/* A label with the text it may have: `onshore "->"`. NULL: reported. */
static fg_node *parse_label(fg_front *f, fg_node_kind kind)
{
    if (!fg_parse_at(f, TOK_NAME) || !is_label_word(fg_lex_text(f))) {
        fg_parse_wrong(f, "a label", "labels are words: any but those of conditions, 'margin' and 'settle'");
        return NULL;
    }
    fg_node *label = fg_node_new(f, kind, fg_lex_span(f));
    label->word = fg_lex_text(f);
    fg_lex_next(f);
    if (fg_parse_at(f, TOK_STRING)) {
        fg_node *text = fg_node_new(f, NODE_WORD, fg_lex_span(f));
        (void)fg_parse_string(f, &text->word, "");
        label->unit = text->word;
        label->unit_span = text->span;
    }
    return label;
}

static void parse_cuts(fg_front *f, fg_symbol *symbol, fg_node *label)
{
    fg_symbol_add(symbol, label);
    while (fg_parse_accept(f, TOK_BAR)) {
        fg_span from = fg_lex_span(f);
        fg_node *number = fg_parse_number(f);
        if (number->kind == NODE_BROKEN) {
            fg_symbol_add(symbol, number);
            return;
        }
        fg_node *cut = fg_node_new(f, NODE_CUT, fg_span_to_here(f, from));
        fg_node_add(cut, number);
        fg_symbol_add(symbol, cut);
        if (!fg_parse_accept(f, TOK_BAR)) return;
        label = parse_label(f, NODE_LABEL);
        if (!label) {
            fg_symbol_add(symbol, fg_node_new(f, NODE_BROKEN, from));
            return;
        }
        fg_symbol_add(symbol, label);
    }
}

static void parse_band_row(fg_front *f, fg_symbol *symbol)
{
    fg_node *label = parse_label(f, NODE_LABEL);
    if (!label) return;
    if (fg_parse_at(f, TOK_BAR) || fg_parse_at_row_end(f)) {
        parse_cuts(f, symbol, label);
        return;
    }
    label->kind = NODE_ROW_RANGE;
    f->node_counts[NODE_ROW_RANGE]++;
    fg_symbol_add(symbol, label);
    if (fg_parse_accept_word(f, "otherwise")) return;
    fg_node *range = fg_parse_at_comparison(f) ? fg_parse_comparison(f) : fg_parse_range(f);
    if (range->kind == NODE_BROKEN) {
        label->kind = NODE_BROKEN;
        return;
    }
    fg_node_add(label, range);
    label->span = fg_span_to_here(f, label->span);
}

static bool parse_rows(fg_front *f, fg_symbol *symbol)
{
    fg_block block;
    if (!fg_parse_block_open(f, &block)) return false;
    while (fg_parse_block_row(f, &block)) {
        if (!parse_attribute(f, symbol) && !parse_rule_row(f, symbol)) {
            if (symbol->kind == FG_KIND_BANDS)
                parse_band_row(f, symbol);
            else
                unknown_attribute(f, symbol);
        }
        fg_parse_row_end(f);
    }
    return true;
}

/* ---- statements ---- */

static void parse_number_statement(fg_front *f, fg_symbol *symbol)
{
    if (!fg_parse_accept(f, TOK_EQUALS)) {
        fg_parse_wrong(f, "'='", "write number NAME = VALUE");
        fg_parse_skip_row(f);
        return;
    }
    symbol->body = fg_parse_number_expression(f);
    if (symbol->body->kind == NODE_BROKEN)
        fg_parse_skip_row(f);
    else
        fg_parse_row_end(f);
}

static void parse_rule(fg_front *f, fg_symbol *symbol)
{
    if (fg_parse_expect_word(f, "from", "a rule names its sensor: from SENSOR"))
        symbol->from = fg_parse_name(f, &symbol->from_span, "the name of a sensor");
    if (symbol->from.size && parse_rows(f, symbol)) return;
    fg_symbol_add(symbol, fg_node_new(f, NODE_BROKEN, symbol->span)); /* nothing more is said about it */
    fg_parse_skip_row(f);
}

static void defer(fg_front *f, fg_symbol *symbol, fg_trial_node *trial, fg_scene_node *scene)
{
    fg_deferred *d = FG_TAKE(fg_deferred, &f->arena, 1);
    if (d) {
        *d = (fg_deferred){.symbol = symbol, .trial = trial, .scene = scene, .lexer = f->lexer};
        if (f->deferred_last)
            f->deferred_last->next = d;
        else
            f->deferred = d;
        f->deferred_last = d;
    }
    f->quiet = true;
    fg_parse_skip_row(f);
    f->quiet = false;
}

static void parse_sensor_sum(fg_front *f, fg_symbol *symbol)
{
    f->in_sum = true;
    f->brackets = 0;
    const uint32_t before = f->nodes;
    symbol->sum = fg_parse_number_expression(f);
    f->in_sums += 2 * (f->nodes - before) + 2;
    f->in_sum = false;
}

static void parse_declaration(fg_front *f, fg_kind kind)
{
    fg_span span;
    fg_lex_next(f);
    fg_text name = fg_parse_name(f, &span, "a name");
    if (!name.size) {
        fg_parse_skip_row(f);
        return;
    }
    fg_symbol *symbol = fg_name_declare(f, kind, name, span);
    switch (kind) {
    case FG_KIND_NUMBER: parse_number_statement(f, symbol); return;
    case FG_KIND_SENSOR:
        if (fg_parse_accept(f, TOK_EQUALS)) parse_sensor_sum(f, symbol);
        if (f->lost) fg_parse_skip_row(f);
        /* fall through */
    case FG_KIND_FLAG:
        if (fg_parse_at(f, TOK_OPEN_BRACE))
            (void)parse_rows(f, symbol);
        else
            fg_parse_row_end(f);
        return;
    case FG_KIND_THRESHOLD:
    case FG_KIND_HYSTERESIS:
    case FG_KIND_BANDS: parse_rule(f, symbol); return;
    default: defer(f, symbol, NULL, NULL); return;
    }
}

static void parse_trial_head(fg_front *f)
{
    fg_trial_node *trial = FG_TAKE(fg_trial_node, &f->arena, 1);
    const fg_span first = fg_lex_span(f);
    fg_lex_next(f);
    if (!trial) return;
    trial->span = fg_lex_span(f);
    if (!fg_parse_string(f, &trial->name, "a trial has a name in quotes")) {
        fg_parse_skip_row(f);
        return;
    }
    for (const fg_trial_node *other = f->trials; other; other = other->next)
        if (fg_text_same(other->name, trial->name)) {
            fg_say(f, FG_FIND_TWICE, trial->span, "there is a trial of this name already", "give each its own name");
            break;
        }
    if (f->trials_last)
        f->trials_last->next = trial;
    else
        f->trials = trial;
    f->trials_last = trial;
    f->trial_count++;
    defer(f, NULL, trial, NULL);
    trial->whole = fg_span_to_here(f, first);
}

static void parse_scene_head(fg_front *f)
{
    fg_scene_node *scene = FG_TAKE(fg_scene_node, &f->arena, 1);
    fg_lex_next(f);
    if (!scene) return;
    scene->span = fg_lex_span(f);
    if (!fg_parse_string(f, &scene->name, "a scene has a name in quotes")) {
        fg_parse_skip_row(f);
        return;
    }
    for (const fg_scene_node *other = f->scenes; other; other = other->next)
        if (fg_text_same(other->name, scene->name)) {
            fg_say(f, FG_FIND_TWICE, scene->span, "there is a scene of this name already", "give each its own name");
            break;
        }
    if (f->scenes_last)
        f->scenes_last->next = scene;
    else
        f->scenes = scene;
    f->scenes_last = scene;
    f->scene_count++;
    defer(f, NULL, NULL, scene);
}

static void once(fg_front *f, bool *seen, const char *word)
{
    if (*seen)
        fg_say(f, FG_FIND_TWICE, fg_lex_span(f), "'{}' stands a second time in this file", "keep one of them",
               fg_text_c(word));
    *seen = true;
    fg_lex_next(f);
}

static void parse_gate(fg_front *f)
{
    once(f, &f->titled, "gate");
    if (!fg_parse_string(f, &f->title, "the title stands in quotes: gate \"Pebble Quay\""))
        fg_parse_skip_row(f);
    else
        fg_parse_row_end(f);
}

static void parse_every(fg_front *f)
{
    once(f, &f->paced, "every");
    fg_node *time = fg_parse_number(f);
    if (time->kind == NODE_BROKEN) {
        fg_parse_skip_row(f);
        return;
    }
    fg_parse_row_end(f);
    f->pace = time;
}

static void unknown_statement(fg_front *f)
{
    static const char *const words[] = {
#define FG_KIND_WORD(code, word) word,
        FG_KINDS(FG_KIND_WORD)
#undef FG_KIND_WORD
            "gate",
        "every",
        "trial",
        "scene",
        "include",
        NULL};
    fg_text word = fg_lex_text(f);
    fg_text guess = fg_parse_at(f, TOK_NAME) ? fg_name_nearest_word(word, words) : (fg_text){0};
    if (guess.size)
        fg_say(f, FG_FIND_UNKNOWN_WORD, fg_lex_span(f), "'{}' does not begin a declaration", "did you mean '{}'?", word,
               guess);
    else
        fg_parse_wrong(f, "a declaration", "it begins with a word like sensor, bands, condition or lamp");
    fg_parse_skip_row(f);
    (void)fg_parse_accept(f, TOK_CLOSE_BRACE);
}

static void parse_statements(fg_front *f);

static fg_text identity_of(const fg_source *source) { return source->identity.size ? source->identity : source->name; }

/* Reads another file in place. */
static void include(fg_front *f, fg_text path, fg_span span)
{
    fg_source source = {0};
    const fg_text from = f->sources[f->lexer.source].name;
    if (!f->input->read || !f->input->read(f->input->context, path, from, &source)) {
        fg_say(f, FG_FIND_INCLUDE, span, "the file '{}' {}", "its path counts from the folder of this file", path,
               source.text.size ? source.text : T("cannot be read"));
        return;
    }
    if (source.text.size > FG_SOURCE_MOST_BYTES) {
        fg_say(f, FG_FIND_TOO_MANY, span, "the file '{}' is too long for a gate file", "is it the right file?", path);
        return;
    }
    for (uint32_t i = 0; i < f->include_depth; i++)
        if (fg_text_same(identity_of(&f->sources[f->including[i]]), identity_of(&source))) {
            fg_say(f, FG_FIND_INCLUDE, span, "'{}' includes itself", "take one of the two includes out", source.name);
            return;
        }
    if (f->source_count == FG_SOURCES_MOST || f->include_depth == FG_INCLUDES_DEEP) {
        fg_say(f, FG_FIND_TOO_MANY, span, "this includes too many files", "a gate has at most 100, at most 20 deep");
        return;
    }
    const fg_lexer here = f->lexer;
    const uint16_t number = (uint16_t)f->source_count++;
    f->sources[number] = source;
    f->including[f->include_depth++] = number;
    if (fg_check_encoding(f, source.text, number)) {
        fg_lex_start(f, source.text, number, 0);
        parse_statements(f);
    }
    f->include_depth--;
    f->lexer = here;
}

static void parse_include(fg_front *f)
{
    fg_text path;
    fg_lex_next(f);
    const fg_span span = fg_lex_span(f);
    if (!fg_parse_string(f, &path, "the file's name stands in quotes")) {
        fg_parse_skip_row(f);
        return;
    }
    fg_parse_row_end(f);
    include(f, path, span);
}

static void parse_statement(fg_front *f)
{
    fg_text word = fg_lex_text(f);
    const bool outer = fg_text_is(word, "gate") || fg_text_is(word, "every");
    if (fg_parse_at(f, TOK_NAME) && outer && f->lexer.source)
        fg_say(f, FG_FIND_INCLUDE, fg_lex_span(f), "'{}' cannot stand in an included file",
               "put it into the file that includes this one", word);
    if (!fg_parse_at(f, TOK_NAME))
        unknown_statement(f);
    else if (fg_text_is(word, "gate"))
        parse_gate(f);
    else if (fg_text_is(word, "every"))
        parse_every(f);
    else if (fg_text_is(word, "trial"))
        parse_trial_head(f);
    else if (fg_text_is(word, "scene"))
        parse_scene_head(f);
    else if (fg_text_is(word, "include"))
        parse_include(f);
    else {
        for (int k = 0; k < FG_KINDS_IN_ALL; k++) {
            if (!fg_text_is(word, fg_kind_word((fg_kind)k))) continue;
            parse_declaration(f, (fg_kind)k);
            return;
        }
        unknown_statement(f);
    }
}

static void parse_statements(fg_front *f)
{
    while (!fg_parse_at(f, TOK_END)) {
        if (fg_parse_accept(f, TOK_NEWLINE) || fg_parse_accept(f, TOK_SEMICOLON)) continue;
        parse_statement(f);
    }
}

/* The bodies that hold conditions, now that every name and label is known. */
static void parse_body(fg_front *f, const fg_deferred *d)
{
    f->lexer = d->lexer;
    f->owner = d->symbol;
    f->in_trial = d->trial != NULL;
    f->brackets = 0;
    if (d->trial) {
        fg_parse_trial(f, d->trial);
        return;
    }
    if (d->scene) {
        fg_parse_scene(f, d->scene);
        return;
    }
    switch (d->symbol->kind) {
    case FG_KIND_CONDITION: fg_parse_condition_statement(f, d->symbol); return;
    case FG_KIND_LATCH:
    case FG_KIND_COUNT:
    case FG_KIND_PULSE: fg_parse_listener(f, d->symbol); return;
    case FG_KIND_SEQUENCE: fg_parse_sequence(f, d->symbol); return;
    default: fg_parse_output(f, d->symbol); return;
    }
}

void fg_parse(fg_front *f)
{
    f->including[f->include_depth++] = 0;
    fg_lex_start(f, f->input->text, 0, 0);
    f->declaring = true;
    parse_statements(f);
    f->declaring = false;
    for (fg_symbol *s = f->symbols; s; s = s->next)
        if (s->kind == FG_KIND_BANDS) fg_check_collect_labels(f, s);
    for (const fg_deferred *d = f->deferred; d && !f->arena.full; d = d->next) parse_body(f, d);
}
