#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-session.sh [CHANGES]: a long session of the language server: 100,000 changes by chance in the harbour. What it tells is what the compiler
# says, and it does not grow.
set -euo pipefail
cd "$(dirname "$0")/.."
source tests/boards/hosted.sh
cc -O1 -std=c11 -D_GNU_SOURCE -DFICKLE="\"$release/fickle\"" -DROOT="\"$PWD\"" -Iinclude -Isrc tests/tool/test_lsp.c tests/support/case_file.c \
    $libraries $(pkg-config --libs libmosquitto check) -lpthread -o build/test_lsp_long
FICKLEGATE_LSP_CHANGES=${1:-100000} build/test_lsp_long >build/test_lsp_long.log || { cat build/test_lsp_long.log >&2; exit 1; }
echo "session: after each of ${1:-100000} changes the language server agrees with the compiler, and it does not grow"
