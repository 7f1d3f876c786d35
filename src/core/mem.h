/* The two functions that core and language ask of their surroundings; compilers call them for copies of structs anyway.
 */
#ifndef FICKLEGATE_CORE_MEM_H
#define FICKLEGATE_CORE_MEM_H

#include <stddef.h>

void *memcpy(void *restrict to, const void *restrict from, size_t size);
void *memset(void *to, int byte, size_t size);

#endif
