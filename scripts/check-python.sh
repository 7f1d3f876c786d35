#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-python.sh: the Python module over the shared library: every case of the language, rows, trials, mistakes, the beehive; its types are right.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake -S . -B build/shared -G Ninja -DCMAKE_BUILD_TYPE=Release -DBUILD_SHARED_LIBS=ON -DFICKLEGATE_PAGE=OFF -DFICKLEGATE_MANUAL=OFF -DFICKLEGATE_TOOL=OFF -DFICKLEGATE_EXAMPLES=OFF >/dev/null
cmake --build build/shared | tail -n 1
export FICKLEGATE_LIBRARY=$PWD/build/shared/libficklegate-workshop.so PYTHONPATH=$PWD/python PYTHONDONTWRITEBYTECODE=1
/usr/bin/python3 -m pytest -q -p no:cacheprovider python/tests | tail -n 3
