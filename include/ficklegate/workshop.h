/* The workshop: recordings, replays with their reasons, trials. For hosted machines: it uses the heap and files.
 *
 * Every function here is safe to call from several threads at once on different objects. Texts handed to callbacks are
 * valid during the call only.
 */
#ifndef FICKLEGATE_WORKSHOP_H
#define FICKLEGATE_WORKSHOP_H

#include <ficklegate/language.h>
#include <stdio.h>

#ifdef __cplusplus
extern "C" {
#endif

/* ---- mistakes ---- */

/* Why something could not be done: the file, the line in it (0: the file as a whole), what is wrong and what to do. */
typedef struct fg_mistake {
    char file[256];
    uint64_t line;
    char text[512];
} fg_mistake;

/* ---- files ---- */

/* Reads a whole file, at most `most` bytes; "-" is standard input. The text is the caller's to free() as (void
 * *)text.at. FG_ERROR_FILE and a mistake if it cannot be read, is a folder, or is longer. */
FG_MUST_CHECK fg_status fg_file_read(const char *path, size_t most, fg_text *text, fg_mistake *mistake);

enum { FG_FILES_MOST = 4 };

/* Writes whole files, at most FG_FILES_MOST: all of them or none. One that is there keeps its mode and owner.
 * FG_ERROR_FILE with a mistake if something cannot be written, or if more than these files would be overwritten: a
 * device, a pipe, a folder, a link, a file with a second name, a write-protected one. FG_ERROR_ARGUMENT: too many. */
FG_MUST_CHECK fg_status fg_files_write(const char *const *paths, const fg_text *texts, size_t count,
                                       fg_mistake *mistake);

/* Changes a file that was read: `before` is what it held then. Follows links; mode and owner stay. FG_ERROR_FILE with a
 * mistake if it holds something else by now, or cannot be written (see fg_files_write). */
FG_MUST_CHECK fg_status fg_file_change(const char *path, fg_text before, fg_text after, fg_mistake *mistake);

/* Are these two paths one file on the disk? False if either is not there. */
bool fg_file_same(const char *a, const char *b);

/* Takes away every file that is being written and is not whole yet, for a program that is about to end. May be called
 * from a signal handler. */
void fg_files_abandon(void);

/* A text that is written as a file is. Where memory runs out it tells so for sure, as open_memstream does not. */
typedef struct fg_memory_file {
    FILE *file; /* NULL: there is none, or no more */
    char *text; /* the caller's to free() */
    size_t size, room;
    bool full;
} fg_memory_file;

/* False: no memory; then there is nothing to close. The structure stays where it is until it is closed. */
FG_MUST_CHECK bool fg_memory_file_open(fg_memory_file *m);
/* True: the text is whole and ends in NUL. False: there was not enough memory; `text` is NULL. */
FG_MUST_CHECK bool fg_memory_file_close(fg_memory_file *m);

/* A gate file, read and compiled. */
typedef struct fg_gate_file {
    char *path;
    char *identity; /* its full path, NULL for standard input */
    fg_text text;
    char *owned; /* the text's own memory */
    void *memory;
    struct fg_included *included;
    struct fg_trial_texts *trials; /* the text apart from its trials; NULL without any */
    uint32_t trial;                /* compiled for a trial: its number in `program` */
    bool no_memory;                /* for a file it includes */
    fg_program program;
} fg_gate_file;

/* Reads and compiles a gate file; memory grows as it needs. Give it back with fg_gate_file_close whatever came out.
 * `settings`: may be NULL with a count of 0; they and their texts live as long as the file.
 * FG_ERROR_GATE: the findings in `file->program` say why. FG_ERROR_FILE, FG_ERROR_MEMORY: `mistake` says why. */
FG_MUST_CHECK fg_status fg_gate_file_open(fg_gate_file *file, const char *path, const fg_setting *settings,
                                          size_t setting_count, fg_mistake *mistake);

/* The same for a text that is in no file yet: it is read as if it stood in `path`, beside which its recordings and
 * includes are found. The text may be given back at once. */
FG_MUST_CHECK fg_status fg_gate_file_of_text(fg_gate_file *file, const char *path, fg_text text,
                                             const fg_setting *settings, size_t setting_count, fg_mistake *mistake);

/* Compiles it again for one of its trials, as fg_gate_file_open does; `file` is open, `out` is closed apart from it and
 * before it. The other trials of the file itself are left out of its text but for their line ends, so that many trials
 * cost no more than their share. */
FG_MUST_CHECK fg_status fg_gate_file_for_trial(const fg_gate_file *file, const fg_setting *settings,
                                               size_t setting_count, int32_t trial, fg_gate_file *out,
                                               fg_mistake *mistake);

/* Gives everything back. A file set to {0} is fine. */
void fg_gate_file_close(fg_gate_file *file);

/* ---- texts ---- */

/* An answer as it is written: yes, no, unsure, ok, faulty, none or a label. */
fg_text fg_answer_text(const fg_declared *declared, fg_verdict answer);

/* Writes a text for a person. What would steer a terminal or change the order of what is read becomes a visible escape:
 * control characters and bytes that are not UTF-8 as \x1b, marks of direction, line ends of Unicode and characters
 * that are none as \u202e. Everything else stays as it is. Errors stay with the file. */
void fg_text_show(FILE *file, fg_text text);

enum { FG_ESCAPE_SIZE = 12 };

/* Takes the next piece off a text that is not empty, as fg_text_show would write it: a part of the text, or an escape
 * in `room`, FG_ESCAPE_SIZE characters. */
fg_text fg_text_next_shown(fg_text *text, char *room);

/* Writes a cell of CSV, in quotes where it needs them (RFC 4180). Errors stay with the file. */
void fg_csv_cell(FILE *file, fg_text cell);

/* ---- findings explained ---- */

/* The longer text behind a kind of finding, and a gate with and without it. */
typedef struct fg_code_text {
    const char *why, *wrong, *right;
} fg_code_text;

/* NULL for a code that does not exist. */
const fg_code_text *fg_finding_text(fg_finding_code code);

/* ---- pictures of rules ---- */

/* A number line of a threshold, hysteresis or bands: who has which readings, to scale, `width` columns wide (40 to
 * 200), with the exact readings below. The text is the caller's to free() as (void *)text.at; FG_ERROR_MEMORY. */
FG_MUST_CHECK fg_status fg_number_line(const fg_program *program, const fg_declared *rule, int width, fg_text *text);

/* How long it takes until each rule believes a clear change: pace, smoothing, settling. A line for each rule that
 * waits, and nothing if none does. The text is the caller's to free() as (void *)text.at; FG_ERROR_MEMORY. */
FG_MUST_CHECK fg_status fg_delays(const fg_program *program, fg_text *text);

/* ---- recordings ---- */

/* What a recording is played into. Each may end the reading by returning false. */
typedef struct fg_recording_sink {
    void *context;
    bool (*heading)(void *context, const fg_text *columns, size_t count, fg_mistake *mistake);
    /* `t_ms`: the time of the row, not yet counted from the first; never less than that of the row before. */
    bool (*row)(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake);
    void (*note)(void *context, const char *text); /* something a person may want to know; may be NULL */
    /* Every so many rows: how far it is, `done` of `all`; `all` is 0 where that is not known. May be NULL. */
    void (*progress)(void *context, uint64_t done, uint64_t all);
} fg_recording_sink;

/* How a recording is to be read. */
typedef struct fg_recording_options {
    fg_time every;             /* ms between rows, for one without a time column; 0: it has one */
    const fg_setting *columns; /* name: what the column `value` of the recording is called here */
    size_t column_count;
    /* Replays: more than FG_GAP_STEPS steps lie between the row before `line` and this one; they are played next. May
     * be NULL. */
    void (*gap)(void *context, uint64_t line, int64_t gap_ms, uint64_t steps);
    void *gap_context;
} fg_recording_options;

enum { FG_GAP_STEPS = 1000000 };

/* Reads a recording from a file, "-" being standard input, row by row; memory does not grow with it. It is CSV (RFC
 * 4180; cells separated by commas, semicolons or tabs, # begins a comment line) with a heading, or JSON Lines, either
 * of them gzipped or not, or an SQLite file with one table. A column t_ms, t_s or time (seconds, or a date as in RFC
 * 3339) has the times. `options`: may be NULL. FG_ERROR_FILE, FG_ERROR_RECORDING: `mistake` has the file, the line and
 * the reason. */
FG_MUST_CHECK fg_status fg_recording_read(const char *path, const fg_recording_options *options,
                                          const fg_recording_sink *sink, fg_mistake *mistake);

/* ---- scenes ---- */

/* The scene of this name; NULL if there is none. */
const fg_scene *fg_scene_find(const fg_program *program, fg_text name);

/* Plays a scene as a recording: a row at time 0 and every so often until it has lasted, with the columns t_ms and one
 * for each sensor that has rows (in its unit) and each flag. A moment without a reading is an empty cell, a faulty one
 * the word faulty. The same scene gives the same rows on every machine; src/workshop/scene.c says how noise is made.
 * FG_ERROR_RECORDING: the sink said no, `mistake` is what it said. */
FG_MUST_CHECK fg_status fg_scene_read(const fg_program *program, const fg_scene *scene, const fg_recording_sink *sink,
                                      fg_mistake *mistake);

/* A recording that goes through every limit of every rule on a sensor that is read: slowly from below, on it, one step
 * beside it and back, once with every flag no and once yes; each sensor fails once. Like fg_scene_read. */
FG_MUST_CHECK fg_status fg_edges_read(const fg_program *program, const fg_recording_sink *sink, fg_mistake *mistake);

/* ---- replay ---- */

/* One change of one name. */
typedef struct fg_change {
    int64_t t_ms; /* from the first row */
    const fg_declared *declared;
    fg_text was, is, because; /* `was` is empty at the first step */
} fg_change;

typedef struct fg_replay_observer {
    void *context;
    /* A change; may be NULL, then no reasons are worked out. False ends the replay. */
    bool (*change)(void *context, const fg_change *change);
    /* After each step; may be NULL. `before`: the answers one step ago, NULL at the first. False ends the replay. */
    bool (*step)(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms);
    /* Behind the last step, unless a callback ended the replay: no row and no step follows, and everything is as that
     * step left it. May be NULL. */
    void (*end)(void *context, const fg_run *run);
    /* The columns there are, before the first row, and each row before its step; may be NULL. False ends the replay
     * with the mistake. */
    bool (*columns)(void *context, const fg_text *columns, size_t count, fg_mistake *mistake);
    bool (*row)(void *context, int64_t t_ms, const fg_text *cells, size_t count);
    /* While it runs, every so many rows: how far through the recording it is; `all` is 0 where that is not known. May
     * be NULL. */
    void (*progress)(void *context, uint64_t rows, uint64_t done, uint64_t all);
} fg_replay_observer;

enum { FG_SHOWN_MOST = 32 };

/* What a replay came across. */
typedef struct fg_replay_report {
    uint64_t rows, steps, changes;
    int64_t length_ms;     /* from the first row to the last */
    uint64_t overlooked;   /* readings that fell between two steps */
    uint64_t unreadable;   /* cells that are no reading of their sensor or flag */
    uint64_t faulty_steps; /* steps of a sensor or flag that was faulty, summed */
    uint64_t zeros_missed; /* `zero when` began while the sensor was faulty: the old zero stayed */
    uint64_t unreadable_line;
    char unreadable_cell[FG_SHOWN_MOST + 1], unreadable_name[FG_SHOWN_MOST + 1]; /* the first one */
    uint32_t unread_count; /* sensors and flags without a column */
    char unread[256];      /* their names */
    char columns[256];     /* the columns there are */
    char ignored[256];     /* those that nothing uses */
    char note[64];         /* something about the recording; may be empty */
} fg_replay_report;

/* Plays a recording through a program on the simulated board. `options`: how it is read, may be NULL. `report` is
 * filled in as far as it got. FG_ERROR_FILE, FG_ERROR_RECORDING, FG_ERROR_MEMORY: `mistake` says why. */
FG_MUST_CHECK fg_status fg_replay(const fg_program *program, const char *recording, const fg_recording_options *options,
                                  const fg_replay_observer *observer, fg_replay_report *report, fg_mistake *mistake);

/* The same with a scene of the program. */
FG_MUST_CHECK fg_status fg_replay_scene(const fg_program *program, const fg_scene *scene,
                                        const fg_replay_observer *observer, fg_replay_report *report,
                                        fg_mistake *mistake);

/* ---- what was tried ---- */

/* Everything that may happen in a gate, and whether it did: each label of bands; yes and no of each threshold,
 * hysteresis, condition, latch and pulse; each row of each output, as the winner; each limit, with a reading on it, one
 * step beside it on either side and, where the rule has a margin of more than a step, further within it; each sensor,
 * faulty. */
typedef struct fg_coverage fg_coverage;

/* Begins with nothing tried; NULL if there is not enough memory. The program lives as long. */
fg_coverage *fg_coverage_start(const fg_program *program);

/* Gives it back; NULL is fine. */
void fg_coverage_end(fg_coverage *coverage);

/* From here on steps are those of `program`: the same gate file, compiled with other numbers or for a trial. */
void fg_coverage_use(fg_coverage *coverage, const fg_program *program);

/* Looks at what happened in a step. */
void fg_coverage_step(fg_coverage *coverage, const fg_run *run);

/* Takes over what was tried in another coverage of the same gate file. */
void fg_coverage_add(fg_coverage *coverage, const fg_coverage *other);

/* How much of everything was tried. */
void fg_coverage_count(const fg_coverage *coverage, uint64_t *tried, uint64_t *all);

/* Tells what was not, in the order of declaration. False: there was not enough memory to tell all. */
bool fg_coverage_untried(const fg_coverage *coverage, void *context,
                         void (*tell)(void *context, const fg_declared *declared, fg_text what));

/* ---- what happened, as a table ---- */

typedef struct fg_summary fg_summary;

/* One answer of a name. */
typedef struct fg_summary_name {
    const fg_declared *declared;
    fg_text answer;   /* beyond 64 different ones the rest is "others" */
    int64_t ms;       /* how long it had this answer in all */
    uint64_t changes; /* of the name */
    int64_t
        shortest_ms; /* the shortest time between two changes of the name, from its beginning on; -1 without a change */
    bool is_first, is_last;
} fg_summary_name;

/* What a sensor read, in its steps. */
typedef struct fg_summary_sensor {
    const fg_declared *declared;
    bool seen; /* it was good at least once; else the four values mean nothing */
    fg_value lowest, median, highest;
    fg_value noise;        /* half of its moves from step to step are at most this large */
    uint32_t faulty_share; /* of 10000 steps */
} fg_summary_sensor;

/* Begins with nothing; NULL if there is not enough memory. Memory does not grow with the recording. */
fg_summary *fg_summary_start(const fg_program *program);

/* Gives it back; NULL is fine. */
void fg_summary_end(fg_summary *summary);

/* Takes in a step at `t_ms`. */
void fg_summary_step(fg_summary *summary, const fg_run *run, int64_t t_ms);

/* Tells each answer of each name in the order of declaration, then each sensor. `end_ms`: the end of the recording, up
 * to which the last answers count. False: there was not enough memory. */
bool fg_summary_tell(fg_summary *summary, int64_t end_ms, void *context,
                     void (*name)(void *context, const fg_summary_name *name),
                     void (*sensor)(void *context, const fg_summary_sensor *sensor));

/* ---- what every name was, kept ---- */

typedef struct fg_saver fg_saver;

/* Begins a file: `path` ends in .csv, .jsonl or .sqlite. A column t_ms and one for each name but numbers and sequences;
 * a sensor's value, everything else (faulty too) as it is reported. CSV and JSON Lines get their name when
 * they are whole; an SQLite file may not be there yet, has a table `steps` and, whatever ends the program, is
 * complete up to its last commit. NULL with a mistake. */
fg_saver *fg_save_start(const fg_program *program, const char *path, fg_mistake *mistake);

/* Adds a step. False: it cannot be written, fg_save_end says why. */
FG_MUST_CHECK bool fg_save_step(fg_saver *saver, const fg_run *run, int64_t t_ms);

/* Ends the file, and gives the saver back. `good`: false if what was kept is not whole; then nothing of it stays. */
FG_MUST_CHECK fg_status fg_save_end(fg_saver *saver, bool good, fg_mistake *mistake);

/* ---- trials ---- */

#define FG_OUTCOMES(X)                                                                                                 \
    X(FG_OUTCOME_UNDECIDED, "undecided")                                                                               \
    X(FG_OUTCOME_HELD, "held")                                                                                         \
    X(FG_OUTCOME_FAILED, "failed")                                                                                     \
    X(FG_OUTCOME_NEVER_TRIED, "never tried")

typedef enum fg_outcome {
#define FG_OUTCOME_CODE(code, word) code,
    FG_OUTCOMES(FG_OUTCOME_CODE)
#undef FG_OUTCOME_CODE
        FG_OUTCOME_COUNT
} fg_outcome;

/* The word for an outcome. */
const char *fg_outcome_word(fg_outcome outcome);

/* How one expectation came out. */
typedef struct fg_trial_result {
    const fg_trial *trial;
    const fg_expect *expect;
    uint32_t line;
    fg_text expectation; /* as written, without the word expect, in one line */
    fg_outcome outcome;
    fg_text because;
} fg_trial_result;

typedef struct fg_trial_observer {
    void *context;
    void (*trial)(void *context, const fg_trial *trial, const fg_replay_report *report); /* may be NULL */
    void (*result)(void *context, const fg_trial_result *result);
    fg_coverage *coverage; /* notes what was tried; may be NULL */
    /* How far through the readings it is, `done` of `all`; 0 of 0 where that is not known. May be NULL. */
    void (*progress)(void *context, uint64_t done, uint64_t all);
} fg_trial_observer;

/* Runs one trial of a gate file. Readings are looked for beside the gate file; `reading`: how they are read, may be
 * NULL.
 * FG_ERROR_...: it could not be run, `mistake` says why. */
FG_MUST_CHECK fg_status fg_trial_run(const fg_gate_file *file, const fg_setting *settings, size_t setting_count,
                                     const fg_recording_options *reading, uint32_t trial,
                                     const fg_trial_observer *observer, fg_mistake *mistake);

#ifdef __cplusplus
}
#endif
#endif
