/* SPDX-License-Identifier: MIT */
/* What the commands of the tool share: arguments, messages, output that appears whole or not at all. */
#ifndef FICKLEGATE_TOOL_TOOL_H
#define FICKLEGATE_TOOL_TOOL_H

#include <argp.h>
#include <ficklegate/workshop.h>
#include <signal.h>
#include <stdio.h>

enum { EXIT_WELL = 0, EXIT_HELD_NOT = 1, EXIT_WRONG = 2, EXIT_OPEN = 3 /* not decided, and --strict */ };

/* How results are written, and the words for it. */
#define TOOL_FORMS(X)                                                                                                  \
    X(FORM_TEXT, "text")                                                                                               \
    X(FORM_CSV, "csv")                                                                                                 \
    X(FORM_JSONL, "jsonl") /* replay: a JSON object a line */                                                          \
    X(FORM_TAP, "tap")     /* trial: Test Anything Protocol */                                                         \
    X(FORM_JUNIT, "junit") /* trial: the XML that build servers read */

typedef enum tool_form {
#define TOOL_FORM_CODE(code, word) code,
    TOOL_FORMS(TOOL_FORM_CODE)
#undef TOOL_FORM_CODE
        TOOL_FORM_COUNT
} tool_form;

enum { SETTINGS_MOST = 200 };

/* The options every command knows. */
typedef struct tool_options {
    fg_setting settings[SETTINGS_MOST];
    size_t setting_count;
    tool_form form;
    bool strict, quiet, verbose;
    bool promises; /* a run is held against them */
    bool mistakes; /* a gate with mistakes will do */
    const char *gate, *recording;
    const char **recordings; /* all that were named, the first of which is `recording` */
    size_t recording_count;
    const char *explain; /* check: a kind of message */
    bool notes;          /* tell notes too */
    bool fix;            /* check: make the changes that are certain */
    const char *scene;   /* instead of a recording */
    const char *save;    /* replay: a file for what every name was at every step */
    bool edges;          /* pretend: through every limit */
    bool deep;           /* check: what can never happen */
    bool nudge;          /* trial: which moves of limits nobody notices */
    unsigned jobs;       /* replay, trial: how many at once; 0: one for each processor */
    bool compare;        /* replay: what a board said, held against the gate */
    bool summary;        /* replay: a table instead of every change */
    bool coverage;       /* list what was never tried */
    const char *save_coverage;
    const char **add_coverage; /* files of earlier runs */
    size_t add_coverage_count;
    uint32_t require; /* of 10000 things that may happen, so many have to be tried */
    const char *only; /* these names alone, with commas between */
    fg_time from, to; /* the part of a recording; to 0: up to its end */
    fg_recording_options reading;
    fg_setting columns[SETTINGS_MOST];
    const fg_text *asked; /* conditions besides those of the gate */
    size_t asked_count;
} tool_options;

extern const struct argp tool_common;

/* The file names in front: a gate, and for some commands a recording, or several. */
enum { WANTS_GATE = 1, WANTS_RECORDING = 2, WANTS_RECORDINGS = 6 };
/* argp_parse; false, told, if the words are wrong or there is no memory. */
bool tool_parse(const struct argp *argp, int argc, char **argv, unsigned flags, void *input);
error_t tool_begin(tool_options *options, struct argp_state *state); /* first of all */
error_t tool_arguments(int key, char *argument, struct argp_state *state, int wants);

/* Those of the forms that a command has, as a sum of 1 << FORM_...; EXIT_WRONG with a message for another. */
int tool_form_is_one_of(const tool_options *options, unsigned forms);

/* The numbers that --set gives. */
static inline fg_settings tool_settings(const tool_options *options)
{
    return (fg_settings){.at = options->settings,
                         .count = options->setting_count,
                         .promises = options->promises,
                         .asked = options->asked,
                         .asked_count = options->asked_count};
}

/* A command. Its options are a struct that begins with tool_options, zeroed. */
typedef struct tool_command tool_command;

struct tool_command {
    const char *name, *use, *line; /* use: with its arguments; line: what it is for */
    const struct argp *argp;       /* without children; tool_options.gate has to be set, or the command runs without */
    size_t options_size;
    unsigned forms;                                      /* that --as may ask for, a sum of 1 << FORM_... */
    bool verbose;                                        /* has more to say with --verbose */
    bool promises;                                       /* says when one is broken */
    bool mistakes;                                       /* a gate with mistakes will do */
    int (*before)(const void *options);                  /* before the gate is opened; may be NULL; an exit status */
    int (*run)(void *options, const fg_gate_file *file); /* returns the exit status */
    /* Another command that these words ask for, or this one; may be NULL. Takes the word away that says so. */
    const tool_command *(*instead)(int *argc, char **argv);
};

extern const tool_command command_new, command_check, command_replay, command_trial, command_pretend, command_tune,
    command_why, command_draw, command_bake, command_live, command_page, command_promise, command_tidy, command_lsp;
/* `draw --spread`: what tune would picture, and nothing else. */
extern const tool_command command_spread;

/* From the words of the command to its exit status. */
int tool_run(const tool_command *command, int argc, char **argv);

/* Opens the gate and prints what the compiler found. EXIT_WELL if it can run. Close the file in any case. */
int tool_open_gate(const tool_options *options, fg_gate_file *file);
/* Says something on standard error. What it is about may hold anything: what would steer a terminal is shown as an
 * escape, but for line ends. */
__attribute__((format(printf, 1, 2))) void tool_say(const char *format, ...);
/* As argp_error, with visible escapes. */
__attribute__((format(printf, 2, 3))) void tool_wrong_use(struct argp_state *state, const char *format, ...);
/* Is it UTF-8 without characters that would be shown as escapes? */
bool tool_is_plain(fg_text text);
void tool_print_mistake(const fg_mistake *mistake);

/* What is said of broken promises. */
typedef struct tool_broken {
    const fg_program *program;
    const char *where; /* of several recordings, devices or trials this one; NULL: there is only one */
    bool waits;        /* told at the end only: others are played at the same time */
    bool failed;       /* there was not enough memory */
    size_t count;
    char *kept;
} tool_broken;

/* One line, for free(); NULL: no memory. */
char *tool_broken_text(const fg_program *program, const fg_broken *broken, const char *where);
/* False: no memory. */
bool tool_broken_add(tool_broken *b, const fg_broken *broken);
/* Tells what waited. */
void tool_broken_end(tool_broken *b);

/* Recordings that were found for a gate, saved as `folder`/`name`.csv with a first line that says what they are.
 * `folder` NULL: this one. The path, for free(); NULL, told: it could not be, or a file that was not found so is there.
 */
char *tool_found_save(const char *folder, const char *name, fg_text about, fg_text recording);
/* The rows of such a recording in which something is new, and the last one. */
void tool_found_print(FILE *out, fg_text recording);
/* A number of steps for --limit. */
uint64_t tool_found_limit(const char *argument, struct argp_state *state);

/* Whether something can happen, and which readings lead there. */
typedef struct tool_reach_options {
    const char *reach;  /* a condition, which is the first of tool_options.asked, or "pump row 3" */
    bool untried;       /* everything that was never tried */
    const char *folder; /* for the recordings; NULL: this one */
    uint64_t limit;     /* steps for each; 0: as many as promises have */
} tool_reach_options;

/* Is it about a row of an output, and so no condition? */
bool tool_reach_is_row(const char *text);
/* The exit status. */
int tool_reach(const tool_options *common, const fg_gate_file *file, const tool_reach_options *options);
int tool_reach_untried(const tool_options *common, const fg_gate_file *file, const tool_reach_options *options);
/* Warns of answers and rows that no readings lead to. */
int tool_reach_check(const tool_options *common, const fg_gate_file *file);

/* Moves what the trials ought to pin down. The exit status. */
int tool_nudge(const tool_options *options, const fg_gate_file *file);

/* What is told: with --quiet errors only, and notes only by `check`. */
fg_severity tool_told(const tool_options *options);
/* Prints what the compiler found, down to this severity. */
void tool_print_findings(const fg_gate_file *file, fg_severity least);

/* False with a message if `path`, which is to be written, is the file `input` (which may be NULL). */
bool tool_keeps(const char *path, const char *input);
void tool_no_memory(void);

/* Results are gathered here and go to standard output when all is well. */
FILE *tool_output_open(void);
/* Copies them; EXIT_WRONG with a message if that fails. With `good` false drops them. What a person reads (FORM_TEXT
 * and FORM_TAP) has visible escapes instead of what would steer a terminal. */
int tool_output_close(FILE *output, tool_form form, bool good);

/* Results of many devices, which come in turn, in one temporary file. NULL: there is no
 * memory, or, told, no room for it. */
typedef struct tool_gather tool_gather;
tool_gather *tool_gather_open(void);
/* A stream for the next device, closed by the gather; NULL: there is no memory. */
FILE *tool_gather_next(tool_gather *gather);
/* Copies what went into each of them, one behind the other, and closes all. False: that failed. */
bool tool_gather_copy(tool_gather *gather, FILE *to);
void tool_gather_close(tool_gather *gather);

/* A text that a person reads, at once on standard output, with visible escapes. */
void tool_output_show(fg_text text);

void tool_listen_to_signals(void);
/* Set by SIGINT, SIGTERM and SIGHUP. While `tool_ends_itself` is set the program goes on until somebody sees that; else
 * it takes away what is not whole and ends by the signal. */
extern volatile sig_atomic_t tool_stopped, tool_ends_itself;
/* Ends the program by the signal that asked for it, if one did. */
void tool_end_if_stopped(void);

/* What was printed goes out now; false if it cannot, which the end of the program tells. */
bool tool_output_flush(void);
/* At the end of the program: EXIT_WRONG with a message if what was printed could not be written. */
void tool_output_check(void);

void tool_text(FILE *output, fg_text text);
/* A number above 0 and at most `most`; false if it is none. */
bool tool_number(const char *text, double most, double *number);
/* Milliseconds of a clock that nobody sets. */
int64_t tool_now(void);
/* 100ms, 0.5s, 1min, as whole ms; false if it is no time. */
bool tool_time(const char *text, fg_time *time);
/* 1280x800, for pictures; tool_wrong_use for another form. */
void tool_size(const char *argument, uint32_t *width, uint32_t *height, struct argp_state *state);
/* A description in TAP 14: a # would begin a directive, so it and the backslash are escaped. */
void tool_tap_text(FILE *output, fg_text text);
/* A text inside of XML. */
void tool_xml(FILE *output, fg_text text);
/* Wraps a text to the width of the terminal, further lines indented; as it is where there is none. */
void tool_wrapped(FILE *output, fg_text text, int indent);

/* A line that is put together before it goes out. */
typedef struct tool_line {
    FILE *to;
    size_t size;
    char room[2048];
} tool_line;
void tool_line_begin(tool_line *line, FILE *to);
/* Adds a text; one with blanks behind it up to a width; so many blanks; a number with at least so many digits; a cell
 * of CSV. */
void tool_line_text(tool_line *line, fg_text text);
void tool_line_padded(tool_line *line, fg_text text, int width);
void tool_line_blanks(tool_line *line, int count);
void tool_line_number(tool_line *line, int64_t number, int digits);
void tool_line_csv(tool_line *line, fg_text cell);
/* Writes it, and begins the next one. */
void tool_line_out(tool_line *line);
int tool_width(void);
/* Turns a colour for what went wrong on and off; nothing where results do not go to a terminal, or with NO_COLOR. */
const char *tool_paint(bool on);
/* A number with commas between thousands. */
const char *tool_grouped(uint64_t number, char room[32]);
/* "1 row", "6,000 rows". */
const char *tool_counted(uint64_t number, const char *thing, char room[64]);
/* How a path is called in messages: "-" is standard input. */
const char *tool_path(const char *path);
/* Judges the gate anew with the numbers each trial sets; prints what is wrong then. */
int tool_check_trials(const tool_options *options, const fg_gate_file *file);

/* Progress on a terminal for what takes over a second: of rows that are played, of trials that are run, of so many
 * recordings that are played. */
fg_progress tool_progress_of_rows(void);
fg_progress tool_progress_of_steps(void);
fg_progress tool_progress_of_moves(void);
fg_progress tool_progress_of_promises(const uint32_t *count);
fg_progress tool_progress_of_recordings(const size_t *count);
fg_progress tool_progress_of_trials(const fg_gate_file *file);
/* Takes it off the line for a message; what is timed goes on. */
void tool_progress_aside(void);
void tool_progress_end(void);
/* A long time without a row, told before it is played; `context`: the tool_options. */
void tool_gap(void *context, uint64_t line, int64_t gap_ms, uint64_t steps);
/* "did you mean 'Depth'? --column depth=Depth" */
const char *tool_column_meant(const fg_replay_report *report, char room[128]);
/* The sensors and flags without a column, and the columns that may be theirs. */
void tool_print_missing(const char *path, const fg_replay_report *report);
/* The cells that were no readings, and those that were rounded, on standard error. */
void tool_print_cells(const char *path, const fg_replay_report *report);
/* What a board said, held against the gate, with --compare. The exit status. */
int tool_compare(const tool_options *options, const fg_gate_file *file, const fg_readings *readings);
/* Notes what a recording tries. False, told: it cannot be played. */
bool tool_coverage_play(const tool_options *options, const fg_gate_file *file, const char *recording,
                        fg_coverage *coverage);
/* Plays all recordings that were named. The exit status. */
int tool_replay_many(const tool_options *options, const fg_gate_file *file);
/* What a replay came across, on standard error. */
void tool_print_report(const tool_options *options, const fg_replay_report *report);

/* The recording or the scene that was named. False with a message if the gate has no such scene. */
bool tool_readings(const tool_options *options, const fg_gate_file *file, fg_readings *readings);
/* What it is called. */
const char *tool_readings_name(const tool_options *options);

/* Options without a letter; a command's own begin at TOOL_OPTION_OWN. */
enum {
    TOOL_OPTION_FROM = 256,
    TOOL_OPTION_TO,
    TOOL_OPTION_COLUMNS,
    TOOL_OPTION_ROW_STEPS,
    TOOL_OPTION_SAVE_COVERAGE,
    TOOL_OPTION_ADD_COVERAGE,
    TOOL_OPTION_OWN
};

/* --column, --columns, --row-steps and --every, for the commands that read recordings. */
#define TOOL_READING_OPTIONS                                                                                           \
    {"column", 'c', "NAME=COLUMN", 0, "the column of the recording that holds this sensor or flag", 0},                \
        {"row-steps", TOOL_OPTION_ROW_STEPS, NULL, 0, "one step for each row, for a board that was late", 0},          \
        {"columns", TOOL_OPTION_COLUMNS, "NAMES", 0, "names of numbers without a heading: t_ms,depth", 0},             \
    {                                                                                                                  \
        "every", 'e', "TIME", 0, "how far the rows of a recording without times are apart, as in 100ms", 0             \
    }
/* The recording of a command line, as it is named there; ends the run if it is a gate and the gate before it is none.
 */
char *tool_recording_named(struct argp_state *state, const tool_options *options, char *argument);
/* ARGP_ERR_UNKNOWN for another key. */
error_t tool_reading_option(int key, const char *argument, struct argp_state *state);
/* The same for a command with options of its own around the common ones. */
error_t tool_reading_option_of(tool_options *options, int key, const char *argument, struct argp_state *state);

/* --jobs. ARGP_ERR_UNKNOWN for another key. */
#define TOOL_JOBS_OPTION                                                                                               \
    {                                                                                                                  \
        "jobs", 'j', "N", 0, "play so many recordings at once; one for each processor if left out", 0                  \
    }
error_t tool_jobs_option(int key, const char *argument, struct argp_state *state);

/* --only, --from and --to, for the commands that show a part. */
enum { TOOL_NAMES_MOST = 200 };
#define TOOL_PART_OPTIONS                                                                                              \
    {"only", 'O', "NAMES", 0, "just these names, with commas between", 0},                                             \
        {"from", TOOL_OPTION_FROM, "TIME", 0, "begin here, as in 10s", 0},                                             \
    {                                                                                                                  \
        "to", TOOL_OPTION_TO, "TIME", 0, "end here", 0                                                                 \
    }
/* ARGP_ERR_UNKNOWN for another key; pass ARGP_KEY_END on to it as well. */
error_t tool_part_option(int key, const char *argument, struct argp_state *state);

/* What --only names; none: everything. */
typedef struct tool_chosen {
    const fg_declared *names[TOOL_NAMES_MOST];
    size_t count;
} tool_chosen;

/* False with a message if one of them is no sensor, flag, rule or output of the gate. */
bool tool_names(const tool_options *options, const fg_gate_file *file, tool_chosen *chosen);
bool tool_is_chosen(const tool_chosen *chosen, const fg_declared *declared);

/* What a board said, as a table, and what it comes to. `explained_by`: a recording that `fickle why` can play, or NULL.
 */
int tool_compare_print(const tool_options *options, const tool_chosen *chosen, const fg_compared *compared,
                       const fg_replay_report *report, const char *explained_by);

/* Changes as they are printed. */
typedef struct tool_changes {
    FILE *output;
    tool_form form;
    tool_chosen chosen;
    bool all;           /* of text too: what is at rest when it begins, and each level of a sequence */
    const char *of;     /* the recording, which stands in front of each change; NULL: there is only one */
    const char *device; /* and the device behind it; NULL: there is only one */
    int of_width, device_width, name_width, change_width;
    int width; /* of the terminal, 0: it is none */
    int64_t last_ms;
    uint64_t told;  /* changes that belong here */
    uint64_t quiet; /* of those, names that were at rest in the first step */
    uint64_t plays; /* and levels of sequences */
    bool failed;    /* a change could not be written */
} tool_changes;

/* `output`, `form`, `chosen`, `all`, `of` and `device` are set before. */
void tool_changes_begin(tool_changes *p, const fg_program *program);
void tool_changes_heading(const tool_changes *p);
bool tool_changes_print(tool_changes *p, const fg_change *change);
/* The changes that were left out, on standard error. */
void tool_changes_tell_left_out(const tool_changes *p, const char *path);

/* Plays a recording that holds several devices. */
typedef struct tool_devices {
    const fg_program *program;
    tool_changes *changes; /* how they are printed, and where; what each device said stands together */
    fg_coverage *coverage; /* NULL: nobody asks */
    fg_summary *summary;   /* instead of changes; NULL: nobody asks */
    tool_broken *broken;
    const char *by; /* the column that tells them apart */
    int64_t from_ms;
    fg_progress progress;
    size_t count;      /* devices there were */
    int64_t length_ms; /* of the parts of all of them together */
} tool_devices;
/* `report`: of all together; its length is that of the longest. */
fg_status tool_devices_play(tool_devices *all, const fg_readings *readings, fg_replay_report *report,
                            fg_mistake *mistake);

/* Opens a broker as the user that FICKLE_USER and FICKLE_PASSWORD name, or a file with a line for each (`login`, may be
 * NULL). NULL, told: there is none. */
fg_broker *tool_broker_open(const fg_broker_options *options, const char *login);

/* --coverage, --require, --save-coverage and --add-coverage, for the commands that know them. */
#define TOOL_COVERAGE_OPTIONS                                                                                          \
    {"coverage", 'C', NULL, 0, "list what was never tried: answers, rows, limits, faults", 0},                         \
        {"save-coverage", TOOL_OPTION_SAVE_COVERAGE, "FILE", 0, "keep what was tried, to add it to another run", 0},   \
        {"add-coverage", TOOL_OPTION_ADD_COVERAGE, "FILE", 0, "what an earlier run tried counts too", 0},              \
    {                                                                                                                  \
        "require", 'r', "P%", 0, "status 1 if less than this share of what may happen was tried", 0                    \
    }
/* ARGP_ERR_UNKNOWN for another key. */
error_t tool_coverage_option(int key, const char *argument, struct argp_state *state);
/* What happened, as a table; false if there was no memory. `width`: of the names. */
bool tool_print_summary(FILE *output, const tool_options *options, const tool_chosen *chosen, int width,
                        fg_summary *summary, int64_t end_ms);
/* Does the command line ask what was tried? */
bool tool_covers(const tool_options *options);
/* What was tried in earlier runs, and room for this one. NULL, told, if there is no memory or a file cannot be read. */
fg_coverage *tool_coverage_begin(const tool_options *options, const fg_gate_file *file);
/* Says how much was tried and, if asked, lists the rest and keeps it. EXIT_HELD_NOT if it is less than required. */
int tool_print_coverage(FILE *output, const tool_options *options, const fg_coverage *coverage);

#endif
