/* SPDX-License-Identifier: MIT */
/** @file
 * Replay: readings are played through a gate, and every change comes out with its reason.
 *
 *     static bool on_change(void *context, const fg_change *change)
 *     {
 *         fg_text_show(stdout, change->declared->name);
 *         return true;
 *     }
 *
 *     fg_status print_names(const fg_program *program, const char *recording, fg_mistake *mistake)
 *     {
 *         fg_replay_report report;
 *         const fg_readings readings = {.recording = recording};
 *         const fg_replay_observer observer = {.change = on_change};
 *         return fg_replay(program, &readings, &observer, &report, mistake);
 *     }
 */
#ifndef FICKLEGATE_REPLAY_H
#define FICKLEGATE_REPLAY_H

#include <ficklegate/recordings.h>

FG_PUBLIC_BEGIN

/** One change of one name. */
typedef struct fg_change {
    int64_t t_ms; /**< from the first row */
    const fg_declared *declared;
    fg_text was, is, because; /**< `was` is empty at the first step */
    bool plays_on;            /**< only the next level of the sequence or sweep that the output plays already */
} fg_change;

/** What a board said of a name, in a column of the recording that is named like a rule, count or output. */
typedef struct fg_said {
    int64_t t_ms;  /**< of its row, from the first */
    uint64_t line; /**< of the recording */
    const fg_declared *declared;
    fg_text said;    /**< without the blanks around it; never empty */
    fg_text own;     /**< what the gate has at this step */
    fg_text because; /**< and its reason; empty where they agree */
    bool agrees;
    bool between; /**< no step is for this row: it lies between two */
} fg_said;

/** A promise that does not hold at this step, for the first time. */
typedef struct fg_broken {
    int64_t t_ms; /**< from the first row */
    const fg_promise *promise;
    uint32_t number;      /**< its place in fg_program.promises */
    const fg_expect *row; /**< the row of it that is broken */
    uint32_t line;        /**< on which the row stands */
    fg_text written;      /**< the row as it is written, in one line */
    fg_verdict answer;    /**< of what it says: yes of `never`; of the others no or unsure */
    fg_text because;
} fg_broken;

typedef struct fg_replay_observer {
    void *context;
    /** A change; may be NULL, then no reasons are worked out. False ends the replay. */
    bool (*change)(void *context, const fg_change *change);
    bool without_reasons; /**< nobody asks why: `because` stays empty, which is quicker */
    /** After each step, those in front of the part as well; may be NULL. `before`: the answers one step ago, NULL at
     * the first. False ends the replay. */
    bool (*step)(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms);
    /** Behind the last step, unless a callback ended the replay: no row and no step follows, and everything is as that
     * step left it. May be NULL. */
    void (*end)(void *context, const fg_run *run);
    /** The columns there are, before the first row, and each row before its step; may be NULL. False ends the replay
     * with the mistake. */
    bool (*columns)(void *context, const fg_text *columns, size_t count, fg_mistake *mistake);
    bool (*row)(void *context, int64_t t_ms, const fg_text *cells, size_t count);
    fg_progress progress; /**< while it runs, every so many rows */
    /** What a board said, at the step that its row is for, or else when the row comes; may be NULL. Without such a
     * column the replay fails. False ends it. */
    bool (*said)(void *context, const fg_said *said);
    /** A row of a promise is broken at this step; told once for each row. A promise whose assumptions do not hold at a
     * step is not watched from there on. The program has to be compiled with its promises. May be NULL. False ends it.
     */
    bool (*broken)(void *context, const fg_broken *broken);
} fg_replay_observer;

enum { FG_SHOWN_MOST = 32 };

/** What a replay came across. */
typedef struct fg_replay_report {
    uint64_t rows, steps, changes;
    uint32_t broken;     /**< rows of promises; counted if the program was compiled with them */
    int64_t length_ms;   /**< from the first row to the last, or to the end of the part */
    uint64_t overlooked; /**< readings that fell between two steps */
    uint64_t unreadable; /**< cells that are no reading of their sensor or flag */
    uint64_t finer;      /**< readings with more decimals than the step of their sensor has, which were rounded */
    uint64_t finer_line;
    char finer_cell[FG_SHOWN_MOST + 1], finer_name[FG_SHOWN_MOST + 1]; /**< the first one, and whose it was */
    uint16_t finer_sensor;                                             /**< the same by its index */
    uint8_t finer_decimals; /**< what the readings of that sensor need, at most 6 */
    uint64_t faulty_steps;  /**< steps of a sensor or flag that was faulty, summed */
    uint64_t left_out; /**< steps that were not worked out, because it was known beforehand that they change nothing */
    const char *busy;  /**< why the newest one that changed nothing had to be, all the same; NULL: there was none */
    uint64_t zeros_missed; /**< `zero when` began while the sensor was faulty: the old zero stayed */
    uint64_t refused;      /**< starts of a pulse that came to nothing, as it waits for `again` or is stopped */
    int64_t refused_ms;    /**< the first of them */
    char refused_name[FG_SHOWN_MOST + 1];
    char refused_why[100]; /**< what it waited for */
    uint64_t unreadable_line;
    char unreadable_cell[FG_SHOWN_MOST + 1], unreadable_name[FG_SHOWN_MOST + 1]; /**< the first one */
    uint32_t unread_count;                                               /**< sensors and flags without a column */
    char unread[256];                                                    /**< their names */
    char unread_name[FG_SHOWN_MOST + 1], unread_like[FG_SHOWN_MOST + 1]; /**< the first of them, and the column that is
                                                                            called much like it, or empty */
    char other_unit[FG_SHOWN_MOST + 1]; /**< the first reading with a unit that is not its sensor's, or empty */
    char other_unit_name[FG_SHOWN_MOST + 1], own_unit[FG_SHOWN_MOST + 1]; /**< whose it is, and its unit */
    uint64_t other_unit_line;
    char columns[256]; /**< the columns there are */
    char ignored[256]; /**< those that nothing uses */
    char note[100];    /**< something about the recording; may be empty */
} fg_replay_report;

/** Plays readings through a program on the simulated board. `report` is filled in as far as it got; where a part is to
 * be reported, it tells of that part alone. FG_ERROR_FILE, FG_ERROR_RECORDING, FG_ERROR_MEMORY: `mistake` says why.
 * FG_ERROR_ARGUMENT: they end before the part. */
FG_MUST_CHECK fg_status fg_replay(const fg_program *program, const fg_readings *readings,
                                  const fg_replay_observer *observer, fg_replay_report *report, fg_mistake *mistake);

/** Plays readings through `count` programs at once (1 or more), which are one gate file with different numbers; each
 * has its own observer and report. The recording is read once; where observers ask for changes without reasons and for
 * nothing else, answers that do not hang on these numbers are worked out once as well. A scene is that of the first
 * program. Returns what fg_replay does; `row` and `said` of the observers are asked for each, `progress` of the first
 * alone, and one that ends its replay ends all. */
FG_MUST_CHECK fg_status fg_replay_together(const fg_program *const *programs, const fg_replay_observer *observers,
                                           size_t count, const fg_readings *readings, fg_replay_report *reports,
                                           fg_mistake *mistake);

/** What is done with the devices of a recording that holds several. */
typedef struct fg_devices_observer {
    void *context;
    /** A device is named for the first time, the `number`th from 0: `observer` becomes what is done with its changes
     * and steps; of it `context`, `change`, `step`, `broken` and `end`
     * count. False ends the replay: there is no memory. */
    bool (*begin)(void *context, fg_text name, size_t number, fg_replay_observer *observer);
    /** Behind the last row, each in the order in which they were named. */
    void (*end)(void *context, size_t number, const fg_replay_report *report);
    fg_progress progress; /**< while it runs, every so many rows */
} fg_devices_observer;

/** Plays a recording that holds several devices, whose rows `readings->options.by` tells apart, as if the rows of each
 * were a recording of its own: each has its own state, and its times count from its own first row. Memory grows with
 * the devices. Returns what fg_replay does; a device that ends before the part is no error. */
FG_MUST_CHECK fg_status fg_replay_devices(const fg_program *program, const fg_readings *readings,
                                          const fg_devices_observer *observer, fg_mistake *mistake);

FG_PUBLIC_END
#endif
