/* SPDX-License-Identifier: MIT */
/* A gate as straight C, for a board without the library: the header and the source put together. */
#include "workshop/bake/write/write.h"

#include <inttypes.h>
#include <string.h>
#include <stdlib.h>

/* ---- before the code ---- */

static bool make_tables(coder *c)
{
    const fg_gate_sizes *n = &c->gate->size;
    uint32_t labels = 0;
    c->first_label = calloc(c->program->declared_count + 1u, sizeof *c->first_label);
    if (!c->first_label) return false;
    for (uint32_t i = 0; i < c->program->declared_count; i++) {
        c->first_label[i] = labels;
        labels += c->program->declared[i].label_count;
    }
    c->sensors = calloc(n->sensors + 1u, sizeof *c->sensors);
    c->flags = calloc(n->flags + 1u, sizeof *c->flags);
    c->outputs = calloc(n->outputs + 1u, sizeof *c->outputs);
    c->counts = calloc(n->counters + 1u, sizeof *c->counts);
    c->previously = calloc(n->previously + 1u, sizeof *c->previously);
    c->slots = calloc(n->ops + 1u, sizeof *c->slots);
    c->started = calloc(n->ops + 1u, sizeof *c->started);
    c->asked = calloc(n->ops + 1u, sizeof *c->asked);
    c->sure = calloc((size_t)n->ops + n->watched + 1, sizeof *c->sure);
    if (c->sure) fg_gate_sure_slots(c->gate, c->sure);
    c->labels = calloc(labels + 1u, sizeof *c->labels);
    c->sensor_names = calloc(n->sensors + 1u, sizeof *c->sensor_names);
    c->flag_names = calloc(n->flags + 1u, sizeof *c->flag_names);
    c->output_names = calloc(n->outputs + 1u, sizeof *c->output_names);
    c->answer_names = calloc(c->program->declared_count + 1u, sizeof *c->answer_names);
    c->latches = calloc(n->latches + 1u, sizeof *c->latches);
    c->zeros = calloc(n->sensors + 1u, sizeof *c->zeros);
    c->unsure_names = calloc(c->program->declared_count + 1u, sizeof *c->unsure_names);
    c->none_names = calloc(c->program->declared_count + 1u, sizeof *c->none_names);
    return c->sensors && c->flags && c->outputs && c->counts && c->previously && c->slots && c->started && c->asked &&
           c->sure && c->labels && c->sensor_names && c->flag_names && c->output_names && c->answer_names &&
           c->latches && c->zeros && c->unsure_names && c->none_names && fg_code_index(c) && fg_code_part_symbols(c);
}

static void free_tables(coder *c)
{
    free(c->first_label);
    free(c->sensors);
    free(c->flags);
    free(c->outputs);
    free(c->counts);
    free(c->previously);
    free(c->slots);
    free(c->started);
    free(c->asked);
    free(c->sure);
    free(c->labels);
    free(c->sensor_names);
    free(c->flag_names);
    free(c->output_names);
    free(c->answer_names);
    free(c->latches);
    free(c->zeros);
    free(c->unsure_names);
    free(c->none_names);
    for (size_t i = 0; i < c->taken_count; i++) free(c->taken[i]);
    free(c->taken);
    fg_words_free(&c->names);
    fg_code_symbols_free(&c->symbols);
    free(c->owners);
    for (int k = 0; c->by_kind && k < FG_KINDS_IN_ALL; k++) free(c->by_kind[k]);
    free(c->by_kind);
    free(c->members);
    for (size_t i = 0; i < c->function_count; i++) fg_code_block_free(&c->functions[i].block);
    free(c->functions);
    fg_code_block_free(&c->step);
    fg_code_block_free(&c->start);
    fg_code_block_free(&c->header);
}

static void name_enumerators(coder *c)
{
    const fg_text none = {"", 0};
    for (uint32_t i = 0; i < c->program->declared_count; i++) {
        const fg_declared *d = &c->program->declared[i];
        if (d->kind == FG_KIND_SENSOR)
            c->sensor_names[d->index] = fg_bake_enumerator(c->namer, "SENSOR", d->name, none);
        if (d->kind == FG_KIND_FLAG) c->flag_names[d->index] = fg_bake_enumerator(c->namer, "FLAG", d->name, none);
        if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT))
            c->output_names[d->index] = fg_bake_enumerator(c->namer, "OUTPUT", d->name, none);
        if (d->kind == FG_KIND_COUNT) c->answer_names[i] = fg_bake_enumerator(c->namer, "COUNT", d->name, none);
        if (fg_kind_is(d->kind, FG_KIND_YES_NO | FG_KIND_LABELS))
            c->answer_names[i] = fg_bake_enumerator(c->namer, "ANSWER", d->name, none);
        if (d->label_count) c->unsure_names[i] = fg_bake_enumerator(c->namer, "", fg_text_of("unsure"), d->name);
        if (d->label_count) c->none_names[i] = fg_bake_enumerator(c->namer, "", fg_text_of("none"), d->name);
        for (uint16_t k = 0; k < d->label_count; k++)
            c->labels[c->first_label[i] + k] = fg_bake_enumerator(c->namer, "", d->labels[k], d->name);
    }
}

static void plan_rules(coder *c)
{
    const fg_gate *g = c->gate;
    for (uint32_t i = 0; i < c->program->declared_count; i++) {
        const fg_declared *d = &c->program->declared[i];
        if (d->kind == FG_KIND_COUNT) {
            const fg_count *rule = &g->counters[d->index].rule;
            c->counts[d->index] =
                fg_code_member(c, fg_code_type(rule->low, rule->high), fg_code_word(c, d->name, ""), 0, NULL);
            c->out = &c->start;
            if (rule->first) fg_code_line(c, 1, "%s = %s;", c->counts[d->index], fg_code_number(c, rule->first));
        }
        if (fg_kind_is(d->kind, FG_KIND_LISTENS) && fg_kind_is(d->kind, FG_KIND_YES_NO))
            c->slots[d->slot] = fg_code_member(c, "uint8_t", fg_code_word(c, d->name, ""), 0, NULL);
    }
}

/* ---- the step ---- */

static void write_op(coder *c, uint16_t slot)
{
    const fg_op *op = &c->gate->ops[slot];
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: fg_code_sensor(c, op->rule); return;
    case FG_OP_FLAG:
        fg_code_flag(c, op->rule);
        c->slots[slot] = c->flags[op->rule].answer;
        return;
    case FG_OP_OUTPUT: fg_code_output(c, op->rule); return;
    default: (fg_op_is(op->kind, FG_OP_RULE) ? fg_code_rule : fg_code_condition)(c, slot); return;
    }
}

/* The time since the last step in 16 bits. */
static void write_passed(coder *c)
{
    const int runs = (CODE_LATE - CODE_SHORT_TIME) / c->loop * c->loop; /* more than CODE_SHORT_TIME is left */
    if (c->loop == 1)
        fg_code_line(c, 1, "const uint16_t passed = went < 0x80000000u ? went > %u ? %u : (uint16_t)went : 0;",
                     CODE_LATE, CODE_LATE);
    else
        fg_code_line(c, 1, "const uint16_t passed = \3late(went, %d);", runs);
}

/* One op after the other, each declaration quoted above what it becomes. */
static void write_ops(coder *c, code_block *lines)
{
    const fg_declared *said = NULL;
    for (uint16_t i = 0; i < c->gate->size.ops; i++) {
        code_block one = {0};
        c->out = &one; /* cppcheck-suppress autoVariables; it is set to another below */
        write_op(c, i);
        const fg_declared *d = fg_code_owner(c, i);
        c->out = lines;
        if (one.text.size && d && d != said) {
            fg_buffer_add_c(&lines->text, "\n");
            fg_code_comment(c, 1, d);
            said = d;
        }
        fg_code_block_append(lines, &one);
        fg_code_block_free(&one);
    }
    if (c->gate->size.previously) fg_code_line(c, 0, "\n    /* for `previously` */");
    for (uint16_t i = 0; i < c->gate->size.previously; i++)
        fg_code_line(c, 1, "%s = %s;", c->previously[i], fg_code_value(c, c->gate->previously[i]));
}

static void write_step(coder *c)
{
    code_block lines = {0};
    write_ops(c, &lines);
    fg_code_block_prune(&lines, &c->symbols);
    const bool passed = fg_code_symbol_used(&c->symbols, "passed");
    fg_code_split(c, &lines);
    c->out = &c->step;
    fg_code_line(c, 0, "void %s_step(%s_state *s, uint32_t now)", c->name, c->name);
    fg_code_line(c, 0, "{");
    const bool gone = fg_code_symbol_used(&c->symbols, "gone"), back = fg_code_symbol_used(&c->symbols, "back");
    if (passed || gone || back) {
        const char *last = fg_code_member(c, "uint32_t", fg_code_word(c, fg_text_of("stepped_at"), ""), 0, "ms");
        fg_code_line(c, 1, "const uint32_t before = %s;", last);
        fg_code_line(c, 1, "%s = now;", last); /* at once: registers are few */
        fg_code_line(c, 1, "const uint32_t went = now - before;");
        if (gone) fg_code_line(c, 1, "const uint32_t gone = went < 0x80000000u ? went : 0;");
        if (back) fg_code_line(c, 1, "const uint32_t back = went < 0x80000000u ? 0 : 0u - went;");
        if (passed) write_passed(c);
    } else if (!fg_code_symbol_used(&c->symbols, "now")) {
        fg_code_line(c, 1, "(void)now;");
    }
    if (!lines.text.size) fg_code_line(c, 1, "(void)s;");
    fg_code_block_append(&c->step, &lines);
    if (c->stepped) fg_code_line(c, 1, "%s = true;", c->stepped);
    fg_code_line(c, 0, "}\n");
    fg_code_block_free(&lines);
}

/* ---- the source ---- */

static void write_start(coder *c, code_block *body)
{
    c->out = body;
    fg_code_line(c, 0, "void %s_start(%s_state *s)", c->name, c->name);
    fg_code_line(c, 0, "{");
    fg_code_line(c, 1, "unsigned char *byte = (unsigned char *)s;");
    fg_code_line(c, 1, "for (%s i = 0; i < sizeof *s; i++) byte[i] = 0;", c->large ? "uint32_t" : "uint16_t");
    fg_code_block_append(body, &c->start);
    fg_code_line(c, 0, "}\n");
}

/* Functions that nothing calls are left out. Each is called only by what stands behind it, so one way from the end is
 * enough. */
static void choose_functions(coder *c)
{
    for (size_t i = c->function_count; i-- > 0;) {
        code_function *f = &c->functions[i];
        if (f->symbol && !c->symbols.list[f->symbol - 1].used)
            fg_code_block_free(&f->block);
        else
            fg_code_block_mark(&f->block, &c->symbols);
    }
}

/* What stays in flash on an AVR. `tables`: those of parts, as src/core/flash.h has it. */
static void write_flash(coder *c, bool texts, bool tables)
{
    const char *n = c->capitals;
    fg_code_line(c, 0, "#ifdef __AVR__ /* what is constant stays in flash */");
    fg_code_line(c, 0, "#include <avr/pgmspace.h>");
    if (texts) {
        fg_code_line(c, 0, "#define FLASH_TEXT(text) PSTR(text)");
        fg_code_line(c, 0, "#define FLASH_CHAR(at) ((char)pgm_read_byte(at))");
    }
    if (tables) {
        fg_code_line(c, 0, "#define %s_IN_FLASH PROGMEM", n);
        fg_code_line(c, 0, "#define %s_FLASH_64(at) \\", n);
        fg_code_line(c, 1, "((int64_t)(((uint64_t)pgm_read_dword((const uint32_t *)(at) + 1) << 32) \\");
        fg_code_line(c, 2, "| pgm_read_dword((const uint32_t *)(at))))");
    }
    fg_code_line(c, 0, "#else");
    if (texts) {
        fg_code_line(c, 0, "#define FLASH_TEXT(text) (text)");
        fg_code_line(c, 0, "#define FLASH_CHAR(at) (*(at))");
    }
    if (tables) {
        fg_code_line(c, 0, "#define %s_IN_FLASH", n);
        fg_code_line(c, 0, "#define %s_FLASH_64(at) (*(at))", n);
    }
    fg_code_line(c, 0, "#endif\n");
}

static bool has_tables(const coder *c) { return fg_code_symbol_used(&c->symbols, "FG_IN_FLASH"); }

enum { ANSWERS = 4 };
static const char *const answers[ANSWERS] = {"UNSURE", "NO", "YES", "NONE"}, *const numbers[ANSWERS] = {"0", "1", "2",
                                                                                                        "255"};

static void write_preface(coder *c, code_block *preface, bool texts)
{
    c->out = preface;
    fg_code_line(c, 0, "#include \"%s\"\n", c->baker->options->header);
    if (texts || has_tables(c)) write_flash(c, texts, has_tables(c));
    for (size_t i = 0; i < ANSWERS; i++)
        if (fg_code_symbol_used(&c->symbols, answers[i])) fg_code_line(c, 0, "#define %s %s", answers[i], numbers[i]);
    fg_buffer_add_c(&preface->text, "\n");
}

/* What the preface defines is gone behind the code, so that two gates fit into one file. */
static void write_ending(coder *c, code_block *ending, bool texts)
{
    c->out = ending;
    for (size_t i = 0; i < ANSWERS; i++)
        if (fg_code_symbol_used(&c->symbols, answers[i])) fg_code_line(c, 0, "#undef %s", answers[i]);
    if (texts) fg_code_line(c, 0, "#undef FLASH_TEXT\n#undef FLASH_CHAR");
    if (has_tables(c)) fg_code_line(c, 0, "#undef %s_IN_FLASH\n#undef %s_FLASH_64", c->capitals, c->capitals);
}

static void put_text(coder *c, fg_buffer *text, FILE *file)
{
    fg_buffer bracketed = {0};
    c->baker->out = file;
    fg_bake_heading(c->baker);
    fg_bake_terms(c->baker, true);
    c->full = !fg_code_brackets(text, &bracketed) || c->full;
    if (bracketed.size) (void)fwrite(bracketed.text, 1, bracketed.size, file);
    fg_buffer_free(&bracketed);
}

static void write_source(coder *c, const code_block *texts, fg_buffer *source)
{
    code_block body = {0}, preface = {0}, ending = {0};
    fg_buffer parts = {0};
    fg_code_block_mark(&c->step, &c->symbols);
    fg_code_block_mark(texts, &c->symbols);
    choose_functions(c);
    for (size_t i = 0; i < c->function_count; i++) fg_code_block_append(&body, &c->functions[i].block);
    write_start(c, &body);
    fg_code_block_append(&body, &c->step);
    fg_code_block_append(&body, texts);
    c->full = c->full || !fg_code_parts(c, &parts);
    write_preface(c, &preface, texts->text.size > 0);
    fg_code_block_write(c, &preface, source);
    fg_buffer_add(source, fg_buffer_text(&parts));
    fg_code_block_write(c, &body, source);
    write_ending(c, &ending, texts->text.size > 0);
    fg_code_block_write(c, &ending, source);
    c->full = c->full || parts.full;
    fg_code_block_free(&body);
    fg_code_block_free(&preface);
    fg_code_block_free(&ending);
    fg_buffer_free(&parts);
}

/* How deep the stack gets is known last, and stands in the header. */
static void put_header(coder *c, size_t stack, FILE *file)
{
    fg_buffer *text = &c->header.text, known = {0};
    fg_buffer_end(text);
    const char *place = text->full ? NULL : strstr(text->text, CODE_STACK_PLACE);
    if (place) {
        fg_buffer_add(&known, (fg_text){text->text, (size_t)(place - text->text)});
        fg_buffer_add_number(&known, (int64_t)stack);
        fg_buffer_add_c(&known, place + strlen(CODE_STACK_PLACE));
    }
    known.full = known.full || !place;
    put_text(c, &known, file);
    fg_buffer_free(&known);
}

static void write_all(coder *c, FILE *header, FILE *source)
{
    code_block texts = {0};
    fg_buffer code = {0};
    name_enumerators(c);
    fg_code_plan_sensors(c);
    plan_rules(c);
    fg_code_plan_outputs(c);
    fg_code_plan_conditions(c);
    fg_code_conversions(c);
    write_step(c);
    c->out = &texts; /* cppcheck-suppress autoVariables; it is set to another below */
    const bool any = fg_code_texts(c);
    if (c->baker->options->report) fg_code_report(c);
    fg_code_header(c, any);
    write_source(c, &texts, &code);
    put_header(c, fg_code_stack(c, &code), header);
    put_text(c, &code, source);
    fg_code_block_free(&texts);
    fg_buffer_free(&code);
}

const char *fg_bake_code_misfit(const fg_gate_file *file)
{
    const fg_gate *g = &file->program.gate;
    if (g->size.outputs > CODE_OUTPUTS_MOST) return "has more than 1000 outputs";
    for (uint16_t i = 0; i < g->size.outputs; i++)
        if (g->outputs[i].row_count > CODE_ROWS_MOST) return "has an output with more than 250 rows";
    for (uint16_t i = 0; i < g->size.outputs; i++)
        if (fg_code_text_count(g, i) > CODE_TEXTS_MOST) return "has a display with more than 1000 texts";
    return NULL;
}

bool fg_bake_code(const fg_gate_file *file, const fg_bake_options *options, FILE *header, FILE *source, fg_baked *baked)
{
    if (file->program.gate.size.watched) return false;
    baker b = {.file = file,
               .program = &file->program,
               .gate = &file->program.gate,
               .options = options,
               .name = options->name};
    namer n = {.baker = &b};
    coder c = {.baker = &b, .program = b.program, .gate = b.gate, .namer = &n, .name = options->name};
    if (!make_tables(&c) || !fg_bake_namer(&n)) {
        free_tables(&c);
        fg_bake_namer_free(&n);
        return false;
    }
    c.capitals = n.capitals;
    fg_bake_reserve_numbers(&n);
    write_all(&c, header, source);
    const bool good = !c.full && !n.full;
    if (baked) *baked = (fg_baked){.packed = c.packed, .aligned = c.aligned};
    free_tables(&c);
    fg_bake_namer_free(&n);
    return good;
}
