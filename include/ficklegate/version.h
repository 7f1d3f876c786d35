/* SPDX-License-Identifier: MIT */
/** @file
 * Which version of the library this is. What is promised from one version to the next stands in docs/decisions.md.
 *
 *     #if FG_VERSION_NUMBER < 100
 *     #error "this needs Fickle Gate 0.1"
 *     #endif
 */
#ifndef FICKLEGATE_VERSION_H
#define FICKLEGATE_VERSION_H

#include <ficklegate/value.h>

FG_PUBLIC_BEGIN

/** Of these headers. */
#define FG_VERSION "0.1.0"

/** The same as a number: 10000 for each major version, 100 for each minor one, 1 for each patch. */
#define FG_VERSION_NUMBER 100

/** Of the library that runs, such as "0.1.0": another one than FG_VERSION if the headers are of another version. */
const char *fg_version(void);

FG_PUBLIC_END
#endif
