#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# make-wheel.sh FOLDER: the Python module as a wheel, for any machine that has the shared library. The same sources give the same bytes.
set -euo pipefail
to=$(realpath "$1")
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
export SOURCE_DATE_EPOCH=${SOURCE_DATE_EPOCH:-1795910400} # the day of this version
umask 022
cp -r python/ficklegate python/pyproject.toml LICENSE "$work"
find "$work" -name __pycache__ -prune -exec rm -r {} +
(cd "$work" && /usr/bin/python3 -c 'import sys; from setuptools import build_meta; build_meta.build_wheel(sys.argv[1])' "$to" >"$work/log" 2>&1) ||
    { tail -n 5 "$work/log" >&2; exit 1; }
