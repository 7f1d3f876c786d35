/* SPDX-License-Identifier: MIT */
/* The forms that what is saved can have. */
#ifndef FICKLEGATE_WORKSHOP_SAVE_FORM_H
#define FICKLEGATE_WORKSHOP_SAVE_FORM_H

#include <ficklegate/files.h>

typedef enum fg_save_form { FG_SAVE_CSV, FG_SAVE_JSONL, FG_SAVE_SQLITE, FG_SAVE_FORMS } fg_save_form;

/* By the ending of the path; FG_SAVE_FORMS with a mistake if it is none of them. */
fg_save_form fg_save_form_of(const char *path, fg_mistake *mistake);

/* Does each name get a column of its own in such a file? In a database letter case makes no difference, and there are
 * only so many columns. `names` are sorted on the way. False with a mistake. */
bool fg_save_names_fit(fg_save_form form, fg_text *names, size_t count, const char *path, fg_mistake *mistake);

/* Creates a file that is not there yet; -1 with a mistake. */
int fg_save_create(const char *path, fg_mistake *mistake);

#endif
