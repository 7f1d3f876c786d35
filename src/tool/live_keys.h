/* SPDX-License-Identifier: MIT */
/* Keys that are no characters. */
#ifndef FICKLEGATE_TOOL_LIVE_KEYS_H
#define FICKLEGATE_TOOL_LIVE_KEYS_H

enum {
    LIVE_KEY_LESS = 0x1000,
    LIVE_KEY_MORE,
    LIVE_KEY_MUCH_LESS,
    LIVE_KEY_MUCH_MORE,
    LIVE_KEY_LOWEST,
    LIVE_KEY_HIGHEST,
    LIVE_KEY_BEFORE,
    LIVE_KEY_NEXT
};

#endif
