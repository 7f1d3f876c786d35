#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# page-sources.sh FOLDER: the sources of libcsv, jansson and zlib, as Debian has them, for the module behind the page.
set -euo pipefail
out=$1
[ ! -e "$out/complete" ] || exit 0
rm -rf "$out"
mkdir -p "$out/lists/partial" "$out/cache/archives/partial"
cd "$out"
suite=$(. /etc/os-release && echo "$VERSION_CODENAME")
keyring=/usr/share/keyrings/debian-archive-keyring.gpg
echo "deb-src [signed-by=$keyring] http://deb.debian.org/debian $suite main" >sources.list
own=(-qq -o "Dir::Etc::sourcelist=$PWD/sources.list" -o Dir::Etc::sourceparts=/dev/null -o "Dir::State::Lists=$PWD/lists"
    -o "Dir::Cache=$PWD/cache" -o APT::Sandbox::User=root)
apt-get "${own[@]}" update
apt-get "${own[@]}" source --download-only libcsv jansson zlib 2>/dev/null
for name in libcsv jansson zlib; do
    mkdir $name
    tar xf "$name"_*.orig.tar.* -C $name --strip-components=1
done
rm -rf lists cache ./*.dsc ./*.tar.*
touch complete
