/* SPDX-License-Identifier: MIT */
/* What a value of JSON is as a cell. */
#ifndef FICKLEGATE_WORKSHOP_JSON_H
#define FICKLEGATE_WORKSHOP_JSON_H

#include <ficklegate/text.h>

#include <jansson.h>

enum { FG_JSON_CELL = 40 };

/* A number as the shortest decimal that is it. `room`: FG_JSON_CELL characters; the text may live there, or in `value`.
 */
fg_text fg_json_cell(const json_t *value, char *room);

#endif
