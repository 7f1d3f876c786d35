/* SPDX-License-Identifier: MIT */
/* The page's way in: a gate, its recording, its trials and sensors moved by hand. Built as WebAssembly behind the page
 * (page/), where the names of files are those of a folder in memory; it works the same natively.
 *
 *     fg_page *page = fg_page_start();
 *     const char *about = fg_page_open(page, "/box.gate");           // JSON: findings, names, limits, trials
 *     const char *played = fg_page_play(page, "/evening.csv", FG_PAGE_VALUES); // JSON; then the arrays below
 *     fg_page_end(page);
 *
 * What a call returns is JSON in UTF-8, valid until the next call of the same page that returns JSON; NULL: there is no
 * memory. Times are ms from the first row, values in the unit of their sensor, places in a text bytes from its begin. A
 * name's number is its place in "names". Where something cannot be done the JSON is {"mistake": {"file", "line",
 * "text"}}. */
#ifndef FICKLEGATE_WORKSHOP_PAGE_MODULE_H
#define FICKLEGATE_WORKSHOP_PAGE_MODULE_H

#include <ficklegate/workshop.h>

#ifdef __wasm__
#pragma GCC visibility push(default) /* what the module hands out */
#endif

typedef struct fg_page fg_page;

fg_page *fg_page_start(void); /* NULL: no memory */
void fg_page_end(fg_page *page);

/* Memory for what is handed in: a text in UTF-8 that ends in NUL. */
void *fg_page_take(size_t size);
void fg_page_give_back(void *memory);

/* A file has changed. */
void fg_page_written(fg_page *page, const char *path);

/* ---- the gate ---- */

/* Compiles a gate file and all it includes. {"good", "title", "every", "files": [name], "findings": [{"severity",
 * "kind", "file", "line", "column", "from", "to", "what", "instead", "fix": {"from", "to", "text"}}], "names",
 * "limits", "ranges", "trials", "scenes", "promises", "colours": {name: "#rrggbb"}}. A gate with mistakes has findings
 * alone, and the one that was open before stays open. names: {"name", "kind", "unit", "decimals", "labels", "read",
 * "output", "answers", "index", "low", "high", "circle"}; "low", "high": the scale of a sensor. "read": it comes from
 * outside; "answers": it has an answer limits: {"written": what fg_page_move calls it, "name": the rule's number,
 * "sensor", "value", "step", "file", "from", "to", "number": the named number it is, or null, "moves": it can be
 * written anew, "distance": it is a margin or a distance, and no place} ranges: {"name", "sensor", "answer", "low",
 * "high"}: who owns which readings; null where it has no end */
const char *fg_page_open(fg_page *page, const char *path);
/* The same where nothing but a limit is another than in what fg_page_open told: {"good", "findings", "limits",
 * "ranges"}, or what it says of a gate with mistakes. */
const char *fg_page_open_moved(fg_page *page, const char *path);
/* How many "names" there are; 0: no gate is open. */
uint32_t fg_page_name_count(const fg_page *page);

/* Moves a limit: {"edits": [{"file", "from", "to", "text"}]}. `limit`: its place in "limits"; `value`: in the sensor's
 * unit, rounded to its step. */
const char *fg_page_move(fg_page *page, uint32_t limit, double value);

/* The number line of a rule as text: {"text"}. */
const char *fg_page_line(fg_page *page, uint32_t name, int width);

/* ---- a recording ---- */

enum {
    FG_PAGE_VALUES = 1, /* what every sensor was at every step too: fg_page_values */
    FG_PAGE_SCENE = 2   /* `recording` names a scene of the gate */
};

/* Plays a recording through the gate that is open. {"rows", "steps", "changes", "length", "columns": [text], "texts":
 * [text], "notes": [text], "broken": [{"t", "line", "file", "promise", "row", "because"}]}. */
const char *fg_page_play(fg_page *page, const char *recording, unsigned how);

/* A change: to which of "texts" a name went. */
typedef struct fg_page_change {
    double t_ms;
    uint32_t name, text;
} fg_page_change;

/* What the last call of fg_page_play found; valid until the next. */
size_t fg_page_change_count(const fg_page *page);
const fg_page_change *fg_page_changes(const fg_page *page); /* in the order of time */
size_t fg_page_step_count(const fg_page *page);             /* with FG_PAGE_VALUES */
const double *fg_page_times(const fg_page *page);           /* of the steps, in ms */
size_t fg_page_sensor_count(const fg_page *page);           /* 0 without FG_PAGE_VALUES */
/* Of sensor number `sensor` among the sensors, at each step; not a number where it is faulty. */
const float *fg_page_values(const fg_page *page, uint32_t sensor);

/* Why is a name what it is at this moment of the recording that was played last? {"reasons": [{"t", "depth", "decides",
 * "text"}]} */
const char *fg_page_why(fg_page *page, uint32_t name, double t_ms);

/* Plays a trial. {"results": [{"line", "file", "expectation", "outcome", "because"}], "tried", "all", "untried":
 * [{"name", "what", "number"}]}; the last three are of all trials since the first one was played. */
const char *fg_page_trial(fg_page *page, uint32_t trial);

/* Looks for readings that lead to number `number` of what was never tried: {"verdict": "found", "never" or "not found",
 * "text": a recording, "after": ms, "because"}. */
const char *fg_page_reach(fg_page *page, uint32_t number);

/* A recording that goes through every limit, fails each sensor and turns each flag: {"text"}. */
const char *fg_page_edges(fg_page *page);

/* What changed in the recording that was played last, as CSV: t_ms,name,was,is. {"text"} */
const char *fg_page_change_table(fg_page *page);

/* Readings with a true label in `column` of a recording, and a rule: {"labels": [{"label", "readings", "lowest",
 * "median", "highest", "counts": readings in each bin}], "from": where the first bin begins, "wide": how wide each is,
 * "cuts": [{"below", "above", "tuned", "now", "halfway", "best", "wrong_now", "wrong_halfway", "wrong_best",
 * "because"}], "edits": those that make all of them the best, "readings", "wrong_now", "wrong_best", "margin"}. */
const char *fg_page_labels(fg_page *page, uint32_t name, const char *recording, const char *column);

/* ---- by hand ---- */

/* Sensors and flags are moved by hand from here on; the time of this run begins at 0. {} */
const char *fg_page_hand(fg_page *page);
/* A sensor or flag has this value, as it would stand in a recording; "faulty" is a fault, "" is no reading. {} */
const char *fg_page_hold(fg_page *page, uint32_t name, const char *value);
/* Goes on to `t_ms`. {"t", "now": [{"text", "form", "percent", "number", "colour", "lines"}], "broken"}; a place in
 * "now" for each name; what stands behind "text" is of outputs, "value" of sensors: null where faulty. */
const char *fg_page_until(fg_page *page, double t_ms);
/* Why a name is what it is now, in one line: {"text"}. */
const char *fg_page_because(fg_page *page, uint32_t name);
/* A board says something: lines as `fickle live` reads them. `t_ms`: of the run. {} */
const char *fg_page_hear(fg_page *page, const char *lines, double t_ms);
/* What was done by hand, as a recording: {"text"}. */
const char *fg_page_done(fg_page *page);
/* The next value worth trying from here: one step below a limit, on it, one step above; `way`: 1 up, -1 down.
 * {"value"}, null where there is none. */
const char *fg_page_next(fg_page *page, uint32_t name, double value, int way);

#ifdef __wasm__
#pragma GCC visibility pop
#endif
#endif
