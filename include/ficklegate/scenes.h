/* SPDX-License-Identifier: MIT */
/** @file
 * Scenes: readings that nobody had to record.
 *
 *     fg_status play_storm(const fg_program *program, const fg_recording_sink *sink, fg_mistake *mistake)
 *     {
 *         const fg_scene *storm = fg_scene_find(program, fg_text_of("storm"));
 *         return storm ? fg_scene_read(program, storm, sink, mistake) : FG_ERROR_ARGUMENT;
 *     }
 */
#ifndef FICKLEGATE_SCENES_H
#define FICKLEGATE_SCENES_H

#include <ficklegate/recordings.h>

FG_PUBLIC_BEGIN

/** The scene of this name; NULL if there is none. */
const fg_scene *fg_scene_find(const fg_program *program, fg_text name);

/** Plays a scene as a recording: a row at time 0 and every so often until it has lasted, with the columns t_ms and one
 * for each sensor that has rows (in its unit) and each flag. A moment without a reading is an empty cell, a faulty one
 * the word faulty. The same scene gives the same rows on every machine; src/workshop/replay/scene.c says how noise is
 * made. FG_ERROR_RECORDING: the sink said no, `mistake` is what it said. */
FG_MUST_CHECK fg_status fg_scene_read(const fg_program *program, const fg_scene *scene, const fg_recording_sink *sink,
                                      fg_mistake *mistake);

/** A recording that goes through every limit of every rule on a sensor that is read: slowly from below, on it, one step
 * beside it and back, once with every flag no and once yes; each sensor fails once. Like fg_scene_read. */
FG_MUST_CHECK fg_status fg_edges_read(const fg_program *program, const fg_recording_sink *sink, fg_mistake *mistake);

FG_PUBLIC_END
#endif
