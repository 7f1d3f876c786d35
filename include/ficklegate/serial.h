/* SPDX-License-Identifier: MIT */
/** @file
 * A board on a serial line of this machine: bytes from it and lines to it, without waiting. One that is pulled out is
 * looked for until it is back.
 *
 *     void copy(fg_serial *serial)
 *     {
 *         char bytes[256];
 *         for (long got; (got = fg_serial_read(serial, bytes, sizeof bytes)) > 0;)
 *             fwrite(bytes, 1, (size_t)got, stdout);
 *     }
 */
#ifndef FICKLEGATE_SERIAL_H
#define FICKLEGATE_SERIAL_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

typedef struct fg_serial fg_serial;

enum { FG_BAUD_USUAL = 9600 };

/** Opens a serial device or a pseudo-terminal, raw, 8 data bits, no parity, and keeps others from opening it. `baud`:
 * bits a second, one of the speeds that termios has. NULL with a mistake: it is not there, not allowed, in use, no
 * terminal, or cannot have that speed. */
fg_serial *fg_serial_open(const char *path, uint32_t baud, fg_mistake *mistake);

/** To wait for with poll(); -1 while the board is gone. */
int fg_serial_handle(const fg_serial *serial);

/** Bytes that have come, at most `size`: how many, 0 if there are none now, -1 if the board is gone. */
long fg_serial_read(fg_serial *serial, char *bytes, size_t size);
/** Sends bytes, or as many as the line takes within a second. False: not all of them. */
FG_MUST_CHECK bool fg_serial_write(fg_serial *serial, const char *bytes, size_t size);
/** Looks whether a board that was gone is there again; true if it is. */
bool fg_serial_look(fg_serial *serial);

/** Closes it; NULL is fine. */
void fg_serial_close(fg_serial *serial);

FG_PUBLIC_END
#endif
