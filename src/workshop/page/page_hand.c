/* SPDX-License-Identifier: MIT */
/* Sensors of a page that are moved by hand, or by a board; recordings that are made up. */
#include "workshop/page/session.h"

#include <ficklegate/scenes.h>

#include <stdlib.h>
#include <string.h>

enum { IDLE_MS = 100 }; /* of a gate without `every` */

void fg_page_moved_end(fg_page_moved *hand)
{
    fg_live_end(hand->live);
    fg_buffer_free(&hand->done);
    json_decref(hand->broken);
    *hand = (fg_page_moved){0};
}

static void add_cells(fg_buffer *out, const fg_text *cells, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        if (i) fg_buffer_add_c(out, ",");
        fg_buffer_add(out, cells[i]); /* names and readings need no quotes */
    }
    fg_buffer_add_c(out, "\n");
}

static bool on_columns(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    (void)mistake;
    add_cells(context, columns, count);
    return true;
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count)
{
    fg_page *page = context;
    (void)t_ms;
    add_cells(&page->hand.done, cells, count);
    return !page->hand.done.full;
}

static bool on_hand_columns(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    return on_columns(&((fg_page *)context)->hand.done, columns, count, mistake);
}

static bool on_broken(void *context, const fg_broken *broken)
{
    fg_page *page = context;
    json_array_append_new(page->hand.broken, fg_page_broken_row(page, broken));
    return true;
}

const char *fg_page_hand(fg_page *page)
{
    static const fg_live_options options = {.idle_ms = IDLE_MS};
    const fg_mistake nothing = {.text = "no gate is open"};
    if (!page->open) return fg_page_mistake(page, &nothing);
    fg_page_moved_end(&page->hand);
    page->hand.broken = json_array();
    page->hand.observer =
        (fg_replay_observer){.context = page, .columns = on_hand_columns, .row = on_row, .broken = on_broken};
    page->hand.live = fg_live_start(&page->file.program, &options, &page->hand.observer, &page->hand.report);
    return page->hand.live ? fg_page_answer(page, json_object()) : NULL;
}

const char *fg_page_hold(fg_page *page, uint32_t name, const char *value)
{
    fg_mistake mistake = {.text = "this cannot be moved by hand"};
    if (!page->hand.live || name >= page->file.program.declared_count) return fg_page_mistake(page, &mistake);
    const fg_status status = fg_live_hold(page->hand.live, &page->file.program.declared[name], fg_text_of(value));
    if (status == FG_ERROR_MEMORY) return NULL;
    return status == FG_OK ? fg_page_answer(page, json_object()) : fg_page_mistake(page, &mistake);
}

const char *fg_page_hear(fg_page *page, const char *lines, double t_ms)
{
    const fg_mistake nothing = {.text = "nothing is moved by hand"};
    if (!page->hand.live) return fg_page_mistake(page, &nothing);
    if (!fg_live_bytes(page->hand.live, lines, strlen(lines), (int64_t)t_ms)) return NULL;
    return fg_page_answer(page, json_object());
}

/* ---- what is ---- */

static json_t *lines_of(const fg_page *page, const fg_declared *d)
{
    const uint8_t count = page->file.program.gate.outputs[d->index].lines;
    json_t *lines = json_array();
    for (uint8_t i = 0; i < count; i++)
        json_array_append_new(lines, fg_page_text(fg_display_line(fg_live_run(page->hand.live), d->index, i)));
    return lines;
}

static json_t *output_now(const fg_page *page, const fg_declared *d, fg_text text)
{
    const fg_output_state *state = fg_output_at(fg_live_run(page->hand.live), d->index);
    const fg_level *level = &state->level;
    return json_pack("{s:o, s:s, s:i, s:I, s:I, s:b, s:o}", "text", fg_page_text(text), "form",
                     fg_form_word((fg_form)level->form), "percent", (int)level->percent, "number",
                     (json_int_t)level->number, "colour", (json_int_t)(level->colour & 0xffffff), "unsure",
                     (int)state->unsure, "lines", d->kind == FG_KIND_DISPLAY ? lines_of(page, d) : json_array());
}

static json_t *now_of(const fg_page *page, const fg_declared *d)
{
    const fg_run *run = fg_live_run(page->hand.live);
    fg_buffer room = {0};
    if (d->kind != FG_KIND_COUNT && d->slot == FG_INDEX_NONE && !fg_kind_is(d->kind, FG_KIND_IS_OUTPUT))
        return json_null();
    const fg_text text = fg_text_now(&room, d, run);
    json_t *now;
    if (d->kind == FG_KIND_SENSOR) {
        const fg_sensor_state *state = fg_sensor_at(run, d->index);
        now = json_pack("{s:o, s:o}", "text", fg_page_text(text), "value",
                        fg_page_value(state->value, d->decimals, state->ok));
    } else if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) {
        now = output_now(page, d, text);
    } else {
        now = json_pack("{s:o}", "text", fg_page_text(text));
    }
    fg_buffer_free(&room);
    return now;
}

const char *fg_page_until(fg_page *page, double t_ms)
{
    fg_mistake mistake = {.text = "nothing is moved by hand"};
    const fg_program *p = &page->file.program;
    if (!page->hand.live) return fg_page_mistake(page, &mistake);
    if (!fg_live_until(page->hand.live, (int64_t)t_ms)) return NULL;
    json_t *now = json_array(), *broken = page->hand.broken;
    for (uint32_t i = 0; i < p->declared_count; i++) json_array_append_new(now, now_of(page, &p->declared[i]));
    page->hand.broken = json_array();
    return fg_page_answer(
        page, json_pack("{s:f, s:o, s:o}", "t", (double)fg_live_time(page->hand.live), "now", now, "broken", broken));
}

const char *fg_page_because(fg_page *page, uint32_t name)
{
    if (!page->hand.live || name >= page->file.program.declared_count)
        return fg_page_answer(page, json_pack("{s:s}", "text", ""));
    return fg_page_answer(
        page,
        json_pack("{s:o}", "text", fg_page_text(fg_live_because(page->hand.live, &page->file.program.declared[name]))));
}

const char *fg_page_done(fg_page *page)
{
    return fg_page_answer(page, json_pack("{s:o}", "text", fg_page_text(fg_buffer_text(&page->hand.done))));
}

/* ---- recordings that are made up ---- */

static bool on_made_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line,
                        fg_mistake *mistake)
{
    (void)t_ms;
    (void)line;
    (void)mistake;
    add_cells(context, cells, count);
    return true;
}

const char *fg_page_edges(fg_page *page)
{
    fg_buffer text = {0};
    fg_mistake mistake = {.text = "no gate is open"};
    const fg_recording_sink sink = {.context = &text, .heading = on_columns, .row = on_made_row};
    if (!page->open) return fg_page_mistake(page, &mistake);
    const fg_status status = fg_edges_read(&page->file.program, &sink, &mistake);
    const char *answer = status != FG_OK
                             ? fg_page_mistake(page, &mistake)
                             : fg_page_answer(page, json_pack("{s:o}", "text", fg_page_text(fg_buffer_text(&text))));
    fg_buffer_free(&text);
    return answer;
}
