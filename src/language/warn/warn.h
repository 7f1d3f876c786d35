/* SPDX-License-Identifier: MIT */
/* What runs, but is probably not meant. */
#ifndef FICKLEGATE_LANGUAGE_WARN_WARN_H
#define FICKLEGATE_LANGUAGE_WARN_WARN_H

#include "language/check/check.h"

/* Called when the gate is lowered and has no error. */
void fg_warn(fg_compiler *c);
/* Motors, relays and servos that go on, through a count or a pulse, while readings are missing. */
void fg_warn_kept(fg_compiler *c);
void fg_warn_bands(fg_compiler *c, const fg_symbol *rule);

#endif
