/* SPDX-License-Identifier: MIT */
/** @file
 * A gate and its recordings in one HTML file that any browser opens: the text to edit, limits to drag, sensors to move
 * by hand. The file holds the very code of this library; it loads nothing and sends nothing.
 *
 *     fg_status write_page(const fg_gate_file *file, FILE *out, fg_mistake *mistake)
 *     {
 *         const char *const recordings[] = {"evening.csv"};
 *         fg_text page;
 *         const fg_status status = fg_page_of(file, recordings, 1, &page, mistake);
 *         if (status != FG_OK) return status;
 *         fwrite(page.at, 1, page.size, out);
 *         fg_text_free(page);
 *         return FG_OK;
 *     }
 */
#ifndef FICKLEGATE_PAGE_H
#define FICKLEGATE_PAGE_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

/** Was this library built with the page? fg_page_of needs it. */
bool fg_page_is_there(void);

/** The page of a gate with all it includes, the recordings named here and those of its trials that are there. `file`
 * may be NULL: a page with an example. The same files give the same bytes. Give `page` back with fg_text_free.
 * FG_ERROR_FILE, FG_ERROR_MEMORY: `mistake` says why; FG_ERROR_ARGUMENT: this library was built without the page. */
FG_MUST_CHECK fg_status fg_page_of(const fg_gate_file *file, const char *const *recordings, size_t count, fg_text *page,
                                   fg_mistake *mistake);

FG_PUBLIC_END
#endif
