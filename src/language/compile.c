/* The way in: text, settings and memory to a program. */
#include "front.h"

#include "core/mem.h"

/* The value of a setting as a number; NULL if it was reported. */
static fg_node *parse_setting(fg_front *f, size_t i, fg_symbol **symbol)
{
    const fg_setting *setting = &f->input->settings[i];
    const uint16_t source = (uint16_t)(FG_SOURCE_SETTING + i);
    const fg_span whole = {0, (uint32_t)setting->value.size, source};
    *symbol = fg_name_use(f, setting->name, whole, KIND(FG_KIND_NUMBER));
    fg_lex_start(f, setting->value, source, 0);
    fg_node *value = fg_parse_number_expression(f);
    if (value->kind != NODE_BROKEN && !fg_parse_at(f, TOK_END))
        fg_parse_wrong(f, "the end of the value", "write --set NUMBER=VALUE, as in number NUMBER = VALUE");
    bool good = *symbol && !f->lost;
    f->lost = false;
    return good ? value : NULL;
}

/* A bare number given for one with a unit keeps that unit. Asked before anything is replaced, so quietly, and
 * forgotten. */
static void keep_unit(fg_front *f, const fg_symbol *symbol, fg_node *value)
{
    if (value->kind != NODE_LITERAL || value->unit.size || !symbol->body) return;
    f->quiet = true;
    value->unit = fg_quantity_of(f, symbol->body).unit;
    f->quiet = false;
    for (fg_symbol *s = f->symbols; s; s = s->next) s->worked_out = s->visited = false;
}

/* Numbers that have another value in this run, or in this trial, which knows better. */
static void apply_settings(fg_front *f)
{
    fg_node *settings = NULL, **end = &settings;
    for (size_t i = 0; i < f->input->setting_count; i++) {
        fg_symbol *symbol;
        fg_node *value = parse_setting(f, i, &symbol);
        if (!value) continue;
        keep_unit(f, symbol, value);
        value->symbol = symbol;
        value->next = NULL;
        *end = value; /* in order, so that the last of two wins */
        end = &value->next;
    }
    for (fg_node *value = settings; value; value = value->next) value->symbol->body = value;
    const fg_trial_node *trial = f->input->trial >= 0 ? f->trials : NULL;
    for (int32_t i = 0; trial && i < f->input->trial; i++) trial = trial->next;
    for (fg_node *value = trial ? trial->sets : NULL; value; value = value->next) value->symbol->body = value;
}

static bool begins_with(fg_text text, const char *bytes, size_t size)
{
    return text.size >= size && fg_bytes_same(text.at, bytes, size);
}

bool fg_check_encoding(fg_front *f, fg_text text, uint16_t source)
{
    const size_t nul = fg_text_byte(text, 0, '\0'), wrong = fg_utf8_wrong(text);
    const size_t first = nul < wrong ? nul : wrong;
    if (first == text.size) return true;
    const fg_span span = {(uint32_t)first, 1, source};
    if (begins_with(text, "\xff\xfe", 2) || begins_with(text, "\xfe\xff", 2))
        fg_say(f, FG_FIND_TEXT, span, "this file is UTF-16, not UTF-8", "save it as UTF-8");
    else if (nul < wrong)
        fg_say(f, FG_FIND_TEXT, span, "there is a NUL byte here: this is not a text file",
               "give the gate file itself, in UTF-8");
    else
        fg_say(f, FG_FIND_TEXT, span, "this is not UTF-8: the file is in another encoding, or damaged here",
               "save it as UTF-8");
    return false;
}

static void check_text(fg_front *f)
{
    const fg_text text = f->input->text;
    if (fg_check_encoding(f, text, 0) && !text.size)
        fg_say(f, FG_FIND_MISSING, (fg_span){0}, "this gate file is empty",
               "declare a sensor to begin with: sensor depth { unit cm }");
}

/* Is everything there that has a size? */
static bool is_complete(const fg_language_input *input)
{
    bool good = (input->text.at || !input->text.size) && (input->name.at || !input->name.size) &&
                (input->identity.at || !input->identity.size) && (input->settings || !input->setting_count);
    for (size_t i = 0; good && i < input->setting_count; i++)
        good = (input->settings[i].name.at || !input->settings[i].name.size) &&
               (input->settings[i].value.at || !input->settings[i].value.size);
    return good;
}

fg_status fg_language_compile(const fg_language_input *input, void *memory, size_t size, fg_program *program)
{
    if (!input || !program || !memory || input->text.size > FG_SOURCE_MOST_BYTES || input->setting_count >= 1000)
        return FG_ERROR_ARGUMENT;
    if ((uintptr_t)memory % FG_ALIGNOF(max_align_t) || !is_complete(input)) return FG_ERROR_ARGUMENT;
    memset(program, 0, sizeof *program);
    fg_arena arena = {(unsigned char *)memory, size, 0, false};
    fg_front *f = FG_TAKE(fg_front, &arena, 1);
    if (!f) return FG_ERROR_MEMORY;
    f->arena = arena;
    f->input = input;
    f->program = program;
    f->sources = FG_TAKE(fg_source, &f->arena, FG_SOURCES_MOST);
    if (!f->sources) return FG_ERROR_MEMORY;
    f->sources[f->source_count++] = (fg_source){input->name, input->text, input->identity};

    check_text(f);
    if (!f->error_count) {
        fg_parse(f);
        apply_settings(f);
        fg_emit(f);
    }
    program->title = f->title;
    program->sources = f->sources;
    program->source_count = f->source_count;
    fg_say_finish(f);
    program->memory_used = f->arena.used;
    if (f->arena.full) return FG_ERROR_MEMORY;
    return program->error_count ? FG_ERROR_GATE : FG_OK;
}

const fg_declared *fg_program_find(const fg_program *program, fg_text name)
{
    for (uint32_t i = 0; i < program->declared_count; i++)
        if (fg_text_same(program->declared[i].name, name)) return &program->declared[i];
    return NULL;
}
