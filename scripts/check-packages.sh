#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-packages.sh: the Debian packages: two builds in different folders give the same bytes, lintian finds nothing, and in a bare Debian (debootstrap;
# as root) they are installed, the tutorial is followed without a compiler, a gate is stepped from Python, a program is built with the -dev package, and all goes again without a
# trace.
set -euo pipefail
cd "$(dirname "$0")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
mkdir -p "$work/a" "$work/b" "$work/copy"
git ls-files -z --cached --others --exclude-standard | xargs -0 cp --parents -t "$work/copy" 2>/dev/null
scripts/make-packages.sh "$work/a" >/dev/null 2>&1 &
(cd "$work/copy" && scripts/make-packages.sh "$work/b" >/dev/null 2>&1)
wait $!
for package in "$work"/a/*.deb; do cmp "$package" "$work/b/$(basename "$package")"; done
# cpack itself calls ldconfig in the scripts of packages with libraries
lintian --allow-root --fail-on error,warning --suppress-tags maintscript-calls-ldconfig "$work"/a/*.deb
if [ "$(id -u)" = 0 ]; then
    root=$work/debian
    debootstrap --variant=minbase "$(. /etc/os-release && echo "$VERSION_CODENAME")" "$root" >"$work/log" 2>&1 || { tail -n 5 "$work/log"; exit 1; }
    cp /etc/apt/sources.list.d/* "$root/etc/apt/sources.list.d/" 2>/dev/null || true
    cp "$work"/a/*.deb "$root/tmp"
    inside() { chroot "$root" env DEBIAN_FRONTEND=noninteractive LC_ALL=C.UTF-8 "$@"; }
    inside dpkg-query -W -f '${Package}\n' | sort >"$work/before"
    inside find /usr /etc /opt -not -path '*/__pycache__*' | sort >"$work/files-before"
    inside bash -c 'apt-get update -qq && apt-get install -y -qq --no-install-recommends /tmp/fickle_*.deb /tmp/libficklegate0*.deb /tmp/ficklegate-doc*.deb' >"$work/log" 2>&1 ||
        { tail -n 5 "$work/log"; exit 1; }
    ! inside sh -c 'command -v cc'
    # the tutorial, as tests/examples follows it
    cp examples/proofing_box/*.csv "$root/root"
    inside bash -c 'cd /root && fickle new small && fickle check small.gate && fickle trial small.gate && fickle replay /usr/share/doc/ficklegate-doc/examples/proofing_box/box.gate evening.csv | tail -n 2' >"$work/log" 2>&1 ||
        { tail -n 5 "$work/log"; exit 1; }
    inside bash -c 'apt-get install -y -qq --no-install-recommends /tmp/python3-ficklegate*.deb' >"$work/log" 2>&1 || { tail -n 5 "$work/log"; exit 1; }
    cat >"$root/tmp/step.py" <<P
import ficklegate
gate = ficklegate.Gate("/usr/share/doc/ficklegate-doc/examples/proofing_box/box.gate")
print(len(gate.replay("evening.csv")) > 5, gate.trials().held)
P
    [ "$(inside bash -c 'cd && python3 /tmp/step.py')" = "True True" ]
    inside bash -c 'apt-get install -y -qq --no-install-recommends /tmp/libficklegate-dev*.deb gcc libc6-dev pkg-config' >"$work/log" 2>&1
    cp examples/night_bike/night_bike.c "$root/root"
    inside bash -c 'cd /root && gcc -o night night_bike.c $(pkg-config --cflags --libs ficklegate) && ./night | head -n 3' >"$work/log" 2>&1 || { tail -n 5 "$work/log"; exit 1; }
    inside bash -c 'apt-get purge -y -qq fickle libficklegate0.1 libficklegate-dev ficklegate-doc python3-ficklegate && apt-get autoremove -y --purge -qq' >"$work/log" 2>&1
    left=$(inside find / -xdev -not -path '/proc/*' -iname '*fickle*' -not -path '/tmp/*' -not -path '/var/cache/*' -not -path '/var/log/*')
    [ -z "$left" ] || { echo "left behind: $left"; exit 1; }
    echo "packages: used in a bare Debian, built with, and gone again"
fi
echo "packages: five, the same bytes twice, lintian finds nothing"
