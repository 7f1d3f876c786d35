/* SPDX-License-Identifier: MIT */
/* The two functions that core and language ask of their surroundings; compilers call them for copies of structs anyway.
 */
#ifndef FICKLEGATE_CORE_MEM_H
#define FICKLEGATE_CORE_MEM_H

#include <stddef.h>

#ifdef __cplusplus /* in the two files that a board project copies */
#define FG_ALIGNOF       alignof
#define FG_STATIC_ASSERT static_assert
extern "C" {
void *memcpy(void *to, const void *from, size_t size);
#else
#define FG_ALIGNOF       _Alignof
#define FG_STATIC_ASSERT _Static_assert
void *memcpy(void *restrict to, const void *restrict from, size_t size);
#endif
void *memset(void *to, int byte, size_t size);
#ifdef __cplusplus
}
#endif

#endif
