/* SPDX-License-Identifier: MIT */
/* The view of a live run in a terminal, by ncurses: its beginning and end, the parts of the screen, the keys. */
#ifndef FG_WITHOUT_VIEW
#include "live_view.h"
#include "live_keys.h"

#include <fcntl.h>
#include <inttypes.h>
#include <langinfo.h>
#include <locale.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

/* ---- the terminal ---- */

static const int fatal[] = {SIGSEGV, SIGBUS, SIGFPE, SIGILL, SIGABRT};
static bool is_up; /* the terminal is ours */

/* After a crash the terminal is as it was. */
static void on_fatal(int signal_number)
{
    if (is_up)
        (void)endwin(); /* NOLINT(bugprone-signal-handler,cert-sig30-c): after a crash there is nothing to lose */
    (void)signal(signal_number, SIG_DFL);
    (void)raise(signal_number);
}

static void set_colours(live_view *v)
{
    const char *no = getenv("NO_COLOR");
    v->colours = has_colors() && !(no && *no) && start_color() == OK;
    if (!v->colours) return;
    (void)use_default_colors();
    const bool many = COLORS >= 256; /* those that can be read on white and on black */
    (void)init_pair(LOOK_GOOD, many ? 34 : COLOR_GREEN, -1);
    (void)init_pair(LOOK_BAD, many ? 160 : COLOR_RED, -1);
    (void)init_pair(LOOK_UNSURE, many ? 136 : COLOR_YELLOW, -1);
    (void)init_pair(LOOK_MARK, many ? 31 : COLOR_CYAN, -1);
}

static bool open_screen(live_view *v)
{
    v->keys_handle =
        isatty(STDIN_FILENO) && v->s->kind != LIVE_STREAM ? dup(STDIN_FILENO) : open("/dev/tty", O_RDONLY | O_CLOEXEC);
    v->keys = v->keys_handle < 0 ? NULL : fdopen(v->keys_handle, "r");
    if (!v->keys) return false;
    v->screen = newterm(NULL, stdout, v->keys);
    if (!v->screen) return false;
    is_up = true;
    (void)set_term(v->screen);
    (void)cbreak();
    (void)noecho();
    (void)nonl();
    (void)keypad(stdscr, TRUE);
    (void)nodelay(stdscr, TRUE);
    (void)set_escdelay(25);
    (void)curs_set(0);
    set_colours(v);
    for (size_t i = 0; i < sizeof fatal / sizeof *fatal; i++) (void)signal(fatal[i], on_fatal);
    return true;
}

/* ---- the beginning and the end ---- */

static bool is_item(const live_view *v, const fg_declared *d, int round)
{
    const bool output = fg_kind_is(d->kind, FG_KIND_IS_OUTPUT);
    if (!tool_is_chosen(&v->s->changes.chosen, d)) return false;
    switch (round) {
    case 0: return d->kind == FG_KIND_SENSOR;
    case 1: return d->kind == FG_KIND_FLAG;
    case 2:
        return !fg_kind_is(d->kind, FG_KIND_READ) && !output && (d->kind == FG_KIND_COUNT || d->slot != FG_INDEX_NONE);
    default: return output;
    }
}

static bool gather(live_view *v)
{
    const fg_program *program = &v->s->file->program;
    const size_t most = (size_t)program->declared_count + 1;
    v->items = calloc(most, sizeof(fg_declared *));
    v->since = calloc(most, sizeof *v->since);
    v->figures = calloc((size_t)program->gate.size.sensors + 1, sizeof *v->figures);
    v->label_figures = calloc((size_t)program->gate.size.sensors + 1, sizeof *v->label_figures);
    if (!v->items || !v->since || !v->figures || !v->label_figures) return false;
    for (int round = 0; round < 4; round++)
        for (uint32_t i = 0; i < program->declared_count; i++)
            if (is_item(v, &program->declared[i], round)) v->items[v->item_count++] = &program->declared[i];
    for (size_t i = 0; i < most; i++) v->since[i] = -1;
    return true;
}

live_view *live_view_start(live_session *s)
{
    live_view *v = calloc(1, sizeof *v);
    if (!v) {
        tool_no_memory();
        return NULL;
    }
    v->s = s;
    v->keys_handle = -1;
    (void)setlocale(LC_CTYPE, "");
    v->utf8 = !strcmp(nl_langinfo(CODESET), "UTF-8");
    if (gather(v) && open_screen(v)) return v;
    live_view_end(v);
    return NULL;
}

void live_view_end(live_view *v)
{
    if (!v) return;
    if (v->screen) {
        (void)endwin();
        is_up = false;
        delscreen(v->screen);
    }
    if (v->keys) (void)fclose(v->keys);
    for (size_t i = 0; i < LOG_MOST; i++) {
        free(v->log[i].name);
        free(v->log[i].text);
        free(v->log[i].because);
    }
    free(v->items);
    free(v->since);
    free(v->figures);
    free(v->label_figures);
    free(v);
}

int live_view_handle(const live_view *v) { return v->keys_handle; }

/* ---- what is remembered ---- */

static char *copy(fg_text text)
{
    char *made = malloc(text.size + 1);
    if (!made) return NULL;
    if (text.size) memcpy(made, text.at, text.size);
    made[text.size] = '\0';
    return made;
}

static void add_entry(live_view *v, entry e)
{
    entry *at = &v->log[v->logged++ % LOG_MOST];
    free(at->name);
    free(at->text);
    free(at->because);
    *at = e;
}

void live_view_change(live_view *v, const fg_change *change)
{
    const fg_program *program = &v->s->file->program;
    char text[300];
    if (!change->plays_on || v->since[change->declared - program->declared] < 0)
        v->since[change->declared - program->declared] = change->t_ms;
    if (!change->was.size || change->plays_on || !tool_is_chosen(&v->s->changes.chosen, change->declared)) return;
    snprintf(text, sizeof text, "%.*s -> %.*s", (int)change->was.size, change->was.at, (int)change->is.size,
             change->is.at);
    add_entry(v, (entry){change->t_ms, copy(change->declared->name), copy(fg_text_of(text)), copy(change->because)});
}

void live_view_note(live_view *v, const char *text)
{
    add_entry(v, (entry){fg_live_time(v->s->live), NULL, copy(fg_text_of(text)), NULL});
}

static void say(live_view *v, const char *text)
{
    snprintf(v->message, sizeof v->message, "%s", text);
    v->message_ms = tool_now();
}

/* ---- the parts of the screen ---- */

/* Those of a kind, several side by side, in at most `lines` lines; returns how many lines it took. */
static int draw_grid(live_view *v, int y, int lines, int width, size_t from, size_t to, bool outputs)
{
    const int columns = COLS / width > 0 ? COLS / width : 1;
    const int count = (int)(to - from), needed = (count + columns - 1) / columns;
    const int shown = needed < lines ? needed : lines;
    int first = 0;
    if (shown < needed && v->chosen >= from && v->chosen < to) { /* what is chosen can be seen */
        const int row = (int)(v->chosen - from) / columns;
        if (row >= shown) first = row - shown + 1;
    }
    for (int row = 0; row < shown; row++)
        for (int column = 0; column < columns; column++) {
            const int i = (first + row) * columns + column;
            if (i >= count) break;
            const fg_declared *d = v->items[from + (size_t)i];
            const int wide = columns == 1 || i + 1 == count ? COLS - 2 - column * width : width;
            if (outputs)
                live_draw_output(v, d, y + row, 2 + column * width, wide);
            else
                live_draw_answer(v, d, y + row, 2 + column * width, wide);
        }
    if (shown < needed)
        (void)live_putf(v, y + shown - 1, COLS - 12, 12, LOOK_DIM, "  %d more", count - (first + shown) * columns);
    return shown;
}

static int draw_sensors(live_view *v, int y, int lines, size_t count)
{
    const int shown = (int)count < lines ? (int)count : lines;
    int first = 0;
    if (v->chosen < count && (int)v->chosen >= shown) first = (int)v->chosen - shown + 1;
    for (int i = 0; i < shown; i++) live_draw_sensor(v, v->items[first + i], y + i);
    return shown;
}

static void draw_label(const live_view *v, int label, int y)
{
    const live_session *s = v->s;
    const fg_program *program = &s->file->program;
    char text[300];
    size_t size = 0;
    uint64_t count = 0;
    bool still = true;
    for (uint32_t i = 0; i < program->declared_count && size + 80 < sizeof text; i++) {
        const fg_declared *d = &program->declared[i];
        char a[FG_VALUE_TEXT_SIZE], b[FG_VALUE_TEXT_SIZE];
        if (d->kind != FG_KIND_SENSOR || !tool_is_chosen(&s->changes.chosen, d)) continue;
        const fg_figures *f = &v->label_figures[d->index][label];
        if (!f->count) continue;
        const fg_text low = live_value_text(d, f->lowest, a), high = live_value_text(d, f->highest, b);
        size += (size_t)snprintf(text + size, sizeof text - size, "  %.*s %.*s..%.*s %.*s", (int)d->name.size,
                                 d->name.at, (int)low.size, low.at, (int)high.size, high.at, (int)d->unit.size,
                                 d->unit.at ? d->unit.at : "");
        if (f->count > count) count = f->count;
        still = still && f->still;
    }
    text[size] = '\0';
    const fg_text word = label ? *s->labels[label] : fg_text_of("in between");
    const bool now = s->label == label || (label == 0 && s->label < 0);
    int used = live_putf(v, y, 2, COLS - 2, now ? LOOK_CHOSEN : LOOK_PLAIN, "%d %.*s", label, (int)word.size, word.at);
    used = used < 16 ? 16 : used + 1;
    if (!count) {
        (void)live_putf(v, y, 2 + used, COLS - used - 2, LOOK_DIM, "%s",
                        label ? "no readings yet" : "(not kept as a label)");
        return;
    }
    used += live_putf(v, y, 2 + used, COLS - used - 2, LOOK_PLAIN, "%4" PRIu64 " readings%s", count, text);
    (void)live_putf(v, y, 2 + used, COLS - used - 2, still ? LOOK_GOOD : LOOK_UNSURE, "  %s",
                    still ? "lies still" : "still moves");
}

static int draw_labels(const live_view *v, int y, int lines)
{
    int count = 1, drawn = 0;
    while (count < FG_WATCH_LABELS && v->s->labels[count]) count++;
    for (int i = 1; i < count && drawn < lines; i++) draw_label(v, i, y + drawn++);
    if (drawn < lines) draw_label(v, 0, y + drawn++);
    return drawn;
}

/* How much of a text fits into so many columns, cut behind a blank (`apart`: two of them) where there is one. */
static size_t fitting(fg_text text, int width, bool apart)
{
    size_t columns = 0, best = 0, i = 0;
    for (; i < text.size && columns <= (size_t)width; i++) {
        columns += ((unsigned char)text.at[i] & 0xc0) != 0x80;
        const bool blank = text.at[i] == ' ' && (!apart || (i && text.at[i - 1] == ' '));
        if (blank && columns <= (size_t)width) best = i + 1;
    }
    if (columns <= (size_t)width) return text.size;
    while (!best && i > 1 && ((unsigned char)text.at[--i] & 0xc0) == 0x80) continue;
    return best ? best : i;
}

static int draw_wrapped(const live_view *v, int y, int lines, int x, look l, fg_text text)
{
    int line = 0;
    while (text.size && line < lines) {
        const size_t size = fitting(text, COLS - x, l == LOOK_CHOSEN);
        (void)live_put(v, y + line++, x, COLS - x, l, (fg_text){text.at, size});
        text = (fg_text){text.at + size, text.size - size};
    }
    return line;
}

static void draw_why(const live_view *v, int y, int lines)
{
    const fg_declared *d = v->items[v->chosen];
    char is[200];
    size_t size = 0;
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT))
        size = fg_output_text(fg_live_run(v->s->live), d->index, is, sizeof is);
    else if (d->slot != FG_INDEX_NONE)
        size = (size_t)snprintf(is, sizeof is, "%.*s",
                                (int)fg_answer_text(d, fg_answer(fg_live_run(v->s->live), d->slot)).size,
                                fg_answer_text(d, fg_answer(fg_live_run(v->s->live), d->slot)).at);
    if (size > sizeof is) size = sizeof is;
    live_heading(v, y, "why (w goes back to the changes)");
    (void)live_putf(v, y + 1, 2, COLS - 2, LOOK_PLAIN, "%.*s is %.*s because", (int)d->name.size, d->name.at, (int)size,
                    is);
    (void)draw_wrapped(v, y + 2, lines - 2, 4, LOOK_PLAIN, fg_live_because(v->s->live, d));
}

/* The newest first. */
static void draw_log(const live_view *v, int y, int lines)
{
    live_heading(v, y, "what changed, the newest first");
    if (!v->logged) (void)live_putf(v, y + 1, 2, COLS - 2, LOOK_DIM, "nothing yet");
    int line = 1;
    for (size_t k = 1; k <= v->logged && k <= LOG_MOST && line < lines; k++) {
        const entry *e = &v->log[(v->logged - k) % LOG_MOST];
        int x = live_putf(v, y + line, 0, COLS, LOOK_DIM, "%9.1f s ", (double)(e->t_ms < 0 ? 0 : e->t_ms) / 1000);
        if (e->name) {
            x += live_putf(v, y + line, x, COLS - x, LOOK_PLAIN, " %-10s ", e->name);
            x += live_putf(v, y + line, x, COLS - x, LOOK_MARK, "%-18s ", e->text ? e->text : "");
            line += draw_wrapped(v, y + line, 1, x, LOOK_DIM, fg_text_of(e->because ? e->because : ""));
        } else {
            line += draw_wrapped(v, y + line, lines - line, x + 1, LOOK_UNSURE, fg_text_of(e->text ? e->text : ""));
        }
    }
}

static void draw_title(const live_view *v, int y)
{
    const live_session *s = v->s;
    const int64_t t_ms = fg_live_time(s->live);
    const fg_text title = s->file->program.title.size ? s->file->program.title : fg_text_of(tool_path(s->file->path));
    const char *source = s->kind == LIVE_HAND ? "moved by hand" : s->name;
    int x = live_put(v, y, 0, COLS / 2, LOOK_MARK, title);
    x += live_putf(v, y, x, COLS - x, LOOK_PLAIN, "  %s", source);
    if (t_ms < 0)
        x += live_putf(v, y, x, COLS - x, LOOK_UNSURE, "  waiting for the first reading");
    else
        x += live_putf(v, y, x, COLS - x, LOOK_PLAIN, "  %.1f s", (double)t_ms / 1000);
    if (s->still) x += live_putf(v, y, x, COLS - x, LOOK_UNSURE, "  time stands");
    if (v->frozen) x += live_putf(v, y, x, COLS - x, LOOK_UNSURE, "  frozen");
    if (s->serial && fg_serial_handle(s->serial) < 0)
        x += live_putf(v, y, x, COLS - x, LOOK_BAD, "  the board is gone");
    if (s->keeper) (void)live_putf(v, y, x, COLS - x, LOOK_DIM, "  %" PRIu64 " rows kept", fg_keep_rows(s->keeper));
}

/* The keys that matter for what is chosen. */
static void write_help(const live_view *v, char *text, size_t room)
{
    const fg_declared *d = v->item_count ? v->items[v->chosen] : NULL;
    const bool sensor = d && d->kind == FG_KIND_SENSOR && fg_program_reads(&v->s->file->program, d);
    const bool flag = d && d->kind == FG_KIND_FLAG, own = v->s->kind == LIVE_HAND || v->s->kind == LIVE_PLAYED;
    snprintf(text, room, "%s choose  q quit  w why  %s%s%s%sm mark  z freeze  %s", live_sign(v, "↑↓", "up/down"),
             v->s->options->label_as ? "1-9, 0 label  " : "",
             sensor ? v->utf8 ? "←→ one step  PgUp/PgDn ten  Home/End ends  n/b next limit  "
                              : "left/right one step  PgUp/PgDn ten  Home/End ends  n/b next limit  "
             : flag ? "space turn  "
                    : "",
             sensor || flag ? "f fault  " : "", (sensor || flag) && v->s->kind != LIVE_HAND ? "r release  " : "",
             own ? "t time stands  s one step" : "");
}

/* How many lines it takes. */
static int help_lines(const char *help)
{
    fg_text text = fg_text_of(help);
    int lines = 0;
    for (; text.size && lines < 3; lines++) {
        const size_t size = fitting(text, COLS, true);
        text = (fg_text){text.at + size, text.size - size};
    }
    return lines;
}

static size_t count_of(const live_view *v, int round)
{
    size_t count = 0;
    for (size_t i = 0; i < v->item_count; i++) count += is_item(v, v->items[i], round);
    return count;
}

static void figure(live_view *v)
{
    const int64_t now = tool_now();
    if (now - v->figured_ms < FIGURED_MS) return;
    v->figured_ms = now;
    for (size_t i = 0; i < v->item_count; i++) {
        const fg_declared *d = v->items[i];
        if (d->kind != FG_KIND_SENSOR) continue;
        fg_watch_figures(v->s->watch, d, -1, &v->figures[d->index]);
        for (int k = 0; v->s->options->label_as && k < FG_WATCH_LABELS; k++)
            fg_watch_figures(v->s->watch, d, k, &v->label_figures[d->index][k]);
    }
}

static int at_least(int a, int b) { return a > b ? a : b; }

/* Sensors, flags, rules, outputs, labels; what is left is for the changes. */
static void draw_all(live_view *v)
{
    enum { RULE_WIDTH = 30, OUTPUT_WIDTH = 40 };
    const size_t sensors = count_of(v, 0), flags = count_of(v, 1), rules = count_of(v, 2), outputs = count_of(v, 3);
    char help[400];
    write_help(v, help, sizeof help);
    const int bottom = LINES - help_lines(help) - 1; /* of the parts; a line for what a key did */
    int y = 0;
    draw_title(v, y++);
    const int share = at_least((bottom - 8) / 2, 3);
    y += draw_sensors(v, y, share, sensors);
    if (v->item_count && v->items[v->chosen]->kind == FG_KIND_SENSOR) live_draw_figures(v, v->items[v->chosen], y);
    if (sensors > (size_t)share) (void)live_putf(v, y, COLS - 9, 9, LOOK_DIM, " %d more    ", (int)sensors - share);
    if (sensors) y++;
    if (flags) y += draw_grid(v, y, 2, RULE_WIDTH, sensors, sensors + flags, false);
    if (v->s->options->label_as && y + 3 < bottom) {
        live_heading(v, y++, "label of what is read now");
        y += draw_labels(v, y, at_least((bottom - y) / 2, 2));
    }
    const int left = bottom - y;
    const int rule_lines = (int)((rules + (size_t)(COLS / RULE_WIDTH) - 1) / (size_t)at_least(COLS / RULE_WIDTH, 1));
    const int output_lines =
        (int)((outputs + (size_t)(COLS / OUTPUT_WIDTH) - 1) / (size_t)at_least(COLS / OUTPUT_WIDTH, 1));
    int for_rules = rule_lines, for_outputs = output_lines;
    while (for_rules + for_outputs + 2 + 3 > left && for_rules + for_outputs > 2) {
        if (for_rules > for_outputs)
            for_rules--;
        else
            for_outputs--;
    }
    if (rules && left > 4) {
        live_heading(v, y++, "rules, and how long they have said so");
        y += draw_grid(v, y, for_rules, RULE_WIDTH, sensors + flags, sensors + flags + rules, false);
    }
    if (outputs && bottom - y > 1) {
        live_heading(v, y++, "outputs");
        y += draw_grid(v, y, at_least(for_outputs, 1), OUTPUT_WIDTH, sensors + flags + rules, v->item_count, true);
    }
    if (bottom - y > 1) {
        if (v->why && v->item_count)
            draw_why(v, y, bottom - y);
        else
            draw_log(v, y, bottom - y);
    }
    if (*v->message && tool_now() - v->message_ms < 5000)
        (void)live_putf(v, bottom, 0, COLS, LOOK_GOOD, " %s", v->message);
    (void)draw_wrapped(v, bottom + 1, LINES - bottom - 1, 0, LOOK_CHOSEN, fg_text_of(help));
}

void live_view_draw(live_view *v)
{
    const int64_t now = tool_now();
    if (now - v->drawn_ms < DRAWN_MS) return;
    v->drawn_ms = now;
    if (v->frozen) return;
    figure(v);
    (void)erase();
    if (COLS < LEAST_WIDTH || LINES < LEAST_HEIGHT)
        (void)draw_wrapped(v, 0, LINES, 0, LOOK_PLAIN, fg_text_of("make the window at least 60 by 20; q ends"));
    else
        draw_all(v);
    (void)refresh();
}

/* ---- keys ---- */

static int meaning(int key)
{
    static const struct {
        int key, meaning;
    } keys[] = {{KEY_LEFT, LIVE_KEY_LESS},       {KEY_RIGHT, LIVE_KEY_MORE},       {KEY_NPAGE, LIVE_KEY_MUCH_LESS},
                {KEY_PPAGE, LIVE_KEY_MUCH_MORE}, {KEY_HOME, LIVE_KEY_LOWEST},      {KEY_END, LIVE_KEY_HIGHEST},
                {KEY_UP, LIVE_KEY_BEFORE},       {KEY_DOWN, LIVE_KEY_NEXT},        {'\t', LIVE_KEY_NEXT},
                {KEY_SLEFT, LIVE_KEY_MUCH_LESS}, {KEY_SRIGHT, LIVE_KEY_MUCH_MORE}, {KEY_BTAB, LIVE_KEY_BEFORE}};
    for (size_t i = 0; i < sizeof keys / sizeof *keys; i++)
        if (keys[i].key == key) return keys[i].meaning;
    return key;
}

static void give_label(live_view *v, int digit)
{
    live_session *s = v->s;
    char text[200];
    if (!s->options->label_as || (digit && !s->labels[digit])) return;
    s->label = digit ? digit : -1;
    fg_watch_label(s->watch, s->label);
    snprintf(text, sizeof text, digit ? "what is read now is %.*s" : "what is read now has no label",
             digit ? (int)s->labels[digit]->size : 0, digit ? s->labels[digit]->at : "");
    say(v, text);
}

static void stand(live_view *v, bool one_step)
{
    if (v->s->kind != LIVE_HAND && v->s->kind != LIVE_PLAYED) {
        say(v, "the time of a board cannot stand still; z freezes the picture");
        return;
    }
    if (one_step)
        live_one_step(v->s);
    else
        live_stand(v->s, !v->s->still);
}

static void press(live_view *v, int key)
{
    if (key >= '0' && key <= '9') {
        give_label(v, key - '0');
        return;
    }
    switch (key) {
    case 'q':
    case 'Q': v->s->quits = true; return;
    case 'z': v->frozen = !v->frozen; break;
    case 'w': v->why = !v->why; break;
    case 't': stand(v, false); break;
    case 's': stand(v, true); break;
    case 'm':
        fg_watch_mark(v->s->watch);
        say(v, "a new mark: lowest, median, highest and noise begin anew");
        break;
    case LIVE_KEY_NEXT: v->chosen = v->item_count ? (v->chosen + 1) % v->item_count : 0; break;
    case LIVE_KEY_BEFORE: v->chosen = v->item_count ? (v->chosen + v->item_count - 1) % v->item_count : 0; break;
    default: {
        const char *did = v->item_count ? live_hand_key(v->s, v->items[v->chosen], key) : NULL;
        if (did) say(v, did);
        break;
    }
    }
    v->figured_ms = 0;
}

void live_view_keys(live_view *v)
{
    bool any = false;
    for (int key; (key = getch()) != ERR; any = true) press(v, meaning(key));
    if (any && v->frozen) { /* the title says so */
        v->frozen = false;
        v->drawn_ms = 0;
        live_view_draw(v);
        v->frozen = true;
    }
    if (any) v->drawn_ms = 0;
}

#else
#include "live.h"

live_view *live_view_start(live_session *s)
{
    (void)s;
    tool_say("fickle: note: this program was built without the view; install libncurses-dev and build it again\n");
    return NULL;
}

void live_view_end(live_view *view) { (void)view; }

void live_view_change(live_view *view, const fg_change *change)
{
    (void)view;
    (void)change;
}

void live_view_note(live_view *view, const char *text)
{
    (void)view;
    (void)text;
}

void live_view_draw(live_view *view) { (void)view; }

int live_view_handle(const live_view *view)
{
    (void)view;
    return -1;
}

void live_view_keys(live_view *view) { (void)view; }

#endif
