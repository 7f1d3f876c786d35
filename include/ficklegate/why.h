/* SPDX-License-Identifier: MIT */
/** @file
 * Why a name was what it was: the chain of reasons at one moment of a recording.
 *
 *     static void on_reason(void *context, const fg_reason *reason) { fg_text_show(stdout, reason->text); }
 *
 *     fg_status ask(const fg_program *program, const fg_declared *name, fg_mistake *mistake)
 *     {
 *         fg_replay_report report;
 *         const fg_readings readings = {.recording = "night.csv"};
 *         const fg_question question = {.name = name, .from_ms = 2000, .to_ms = 2000};
 *         const fg_why_observer observer = {.reason = on_reason};
 *         return fg_why(program, &readings, &question, &observer, &report, mistake);
 *     }
 */
#ifndef FICKLEGATE_WHY_H
#define FICKLEGATE_WHY_H

#include <ficklegate/replay.h>

FG_PUBLIC_BEGIN

/** What is asked. */
typedef struct fg_question {
    const fg_declared *name; /**< anything that has an answer or a level */
    int64_t from_ms,
        to_ms;      /**< from the first row. The same twice: the moment; else each change from one to the other */
    fg_text wanted; /**< not empty: why was it not this? A label, yes, no, or the first words of a level */
    bool nearest;   /**< no time is known: the times are not looked at, and a moment is found (see fg_why_moment) */
} fg_question;

/** The moment that was found where no time was asked for. */
typedef struct fg_why_moment {
    enum {
        FG_WHY_TURNED, /**< it changed, for the last time then; or came to be what was wanted, for the first time */
        FG_WHY_NEAREST /**< it did neither; then it was nearest to it */
    } kind;
    int64_t t_ms;
    uint64_t times; /**< how often it changed, or came to be what was wanted */
    uint64_t steps; /**< that were looked at */
} fg_why_moment;

/** A line of the answer. */
typedef struct fg_reason {
    int64_t t_ms;   /**< of the step it is about */
    uint32_t depth; /**< 0: the name itself */
    bool decides;   /**< the line above is what it is because of this one */
    fg_text text;
} fg_reason;

/** Who hears the answer. */
typedef struct fg_why_observer {
    void *context;
    void (*reason)(void *context, const fg_reason *reason);
    void (*moment)(void *context, const fg_why_moment *moment); /**< before its reasons; may be NULL */
} fg_why_observer;

/** Plays readings up to where the question is about and tells the reasons, line by line, then what to look at next. The
 * readings are read twice for a moment, so they cannot come from standard input.
 * FG_ERROR_ARGUMENT: the name has no answer, never is what is wanted, or the moment is after the end; a sensor, flag or
 * count without a time; `mistake` says which. Other errors: see fg_replay. */
FG_MUST_CHECK fg_status fg_why(const fg_program *program, const fg_readings *readings, const fg_question *question,
                               const fg_why_observer *observer, fg_replay_report *report, fg_mistake *mistake);

FG_PUBLIC_END
#endif
