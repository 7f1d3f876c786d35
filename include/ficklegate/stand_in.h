/* SPDX-License-Identifier: MIT */
/** @file
 * A stand-in for a board: a pseudo-terminal that another program opens as if it were a serial device.
 *
 *     bool greet(fg_stand_in *board)
 *     {
 *         return fg_stand_in_is_open(board) && fg_stand_in_write(board, "depth=12.5\n", 11);
 *     }
 */
#ifndef FICKLEGATE_STAND_IN_H
#define FICKLEGATE_STAND_IN_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

typedef struct fg_stand_in fg_stand_in;

/** Makes one. `link`: a name for it, which is made and taken away again; NULL: it has the one that the system gives.
 * NULL with a mistake: there is none left, or something else has that name. */
fg_stand_in *fg_stand_in_start(const char *link, fg_mistake *mistake);
/** What others open. */
const char *fg_stand_in_name(const fg_stand_in *board);
/** Does somebody have it open? */
bool fg_stand_in_is_open(const fg_stand_in *board);
/** Sends bytes. What nobody takes is lost, as on a line: false then. */
bool fg_stand_in_write(fg_stand_in *board, const char *bytes, size_t size);
/** Bytes that were sent to it, at most `size`; 0: none. */
size_t fg_stand_in_read(fg_stand_in *board, char *bytes, size_t size);
/** The cable is pulled out, and plugged in again; with a link only, as the system gives a new name. */
void fg_stand_in_pull(fg_stand_in *board);
FG_MUST_CHECK fg_status fg_stand_in_plug(fg_stand_in *board, fg_mistake *mistake);
/** Takes it away; NULL is fine. */
void fg_stand_in_end(fg_stand_in *board);

FG_PUBLIC_END
#endif
