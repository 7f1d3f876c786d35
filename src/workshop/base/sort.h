/* SPDX-License-Identifier: MIT */
/* Many whole numbers, sorted. */
#ifndef FICKLEGATE_WORKSHOP_SORT_H
#define FICKLEGATE_WORKSHOP_SORT_H

#include <ficklegate/value.h>

#include <stddef.h>
#include <stdint.h>

/* The smallest first; without memory for it more slowly. */
void fg_sort_values(fg_value *values, size_t count);
void fg_sort_keys(uint64_t *keys, size_t count);

/* The key of a value: keys lie as values do. */
static inline uint32_t fg_key_of(fg_value value) { return (uint32_t)value ^ UINT32_C(0x80000000); }
static inline fg_value fg_value_of_key(uint32_t key) { return (fg_value)(int32_t)(key ^ UINT32_C(0x80000000)); }

#endif
