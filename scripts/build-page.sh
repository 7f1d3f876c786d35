#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# build-page.sh FOLDER: makes FOLDER/page.html: the module (WebAssembly), the script and the style in one file.
set -euo pipefail
cd "$(dirname "$0")/.."
mkdir -p "$1"
out=$(realpath "$1")
without() { # the tool does without it, and the next build tries again
    echo "the page could not be made, so \`fickle page\` is left out of this build" >&2
    : >"$out/page.html"
    touch -d @0 "$out/page.html"
    exit 0
}
trap without ERR
set -E
scripts/page-sources.sh "$out/sources"
cmake -S page/module -B "$out/module" -G Ninja -DCMAKE_TOOLCHAIN_FILE="$PWD/cmake/wasm32-wasi.cmake" -DLIBRARIES="$out/sources" >/dev/null
cmake --build "$out/module" -- --quiet
cd page
if [ ! -e node_modules/.package-lock.json ] || [ package-lock.json -nt node_modules/.package-lock.json ]; then
    npm ci --no-audit --no-fund --loglevel=error >/dev/null
    touch node_modules/.package-lock.json
fi
npx tsc --noEmit
npx vite build --logLevel error
node build.mjs "$out/module/fickle.wasm" ../examples/proofing_box "$out/page.html"
