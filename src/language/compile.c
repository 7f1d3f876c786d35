/* SPDX-License-Identifier: MIT */
/* The way in: text, settings and memory to a program. Each stage hands its result to the next: text, tree, check,
 * lower, warn. */
#include "core/mem.h"
#include "language/check/check.h"
#include "language/lower/lower.h"
#include "language/text/encoding.h"
#include "language/warn/warn.h"

/* The value of a setting as a number; NULL if it was reported. */
static fg_node *parse_setting(fg_compiler *c, size_t i, fg_symbol **symbol)
{
    const fg_setting *setting = &c->input->settings[i];
    const uint16_t source = (uint16_t)(FG_SOURCE_SETTING + i);
    const fg_span whole = {0, (uint32_t)setting->value.size, source};
    *symbol = fg_name_use(c, setting->name, whole, FG_KIND_BIT(FG_KIND_NUMBER));
    fg_lex_start(c, setting->value, source, 0);
    fg_node *value = fg_parse_number_expression(c);
    if (value->kind != NODE_BROKEN && !fg_parse_at(c, TOK_END))
        fg_parse_wrong(c, "the end of the value", "write --set NUMBER=VALUE, as in number NUMBER = VALUE");
    bool good = *symbol && !c->lost;
    c->lost = false;
    return good ? value : NULL;
}

/* A bare number given for one with a unit keeps that unit. Asked before anything is replaced, so quietly, and
 * forgotten. */
static void keep_unit(fg_compiler *c, const fg_symbol *symbol, fg_node *value)
{
    if (value->kind != NODE_LITERAL || value->literal.unit.size || !symbol->body) return;
    c->quiet = true;
    value->literal.unit = fg_quantity_of(c, symbol->body).unit;
    c->quiet = false;
    for (fg_symbol *s = c->symbols; s; s = s->next) s->worked_out = s->visited = false;
}

/* Numbers that have another value in this run, or in this trial, which knows better. */
static void apply_settings(fg_compiler *c)
{
    fg_node *settings = NULL, **end = &settings;
    for (size_t i = 0; i < c->input->setting_count; i++) {
        fg_symbol *symbol;
        fg_node *value = parse_setting(c, i, &symbol);
        if (!value) continue;
        keep_unit(c, symbol, value);
        value->symbol = symbol;
        value->next = NULL;
        *end = value; /* in order, so that the last of two wins */
        end = &value->next;
    }
    for (fg_node *value = settings; value; value = value->next) value->symbol->body = value;
    const fg_trial_node *trial = c->input->trial ? c->trials : NULL;
    for (uint32_t i = 1; trial && i < c->input->trial; i++) trial = trial->next;
    for (fg_node *value = trial ? trial->sets : NULL; value; value = value->next) value->symbol->body = value;
}

/* Conditions that are asked for this run. */
static void parse_asked(fg_compiler *c)
{
    fg_node **end = &c->asked;
    c->in_trial = true;
    c->dependent = NULL;
    for (size_t i = 0; i < c->input->asked_count; i++) {
        fg_lex_start(c, c->input->asked[i], (uint16_t)(FG_SOURCE_ASKED + i), 0);
        fg_node *condition = fg_parse_condition(c);
        if (!c->lost && condition->kind != NODE_BROKEN && !fg_parse_at(c, TOK_END))
            fg_parse_wrong(c, "the end of the condition", "write it as behind 'on when', without a time");
        c->lost = false;
        condition->next = NULL;
        *end = condition;
        end = &condition->next;
    }
    c->in_trial = false;
}

/* A file that is no text is reported once, and nothing else is said about it: every other message would be a
 * consequence of that. */
static void check_text(fg_compiler *c)
{
    const fg_text text = c->input->text;
    if (fg_check_encoding(c, text, 0) && !text.size)
        fg_report(c, FG_FIND_MISSING, (fg_span){0}, "this gate file is empty",
                  "declare a sensor to begin with: sensor depth { unit cm }");
}

/* Is everything there that has a size? */
static bool is_complete(const fg_language_input *input)
{
    bool good = (input->text.at || !input->text.size) && (input->name.at || !input->name.size) &&
                (input->identity.at || !input->identity.size) && (input->settings || !input->setting_count) &&
                (input->asked || !input->asked_count);
    for (size_t i = 0; good && i < input->setting_count; i++)
        good = (input->settings[i].name.at || !input->settings[i].name.size) &&
               (input->settings[i].value.at || !input->settings[i].value.size);
    for (size_t i = 0; good && i < input->asked_count; i++) good = input->asked[i].at || !input->asked[i].size;
    return good;
}

/* The stages, each behind a guard. A stage runs only on what the one before found right, so it asks no questions
 * twice. Names are handed out even of a gate with mistakes, because editors and messages want them. When memory runs
 * out anywhere the arena says so and every stage comes to its end without more of it. */
static uint64_t hash_on(uint64_t hash, fg_text text)
{
    for (size_t i = 0; i < text.size; i++) hash = (hash ^ (unsigned char)text.at[i]) * UINT64_C(0x100000001b3);
    return hash;
}

/* FNV-1a (Fowler, Noll, Vo) of all texts the gate is made of and the numbers set for it. */
static uint64_t hash_of(const fg_compiler *c)
{
    uint64_t hash = UINT64_C(0xcbf29ce484222325);
    for (uint32_t i = 0; i < c->source_count; i++) hash = hash_on(hash, c->sources[i].text);
    for (size_t i = 0; i < c->input->setting_count; i++) {
        hash = hash_on(hash, c->input->settings[i].name);
        hash = hash_on(hash, c->input->settings[i].value);
    }
    return hash;
}

fg_status fg_language_compile(const fg_language_input *input, void *memory, size_t size, fg_program *program)
{
    if (!input || !program || !memory || input->text.size > FG_SOURCE_MOST_BYTES || input->setting_count >= 1000 ||
        input->asked_count >= 1000)
        return FG_ERROR_ARGUMENT;
    if ((uintptr_t)memory % FG_ALIGNOF(max_align_t) || !is_complete(input)) return FG_ERROR_ARGUMENT;
    /* So that whatever happens the caller sees an empty program and no garbage. */
    memset(program, 0, sizeof *program);
    fg_arena arena = {(unsigned char *)memory, size, 0, false};
    fg_compiler *c = FG_TAKE(fg_compiler, &arena, 1);
    if (!c) return FG_ERROR_MEMORY;
    c->arena = arena;
    c->input = input;
    c->program = program;
    c->sources = FG_TAKE(fg_source, &c->arena, FG_SOURCES_MOST);
    if (!c->sources) return FG_ERROR_MEMORY;
    /* Source 0 is the gate file. */
    c->sources[c->source_count++] = (fg_source){input->name, input->text, input->identity};

    check_text(c);
    if (!c->error_count) {
        fg_parse(c);
        apply_settings(c);
        parse_asked(c);
        if (!c->arena.full) fg_check(c);
        if (!c->error_count && !c->arena.full) fg_lower(c);
        fg_lower_declared(c);
        if (!c->error_count && !c->arena.full) fg_warn(c);
    }
    program->gate.hash = hash_of(c);
    program->title = c->title;
    program->sources = c->sources;
    program->source_count = c->source_count;
    fg_report_finish(c);
    program->memory_used = c->arena.used;
    if (c->arena.full) return FG_ERROR_MEMORY;
    return program->error_count ? FG_ERROR_GATE : FG_OK;
}

/* Nobody asks this in a step, so no table is kept for it. */
const fg_declared *fg_program_find(const fg_program *program, fg_text name)
{
    for (uint32_t i = 0; i < program->declared_count; i++)
        if (fg_text_same(program->declared[i].name, name)) return &program->declared[i];
    return NULL;
}

bool fg_program_reads(const fg_program *program, const fg_declared *declared)
{
    const fg_sensor *sensors = program->gate.sensors; /* a gate with mistakes has none, but it has names */
    return fg_kind_is(declared->kind, FG_KIND_READ) &&
           (declared->kind == FG_KIND_FLAG || !sensors || !sensors[declared->index].term_count);
}

uint32_t fg_program_line(const fg_program *program, fg_span span)
{
    return fg_text_place(program->sources[span.source].text, span.at).line;
}
