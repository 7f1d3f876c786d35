/* SPDX-License-Identifier: MIT */
/** @file
 * Texts: characters with a length, not ended by NUL.
 *
 * A text belongs to whoever made it; copying the struct copies no characters.
 *
 *     bool is_gale(fg_text label)
 *     {
 *         return fg_text_same(label, fg_text_of("gale")); // or fg_text_is(label, "gale")
 *     }
 */
#ifndef FICKLEGATE_TEXT_H
#define FICKLEGATE_TEXT_H

#include <ficklegate/value.h>

FG_PUBLIC_BEGIN

typedef struct fg_text {
    const char *at; /**< may be NULL if `size` is 0 */
    size_t size;    /**< in bytes */
} fg_text;

/** A C string as a text. `string`: not NULL; it lives as long as the text. */
fg_text fg_text_of(const char *string);

/** Are two texts equal, byte by byte? */
bool fg_text_same(fg_text a, fg_text b);

/** The same but for the case of ASCII letters? */
bool fg_text_alike(fg_text a, fg_text b);

/** Does a text equal a C string? `string`: not NULL. */
bool fg_text_is(fg_text text, const char *string);

FG_PUBLIC_END
#endif
