/* SPDX-License-Identifier: MIT */
/* What was tried: each answer of each rule, each row of each output, each limit from both sides, each sensor's fault.
 */
#include "workshop/base/limits.h"

#include <ficklegate/coverage.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* One thing that may happen. */
typedef struct item {
    fg_situation is;
    bool tried;
    uint16_t slot, corner; /* of a limit or margin: the slot of the rule, and which of its limits */
    uint32_t nth;          /* which limit of the name, from 1 on */
} item;

struct fg_coverage {
    const fg_program *program, *now; /* now: the one whose steps come */
    item *items;
    size_t count, room;
    uint32_t *limits; /* how many each name has */
    bool full;
    size_t *open; /* the items that were not tried yet, in no order */
    size_t open_count;
};

static void add(fg_coverage *c, item it)
{
    if (c->count == c->room) {
        const size_t room = c->room ? 2 * c->room : 64;
        item *items = realloc(c->items, room * sizeof *items);
        c->full = c->full || !items;
        if (!items) return;
        c->items = items;
        c->room = room;
    }
    c->items[c->count++] = it;
}

/* ---- everything that may happen ---- */

static void add_limits(fg_coverage *c, uint16_t slot, uint32_t declared)
{
    fg_value corners[FG_LIMITS_MOST];
    const fg_op *op = &c->program->gate.ops[slot];
    const size_t count = fg_limits_of(c->program, slot, corners);
    const fg_value margin = c->program->op_sources[slot].margin;
    for (uint16_t i = 0; i < count; i++) {
        item it = {
            .is = {.number = op->a, .declared = declared}, .slot = slot, .corner = i, .nth = ++c->limits[declared]};
        it.is.kind = FG_SITUATION_LIMIT;
        for (it.is.beside = -1; it.is.beside <= 1; it.is.beside++) {
            it.is.limit = fg_limit_beside(c->program, op->a, corners[i], it.is.beside);
            add(c, it);
        }
        it.is = (fg_situation){
            .kind = FG_SITUATION_MARGIN, .number = op->a, .limit = corners[i], .margin = margin, .declared = declared};
        if (margin > 1) add(c, it);
    }
}

static void add_answers(fg_coverage *c, const fg_declared *d, uint32_t number)
{
    item it = {.is = {.kind = FG_SITUATION_ANSWER, .number = d->slot, .declared = number}};
    if (fg_kind_is(d->kind, FG_KIND_LABELS)) {
        for (uint16_t i = 0; i < d->label_count; i++) {
            it.is.answer = fg_label(i);
            add(c, it);
        }
        return;
    }
    it.is.answer = FG_YES;
    add(c, it);
    it.is.answer = FG_NO;
    add(c, it);
}

static void add_name(fg_coverage *c, const fg_declared *d, uint32_t number)
{
    const fg_gate *gate = &c->program->gate;
    const bool answers = fg_kind_is(d->kind, FG_KIND_YES_NO | FG_KIND_LABELS) && !fg_kind_is(d->kind, FG_KIND_READ);
    if (d->kind == FG_KIND_SENSOR) add(c, (item){.is = {FG_SITUATION_FAULT, number, .number = d->index}});
    if (answers) add_answers(c, d, number);
    if (fg_kind_is(d->kind, FG_KIND_ON_SENSOR)) add_limits(c, d->slot, number);
    if (!fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) return;
    for (uint16_t i = 0; i < gate->outputs[d->index].row_count; i++)
        add(c, (item){.is = {FG_SITUATION_ROW, number, .number = d->index, .row = i}});
}

/* The limits that stand in conditions belong to their sensors. */
static void add_compares(fg_coverage *c)
{
    const fg_gate *gate = &c->program->gate;
    for (uint16_t slot = 0; slot < gate->size.ops; slot++) {
        uint32_t i = 0;
        if (gate->ops[slot].kind != FG_OP_COMPARE) continue;
        while (c->program->declared[i].kind != FG_KIND_SENSOR || c->program->declared[i].index != gate->ops[slot].a)
            i++;
        add_limits(c, slot, i);
    }
}

static void list_open(fg_coverage *c)
{
    c->open_count = 0;
    for (size_t i = 0; i < c->count; i++)
        if (!c->items[i].tried) c->open[c->open_count++] = i;
}

fg_coverage *fg_coverage_start(const fg_program *program)
{
    fg_coverage *c = calloc(1, sizeof *c);
    if (!c) return NULL;
    c->program = c->now = program;
    c->limits = calloc((size_t)program->declared_count + 1, sizeof *c->limits);
    if (!c->limits) {
        free(c);
        return NULL;
    }
    for (uint32_t i = 0; i < program->declared_count; i++) add_name(c, &program->declared[i], i);
    add_compares(c);
    c->open = calloc(c->count + 1, sizeof *c->open);
    if (c->full || !c->open) {
        fg_coverage_end(c);
        return NULL;
    }
    list_open(c);
    return c;
}

void fg_coverage_end(fg_coverage *c)
{
    if (!c) return;
    free(c->items);
    free(c->open);
    free(c->limits);
    free(c);
}

void fg_coverage_use(fg_coverage *c, const fg_program *program)
{
    fg_value corners[FG_LIMITS_MOST] = {0};
    c->now = program;
    for (size_t i = 0; i < c->count; i++) {
        item *it = &c->items[i];
        if (it->is.kind != FG_SITUATION_LIMIT && it->is.kind != FG_SITUATION_MARGIN) continue;
        it->is.margin = program->op_sources[it->slot].margin;
        if (it->corner < fg_limits_of(program, it->slot, corners))
            it->is.limit = fg_limit_beside(program, it->is.number, corners[it->corner], it->is.beside);
    }
}

/* ---- what happens ---- */

/* Further than a step from the limit, and no further than the margin; on a circle the short way. */
static bool within_margin(const fg_program *program, const fg_situation *s, fg_value value)
{
    const fg_value circle = program->gate.sensors[s->number].circle;
    int64_t away = (int64_t)value - s->limit;
    if (away < 0) away = -away;
    if (circle && away > circle / 2) away = circle - away;
    return away > 1 && away <= s->margin;
}

bool fg_situation_happens(const fg_program *program, const fg_situation *s, const fg_run *run)
{
    fg_value value;
    switch (s->kind) {
    case FG_SITUATION_ANSWER: return fg_answer(run, s->number) == s->answer;
    case FG_SITUATION_ROW: return fg_output_at(run, s->number)->row == s->row;
    case FG_SITUATION_FAULT: return !fg_sensor_value(run, s->number, &value);
    case FG_SITUATION_LIMIT: return fg_sensor_value(run, s->number, &value) && value == s->limit;
    case FG_SITUATION_MARGIN: return fg_sensor_value(run, s->number, &value) && within_margin(program, s, value);
    }
    return false;
}

void fg_coverage_step(fg_coverage *c, const fg_run *run)
{
    for (size_t i = 0; i < c->open_count;) {
        item *it = &c->items[c->open[i]];
        const bool of_value = it->is.kind == FG_SITUATION_LIMIT || it->is.kind == FG_SITUATION_MARGIN;
        it->tried = (of_value || !run->still) && fg_situation_happens(c->now, &it->is, run);
        if (it->tried)
            c->open[i] = c->open[--c->open_count];
        else
            i++;
    }
}

void fg_coverage_add(fg_coverage *c, const fg_coverage *other)
{
    for (size_t i = 0; i < c->count && i < other->count; i++)
        c->items[i].tried = c->items[i].tried || other->items[i].tried;
    list_open(c);
}

void fg_coverage_count(const fg_coverage *c, uint64_t *tried, uint64_t *all)
{
    *all = c->count;
    *tried = 0;
    for (size_t i = 0; i < c->count; i++) *tried += c->items[i].tried;
}

/* ---- what did not ---- */

static void say_row(const fg_program *program, const item *it, fg_buffer *out)
{
    const fg_row *row = &program->gate.rows[program->gate.outputs[it->is.number].first_row + it->is.row];
    char text[FG_LEVEL_TEXT_SIZE];
    fg_buffer_add_c(out, "row ");
    fg_buffer_add_number(out, it->is.row + 1);
    fg_buffer_add_c(out, " (");
    if (fg_form_is_plain(row->level.form)) {
        const size_t size = fg_level_text(&row->level, text);
        fg_buffer_add(out, (fg_text){text, size});
    } else {
        fg_buffer_add_c(out, fg_form_word((fg_form)row->level.form));
    }
    fg_buffer_add_c(out, ") never won");
}

static void say(const fg_program *program, const item *it, fg_buffer *out)
{
    const fg_declared *d = &program->declared[it->is.declared];
    fg_value corners[FG_LIMITS_MOST] = {0};
    switch (it->is.kind) {
    case FG_SITUATION_ANSWER:
        fg_buffer_add_c(out, "never ");
        fg_buffer_add(out, fg_answer_text(d, it->is.answer));
        return;
    case FG_SITUATION_ROW: say_row(program, it, out); return;
    case FG_SITUATION_FAULT: fg_buffer_add_c(out, "never faulty"); return;
    case FG_SITUATION_LIMIT:
        fg_buffer_add_c(out, it->is.beside ? "no reading one step from a limit, at " : "no reading on the limit ");
        (void)fg_limits_of(program, it->slot, corners); /* the gate's own, not those that a trial sets */
        fg_buffer_add_value(out, fg_limit_beside(program, it->is.number, corners[it->corner], it->is.beside), d);
        return;
    case FG_SITUATION_MARGIN:
        fg_buffer_add_c(out, "no reading deeper in the margin of the limit ");
        (void)fg_limits_of(program, it->slot, corners);
        fg_buffer_add_value(out, corners[it->corner], d);
        return;
    }
}

size_t fg_coverage_size(const fg_coverage *c) { return c->count; }

const fg_situation *fg_coverage_at(const fg_coverage *c, size_t i, bool *tried)
{
    if (tried) *tried = c->items[i].tried;
    return &c->items[i].is;
}

bool fg_coverage_words(const fg_coverage *c, size_t i, fg_text *words)
{
    fg_buffer out = {0};
    say(c->program, &c->items[i], &out);
    *words = fg_buffer_text(&out);
    return !out.full;
}

bool fg_coverage_untried(const fg_coverage *c, void *context,
                         void (*tell)(void *context, const fg_declared *declared, fg_text what))
{
    fg_buffer out = {0};
    for (uint32_t d = 0; d < c->program->declared_count && !out.full; d++) {
        for (size_t i = 0; i < c->count; i++) {
            if (c->items[i].tried || c->items[i].is.declared != d) continue;
            out.size = 0;
            say(c->program, &c->items[i], &out);
            tell(context, &c->program->declared[d], fg_buffer_text(&out));
        }
    }
    const bool good = !out.full;
    fg_buffer_free(&out);
    return good;
}

/* ---- as a file ---- */

static const char heading[] = "name,situation,tried";

static void add_key(const fg_coverage *c, const item *it, fg_buffer *out)
{
    static const char *const sides[] = {" below", " on", " above"};
    switch (it->is.kind) {
    case FG_SITUATION_ANSWER:
        fg_buffer_add(out, fg_answer_text(&c->program->declared[it->is.declared], it->is.answer));
        break;
    case FG_SITUATION_FAULT: fg_buffer_add_c(out, "faulty"); break;
    case FG_SITUATION_ROW:
        fg_buffer_add_c(out, "row ");
        fg_buffer_add_number(out, it->is.row + 1);
        break;
    case FG_SITUATION_LIMIT:
    case FG_SITUATION_MARGIN:
        fg_buffer_add_c(out, "limit ");
        fg_buffer_add_number(out, it->nth);
        fg_buffer_add_c(out, it->is.kind == FG_SITUATION_MARGIN ? " margin" : sides[it->is.beside + 1]);
    }
}

bool fg_coverage_key(const fg_coverage *c, size_t i, fg_text *key)
{
    fg_buffer out = {0};
    add_key(c, &c->items[i], &out);
    *key = fg_buffer_text(&out);
    return !out.full;
}

/* "tide,limit 2 above,": the line of each item but for its last cell, one behind the other. `ends`: where each ends. */
static bool add_lines(const fg_coverage *c, fg_buffer *lines, size_t *ends)
{
    for (size_t i = 0; i < c->count; i++) {
        fg_buffer_add(lines, c->program->declared[c->items[i].is.declared].name);
        fg_buffer_add_c(lines, ",");
        add_key(c, &c->items[i], lines);
        fg_buffer_add_c(lines, ",");
        ends[i] = lines->size;
    }
    return !lines->full;
}

static fg_status no_memory(fg_mistake *mistake, const char *path)
{
    return fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory");
}

fg_status fg_coverage_save(const fg_coverage *c, const char *path, fg_mistake *mistake)
{
    fg_buffer lines = {0}, out = {0};
    size_t *ends = calloc(c->count + 1, sizeof *ends), begin = 0;
    *mistake = (fg_mistake){0};
    bool good = ends && add_lines(c, &lines, ends);
    fg_buffer_add_c(&out, heading);
    fg_buffer_add_c(&out, "\n");
    for (size_t i = 0; good && i < c->count; begin = ends[i++]) {
        fg_buffer_add(&out, (fg_text){lines.text + begin, ends[i] - begin});
        fg_buffer_add_c(&out, c->items[i].tried ? "yes\n" : "no\n");
    }
    const fg_text text = fg_buffer_text(&out);
    const fg_status status = good && !out.full ? fg_files_write(&path, &text, 1, mistake) : no_memory(mistake, path);
    fg_buffer_free(&lines);
    fg_buffer_free(&out);
    free(ends);
    return status;
}

/* The next line of a text, without its end. */
static fg_text next_line(fg_text *text)
{
    const char *newline = memchr(text->at, '\n', text->size);
    const size_t size = newline ? (size_t)(newline - text->at) : text->size, passed = size + (newline != NULL);
    const fg_text line = {text->at, size - (size && text->at[size - 1] == '\r')};
    *text = (fg_text){text->at + passed, text->size - passed};
    return fg_text_trimmed(line);
}

/* Files are in the order of the items, so that the one behind the last one is looked at first. */
static size_t find_item(const fg_coverage *c, const fg_buffer *lines, const size_t *ends, size_t first, fg_text line)
{
    for (size_t n = 0; n < c->count; n++) {
        const size_t i = (first + n) % c->count, begin = i ? ends[i - 1] : 0, size = ends[i] - begin;
        if (size <= line.size && !memcmp(lines->text + begin, line.at, size)) return i;
    }
    return c->count;
}

static fg_status take_lines(const fg_coverage *c, const fg_buffer *lines, const size_t *ends, const char *path,
                            fg_text text, bool *tried, fg_mistake *mistake)
{
    size_t next = 0;
    for (uint64_t number = 1; text.size; number++) {
        const fg_text line = next_line(&text);
        if (!line.size || fg_text_is(line, heading)) continue;
        const size_t i = find_item(c, lines, ends, next, line);
        const size_t before = i < c->count ? ends[i] - (i ? ends[i - 1] : 0) : 0;
        const fg_text answer = {line.at + before, line.size - before};
        if (i == c->count)
            return fg_mistake_set(mistake, FG_ERROR_RECORDING, path, number,
                                  "'%.*s' is no situation of this gate; a coverage file belongs to the gate it was "
                                  "saved for",
                                  (int)(line.size > 60 ? 60 : line.size), line.at);
        if (!fg_text_is(answer, "yes") && !fg_text_is(answer, "no"))
            return fg_mistake_set(mistake, FG_ERROR_RECORDING, path, number, "'%.*s' has to be yes or no",
                                  (int)(answer.size > 60 ? 60 : answer.size), answer.at);
        tried[i] = tried[i] || fg_text_is(answer, "yes");
        next = i + 1;
    }
    return FG_OK;
}

fg_status fg_coverage_load(fg_coverage *c, const char *path, fg_mistake *mistake)
{
    enum { MOST = 1 << 28 };
    fg_buffer lines = {0};
    fg_text text = {0};
    size_t *ends = calloc(c->count + 1, sizeof *ends);
    bool *tried = calloc(c->count + 1, sizeof *tried);
    *mistake = (fg_mistake){0};
    fg_status status = FG_ERROR_MEMORY;
    if (!ends || !tried || !add_lines(c, &lines, ends)) {
        (void)no_memory(mistake, path);
    } else {
        status = fg_file_read(path, MOST, &text, mistake);
        if (status == FG_OK) status = take_lines(c, &lines, ends, path, text, tried, mistake);
        for (size_t i = 0; status == FG_OK && i < c->count; i++) c->items[i].tried = c->items[i].tried || tried[i];
    }
    list_open(c);
    fg_text_free(text);
    fg_buffer_free(&lines);
    free(tried);
    free(ends);
    return status;
}
