/* SPDX-License-Identifier: MIT */
/* Bands for labels that no rule has yet: which labels there are, in which order, and where to cut at first. Tuning does
 * the rest. */
#include "workshop/base/sort.h"
#include "workshop/recordings/recording.h"
#include "workshop/tune/tuning.h"

#include <stdlib.h>
#include <string.h>

typedef struct label {
    char *name;
    fg_value *values;
    size_t count, room;
    int64_t middle; /* the median of its values, on a circle counted from the origin */
} label;

/* What is gathered. */
typedef struct gathering {
    const fg_program *program;
    const fg_new_bands *what;
    const fg_declared *sensor; /* NULL: not known yet */
    label labels[FG_LABELS_MOST];
    size_t label_count;
    char *column; /* of the labels */
    fg_mistake *mistake;

    /* while one source is read */
    const fg_tuning_source *source;
    size_t reading, labelled; /* the columns; FG_NO_COLUMN: each column has a label of its own */
    size_t *of_column;        /* the label of each column */
} gathering;

static bool no_memory(gathering *g)
{
    (void)fg_mistake_set(g->mistake, FG_ERROR_MEMORY, "", 0, "there is not enough memory for its labels");
    return false;
}

/* ---- labels ---- */

/* With a word that fits, where one can be made of it. */
static size_t no_label(gathering *g, fg_text word, uint64_t line)
{
    char shown[FG_SHOWN_MOST + 1], better[FG_SHOWN_MOST + 1];
    fg_text_keep(shown, sizeof shown, word);
    memcpy(better, shown, sizeof better);
    for (char *at = better; *at; at++)
        if (strchr(" -.,/()[]", *at)) *at = '_';
    const bool fits = fg_label_fits(fg_text_of(better));
    (void)fg_mistake_set(
        g->mistake, FG_ERROR_RECORDING, "", line,
        "'%s' cannot be a label: labels are letters, digits and _, and no word of conditions; write %s%s%s", shown,
        fits ? "'" : "another word", fits ? better : "", fits ? "'" : "");
    return FG_NO_COLUMN;
}

/* The number of a label, in any letter case; FG_NO_COLUMN with a mistake if there can be none. */
static size_t label_of(gathering *g, fg_text word, uint64_t line)
{
    for (size_t i = 0; i < g->label_count; i++)
        if (fg_text_alike(fg_text_of(g->labels[i].name), word)) return i;
    if (!fg_label_fits(word)) return no_label(g, word, line);
    if (g->label_count == FG_LABELS_MOST) {
        (void)fg_mistake_set(g->mistake, FG_ERROR_RECORDING, "", line, "bands have at most %d labels", FG_LABELS_MOST);
        return FG_NO_COLUMN;
    }
    char *name = fg_c_string_of(word);
    if (!name) {
        (void)no_memory(g);
        return FG_NO_COLUMN;
    }
    g->labels[g->label_count] = (label){.name = name};
    return g->label_count++;
}

static bool add_value(gathering *g, size_t number, fg_text cell)
{
    const fg_sensor *sensor = &g->program->gate.sensors[g->sensor->index];
    label *l = &g->labels[number];
    fg_value value;
    cell = fg_text_trimmed(cell);
    if (fg_value_read(cell.at, cell.size, g->sensor->decimals, &value) != FG_OK) return true; /* tuning tells these */
    if (sensor->trust != FG_TRUST_ALL && !fg_range_holds(&sensor->trusted, value)) return true;
    if (l->count == l->room) {
        const size_t room = l->room ? 2 * l->room : 64;
        fg_value *values = realloc(l->values, room * sizeof *values);
        if (!values) return no_memory(g);
        l->values = values;
        l->room = room;
    }
    l->values[l->count++] = sensor->circle ? fg_wrap(value, sensor->circle) : value;
    return true;
}

/* ---- the sensor ---- */

/* All that could be meant: without `columns` every sensor, else those that have one. */
static uint32_t sensors_with(const gathering *g, const fg_text *columns, size_t count, const fg_declared **one)
{
    uint32_t found = 0;
    for (uint32_t i = 0; i < g->program->declared_count; i++) {
        const fg_declared *d = &g->program->declared[i];
        if (d->kind != FG_KIND_SENSOR || (columns && fg_column_find(columns, count, d->name) == FG_NO_COLUMN)) continue;
        *one = d;
        found++;
    }
    return found;
}

static bool find_sensor(gathering *g, const fg_text *columns, size_t count)
{
    const fg_declared *one = NULL;
    const uint32_t all = sensors_with(g, NULL, 0, &one);
    if (g->sensor) return true;
    if (all != 1 && sensors_with(g, columns, count, &one) != 1) {
        char list[256];
        size_t used = 0;
        *list = '\0';
        for (uint32_t i = 0; i < g->program->declared_count && used < sizeof list; i++) {
            const fg_declared *d = &g->program->declared[i];
            if (d->kind == FG_KIND_SENSOR)
                used += (size_t)snprintf(list + used, sizeof list - used, "%s%.*s", used ? ", " : "", (int)d->name.size,
                                         d->name.at);
        }
        (void)fg_mistake_set(
            g->mistake, FG_ERROR_ARGUMENT, "", 0,
            "it does not say which sensor these are readings of; write --new \"%.*s from SENSOR\", one "
            "of %s",
            (int)g->what->name.size, g->what->name.at, list);
        return false;
    }
    g->sensor = one;
    return true;
}

static bool check_names(gathering *g)
{
    const fg_text name = g->what->name, sensor = g->what->sensor;
    const fg_declared *one = NULL;
    if (!fg_name_fits(name))
        (void)fg_mistake_set(
            g->mistake, FG_ERROR_ARGUMENT, "", 0,
            "'%.*s' cannot be the name of bands; names are letters, digits and _, and no word of conditions",
            (int)name.size, name.at);
    else if (fg_program_find(g->program, name))
        (void)fg_mistake_set(g->mistake, FG_ERROR_ARGUMENT, "", 0,
                             "'%.*s' is declared already; choose another name, or tune that one: --rule %.*s",
                             (int)name.size, name.at, (int)name.size, name.at);
    else if (!sensors_with(g, NULL, 0, &one))
        (void)fg_mistake_set(g->mistake, FG_ERROR_ARGUMENT, "", 0,
                             "the gate has no sensor yet; write one first, such as  sensor weight { unit g }");
    if (g->mistake->status != FG_OK || !sensor.size) return g->mistake->status == FG_OK;
    g->sensor = fg_program_find(g->program, sensor);
    if (g->sensor && g->sensor->kind == FG_KIND_SENSOR) return true;
    (void)fg_mistake_set(g->mistake, FG_ERROR_ARGUMENT, "", 0, "'%.*s' is no sensor of the gate", (int)sensor.size,
                         sensor.at);
    return false;
}

/* ---- one source ---- */

/* Each column but the times has the readings of the label that heads it. */
static bool label_columns(gathering *g, const fg_text *columns, size_t count)
{
    fg_text unit;
    for (size_t i = 0; i < count; i++) {
        const fg_text name = fg_column_name(columns[i], &unit);
        g->of_column[i] = FG_NO_COLUMN;
        if (!name.size || fg_time_kind_of(columns[i]) != FG_TIME_NONE) continue;
        g->of_column[i] = label_of(g, name, 0);
        if (g->of_column[i] == FG_NO_COLUMN) return false;
    }
    return true;
}

static bool keep_column(gathering *g, fg_text column)
{
    if (!g->column) g->column = fg_c_string_of(column);
    return g->column || no_memory(g);
}

static bool on_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    gathering *g = context;
    const fg_text own = g->source->label, wanted = g->what->column.size ? g->what->column : g->what->name;
    size_t others = 0, other = 0;
    g->mistake = mistake;
    if (!find_sensor(g, columns, count)) return false;
    free(g->of_column);
    g->of_column = calloc(count + 1, sizeof *g->of_column);
    if (!g->of_column) return no_memory(g);
    g->reading = fg_column_find(columns, count, g->sensor->name);
    g->labelled = own.size ? FG_NO_COLUMN : fg_column_find(columns, count, wanted);
    for (size_t i = 0; i < count; i++)
        if (i != g->reading && i != g->labelled && fg_time_kind_of(columns[i]) == FG_TIME_NONE) others++, other = i;
    if (own.size || g->labelled != FG_NO_COLUMN) {
        if (g->reading == FG_NO_COLUMN && others == 1) g->reading = other;
    } else if (g->reading != FG_NO_COLUMN && !g->what->column.size && others == 1) {
        g->labelled = other;
    } else if (g->reading == FG_NO_COLUMN && !g->what->column.size && others > 1) {
        return label_columns(g, columns, count);
    }
    if (g->reading == FG_NO_COLUMN || (!own.size && g->labelled == FG_NO_COLUMN)) {
        (void)fg_mistake_set(
            mistake, FG_ERROR_RECORDING, "", 0,
            "it needs a column '%.*s' with the readings and one with their labels (name it: --label COLUMN), "
            "or a column for each label, headed by it",
            (int)g->sensor->name.size, g->sensor->name.at);
        return false;
    }
    return own.size || keep_column(g, columns[g->labelled]);
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake)
{
    gathering *g = context;
    const fg_text own = g->source->label;
    (void)t_ms;
    g->mistake = mistake;
    if (g->reading != FG_NO_COLUMN) {
        const fg_text word = own.size ? own : fg_text_trimmed(cells[g->labelled]);
        const size_t number = word.size ? label_of(g, word, own.size ? 0 : line) : 0;
        return !word.size || (number != FG_NO_COLUMN && add_value(g, number, cells[g->reading]));
    }
    for (size_t i = 0; i < count; i++)
        if (g->of_column[i] != FG_NO_COLUMN && !add_value(g, g->of_column[i], cells[i])) return false;
    return true;
}

static fg_status gather(gathering *g, const fg_tuning_source *sources, size_t count, fg_mistake *mistake)
{
    for (size_t i = 0; i < count; i++) {
        const fg_recording_sink sink = {
            .context = g, .heading = on_heading, .row = on_row, .progress = sources[i].progress};
        fg_recording_options options = sources[i].options;
        if (!options.every) options.every = 1; /* notes have no times, and only their order counts here */
        g->source = &sources[i];
        const fg_status status = fg_recording_read(sources[i].recording, &options, &sink, mistake);
        if (status != FG_OK) return status;
    }
    return FG_OK;
}

/* ---- order and cuts ---- */

static int by_middle(const void *a, const void *b)
{
    const label *x = a, *y = b;
    return (x->middle > y->middle) - (x->middle < y->middle);
}

/* The widest stretch of a circle that nobody read: its last reading before, and the first one behind it. */
static bool widest_space(const gathering *g, fg_value circle, fg_value *before, fg_value *behind)
{
    size_t count = 0, at = 0;
    int64_t widest = -1;
    for (size_t i = 0; i < g->label_count; i++) count += g->labels[i].count;
    fg_value *all = malloc((count + 1) * sizeof *all);
    if (!all) return false;
    for (size_t i = 0, n = 0; i < g->label_count; n += g->labels[i++].count)
        memcpy(all + n, g->labels[i].values, g->labels[i].count * sizeof *all);
    fg_sort_values(all, count);
    for (size_t i = 0; i < count; i++) {
        const int64_t space = i ? (int64_t)all[i] - all[i - 1] : (int64_t)all[0] + circle - all[count - 1];
        if (space > widest) widest = space, at = i;
    }
    *behind = all[at];
    *before = all[at ? at - 1 : count - 1];
    free(all);
    return true;
}

/* Labels without a reading are not shown: a column of remarks, say. */
static void drop_empty(gathering *g)
{
    size_t kept = 0;
    for (size_t i = 0; i < g->label_count; i++) {
        if (g->labels[i].count) {
            g->labels[kept++] = g->labels[i];
        } else {
            free(g->labels[i].name);
        }
    }
    g->label_count = kept;
}

static bool put_in_order(gathering *g, fg_value origin, fg_value circle, fg_mistake *mistake)
{
    for (size_t i = 0; i < g->label_count; i++) {
        label *l = &g->labels[i];
        for (size_t k = 0; circle && k < l->count; k++) l->values[k] = fg_wrap((int64_t)l->values[k] - origin, circle);
        fg_sort_values(l->values, l->count);
        l->middle = l->values[(l->count - 1) / 2];
    }
    qsort(g->labels, g->label_count, sizeof *g->labels, by_middle);
    for (size_t i = 1; i < g->label_count; i++) {
        const label *a = &g->labels[i - 1], *b = &g->labels[i];
        if (a->middle != b->middle) continue;
        (void)fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                             "readings of '%s' and '%s' are the same in the middle, so %.*s cannot tell them apart; "
                             "leave one out, or measure something else",
                             a->name, b->name, (int)g->sensor->name.size, g->sensor->name.at);
        return false;
    }
    return true;
}

/* ---- the text ---- */

enum { LINE_WIDTH = 100 };

static void add_label(fg_buffer *out, size_t *line, const char *name, fg_value cut, const fg_declared *sensor,
                      bool has_cut)
{
    char number[FG_VALUE_TEXT_SIZE];
    fg_value_short(cut, sensor->decimals, number);
    const size_t wide = strlen(name) + (has_cut ? strlen(number) + 6 : 0);
    if (*line + wide > LINE_WIDTH) {
        fg_buffer_add_c(out, "\n       ");
        *line = 8;
    }
    if (has_cut) {
        fg_buffer_add_c(out, " | ");
        fg_buffer_add_c(out, number);
        fg_buffer_add_c(out, " |");
    }
    fg_buffer_add_c(out, " ");
    fg_buffer_add_c(out, name);
    *line += wide;
}

/* On a circle the cuts are counted from the origin, so the list begins with the label that runs through zero. */
static void write_bands(const gathering *g, fg_value origin, fg_value circle, const fg_value *cuts, fg_buffer *out)
{
    const size_t n = g->label_count;
    size_t first = 0, line = 4;
    for (size_t i = 0; circle && i < n; i++) /* behind which cut zero comes */
        if (fg_wrap((int64_t)cuts[i] + origin, circle) > fg_wrap((int64_t)cuts[(i + 1) % n] + origin, circle))
            first = (i + 1) % n;
    fg_buffer_add_c(out, "bands ");
    fg_buffer_add(out, g->what->name);
    fg_buffer_add_c(out, " from ");
    fg_buffer_add(out, g->sensor->name);
    fg_buffer_add_c(out, " {\n   ");
    for (size_t k = 0; k < n; k++) {
        const size_t i = (first + k) % n, cut = (i + n - 1) % n;
        add_label(out, &line, g->labels[i].name, circle ? fg_wrap((int64_t)cuts[cut] + origin, circle) : cuts[cut],
                  g->sensor, k > 0);
    }
    if (circle) {
        char number[FG_VALUE_TEXT_SIZE];
        fg_value_short(fg_wrap((int64_t)cuts[first ? first - 1 : n - 1] + origin, circle), g->sensor->decimals, number);
        fg_buffer_add_c(out, " | ");
        fg_buffer_add_c(out, number);
    }
    fg_buffer_add_c(out, "\n}\n");
}

static fg_status make(gathering *g, fg_new_bands_made *made, fg_mistake *mistake)
{
    const fg_value circle = g->sensor ? g->program->gate.sensors[g->sensor->index].circle : 0;
    fg_value cuts[FG_LABELS_MOST], before = 0, behind = 0;
    fg_buffer out = {0};
    const char *recording = g->source ? g->source->recording : "";
    drop_empty(g);
    if (g->label_count < 2)
        return fg_mistake_set(mistake, FG_ERROR_RECORDING, recording, 0,
                              "has readings of %s%s%s; bands need two labels at least",
                              g->label_count ? "one label, '" : "no", g->label_count ? g->labels[0].name : " label",
                              g->label_count ? "'" : "");
    if (circle && !widest_space(g, circle, &before, &behind))
        return fg_mistake_set(mistake, FG_ERROR_MEMORY, "", 0, "there is not enough memory to sort its readings");
    if (!put_in_order(g, behind, circle, mistake)) {
        fg_text_keep(mistake->file, sizeof mistake->file, fg_text_of(recording));
        return FG_ERROR_RECORDING;
    }
    const int64_t space = circle ? fg_wrap((int64_t)behind - before, circle) : 0;
    for (size_t i = 0; i + 1 < g->label_count; i++)
        cuts[i] = (fg_value)(g->labels[i].middle + (g->labels[i + 1].middle - g->labels[i].middle + 1) / 2);
    cuts[g->label_count - 1] = circle ? (fg_value)(circle - space / 2) : 0; /* in the middle of the widest space */
    write_bands(g, behind, circle, cuts, &out);
    if (out.full) {
        fg_buffer_free(&out);
        return fg_mistake_set(mistake, FG_ERROR_MEMORY, "", 0, "there is not enough memory to write the bands");
    }
    made->text = fg_buffer_text(&out);
    fg_text_keep(made->column, sizeof made->column, g->column ? fg_text_of(g->column) : (fg_text){0});
    return FG_OK;
}

fg_status fg_new_bands_make(const fg_program *program, const fg_new_bands *what, const fg_tuning_source *sources,
                            size_t count, fg_new_bands_made *made, fg_mistake *mistake)
{
    gathering g = {.program = program, .what = what, .mistake = mistake};
    *made = (fg_new_bands_made){0};
    *mistake = (fg_mistake){0};
    fg_status status = check_names(&g) ? gather(&g, sources, count, mistake) : mistake->status;
    if (status == FG_OK) status = make(&g, made, mistake);
    for (size_t i = 0; i < g.label_count; i++) {
        free(g.labels[i].name);
        free(g.labels[i].values);
    }
    free(g.of_column);
    free(g.column);
    return status;
}

fg_text fg_new_bands_margin(fg_text gate, const fg_tuning *tuning, const fg_tuned *tuned)
{
    const fg_value margin = tuned->moves ? tuned->margin : tuned->widest / 2;
    char number[FG_VALUE_TEXT_SIZE];
    fg_buffer out = {0};
    const size_t end = gate.size >= 2 ? gate.size - 2 : 0; /* before the closing brace and its line end */
    fg_value_short(margin, tuning->rule->decimals, number);
    fg_buffer_add(&out, (fg_text){gate.at, end});
    if (margin) {
        fg_buffer_add_c(&out, "    margin ");
        fg_buffer_add_c(&out, number);
        fg_buffer_add_c(&out, tuned->moves ? "\n" : " # half of the gap between the readings\n");
    }
    fg_buffer_add(&out, (fg_text){gate.at + end, gate.size - end});
    if (!out.full) return fg_buffer_text(&out);
    fg_buffer_free(&out);
    return (fg_text){0};
}
