#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# Installs the Debian packages that a task needs and that are missing: `build`, `page` (with what makes the page for
# browsers), `test`, `all` (page, boards and linters too).
set -euo pipefail
packages="build-essential cmake ninja-build pkg-config libcsv-dev zlib1g-dev libjansson-dev libsqlite3-dev"
packages+=" libsndfile1-dev libmosquitto-dev libncurses-dev gnuplot-nox fonts-dejavu-core"
# Node.js may have come another way.
page="clang lld llvm wasi-libc libclang-rt-14-dev-wasm32"
command -v node >/dev/null || page+=" nodejs"
command -v npm >/dev/null || page+=" npm"
case "${1:-build}" in
build) ;;
page) packages+=" $page" ;;
test) packages+=" check libexpat1-dev mosquitto openssl tmux" ;;
all)
    packages+=" check libexpat1-dev mosquitto openssl tmux clang libclang-rt-14-dev clang-tidy clang-format cppcheck gcc-avr avr-libc simavr libsimavr-dev libelf-dev"
    packages+=" gcc-arm-none-eabi qemu-system-arm gcovr tcc valgrind doxygen slurm-wlm munge parallel"
    packages+=" $page chromium lintian debootstrap zsh fish man-db neovim emacs-nox elpa-eglot python3-cffi python3-pytest python3-setuptools python3-wheel unzip"
    ;;
*)
    echo "usage: $0 [build|page|test|all]" >&2
    exit 2
    ;;
esac

missing=""
for package in $packages; do
    [ "$(dpkg-query -W -f '${db:Status-Status}' "$package" 2>/dev/null)" = installed ] || missing+=" $package"
done
[ -n "$missing" ] || exit 0

echo "installing:$missing"
root=""
if [ "$(id -u)" -ne 0 ]; then
    command -v sudo >/dev/null || { echo "run as root, or install these packages first:$missing" >&2; exit 2; }
    root=sudo
fi
$root apt-get update -qq
DEBIAN_FRONTEND=noninteractive $root apt-get install -y -qq --no-install-recommends $missing >/dev/null
