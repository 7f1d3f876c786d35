#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# make-packages.sh FOLDER: the Debian packages fickle, libficklegate0.1, libficklegate-dev, ficklegate-doc and python3-ficklegate. The same sources give the
# same bytes, in any folder and at any time.
set -euo pipefail
to=$(realpath "$1")
cd "$(dirname "$0")/.."
build=$to/build
export SOURCE_DATE_EPOCH=${SOURCE_DATE_EPOCH:-1795910400} # the day of this version
umask 022
cmake -S . -B "$build" -G Ninja -DCMAKE_BUILD_TYPE=Release -DBUILD_SHARED_LIBS=ON -DCMAKE_INSTALL_PREFIX=/usr -DFICKLEGATE_PAGE=${PAGE:-OFF} \
    -DFICKLEGATE_EXAMPLES=OFF -DCMAKE_SKIP_RPATH=ON -DCMAKE_C_FLAGS="-g0 -ffile-prefix-map=$PWD=. -ffile-prefix-map=$build=build -D_FORTIFY_SOURCE=2 -fstack-protector-strong" \
    -DCMAKE_SHARED_LINKER_FLAGS="-s -Wl,-z,relro,-z,now" -DCMAKE_EXE_LINKER_FLAGS="-s -Wl,-z,relro,-z,now" >/dev/null
LD_LIBRARY_PATH=$build cmake --build "$build" | tail -n 1 # the manual pages come from the tool itself
(cd "$build" && cpack -G DEB >/dev/null)
mv "$build"/*.deb "$to"
(cd "$to" && ls ./*.deb)
