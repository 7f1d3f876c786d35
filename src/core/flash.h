/* SPDX-License-Identifier: MIT-0 OR MIT */
/* Tables that stay in flash on chips that would copy them into RAM. */
#ifndef FICKLEGATE_CORE_FLASH_H
#define FICKLEGATE_CORE_FLASH_H

#ifdef __AVR__
#include <avr/pgmspace.h>
#define FG_IN_FLASH PROGMEM
#define FG_FLASH_64(at)                                                                                                \
    ((int64_t)((uint64_t)pgm_read_dword((const uint32_t *)(at) + 1) << 32 | pgm_read_dword((const uint32_t *)(at))))
#else
#define FG_IN_FLASH
#define FG_FLASH_64(at) (*(at))
#endif

#endif
