#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# make-vsix.sh: the extension for editors that take VSIX packages, as build/fickle.vsix. Its packages come once by npm ci; the extension then
# holds all it needs. The same sources give the same bytes.
set -euo pipefail
cd "$(dirname "$0")/.."
build=build/vsix
mkdir -p $build
cp -r editors/vsix/. editors/textmate/fickle.tmLanguage.json LICENSE $build
export SOURCE_DATE_EPOCH=${SOURCE_DATE_EPOCH:-1767225600} NO_UPDATE_NOTIFIER=1
cd $build
if [ ! -e node_modules/.package-lock.json ] || [ package-lock.json -nt node_modules/.package-lock.json ]; then
    npm ci --no-audit --no-fund --loglevel=error >/dev/null
    touch node_modules/.package-lock.json
fi
npm run -s build
npm run -s package -- --out ../fickle.vsix >package.log 2>&1 || { cat package.log >&2; exit 1; }
