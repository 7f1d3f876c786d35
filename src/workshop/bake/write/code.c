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
    c->asked = calloc(n->ops + 1u, sizeof *c->asked);
    c->sure = calloc((size_t)n->ops + n->watched + 1, sizeof *c->sure);
    if (c->sure) fg_gate_sure_lines(c->gate, c->sure);
    c->labels = calloc(labels + 1u, sizeof *c->labels);
    c->sensor_names = calloc(n->sensors + 1u, sizeof *c->sensor_names);
    c->flag_names = calloc(n->flags + 1u, sizeof *c->flag_names);
    c->output_names = calloc(n->outputs + 1u, sizeof *c->output_names);
    c->answer_names = calloc(c->program->declared_count + 1u, sizeof *c->answer_names);
    return c->sensors && c->flags && c->outputs && c->counts && c->previously && c->slots && c->asked && c->sure &&
           c->labels && c->sensor_names && c->flag_names && c->output_names && c->answer_names && fg_code_index(c) &&
           fg_code_part_names(&c->part_names);
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
    free(c->asked);
    free(c->sure);
    free(c->labels);
    free(c->sensor_names);
    free(c->flag_names);
    free(c->output_names);
    free(c->answer_names);
    for (size_t i = 0; i < c->text_count; i++) free(c->texts_made[i]);
    free(c->texts_made);
    fg_words_free(&c->names);
    fg_words_free(&c->part_names);
    free(c->owners);
    for (int k = 0; c->by_kind && k < FG_KINDS_IN_ALL; k++) free(c->by_kind[k]);
    free(c->by_kind);
    free(c->members);
    fg_buffer_free(&c->functions);
    fg_buffer_free(&c->step);
    fg_buffer_free(&c->start);
    fg_buffer_free(&c->header);
    fg_buffer_free(&c->source);
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

static void write_line(coder *c, uint16_t line)
{
    const fg_op *op = &c->gate->ops[line];
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: fg_code_sensor(c, op->rule); return;
    case FG_OP_FLAG:
        fg_code_flag(c, op->rule);
        c->slots[line] = c->flags[op->rule].answer;
        return;
    case FG_OP_OUTPUT: fg_code_output(c, op->rule); return;
    default: (fg_op_is(op->kind, FG_OP_RULE) ? fg_code_rule : fg_code_condition)(c, line); return;
    }
}

/* The time since the last step in 16 bits. */
static void write_passed(coder *c)
{
    const int base = (CODE_SHORT_TIME + c->loop) / c->loop * c->loop;
    if (c->loop == 1)
        fg_code_line(c, 1, "const uint16_t passed = gone > %u ? %u : (uint16_t)gone;", CODE_LATE, CODE_LATE);
    else
        fg_code_line(c, 1, "const uint16_t passed = gone > %u ? (uint16_t)(late(gone, %u) + %du) : (uint16_t)gone;",
                     CODE_LATE, c->loop, base);
}

static void write_step(coder *c)
{
    fg_buffer lines = {0};
    const fg_declared *said = NULL;
    for (uint16_t i = 0; i < c->gate->size.ops; i++) {
        fg_buffer one = {0};
        c->out = &one;
        write_line(c, i);
        const fg_declared *d = fg_code_owner(c, i);
        c->out = &lines;
        if (one.size && d && d != said) {
            fg_buffer_add_c(&lines, "\n");
            fg_code_comment(c, 1, d);
            said = d;
        }
        fg_buffer_add(&lines, fg_buffer_text(&one));
        c->full = c->full || one.full;
        fg_buffer_free(&one);
    }
    c->out = &lines;
    if (c->gate->size.previously) fg_code_line(c, 0, "\n    /* for `previously` */");
    for (uint16_t i = 0; i < c->gate->size.previously; i++)
        fg_code_line(c, 1, "%s = %s;", c->previously[i], fg_code_value(c, c->gate->previously[i]));

    c->full = c->full || !fg_code_prune(&lines);
    c->out = &c->step;
    fg_code_line(c, 0, "void %s_step(%s_state *s, uint32_t now)", c->name, c->name);
    fg_code_line(c, 0, "{");
    const bool passed = lines.size && fg_code_has_word(fg_buffer_text(&lines), "passed");
    if (passed || (lines.size && fg_code_has_word(fg_buffer_text(&lines), "gone"))) {
        const char *last = fg_code_member(c, "uint32_t", fg_code_word(c, fg_text_of("stepped_at"), ""), 0, "ms");
        fg_code_line(c, 1, "const uint32_t gone = now - %s;", last);
        if (passed) write_passed(c);
        fg_code_line(c, 1, "%s = now;", last);
    } else if (!fg_code_has_word(fg_buffer_text(&lines), "now")) {
        fg_code_line(c, 1, "(void)now;");
    }
    if (!lines.size) fg_code_line(c, 1, "(void)s;");
    fg_buffer_add(&c->step, fg_buffer_text(&lines));
    fg_code_line(c, 0, "}\n");
    c->full = c->full || lines.full;
    fg_buffer_free(&lines);
}

/* ---- the source ---- */

static void write_start(coder *c, fg_buffer *body)
{
    c->out = body;
    fg_code_line(c, 0, "void %s_start(%s_state *s)", c->name, c->name);
    fg_code_line(c, 0, "{");
    fg_code_line(c, 1, "unsigned char *byte = (unsigned char *)s;");
    fg_code_line(c, 1, "for (%s i = 0; i < sizeof *s; i++) byte[i] = 0;", c->large ? "uint32_t" : "uint16_t");
    fg_buffer_add(body, fg_buffer_text(&c->start));
    fg_code_line(c, 0, "}\n");
}

static void write_source(coder *c, const fg_buffer *texts)
{
    fg_buffer body = {0}, parts = {0}, code = {0};
    c->full = c->full || !fg_code_prune_functions(&c->functions, fg_buffer_text(&c->step), fg_buffer_text(texts));
    fg_buffer_add(&body, fg_buffer_text(&c->functions));
    write_start(c, &body);
    fg_buffer_add(&body, fg_buffer_text(&c->step));
    fg_buffer_add(&body, fg_buffer_text(texts));
    fg_buffer_add(&body, (fg_text){"", 1});
    c->full = c->full || body.full || !fg_code_parts(c, body.text, &parts, &code);
    fg_buffer_free(&body);

    c->out = &c->source;
    fg_code_line(c, 0, "#include \"%s\"\n", c->baker->options->header);
    static const char *const words[] = {"UNSURE", "NO", "YES", "NONE"};
    for (size_t i = 0; i < 4; i++)
        if (fg_code_has_word(fg_buffer_text(&code), words[i]) || fg_code_has_word(fg_buffer_text(&parts), words[i]))
            fg_code_line(c, 0, "#define %s %s", words[i], i == 0 ? "0" : i == 1 ? "1" : i == 2 ? "2" : "255");
    fg_buffer_add_c(c->out, "\n");
    if (texts->size) {
        fg_code_line(c, 0, "#ifdef __AVR__ /* texts stay in flash */");
        fg_code_line(c, 0, "#include <avr/pgmspace.h>");
        fg_code_line(c, 0, "#define FLASH_TEXT(text) PSTR(text)");
        fg_code_line(c, 0, "#define FLASH_CHAR(at) ((char)pgm_read_byte(at))");
        fg_code_line(c, 0, "#else");
        fg_code_line(c, 0, "#define FLASH_TEXT(text) (text)");
        fg_code_line(c, 0, "#define FLASH_CHAR(at) (*(at))");
        fg_code_line(c, 0, "#endif\n");
    }
    fg_buffer_add(c->out, fg_buffer_text(&parts));
    fg_buffer_add(c->out, fg_buffer_text(&code));
    c->full = c->full || parts.full || code.full;
    fg_buffer_free(&parts);
    fg_buffer_free(&code);
}

static void put_buffer(coder *c, const fg_buffer *b, FILE *file)
{
    c->baker->out = file;
    fg_bake_heading(c->baker);
    (void)fwrite(b->text, 1, b->size, file);
    c->full = c->full || b->full;
}

static void write_all(coder *c, FILE *header, FILE *source)
{
    fg_buffer texts = {0};
    name_enumerators(c);
    fg_code_plan_sensors(c);
    plan_rules(c);
    fg_code_plan_outputs(c);
    fg_code_plan_conditions(c);
    fg_code_conversions(c);
    write_step(c);
    c->out = &texts; /* cppcheck-suppress autoVariables; it is set to another below */
    const bool any = fg_code_texts(c);
    fg_code_header(c, any);
    put_buffer(c, &c->header, header);
    write_source(c, &texts);
    put_buffer(c, &c->source, source);
    c->full = c->full || texts.full || c->functions.full || c->step.full || c->start.full;
    fg_buffer_free(&texts);
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
    fg_buffer capitals = {0};
    fg_bake_capitals(&capitals, options->name, strlen(options->name));
    c.capitals = fg_code_say(&c, "%.*s", (int)capitals.size, capitals.text ? capitals.text : "");
    c.full = c.full || capitals.full;
    fg_buffer_free(&capitals);
    fg_bake_reserve(&n, "_EVERY_MS");
    fg_bake_reserve(&n, "_TEXT_SIZE");
    write_all(&c, header, source);
    const bool good = !c.full && !n.full;
    if (baked) *baked = (fg_baked){.packed = c.packed, .aligned = c.aligned};
    free_tables(&c);
    fg_bake_namer_free(&n);
    return good;
}
