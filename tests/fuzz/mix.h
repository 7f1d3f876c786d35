/* SPDX-License-Identifier: MIT */
/* What came out, as one number: the multiplication of FNV-1a (Fowler, Noll, Vo) over 64 bits. */
#ifndef FICKLEGATE_TESTS_FUZZ_MIX_H
#define FICKLEGATE_TESTS_FUZZ_MIX_H

#include <ficklegate/text.h>

static inline void fuzz_mix(uint64_t *hash, fg_text text)
{
    for (size_t i = 0; i < text.size; i++) *hash = (*hash ^ (unsigned char)text.at[i]) * UINT64_C(0x100000001b3);
}

#endif
