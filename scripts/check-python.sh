#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-python.sh: the Python module over the shared library, out of its wheel, which comes out alike twice: every case of the language, its
# messages too, rows, trials, mistakes, the beehive.
set -euo pipefail
cd "$(dirname "$0")/.."
cmake -S . -B build/shared -G Ninja -DCMAKE_BUILD_TYPE=Release -DBUILD_SHARED_LIBS=ON -DFICKLEGATE_PAGE=OFF -DFICKLEGATE_MANUAL=OFF -DFICKLEGATE_TOOL=OFF -DFICKLEGATE_EXAMPLES=OFF >/dev/null
cmake --build build/shared | tail -n 1
rm -rf build/wheel && mkdir -p build/wheel/{a,b,module}
scripts/make-wheel.sh build/wheel/a
sleep 1
scripts/make-wheel.sh build/wheel/b
cmp build/wheel/{a,b}/ficklegate-*-py3-none-any.whl
unzip -q build/wheel/a/*.whl -d build/wheel/module
export FICKLEGATE_LIBRARY=$PWD/build/shared/libficklegate-workshop.so PYTHONPATH=$PWD/build/wheel/module PYTHONDONTWRITEBYTECODE=1
/usr/bin/python3 -m pytest -q -p no:cacheprovider python/tests | tail -n 3
